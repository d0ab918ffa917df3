"""The solids that items and pieces are made of, as they stand in the file. Lengths mm, angles degrees.

Coordinates are in the frame of the owner: vehicle frame for bay items, powertrain frame for pieces.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Direction, Finite, Name, Part, Positive, Vec2, Vec3


class Box(Part):
    """A box by its centre, its size along x, y, z, and its turn (roll about x, pitch about y, yaw about z,
    in that order)."""

    kind: Literal["box"] = "box"
    centre: Vec3
    size: tuple[Positive, Positive, Positive]
    turn: Vec3 = (0.0, 0.0, 0.0)


class Bar(Part):
    """A round bar or the outside of a tube between two points on its axis."""

    kind: Literal["bar"] = "bar"
    start: Vec3
    end: Vec3
    diameter: Positive

    @model_validator(mode="after")
    def _has_length(self) -> Bar:
        if sum((a - b) ** 2 for a, b in zip(self.start, self.end, strict=True)) < 1e-6:
            raise ValueError("the bar has no length: its two ends are the same point")
        return self


class Slab(Part):
    """A flat polygon (three corners or more, in order) with a thickness, grown equally to both sides of
    the corners' plane."""

    kind: Literal["slab"] = "slab"
    corners: Annotated[tuple[Vec3, ...], Field(min_length=3, max_length=200)]
    thickness: Positive


class Prism(Part):
    """An outline drawn in the plane across ``along`` at ``origin``, pushed ``length`` mm along it.

    outline: (u, v) mm; v is along ``up`` (made square to ``along``), u = up x along (vector product): to
    the right of one who faces it, pushed towards him.
    """

    kind: Literal["prism"] = "prism"
    origin: Vec3
    along: Direction
    up: Direction
    outline: Annotated[tuple[Vec2, ...], Field(min_length=3, max_length=500)]
    length: Positive

    @model_validator(mode="after")
    def _not_parallel(self) -> Prism:
        a, b = self.along, self.up
        cross = (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])
        if sum(c * c for c in cross) < 1e-9 * sum(c * c for c in a) * sum(c * c for c in b):
            raise ValueError("'up' must not point along 'along'")
        return self


class Mesh(Part):
    """Triangles from a file in the job's ``meshes`` folder, turned about their own origin, then moved to
    ``at``."""

    kind: Literal["mesh"] = "mesh"
    file: Name
    at: Vec3 = (0.0, 0.0, 0.0)
    turn: tuple[Finite, Finite, Finite] = (0.0, 0.0, 0.0)


class Skin(Part):
    """An open surface through rows of points, all rows of one length (a bonnet's underside, a tunnel)."""

    kind: Literal["skin"] = "skin"
    rows: Annotated[
        tuple[Annotated[tuple[Vec3, ...], Field(min_length=2, max_length=200)], ...],
        Field(min_length=2, max_length=60),
    ]

    @model_validator(mode="after")
    def _even(self) -> Skin:
        if len({len(row) for row in self.rows}) != 1:
            raise ValueError("the rows of a skin must all have the same number of points")
        return self


Shape = Annotated[Box | Bar | Slab | Prism | Mesh | Skin, Field(discriminator="kind")]
