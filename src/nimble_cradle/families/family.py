"""What a family is, and where it is found: ``<kind>_bush.py``, ``<kind>_arm.py``, ``<kind>_bracket.py``,
``<kind>_foot.py`` in this folder, by the kind of the job's data."""

from __future__ import annotations

import importlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any, Protocol, cast

from nimble_cradle.calc import Worked
from nimble_cradle.families.law import Law
from nimble_cradle.families.part import MadePart
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import Cases
from nimble_cradle.geometry.footprint import Footprint
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import SolidPart
from nimble_cradle.job.kinds import kind_of
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import AnyArm, AnyBush, AnyFoot, CrossBolt, Mount

LoadPath = tuple[tuple[str, tuple[str, ...]], ...]
"""Parts on the way of the load, and the codes of the findings that each must have."""


@dataclass(frozen=True)
class Eye:
    """The metal round a bush, mm: outside diameter, wall, length along the bush's axis."""

    outside_mm: float
    wall_mm: float
    length_mm: float


@dataclass(frozen=True)
class BushStiffness:
    """Static stiffness N/mm across and along the bush, and where it comes from."""

    radial: float
    axial: float
    worked: Worked


class BushFamily(Protocol):
    """A family of bushes. LOAD_PATH: its own parts of the way from block to rail."""

    LOAD_PATH: LoadPath

    def eye(self, bush: AnyBush) -> Eye:
        """The metal round it that is welded to arm or plate."""

    def bolt_hole_mm(self, bush: AnyBush) -> float:
        """Diameter of the hole for the cross-bolt, mm."""

    def sleeve_outside_mm(self, bush: AnyBush) -> float:
        """Outside of what the cross-bolt clamps, mm."""

    def stiffness(self, bush: AnyBush) -> BushStiffness:
        """Its stiffness. Raises JobError."""

    def law(self, mount: Mount) -> Law:
        """How it answers any movement. Raises JobError."""

    def bare_law(self, mount: Mount, left: float) -> Law:
        """The same with the rubber gone but for a share of it: what metal still holds."""

    def between_cheeks_mm(self, mount: Mount) -> float:
        """Between the two cheeks that hold it, mm."""

    def side_room_mm(self, mount: Mount) -> float:
        """How far it may go along its bolt until metal meets, mm."""

    def hardness(self, bush: AnyBush) -> float | None:
        """Shore A where its stiffness follows from that, None where it was measured."""

    def parts(self, mount: Mount, pose: Pose) -> tuple[MadePart, ...]:
        """Eye, sleeve, rubber and the like, for the powertrain at ``pose``."""

    def checks(self, mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
        """Findings of its rubber and metal."""


class ArmFamily(Protocol):
    """A family of arms. Every run is an ``ArmRun``."""

    LOAD_PATH: LoadPath

    def throat_mm(self, arm: AnyArm) -> float:
        """Throat of its weld on the plate, mm."""

    def landing(self, mount: Mount, run: Any, more: float) -> Footprint:
        """Where it stands on the plate, with ``more`` mm round it."""

    def beyond_plate(self, mount: Mount, run: Any) -> tuple[SolidPart, ...]:
        """What of it has wholly left the plate, vehicle frame."""

    def parts(self, mount: Mount, run: Any, pose: Pose) -> tuple[MadePart, ...]:
        """Its part or parts. Raises JobError."""

    def checks(self, mount: Mount, run: Any, cases: Cases) -> list[Finding]:
        """Findings of the arm, the welds at its ends, and what it is welded to."""

    def life_root(self, mount: Mount, run: Any, forces: Array) -> list[tuple[Array, float]]:
        """Details of the weld at the plate: stress ranges (k,) MPa under changes (k, 3) of the force on the
        bush, vehicle frame, and the category of each."""

    def life_eye(self, mount: Mount, run: Any, forces: Array) -> list[tuple[Array, float]]:
        """The same of the weld at the eye."""


class BracketFamily(Protocol):
    """A family of chassis brackets, with the bolt through the bush."""

    LOAD_PATH: LoadPath

    def parts(self, mount: Mount) -> tuple[MadePart, ...]:
        """The bracket and its bolt."""

    def checks(self, mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
        """Findings of bracket and bolt, without the room beside the eye."""

    def travel_checks(self, mount: Mount, cases: Cases) -> Sequence[Finding]:
        """Findings of the room that the bush has along its bolt."""


class FootFamily(Protocol):
    """A family of chassis sides: what the cheeks stand on, down to the wall of the host. ``seat`` is a
    ``FootSeat``."""

    def load_path(self, mount: Mount, seat: Any) -> LoadPath:
        """Its parts on the way to the rail, and the findings that each must have."""

    def questions(self, mount: Mount, seat: Any) -> list[Problem]:
        """What is open about how it is held, and about its host."""

    def parts(self, mount: Mount, seat: Any) -> tuple[MadePart, ...]:
        """Its parts. Raises JobError."""

    def checks(self, mount: Mount, seat: Any, cases: Cases, allow: Allowables) -> list[Finding]:
        """Its findings. Raises JobError."""

    def cheeks(self, mount: Mount, seat: Any) -> Any:
        """Its two cheeks, an ``OnFoot``; None where they are not ours."""

    def give(self, mount: Mount, seat: Any) -> Array:
        """(3, 3) mm/N how far the bolt gives on it, vehicle frame."""


@cache
def _module(name: str) -> Any:
    return importlib.import_module(f"{__package__}.{name}")


def bush_family(bush: AnyBush) -> BushFamily:
    """The family of a bush. Raises ModuleNotFoundError, which names it, for one without a module."""
    return cast(BushFamily, _module(f"{kind_of(type(bush))}_bush"))


def arm_family(arm: AnyArm) -> ArmFamily:
    """The family of an arm. Raises ModuleNotFoundError, which names it, for one without a module."""
    return cast(ArmFamily, _module(f"{kind_of(type(arm))}_arm"))


def bracket_family(bracket: CrossBolt) -> BracketFamily:
    """The family of what holds a bush on the chassis. Raises ModuleNotFoundError for one without a module."""
    return cast(BracketFamily, _module(f"{kind_of(type(bracket))}_bracket"))


def foot_family(foot: AnyFoot) -> FootFamily:
    """The family of a chassis side. Raises ModuleNotFoundError for one without a module."""
    return cast(FootFamily, _module(f"{kind_of(type(foot))}_foot"))


def eye_of(bush: AnyBush) -> Eye:
    """The metal round a bush."""
    return bush_family(bush).eye(bush)
