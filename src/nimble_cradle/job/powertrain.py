"""The engine and gearbox: pieces with their masses, what the engine does, and where the output is.
Powertrain frame."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from nimble_cradle.job.base import Direction, Finite, Id, Name, NotNegative, Part, Positive, Vec3, Words
from nimble_cradle.job.bay import METHOD_PLUS_MINUS, Method
from nimble_cradle.job.shapes import Shape


class ScrewIn(Part):
    """Room that a fitting needs to be screwed in, held by a spanner or swung round: a round space of
    ``sweep_mm`` from ``at`` along ``way``."""

    at: Vec3
    way: Direction
    sweep_mm: Positive
    length_mm: Positive


class Piece(Part):
    """One piece of the powertrain. Its mass is spread evenly in its shapes unless ``centre_of_gravity`` says
    otherwise.

    what: an ancillary is kept, deleted, or moved: then the piece called ``instead`` stands for it.
    """

    id: Id
    name: Name
    neighbour: Id = "metal"
    shapes: Annotated[tuple[Shape, ...], Field(min_length=1, max_length=50)]
    mass_kg: NotNegative = 0.0
    centre_of_gravity: Vec3 | None = None
    measured: Method = "tape"
    plus_minus_mm: NotNegative | None = None
    fitted: bool = True
    what: Literal["keep", "move", "delete"] = "keep"
    instead: Annotated[str, StringConstraints(pattern=r"^([a-z0-9][a-z0-9-]{0,39})?$")] = ""
    screw_in: ScrewIn | None = None
    note: Words = ""

    @property
    def give_or_take(self) -> float:
        """Plus-or-minus of its surface, mm."""
        return METHOD_PLUS_MINUS[self.measured] if self.plus_minus_mm is None else self.plus_minus_mm


class Engine(Part):
    """What the engine does. The crank turns clockwise seen from the pulley end unless said otherwise.
    converter: a torque converter is behind it, which multiplies its torque by ``stall_ratio`` from a
    stand."""

    name: Name
    layout: Literal["inline", "v", "flat", "rotary"] = "inline"
    strokes: Literal[2, 4] = 4
    cylinders: Annotated[int, Field(ge=1, le=16)]
    torque_nm: Positive
    idle_rpm: Positive
    redline_rpm: Positive
    clockwise_from_front: bool = True
    converter: bool = False
    stall_ratio: Annotated[float, Field(ge=1, le=4)] = 2.0

    @model_validator(mode="after")
    def _speeds(self) -> Engine:
        if self.idle_rpm >= self.redline_rpm:
            raise ValueError("idle must be slower than the redline")
        return self


class Gearbox(Part):
    """Ratios from first gear up, and the output flange: its centre and the way its axis points (rearwards).

    A transaxle drives half-shafts from two seats (left and right as they stand in the vehicle); its
    reaction is gear times final drive. reverse_ratio: None is as first gear. low_ratio: of a transfer
    case.
    """

    name: Name
    ratios: Annotated[tuple[Positive, ...], Field(min_length=1, max_length=12)]
    output: Vec3
    output_direction: Direction = (-1.0, 0.0, 0.0)
    kind: Literal["gearbox", "transaxle", "transfer case"] = "gearbox"
    seats: tuple[Vec3, Vec3] | None = None
    shifter: Vec3 | None = None
    pad_turn_deg: Annotated[float, Field(ge=-180, le=180)] = 0.0
    reverse_ratio: Positive | None = None
    low_ratio: Annotated[float, Field(ge=1, le=10)] = 1.0

    @model_validator(mode="after")
    def _has_seats(self) -> Gearbox:
        if (self.kind == "transaxle") != (self.seats is not None):
            raise ValueError(
                "a transaxle needs the seats of its two half-shafts"
                if self.kind == "transaxle"
                else "only a transaxle has seats for half-shafts"
            )
        return self


class Weighed(Part):
    """The whole powertrain as weighed and swung, instead of from its pieces. centre: powertrain frame;
    inertia about the centre along the powertrain's axes, kg m2."""

    mass_kg: Positive
    mass_plus_minus_kg: NotNegative = 1.0
    centre: Vec3 | None = None
    centre_plus_minus_mm: NotNegative = 10.0
    inertia_kg_m2: tuple[Positive, Positive, Positive] | None = None


class Powertrain(Part):
    """Engine, gearbox and their pieces."""

    name: Name
    engine: Engine
    gearbox: Gearbox
    pieces: Annotated[tuple[Piece, ...], Field(min_length=1, max_length=200)]
    weighed: Weighed | None = None

    @model_validator(mode="after")
    def _stand_ins(self) -> Powertrain:
        ids = {piece.id for piece in self.pieces}
        for p in self.pieces:
            if p.instead and p.instead not in ids:
                raise ValueError(f"{p.name} is replaced by “{p.instead}”, which is not among the pieces")
        return self

    @property
    def present(self) -> tuple[Piece, ...]:
        """Pieces that are there: fitted and kept, and those that stand in for moved ones."""
        stand_ins = {piece.instead for piece in self.pieces if piece.what == "move" and piece.instead}
        return tuple(
            piece for piece in self.pieces if (piece.fitted and piece.what == "keep") or piece.id in stand_ins
        )


class Position(Part):
    """Where the powertrain frame stands in the vehicle frame: mm and degrees, as mocked up on unloaded
    bushes.

    Turned roll about x, then pitch about y, then yaw about z (each about the vehicle's axes), then moved.
    """

    x: Finite = 0.0
    y: Finite = 0.0
    z: Finite = 0.0
    roll_deg: Annotated[float, Field(ge=-180, le=180)] = 0.0
    pitch_deg: Annotated[float, Field(ge=-90, le=90)] = 0.0
    yaw_deg: Annotated[float, Field(ge=-180, le=180)] = 0.0
    pivot: Literal["crank-nose", "gearbox-mount", "engine-centre"] = "engine-centre"
