"""What a made part is, described once for all who read it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

from nimble_cradle.geometry.plate import Plate
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.solids import SolidPart, placed_part
from nimble_cradle.stock.form import Form


class Owner(NamedTuple):
    """What a part belongs to: ``mount`` and its id, or ``crossmember`` and nothing."""

    kind: str
    id: str = ""


@dataclass(frozen=True)
class Stock:
    """What one part is cut from or bought as. size in mm, in words; mass_kg of one; form: to look for it."""

    stock: str
    material: str
    size: str
    mass_kg: float
    note: str
    form: Form
    quantity: int = 1


@dataclass(frozen=True)
class Joint:
    """How a part is joined to another of the same owner, or to what is named."""

    how: Literal["welded to", "bolted to", "stands on", "turns in"]
    to: str


@dataclass(frozen=True, eq=False)
class MadePart:
    """A part that is made or bought for the job.

    role: what it is of its owner (``plate``, ``arm``, ``eye`` ...); name: as lists call it. solids: in the
    powertrain frame where it moves with the powertrain, else in the vehicle frame; none for what is only
    listed. flat: its outline where it is cut from sheet. stock: its row in the cut list, None where it has
    none. templates: names of its 1:1 drawings. stands_in: it stands for a part that is not described yet, and
    is neither drawn nor listed. version: equal as long as the part is.
    """

    owner: Owner
    role: str
    name: str
    solids: tuple[SolidPart, ...] = ()
    moves: bool = False
    flat: Plate | None = None
    stock: Stock | None = None
    joints: tuple[Joint, ...] = ()
    templates: tuple[str, ...] = ()
    stands_in: bool = False
    version: Any = None

    def in_vehicle(self, pose: Pose) -> tuple[SolidPart, ...]:
        """Its solids in the vehicle frame, with the powertrain at ``pose``."""
        return tuple(placed_part(s, pose) for s in self.solids) if self.moves else self.solids

    @property
    def mass_kg(self) -> float:
        """Mass of all of it, kg; nought where it is only bought."""
        return self.stock.mass_kg * self.stock.quantity if self.stock is not None else 0.0
