"""What carries the powertrain: pads on the block, arms, bushes, and the gearbox crossmember.

Pads are in the powertrain frame (they are cast on it); bushes and the crossmember in the vehicle frame
(they stand on the rails). When the powertrain is moved the arms change and the bushes stay.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Direction, Finite, Id, Name, NotNegative, Part, Positive, Vec2, Vec3, Words

BoltSize = Literal[
    "M6",
    "M8",
    "M10",
    "M12",
    "M14",
    "M16",
    "M18",
    "M20",
    "M8x1",
    "M10x1.25",
    "M12x1.25",
    "M12x1.5",
    "M14x1.5",
    "M16x1.5",
    "M18x1.5",
    "M20x1.5",
    "1/4-20",
    "5/16-18",
    "3/8-16",
    "7/16-14",
    "1/2-13",
    "1/2-20",
    "9/16-12",
    "9/16-18",
    "5/8-11",
    "5/8-18",
]
BoltClass = Literal["8.8", "10.9", "12.9", "grade 5", "grade 8"]
SteelName = Literal["S235", "S275", "S355", "E235", "E355"]


class Pad(Part):
    """A machined pad on the block and the plate that is bolted to it.

    centre: on the pad's face. normal: away from the block. up: the plate's own v axis (made square to
    normal); u = up x normal, to the right of one who stands facing the plate. holes: (u, v) mm from the
    centre. rests: on a flat face, or on bosses round its bolts alone. holes_confirmed: False where an
    older file had the holes as the paper showed them and the model mirrored, until somebody has laid the
    paper on the block.
    """

    centre: Vec3
    normal: Direction
    up: Direction = (0.0, 0.0, 1.0)
    holes: Annotated[tuple[Vec2, ...], Field(max_length=24)]
    bolt: BoltSize = "M10"
    bolt_class: BoltClass = "8.8"
    tightening_nm: Positive = 45.0
    hole_mm: Positive = 11.0
    edge_mm: Positive = 18.0
    plate_mm: Positive = 6.0
    steel: SteelName = "S235"
    arm_at: Vec2 = (0.0, 0.0)
    rests: Literal["flat", "bosses"] = "flat"
    holes_confirmed: bool = True


class Arm(Part):
    """The tube from the plate to the bush eye, welded all round at the plate. offset_mm: its axis past the
    eye's axis."""

    outside_mm: Positive
    wall_mm: Positive
    steel: SteelName = "E235"
    weld_throat_mm: Positive = 3.0
    offset_mm: Finite = 0.0

    @model_validator(mode="after")
    def _wall(self) -> Arm:
        if 2 * self.wall_mm >= self.outside_mm:
            raise ValueError(
                f"a {self.outside_mm:g} mm tube cannot have a {self.wall_mm:g} mm wall: nothing is left"
                " inside"
            )
        return self


class Bush(Part):
    """A bonded bush: rubber between an inner sleeve and an outer eye. Vehicle frame, mm.

    stiffness_*: measured or maker's figures in N/mm override the formulas where given.
    """

    centre: Vec3
    axis: Direction
    sleeve_mm: Positive
    sleeve_bore_mm: Positive
    eye_bore_mm: Positive
    eye_wall_mm: Positive
    length_mm: Positive
    hardness_shore_a: Annotated[float, Field(ge=20, le=98)]
    loss_factor: Annotated[float, Field(ge=0, le=1)] = 0.1
    dynamic_ratio: Annotated[float, Field(ge=1, le=5)] = 1.3
    ends: Literal["finite", "short", "long"] = "finite"
    stiffness_radial: Positive | None = None
    stiffness_axial: Positive | None = None

    @model_validator(mode="after")
    def _fits(self) -> Bush:
        if self.sleeve_mm >= self.eye_bore_mm:
            raise ValueError(
                f"the sleeve ({self.sleeve_mm:g} mm) does not go into the eye ({self.eye_bore_mm:g} mm bore);"
                " make the sleeve smaller or the eye larger"
            )
        if self.sleeve_bore_mm >= self.sleeve_mm:
            raise ValueError(
                f"the sleeve's bore ({self.sleeve_bore_mm:g} mm) must be smaller than its outside "
                f"({self.sleeve_mm:g} mm)"
            )
        return self


class CrossBolt(Part):
    """The bolt through the sleeve, held by two cheeks on the chassis side.

    tightening_nm: None is not said, and then the sleeve is not taken for clamped. gap_mm: between the
    sleeve's end and a cheek before tightening. eye_gap_mm: between the eye and each cheek: how far the
    bush may go along the bolt.
    """

    bolt: BoltSize = "M12"
    bolt_class: BoltClass = "8.8"
    cheek_mm: Positive = 5.0
    cheek_steel: SteelName = "S235"
    gap_mm: NotNegative = 1.0
    eye_gap_mm: NotNegative = 4.0
    tightening_nm: Positive | None = None


class Mount(Part):
    """One mount: pad, optional arm, bush, cross-bolt. Without an arm the eye is welded straight to the
    plate, or to a packing piece on it that fills what is between them."""

    id: Id
    name: Name
    carries: Literal["engine", "gearbox"] = "engine"
    pad: Pad
    arm: Arm | None = None
    bush: Bush
    cross_bolt: CrossBolt = CrossBolt()
    eye_weld_throat_mm: Positive = 3.0
    packing: bool = False
    note: Words = ""


class Section(Part):
    """A stock section by its designation (``stock``), or typed in: shape and sizes in mm."""

    stock: Annotated[str, Field(max_length=40)] = ""
    shape: Literal["square", "rectangle", "round"] = "square"
    height_mm: Positive = 50.0
    width_mm: Positive = 50.0
    wall_mm: Positive = 3.0

    @model_validator(mode="after")
    def _wall(self) -> Section:
        if 2 * self.wall_mm >= min(self.height_mm, self.width_mm):
            raise ValueError(
                f"a wall of {self.wall_mm:g} mm leaves nothing inside a section {self.height_mm:g} x"
                f" {self.width_mm:g} mm"
            )
        return self


class Crossmember(Part):
    """The gearbox crossmember: a tube from rail to rail through zero or more bends, carrying one mount's
    bush.

    points: the tube's axis in the vehicle frame from the left rail to the right, ends included. ends: how
    the end plates hold it.
    """

    points: Annotated[tuple[Vec3, ...], Field(min_length=2, max_length=8)]
    section: Section
    steel: SteelName = "S235"
    carries: Id = "gearbox"
    ends: Literal["hinged", "clamped"] = "hinged"
    rail_n_per_mm: NotNegative = 500.0
    most_sag_mm: Positive = 1.5

    @model_validator(mode="after")
    def _spans(self) -> Crossmember:
        for a, b in zip(self.points, self.points[1:], strict=False):
            if sum((p - q) ** 2 for p, q in zip(a, b, strict=True)) < 1.0:
                raise ValueError("two points of the crossmember are the same place")
        return self
