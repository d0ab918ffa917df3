"""How a bush's cheeks stand on the chassis: on a foot plate, a saddle over a rail, tabs, or the factory's own
bracket."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Direction, NotNegative, Part, Positive, Vec2
from nimble_cradle.job.stock_names import BoltClass, BoltSize, SteelName

CROSSMEMBER = "crossmember"
"""Host of a mount that stands on the gearbox crossmember; an item may have that name too, and then it is
meant where the job has no crossmember."""
HostId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
FIRST: dict[str, Any] = {"first": True}
Fixing = Literal["welded", "bolted", "both"]


class OnHost(Part):
    """What every chassis side has. host: id of the item, or ``crossmember``. way: from the bush to the host,
    vehicle frame; it is made square to the bush's bolt. shift: where the foot's middle is beside the bush,
    along the bolt and across, mm."""

    host: HostId
    way: Direction = (0.0, 0.0, -1.0)
    shift: Vec2 = (0.0, 0.0)


class Cheeked(OnHost):
    """A chassis side with cheeks of its own. cheek_foot_mm: how wide a cheek is where it stands."""

    cheek_foot_mm: Positive = Field(90.0, title="Cheek, wide at its foot", json_schema_extra=FIRST)
    cheek_weld_mm: Positive = Field(4.0, title="Throat of the cheeks' welds")
    weld_inside: bool = Field(
        False,
        title="Cheeks welded",
        json_schema_extra={"words": {"yes": "on both sides", "no": "on the outside only"}},
    )


class PlateFoot(Cheeked):
    """Two cheeks on a flat foot. along_mm, across_mm: along the bush's bolt and across. holes: (along,
    across) mm from its middle. sleeves: crush sleeves right through a hollow host. patch: a doubler under
    it, which reaches a stiffer part of the host."""

    kind: Literal["plate"] = "plate"
    along_mm: Positive = Field(110.0, title="Foot, along the bolt", json_schema_extra=FIRST)
    across_mm: Positive = Field(110.0, title="Foot, across", json_schema_extra=FIRST)
    plate_mm: Positive = Field(6.0, title="Foot plate", json_schema_extra=FIRST)
    steel: SteelName = Field("S235", title="Its steel")
    fixing: Fixing = Field(
        "welded",
        title="Held",
        json_schema_extra={
            "words": {"welded": "by a weld all round", "bolted": "by bolts", "both": "by bolts and a weld"}
        },
    )
    weld_throat_mm: Positive = Field(3.0, title="Throat of the weld round it")
    holes: Annotated[tuple[Vec2, ...], Field(max_length=12)] = ()
    bolt: BoltSize = Field("M10", title="Bolts to the chassis")
    bolt_class: BoltClass = Field("8.8", title="Their class")
    tightening_nm: Positive = Field(45.0, title="Tighten them to")
    hole_mm: Positive = Field(11.0, title="Their holes")
    washer_mm: Positive = Field(30.0, title="Square washer or nut plate inside")
    nut: Literal["loose", "captive"] = Field(
        "captive", title="Nuts", json_schema_extra={"words": {"loose": "loose", "captive": "caged or welded"}}
    )
    sleeves: bool = Field(
        False, title="Crush sleeves", json_schema_extra={"words": {"yes": "through the rail", "no": "none"}}
    )
    insulated: bool = Field(
        False,
        title="Kept apart from other metal",
        json_schema_extra={"words": {"yes": "sealant and washers", "no": "no"}},
    )
    patch_mm: NotNegative = Field(0.0, title="Doubler under it")
    patch_more_mm: NotNegative = Field(0.0, title="Doubler past the foot, each side")

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        own = [("plate_mm", "thickness of its foot"), ("steel", "steel of its foot")]
        if self.fixing != "welded":
            own += [("bolt_class", "class of its foot's bolts"), ("tightening_nm", "tightening of its foot")]
        return tuple(own)

    @model_validator(mode="after")
    def _bolted(self) -> PlateFoot:
        for along, across in self.holes:
            if abs(along) > self.along_mm / 2 or abs(across) > self.across_mm / 2:
                raise ValueError(
                    f"a hole at {along:g}, {across:g} mm is off a foot of {self.along_mm:g} x"
                    f" {self.across_mm:g} mm"
                )
        if self.patch_more_mm and not self.patch_mm:
            raise ValueError("a doubler needs a thickness")
        return self


class SaddleFoot(Cheeked):
    """Two cheeks on a plate folded down over both sides of a rail and welded there. along_mm: along the rail.
    legs_mm: how far it reaches down."""

    kind: Literal["saddle"] = "saddle"
    along_mm: Positive = Field(120.0, title="Saddle, along the rail", json_schema_extra=FIRST)
    legs_mm: Positive = Field(50.0, title="It reaches down the sides", json_schema_extra=FIRST)
    plate_mm: Positive = Field(5.0, title="Its plate", json_schema_extra=FIRST)
    steel: SteelName = Field("S235", title="Its steel")
    weld_throat_mm: Positive = Field(3.0, title="Throat of the welds at its legs")

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        return (("plate_mm", "thickness of its saddle"), ("steel", "steel of its saddle"))


class TabsFoot(Cheeked):
    """Two cheeks welded straight onto the host."""

    kind: Literal["tabs"] = "tabs"

    def facts(self) -> tuple[tuple[str, str], ...]:
        """None besides those of its cheeks."""
        return ()


class FactoryFoot(OnHost):
    """The car's own bracket, with its own cheeks. carried_kg: what it carried at rest before; None: not
    said."""

    kind: Literal["factory"] = "factory"
    carried_kg: Positive | None = Field(
        None, title="It carried at rest before", json_schema_extra={"unsaid": "not said"}
    )

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        return (("carried_kg", "what its bracket carried before"),)
