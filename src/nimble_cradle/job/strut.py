"""A torque strut: a rod with a rubber eye at each end that keeps the engine from rocking."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Direction, Id, Name, NotNegative, Part, Positive, Vec3
from nimble_cradle.job.foot import PlateFoot, TabsFoot
from nimble_cradle.job.kinds import ByKind
from nimble_cradle.job.mounts import Pad
from nimble_cradle.job.stock_names import BoltClass, BoltSize, SteelName

StrutFoot = Annotated[PlateFoot | TabsFoot, ByKind(PlateFoot)]
"""What a strut's bracket on the chassis may stand on."""


class Ears(Part):
    """A strut's end on the engine: two ears square on a plate that is bolted to bosses of the engine. pad:
    that plate; where its ears stand follows from the eye. bolt_way: of the bolt through the eye; powertrain
    frame both. tightening_nm: of that bolt."""

    kind: ClassVar[str] = "ears"
    pad: Pad
    bolt_way: Direction = (1.0, 0.0, 0.0)
    ear_mm: Positive = Field(5.0, title="Ears")
    ear_steel: SteelName = Field("S235", title="Their steel")
    foot_mm: Positive = Field(40.0, title="An ear, wide at the plate")
    weld_mm: Positive = Field(4.0, title="Throat of the ears' welds")
    weld_inside: bool = Field(
        False,
        title="Ears welded",
        json_schema_extra={"words": {"yes": "on both sides", "no": "on the outside only"}},
    )
    tightening_nm: Positive | None = Field(
        None, title="Tighten the bolt through its eye to", json_schema_extra={"unsaid": "not said"}
    )

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        plate = {
            "centre": "place of its pad",
            "holes": "holes of its plate",
            "plate_mm": "thickness of its plate",
            "steel": "steel of its plate",
            "bolt_class": "class of its bolts",
            "tightening_nm": "tightening of its bolts",
            "thread_in": "what its bolts are screwed into",
            "thread_deep_mm": "depth of its bolts' threads",
        }
        own = (("ear_mm", "thickness of its ears"), ("ear_steel", "steel of its ears"))
        return (*((f"pad/{name}", words) for name, words in plate.items()), *own)


class Strut(Part):
    """engine_at: centre of its eye on the engine, powertrain frame; chassis_at: of the other, vehicle frame;
    mm. stiffness_along: of both rubbers together. gap_mm: how far it moves each way before it acts. bracket:
    two cheeks of its own on the chassis, ``cheek_mm`` thick, its bolt along ``bolt_way`` (vehicle frame);
    ears: what holds it on the engine. None of either: not described, and then not judged. ends: whether
    what is not described of what it is bolted to was looked at by whoever makes it."""

    id: Id
    name: Name
    engine_at: Vec3
    chassis_at: Vec3
    stiffness_along: Positive = Field(400.0, title="Stiffness of both rubbers along it")
    gap_mm: NotNegative = Field(2.0, title="It moves each way before it acts")
    rod_outside_mm: Positive = Field(22.0, title="Rod outside")
    rod_wall_mm: Positive = Field(3.0, title="Rod wall")
    steel: SteelName = Field("E235", title="Rod's steel")
    bolt: BoltSize = Field("M10", title="Bolts through its eyes")
    bolt_class: BoltClass = Field("8.8", title="Their class of bolt")
    eye_outside_mm: Positive = Field(40.0, title="Its eyes, outside")
    eye_length_mm: Positive = Field(36.0, title="Its eyes, along the bolt")
    bolt_way: Direction = (1.0, 0.0, 0.0)
    cheek_mm: Positive = Field(5.0, title="Cheeks of its bracket")
    cheek_steel: SteelName = Field("S235", title="Their steel")
    tightening_nm: Positive | None = Field(
        None, title="Tighten its bolt there to", json_schema_extra={"unsaid": "not said"}
    )
    bracket: StrutFoot | None = None
    ears: Ears | None = None
    ends: Literal["unsaid", "looked at"] = Field(
        "unsaid",
        title="What it is bolted to",
        json_schema_extra={"words": {"unsaid": "not said", "looked at": "looked at by me"}},
    )

    @model_validator(mode="after")
    def _rod(self) -> Strut:
        if 2 * self.rod_wall_mm >= self.rod_outside_mm:
            raise ValueError(
                f"a {self.rod_outside_mm:g} mm rod cannot have a {self.rod_wall_mm:g} mm wall: nothing is"
                " left inside"
            )
        return self
