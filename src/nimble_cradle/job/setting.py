"""How the real engine is brought to its place and found again: what holds it up, the shims in the box,
witness marks; and other powertrains that were offered to the bay."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Finite, Id, Name, NotNegative, Part, Positive, Vec3, Words
from nimble_cradle.job.powertrain import Position, Powertrain

SupportKind = Literal["mount", "jack", "strap", "blocks", "stand"]


class Support(Part):
    """A place that holds the powertrain up while it is set: ``at`` on the powertrain (its frame), and the
    stack of shims and blocks there now."""

    id: Id
    name: Name
    kind: SupportKind = "mount"
    at: Vec3
    stack_mm: NotNegative = 0.0


class Setting(Part):
    """Where the real engine is now (None: not said), what holds it up, and the shims in the box."""

    now: Position | None = None
    supports: Annotated[tuple[Support, ...], Field(max_length=12)] = ()
    washers_mm: Annotated[tuple[Positive, ...], Field(max_length=12)] = (1.0, 1.5, 2.0, 3.0)
    plates_mm: Annotated[tuple[Positive, ...], Field(max_length=12)] = (5.0, 6.0, 8.0, 10.0, 12.0, 20.0)
    most_pieces: Annotated[int, Field(ge=1, le=6)] = 3
    cut_margin_mm: NotNegative = Field(0.0, title="A cut line stays outside of what must go by")
    made_gap_mm: NotNegative = Field(
        3.0,
        title="Between a made part and what it moves with",
        description="As a bracket beside a pipe of the car (common practice, no source).",
    )


class HalfShaftSize(Part):
    """How thick half-shafts and their joints are; None where it is not said."""

    shaft_outside_mm: Positive | None = None
    joint_outside_mm: Positive | None = None
    joint_long_mm: Positive | None = None


class WitnessMark(Part):
    """A tape distance between a mark on the engine (powertrain frame) and one on the bay (vehicle frame):
    what it was with the engine in its place, and what the tape says now."""

    id: Id
    name: Name
    on_engine: Vec3
    on_bay: Vec3
    reference_mm: Positive
    plus_minus_mm: Positive = 1.0
    now_mm: Positive | None = None


class WayOut(Part):
    """How the powertrain is to come out: up and over, or down with the car raised; with its gearbox or the
    engine alone; and the items and pieces (ids) that are taken off before. arms_off: the mounts' arms are
    unbolted and taken out before."""

    route: Literal["up", "down"] = "up"
    engine_alone: bool = False
    arms_off: bool = False
    off: Annotated[tuple[Id, ...], Field(max_length=60)] = ()


class Candidate(Part):
    """Another powertrain that was offered to the bay, and where it was first held."""

    id: Id
    name: Name
    powertrain: Powertrain
    position: Position
    note: Words = ""


class Propshaft(Part):
    """The shaft from gearbox to axle. centre: joint of a two-piece shaft behind its bearing (None: one
    piece). phase_deg: how far the rear yoke of each piece is turned
    from its front one, clockwise as seen from behind the car. slip_mm: engagement of the
    slip joint at ride height. joint_outside_mm: across the joints as they turn (None: not said).
    axle_pivot: the axle's input swings about it (None: it rises straight)."""

    tube_outside_mm: Positive = 76.0
    tube_wall_mm: Positive = 2.0
    joint_outside_mm: Positive | None = None
    centre: Vec3 | None = None
    phase_deg: tuple[Finite, Finite] = (0.0, 0.0)
    slip_mm: Positive = 70.0
    slip_least_mm: NotNegative = 35.0
    axle_pivot: Vec3 | None = None
    most_acceleration: Positive = 400.0

    @model_validator(mode="after")
    def _is_a_tube(self) -> Propshaft:
        if 2 * self.tube_wall_mm >= self.tube_outside_mm:
            raise ValueError("the tube's wall is thicker than half the tube")
        return self
