"""What carries the powertrain: pads on the block, arms, bushes, and the gearbox crossmember.

Pads are in the powertrain frame (they are cast on it); bushes and the crossmember in the vehicle frame
(they stand on the rails). When the powertrain is moved the arms change and the bushes stay.
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, NamedTuple

from pydantic import Field, model_validator

from nimble_cradle.job.base import Direction, Id, Name, NotNegative, Part, Positive, Vec2, Vec3, Words
from nimble_cradle.job.bonded_bush import BondedBush
from nimble_cradle.job.boxed_arm import BoxedArm
from nimble_cradle.job.cast_bush import CastBush
from nimble_cradle.job.cross_section import CrossSection
from nimble_cradle.job.donor_bush import DonorBush
from nimble_cradle.job.end_plate import EndPlates
from nimble_cradle.job.flats_arm import FlatsArm
from nimble_cradle.job.foot import FactoryFoot, PlateFoot, SaddleFoot, TabsFoot
from nimble_cradle.job.greased_bush import GreasedBush
from nimble_cradle.job.kinds import ByKind
from nimble_cradle.job.kinked_arm import KinkedArm
from nimble_cradle.job.puck_bush import PuckBush
from nimble_cradle.job.solid_bush import SolidBush
from nimble_cradle.job.stock_names import BoltClass, BoltSize, SteelName
from nimble_cradle.job.tube_arm import TubeArm

AnyBush = Annotated[
    BondedBush | GreasedBush | CastBush | PuckBush | DonorBush | SolidBush, ByKind(BondedBush)
]
"""The families of bushes: a row each here; law, solids and checks of each in ``families/<kind>_bush.py``."""
AnyArm = Annotated[TubeArm | KinkedArm | FlatsArm | BoxedArm, ByKind(TubeArm)]
"""The families of arms: a row each here; the rest of each in ``families/<kind>_arm.py``."""

AnyFoot = Annotated[PlateFoot | SaddleFoot | TabsFoot | FactoryFoot, ByKind(PlateFoot)]
"""The families of chassis sides: a row each here; the rest of each in ``families/<kind>_foot.py``."""

MoreBosses = Literal["unsaid", "none", "other part", "other thread", "not reached"]
TRIM_WAYS = {"left": (-1.0, 0.0), "right": (1.0, 0.0), "top": (0.0, 1.0), "bottom": (0.0, -1.0)}


class PadBolt(NamedTuple):
    """One bolt of a plate: thread, class, what it is tightened to, the hole in the plate."""

    size: str
    grade: str
    tightening_nm: float
    hole_mm: float


class Pad(Part):
    """A machined pad on the block and the plate that is bolted to it.

    centre: on the pad's face. normal: away from the block. up: the plate's own v axis (made square to
    normal); u = up x normal, to the right of one who stands facing the plate. holes: (u, v) mm from the
    centre. other_holes: those that take ``other_bolt`` instead of ``bolt``, with its class, torque and hole;
    they are counted after ``holes``. rests: on a flat face, or on bosses round its bolts alone. thread_in,
    thread_deep_mm: what the bolts are screwed into and how deep; None: not said. spacer_mm: between block and
    plate at every bolt. free_holes: bosses of the block there that the plate does not use; more_bosses: why
    not. trim, trim_mm: the plate is cut off straight on that side, so far from the pad's centre.
    holes_confirmed: False where an older file had the holes as the paper showed them and the model mirrored,
    until somebody has laid the paper on the block.
    """

    centre: Vec3
    normal: Direction
    up: Direction = (0.0, 0.0, 1.0)
    holes: Annotated[tuple[Vec2, ...], Field(max_length=24)]
    bolt: BoltSize = "M10"
    bolt_class: BoltClass = "8.8"
    tightening_nm: Positive = 45.0
    hole_mm: Positive = 11.0
    other_holes: Annotated[tuple[Vec2, ...], Field(max_length=24)] = ()
    other_bolt: BoltSize = "M8"
    other_class: BoltClass = "8.8"
    other_tightening_nm: Positive = 22.0
    other_hole_mm: Positive = 9.0
    edge_mm: Positive = 18.0
    plate_mm: Positive = 6.0
    steel: SteelName = "S235"
    arm_at: Vec2 = (0.0, 0.0)
    rests: Literal["flat", "bosses"] = "flat"
    thread_in: Literal["unsaid", "grey iron", "cast aluminium", "steel", "insert in aluminium"] = "unsaid"
    thread_deep_mm: Positive | None = None
    spacer_mm: NotNegative = 0.0
    free_holes: Annotated[tuple[Vec2, ...], Field(max_length=12)] = ()
    more_bosses: MoreBosses = "unsaid"
    trim: Literal["none", "left", "right", "top", "bottom"] = "none"
    trim_mm: Positive = 40.0
    holes_confirmed: bool = True

    @property
    def every_hole(self) -> tuple[Vec2, ...]:
        """All holes, those of the other bolt last."""
        return (*self.holes, *self.other_holes)

    @property
    def sorts(self) -> tuple[tuple[PadBolt, int], ...]:
        """Each sort of bolt with how many of it there are."""
        one = PadBolt(self.bolt, self.bolt_class, self.tightening_nm, self.hole_mm)
        two = PadBolt(self.other_bolt, self.other_class, self.other_tightening_nm, self.other_hole_mm)
        both = (one, len(self.holes)), (two, len(self.other_holes))
        return tuple(sort for sort in both if sort[1])

    @property
    def bolts(self) -> tuple[PadBolt, ...]:
        """The bolt in each of ``every_hole``."""
        return tuple(bolt for bolt, count in self.sorts for _ in range(count))

    @property
    def on_bosses(self) -> bool:
        """Whether it rests at its bolts alone."""
        return self.rests == "bosses" or self.spacer_mm > 0

    @property
    def out_mm(self) -> float:
        """Its outer face off the block, mm."""
        return self.spacer_mm + self.plate_mm

    @property
    def trim_way(self) -> tuple[float, float] | None:
        """The way (u, v) out of the side that is cut off."""
        return TRIM_WAYS.get(self.trim)

    @property
    def edge_there_mm(self) -> float:
        """From the middle of a hole to the plate's edge, mm: the least, where a side is cut off."""
        way = self.trim_way
        if way is None or not self.every_hole:
            return self.edge_mm
        left = self.trim_mm - max(u * way[0] + v * way[1] for u, v in self.every_hole)
        return max(min(self.edge_mm, left), 0.1)


class CrossBolt(Part):
    """The bolt through the sleeve, held by two cheeks on the chassis side.

    tightening_nm: None is not said, and then the sleeve is not taken for clamped. gap_mm: between the
    sleeve's end and a cheek before tightening. eye_gap_mm: between the eye and each cheek: how far the
    bush may go along the bolt.
    """

    kind: ClassVar[str] = "cheeks"
    bolt: BoltSize = "M12"
    bolt_class: BoltClass = "8.8"
    cheek_mm: Positive = 5.0
    cheek_steel: SteelName = "S235"
    gap_mm: NotNegative = 1.0
    eye_gap_mm: NotNegative = 4.0
    tightening_nm: Positive | None = None


class Mount(Part):
    """One mount: pad, optional arm, bush, cross-bolt, and how that stands on the chassis (None: not said).
    Without an arm the eye is welded straight to the plate, or to a packing piece on it that fills what is
    between them. heat_shielded: a shield stands between its rubber and what is hot."""

    id: Id
    name: Name
    carries: Literal["engine", "gearbox"] = "engine"
    pad: Pad
    arm: AnyArm | None = None
    bush: AnyBush
    cross_bolt: CrossBolt = CrossBolt()
    foot: AnyFoot | None = None
    eye_weld_throat_mm: Positive = 3.0
    packing: bool = False
    heat_shielded: bool = False
    note: Words = ""


class Crossmember(Part):
    """The gearbox crossmember: a tube, a bar or a folded channel from rail to rail through zero or more
    bends, carrying one mount's bush.

    points: its axis in the vehicle frame from the left rail to the right, ends included: the middle of its
    height and of its width.
    bend_radius_mm: of its axis where it is bent; nought: it is mitred and welded there. ends: how
    the end plates hold it; plates: those, None where they are not described yet.
    """

    points: Annotated[tuple[Vec3, ...], Field(min_length=2, max_length=8)]
    section: CrossSection
    steel: SteelName = "S235"
    carries: Id = "gearbox"
    bend_radius_mm: NotNegative = 0.0
    ends: Literal["hinged", "clamped"] = "hinged"
    rail_n_per_mm: NotNegative = 500.0
    most_sag_mm: Positive = 1.5
    least_hz: Positive = 20.0
    plates: EndPlates | None = None

    @model_validator(mode="after")
    def _spans(self) -> Crossmember:
        for a, b in zip(self.points, self.points[1:], strict=False):
            if sum((p - q) ** 2 for p, q in zip(a, b, strict=True)) < 1.0:
                raise ValueError("two points of the crossmember are the same place")
        return self
