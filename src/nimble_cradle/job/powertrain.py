"""The engine and gearbox: pieces with their masses, what the engine does, and where the output is. Powertrain frame."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Direction, Finite, Id, Name, NotNegative, Part, Positive, Vec3, Words
from nimble_cradle.job.bay import METHOD_PLUS_MINUS, Method
from nimble_cradle.job.shapes import Shape


class Piece(Part):
    """One piece of the powertrain. Its mass is spread evenly in its shapes unless ``centre_of_gravity`` says otherwise."""

    id: Id
    name: Name
    neighbour: Id = "metal"
    shapes: Annotated[tuple[Shape, ...], Field(min_length=1, max_length=50)]
    mass_kg: NotNegative = 0.0
    centre_of_gravity: Vec3 | None = None
    measured: Method = "tape"
    plus_minus_mm: NotNegative | None = None
    fitted: bool = True
    note: Words = ""

    @property
    def give_or_take(self) -> float:
        """Plus-or-minus of its surface, mm."""
        return METHOD_PLUS_MINUS[self.measured] if self.plus_minus_mm is None else self.plus_minus_mm


class Engine(Part):
    """What the engine does. The crank turns clockwise seen from the pulley end unless said otherwise."""

    name: Name
    layout: Literal["inline", "v", "flat"] = "inline"
    strokes: Literal[2, 4] = 4
    cylinders: Annotated[int, Field(ge=1, le=16)]
    torque_nm: Positive
    torque_rpm: Positive
    idle_rpm: Positive
    redline_rpm: Positive
    clockwise_from_front: bool = True

    @model_validator(mode="after")
    def _speeds(self) -> Engine:
        if self.idle_rpm >= self.redline_rpm:
            raise ValueError("idle must be slower than the redline")
        return self


class Gearbox(Part):
    """Ratios from first gear up, and the output flange: its centre and the way its axis points (rearwards)."""

    name: Name
    ratios: Annotated[tuple[Positive, ...], Field(min_length=1, max_length=12)]
    output: Vec3
    output_direction: Direction = (-1.0, 0.0, 0.0)


class Powertrain(Part):
    """Engine, gearbox and their pieces."""

    name: Name
    engine: Engine
    gearbox: Gearbox
    pieces: Annotated[tuple[Piece, ...], Field(min_length=1)]


class Position(Part):
    """Where the powertrain frame stands in the vehicle frame: mm and degrees, as mocked up on unloaded bushes.

    Turned roll about x, then pitch about y, then yaw about z (each about the vehicle's axes), then moved.
    """

    x: Finite = 0.0
    y: Finite = 0.0
    z: Finite = 0.0
    roll_deg: Annotated[float, Field(ge=-180, le=180)] = 0.0
    pitch_deg: Annotated[float, Field(ge=-90, le=90)] = 0.0
    yaw_deg: Annotated[float, Field(ge=-180, le=180)] = 0.0
    pivot: Literal["crank-nose", "gearbox-mount", "engine-centre"] = "engine-centre"
