"""A wheel's suspension as it is measured: pivots, balls and rods at ride height, and what is moved of
them."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Id, Name, NotNegative, Part, Vec3, Words
from nimble_cradle.job.bay import METHOD_PLUS_MINUS, Method

FIRST: dict[str, Any] = {"first": True}


class Pivot(Part):
    """A pivot, a ball or a middle: where it is at ride height before anything is changed (vehicle frame, mm),
    or the survey's ``point`` that it is; and by how much it is ``moved`` (mm, vehicle frame)."""

    at: Vec3
    point: Id | None = None
    moved: Vec3 = (0.0, 0.0, 0.0)


class _Measured(Part):
    """What every suspension has. measured, plus_minus_mm: how its points were come by, and what they are
    good to where that is not the usual."""

    id: Id
    name: Name
    measured: Method = Field("guess", title="Its points are from", json_schema_extra=FIRST)
    plus_minus_mm: NotNegative | None = Field(
        None, title="They are good to", json_schema_extra={"unsaid": "as usual for that"}
    )
    note: Words = ""

    @property
    def give_or_take(self) -> float:
        """What each of its points is good to, mm."""
        return METHOD_PLUS_MINUS[self.measured] if self.plus_minus_mm is None else self.plus_minus_mm


class _Steered(_Measured):
    """One wheel with its rod. toe_deg (in is positive) and camber_deg (top outwards is positive) as set at
    ride height, which a change leaves as they are: rod and arms are made to fit. wheel: its middle; what is
    moved of it takes the whole upright along, and balls may be moved besides. rack_travel_mm: how far the
    rod's inner ball goes to each side from straight ahead; unsaid, nothing is looked at at lock."""

    side: Literal["left", "right"]
    toe_deg: Annotated[float, Field(ge=-10, le=10)] = Field(0.0, title="Toe as set, in is positive")
    camber_deg: Annotated[float, Field(ge=-15, le=15)] = Field(
        0.0, title="Camber as set, top out is positive"
    )
    most_steer_deg: Annotated[float, Field(gt=0, le=5)] = Field(
        0.1, title="It may steer itself, on 10 mm of travel"
    )
    rack_travel_mm: Annotated[float, Field(gt=0, le=150)] | None = Field(
        None,
        title="The rack goes to each side",
        json_schema_extra={"unsaid": "not said: straight ahead only"},
    )
    lower_front: Pivot
    lower_rear: Pivot
    lower_ball: Pivot
    rod_inner: Pivot
    rod_outer: Pivot
    wheel: Pivot


class StrutCorner(_Steered):
    """A lower arm and a strut that is clamped to the upright: strut_low is a place on the strut's middle line
    down at the upright, strut_top the bearing above."""

    kind: Literal["strut"] = "strut"
    strut_low: Pivot
    strut_top: Pivot


class WishboneCorner(_Steered):
    """A lower and an upper wishbone."""

    kind: Literal["two wishbones"] = "two wishbones"
    upper_front: Pivot
    upper_rear: Pivot
    upper_ball: Pivot


class AxleLink(Part):
    """One link of an axle: its eye on the car and its eye on the axle."""

    id: Id
    name: Name
    car: Pivot
    axle: Pivot


class LinkedAxle(_Measured):
    """A live axle on links: four of them, a cross rod counted, or five or six where rubber gives. roll_deg:
    how far the body leans each way."""

    kind: Literal["live axle"] = "live axle"
    left_wheel: Pivot
    right_wheel: Pivot
    links: Annotated[tuple[AxleLink, ...], Field(min_length=4, max_length=6)]
    roll_deg: Annotated[float, Field(gt=0, le=15)] = Field(3.0, title="The body leans each way")

    @model_validator(mode="after")
    def _apart(self) -> LinkedAxle:
        if len({link.id for link in self.links}) < len(self.links):
            raise ValueError("two links of an axle have one id; ids must differ")
        return self


Suspension = Annotated[StrutCorner | WishboneCorner | LinkedAxle, Field(discriminator="kind")]
Corner = StrutCorner | WishboneCorner
