"""The receiving vehicle: its items in the bay, what each needs round it, its weights and its axle."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Direction, Finite, Id, Name, NotNegative, Part, Positive, Vec3, Words
from nimble_cradle.job.from_points import Motion, Recipe
from nimble_cradle.job.host import Host
from nimble_cradle.job.shapes import Shape
from nimble_cradle.job.sides import Side

Method = Literal["tape", "rule", "calipers", "level", "scan", "drawing", "guess"]
METHOD_PLUS_MINUS: dict[str, float] = {
    "tape": 1.5,
    "rule": 0.5,
    "calipers": 0.1,
    "level": 0.5,
    "scan": 1.0,
    "drawing": 0.5,
    "guess": 10.0,
}
"""Usual give-or-take of one reading in mm (common practice, no source); a job may say its own."""

Fate = Literal["open", "keep", "trim", "cut", "remove"]
"""What becomes of an item: open (not decided, anything may be for sale), kept (nothing of it is), may be
trimmed, may be trimmed or cut, taken out."""
Material = Literal[
    "unsaid", "single skin", "double skin", "solid steel", "aluminium", "magnesium", "plastic", "rubber"
]


class Cut(Part):
    """What was cut or trimmed off an item: everything within ``depth_mm`` of its outermost point on one
    side, square to the car's axes; between: only what lies between two places along it, square to their
    line (the cuts of the stage Chassis are laid so). keeps: the other way round, what lies within is what is
    left."""

    side: Side
    depth_mm: Positive
    between: tuple[Vec3, Vec3] | None = None
    keeps: bool = False


class Item(Part):
    """One thing in the bay. ``neighbour`` is its class in the clearance table; ``required_mm`` overrides
    that table. Its solids are its ``shapes``, or made from surveyed points (``made``); then ``cuts`` are
    taken off and it is ``moved`` (mm, vehicle frame). ``motion``: how it moves with
    wheel or steering. ``trim_mm``: how much of it may be trimmed or cut (None: not said; 0: nothing).
    ``host``: its section where it is chassis. ``when_welding``: whether it is taken off or shielded while
    something near it is welded in the car."""

    id: Id
    name: Name
    neighbour: Id
    shapes: Annotated[tuple[Shape, ...], Field(max_length=50)] = ()
    made: Recipe | None = None
    motion: Motion | None = None
    placed: bool = True
    fate: Fate = "open"
    trim_mm: NotNegative | None = None
    cuts: Annotated[tuple[Cut, ...], Field(max_length=12)] = ()
    moved: Vec3 = (0.0, 0.0, 0.0)
    material: Material = "unsaid"
    measured: Method = "tape"
    plus_minus_mm: NotNegative | None = None
    required_mm: NotNegative | None = None
    when_welding: Literal["unsaid", "out of the way"] = "unsaid"
    chassis: bool = False
    host: Host = Host()
    note: Words = ""

    @model_validator(mode="after")
    def _is_there(self) -> Item:
        if bool(self.shapes) == (self.made is not None):
            raise ValueError(
                "an item needs a shape, or points that it is made from"
                if self.made is None
                else "an item has either shapes or points that it is made from, not both"
            )
        return self

    @property
    def give_or_take(self) -> float:
        """Plus-or-minus of its surface, mm, where it is not made from surveyed points."""
        return METHOD_PLUS_MINUS[self.measured] if self.plus_minus_mm is None else self.plus_minus_mm


class Clearance(Part):
    """One row of the clearance table: a class of neighbour and the air it needs, mm."""

    id: Id
    name: Name
    required_mm: NotNegative
    why: Words = ""


class CameOut(Part):
    """The powertrain that came out: its mass and its centre of gravity in the vehicle frame, weighed or
    from a book."""

    mass_kg: Positive
    centre: Vec3


class Vehicle(Part):
    """The vehicle without its powertrain, as weighed, and what the driveline ends in. Vehicle frame, mm, kg.

    hubs: the outer joints of half-shafts, left and right, at ride height; they rise and fall with the wheels.
    rails_rest_front_mm, rails_rest_rear_mm: stations forward of the datum at which both rails rest, on
    springs or where they go on into the body; None: not said, taken for front axle line and rear ends.
    """

    name: Name
    wheelbase_mm: Positive
    front_axle_kg: Positive
    rear_axle_kg: Positive
    cog_height_mm: Positive
    tyre_radius_mm: Positive
    final_drive: Positive
    driven: Literal["rear", "front", "both"] = "rear"
    ground_z_mm: Finite
    lowest_line_z_mm: Finite
    driver_side: Literal["left", "right"] = "left"
    axle_input: Vec3
    axle_input_direction: Direction
    axle_plus_minus_mm: NotNegative = 1.5
    slope_plus_minus_deg: Annotated[float, Field(ge=0, le=5)] = 0.1
    hubs: tuple[Vec3, Vec3] | None = None
    wheel_up_mm: NotNegative = 60.0
    wheel_down_mm: NotNegative = 60.0
    came_out: CameOut | None = None
    want_front_share_percent: Annotated[float, Field(ge=5, le=95)] = 55.0
    rails_rest_front_mm: Finite | None = None
    rails_rest_rear_mm: Finite | None = None


class JointLimits(Part):
    """Limits for the propshaft's joints in degrees; the job's own, and how they were come by."""

    least_deg: Annotated[float, Field(ge=0, le=45)] = 0.5
    most_deg: Annotated[float, Field(gt=0, le=45)] = 3.0
    difference_deg: Annotated[float, Field(gt=0, le=45)] = 1.0
    half_shaft_ride_deg: Annotated[float, Field(gt=0, le=45)] = 5.0
    half_shaft_travel_deg: Annotated[float, Field(gt=0, le=50)] = 16.0
    half_shaft_lock_deg: Annotated[float, Field(gt=0, le=55)] = 45.0
    plunge_mm: Positive = 20.0
    source: Words = "common practice, no source"
