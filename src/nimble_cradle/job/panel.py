"""A panel of sheet that is made: its outline, lips, holes, and where it goes."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Direction, Id, Name, NotNegative, Part, Positive, Vec2, Vec3, Words
from nimble_cradle.job.stock_names import BoltClass, BoltSize, SteelName

FIRST: dict[str, Any] = {"first": True}
PanelRole = Literal["sheet", "doubler", "rib"]


class Lip(Part):
    """A lip bent from an edge of the sheet, or of the lip ``on``; edge: which one, counted from its corner 0;
    of a lip 1 and 3 are its ends and 2 is its outer edge. Outside size."""

    id: Id
    on: Id | None = None
    edge: Annotated[int, Field(ge=0, le=60)] = 0
    long_mm: Positive = Field(25.0, title="Lip, outside", json_schema_extra=FIRST)
    turn_deg: Annotated[float, Field(gt=0, le=165)] = Field(
        90.0, title="It is turned by", json_schema_extra=FIRST
    )
    way: Literal["away", "towards"] = Field(
        "away",
        title="As one faces the sheet it goes",
        json_schema_extra={"words": {"away": "away from me", "towards": "towards me"}, **FIRST},
    )
    first_mm: NotNegative = Field(0.0, title="Stays from the edge's first end by")
    last_mm: NotNegative = Field(0.0, title="Stays from its last end by")


class Duty(Part):
    """What a sheet from rail to rail does besides closing something: it ties them, and may carry the steering
    rack and guard the sump. rack_kn: the greatest force along the rack, 0 where it carries none;
    rack_high_mm: the rack's middle over the sheet. stone_kn: one corner of the car thrown on a stone, 0 where
    it guards nothing; stone_mm: on a square of that size. bolts: at each end.
    ends: whether the walls of the rails at them were looked at by whoever makes it; the program does not
    judge those."""

    rack_kn: NotNegative = Field(
        5.0, title="Greatest force along the rack, kN", json_schema_extra={"quantity": "number", **FIRST}
    )
    rack_high_mm: NotNegative = Field(40.0, title="Rack's middle over the sheet", json_schema_extra=FIRST)
    rack_least_kn_mm: Positive = Field(
        10.0, title="Rack moves no more than 1 mm for, kN", json_schema_extra={"quantity": "number"}
    )
    steering_arm_mm: Positive = Field(120.0, title="Steering arm, long")
    stone_kn: NotNegative = Field(
        5.0, title="Thrown on a stone with, kN", json_schema_extra={"quantity": "number", **FIRST}
    )
    stone_mm: Positive = Field(80.0, title="Stone, wide")
    bolt: BoltSize = Field("M10", title="Bolts at its ends", json_schema_extra=FIRST)
    bolt_class: BoltClass = Field("8.8", title="Class of its bolts")
    bolts: Literal[2, 3, 4, 6] = Field(3, title="At each end", json_schema_extra=FIRST)
    tightening_nm: Positive = Field(45.0, title="Its bolts tightened to")
    ends: Literal["unsaid", "looked at"] = Field(
        "unsaid",
        title="The rails' walls at its bolts",
        json_schema_extra={"words": {"unsaid": "not said", "looked at": "looked at by me"}},
    )
    countersunk: bool = Field(
        True,
        title="Their heads",
        json_schema_extra={"words": {"yes": "countersunk", "no": "stand out below"}},
    )


class Panel(Part):
    """at: where the outline's 0, 0 is on the face that one sees (vehicle frame, mm); normal: away from that
    face, towards who sees it; up: the outline's second number. outline: (right, up), outside sizes. on: the
    item that it is put on; over: the cut in the chassis that it puts back. seam: holes in a row, round the
    edge where there is no lip or along the lips, ``seam_in_mm`` from the sheet's edge, at most
    ``seam_pitch_mm`` apart. twist_nm, shear_kn:
    what the member carries, which the row of a panel over a cut has to pass on. holes: further ones, their
    edge pressed out by ``dimple_mm`` at 45 deg (nought: not). role:
    it lies on or over what it is put on; on a wall beside the cut; or inside, across it, as a rib. duty:
    what else it does where it goes from rail to rail; None: nothing."""

    id: Id
    name: Name
    outline: Annotated[tuple[Vec2, ...], Field(min_length=3, max_length=60)]
    thick_mm: Positive = Field(1.5, title="Sheet", json_schema_extra=FIRST)
    radius_mm: Positive = Field(1.5, title="Inside radius of its bends", json_schema_extra=FIRST)
    metal: SteelName | Literal["aluminium"] = Field("S235", title="Of", json_schema_extra=FIRST)
    lips: Annotated[tuple[Lip, ...], Field(max_length=24)] = ()
    at: Vec3 = (0.0, 0.0, 0.0)
    normal: Direction = (0.0, 0.0, 1.0)
    up: Direction = (1.0, 0.0, 0.0)
    on: Id | None = None
    over: Id | None = None
    held: Literal["unsaid", "welded", "plug welded", "riveted", "bolted"] = Field(
        "unsaid", title="It is held", json_schema_extra={"words": {"unsaid": "not said"}, **FIRST}
    )
    seam: Literal["none", "round the edge", "along the lips"] = Field("none", title="A row of holes")
    seam_hole_mm: Positive = Field(8.0, title="Holes of the row are")
    seam_pitch_mm: Positive = Field(70.0, title="They are apart at most")
    seam_in_mm: Positive = Field(12.0, title="From the sheet's edge")
    twist_nm: NotNegative = Field(600.0, title="The row ties a member twisted by")
    shear_kn: NotNegative = Field(
        6.0, title="and loaded across by, kN", json_schema_extra={"quantity": "number"}
    )
    holes: Annotated[tuple[Vec2, ...], Field(max_length=80)] = ()
    hole_mm: Positive = Field(8.5, title="Holes besides the row are")
    dimple_mm: NotNegative = Field(0.0, title="Their edge is pressed out, deep")
    dimple_way: Literal["away", "towards"] = Field(
        "away",
        title="As one faces the sheet it is pressed",
        json_schema_extra={"words": {"away": "away from me", "towards": "towards me"}},
    )
    sealed: Literal["unsaid", "sealed", "not a firewall"] = Field(
        "unsaid",
        title="Sealed against fire and fumes",
        json_schema_extra={
            "words": {"unsaid": "not said", "sealed": "with sealant", "not a firewall": "not wanted here"}
        },
    )
    role: PanelRole = Field(
        "sheet",
        title="It lies",
        json_schema_extra={
            "words": {
                "sheet": "on or over what it is put on",
                "doubler": "on a wall beside the cut",
                "rib": "inside what it is put on, across it",
            }
        },
    )
    duty: Duty | None = None
    note: Words = ""

    @model_validator(mode="after")
    def _apart(self) -> Panel:
        if len({lip.id for lip in self.lips}) < len(self.lips):
            raise ValueError("two lips of a panel have one id; ids must differ")
        return self
