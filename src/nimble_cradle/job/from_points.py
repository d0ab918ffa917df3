"""Items made from surveyed points, and how some of them move. Point ids are those of the survey; lengths
mm, angles degrees."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Direction, Finite, Id, NotNegative, Part, Positive, Vec2, Vec3

Ids = Annotated[tuple[Id, ...], Field(max_length=60)]


class _FromPoints(Part):
    points: Ids
    size_plus_minus_mm: NotNegative = 0.5


class RailFrom(_FromPoints):
    """A rail along two or more points on the middle of its top (more than two: a kick-up), width by
    height, hanging under them."""

    kind: Literal["rail"] = "rail"
    points: Annotated[tuple[Id, ...], Field(min_length=2, max_length=12)]
    width_mm: Positive
    height_mm: Positive


class BoxFrom(_FromPoints):
    """A box along the car's axes between two opposite corners."""

    kind: Literal["box"] = "box"
    points: Annotated[tuple[Id, ...], Field(min_length=2, max_length=2)]


class BarFrom(_FromPoints):
    """A round bar or tube between points on its axis (more than two: bent)."""

    kind: Literal["bar"] = "bar"
    points: Annotated[tuple[Id, ...], Field(min_length=2, max_length=20)]
    diameter_mm: Positive


class ShaftFrom(_FromPoints):
    """A shaft through three or more points with a joint at each inner one; the joint sweeps joint_mm."""

    kind: Literal["shaft"] = "shaft"
    points: Annotated[tuple[Id, ...], Field(min_length=3, max_length=6)]
    diameter_mm: Positive
    joint_mm: Positive
    joint_long_mm: Positive = 70.0


class PanelFrom(_FromPoints):
    """A flat panel, floor or slab: three or more corner points in order, its thickness half to each side."""

    kind: Literal["panel"] = "panel"
    points: Annotated[tuple[Id, ...], Field(min_length=3, max_length=60)]
    thickness_mm: Positive = 1.5


class OutlineFrom(_FromPoints):
    """An outline traced on card, its origin at the first point, pushed along to the second; v is along
    ``up``."""

    kind: Literal["outline"] = "outline"
    points: Annotated[tuple[Id, ...], Field(min_length=2, max_length=2)]
    up: Direction = (0.0, 0.0, 1.0)
    outline: Annotated[tuple[Vec2, ...], Field(min_length=3, max_length=500)]


class GridFrom(_FromPoints):
    """A sheet over a grid of heights (a bonnet's underside): stations forward and left of the first point,
    heights over it, row by row (a row for each forward station)."""

    kind: Literal["grid"] = "grid"
    points: Annotated[tuple[Id, ...], Field(min_length=1, max_length=1)]
    forward: Annotated[tuple[Finite, ...], Field(min_length=2, max_length=40)]
    left: Annotated[tuple[Finite, ...], Field(min_length=2, max_length=40)]
    heights: Annotated[tuple[tuple[Finite, ...], ...], Field(min_length=2, max_length=40)]

    @model_validator(mode="after")
    def _fits(self) -> GridFrom:
        for values, word in ((self.forward, "forward"), (self.left, "left")):
            if any(b <= a for a, b in zip(values, values[1:], strict=False)):
                raise ValueError(f"the stations {word} must grow from one to the next")
        if len(self.heights) != len(self.forward) or any(len(row) != len(self.left) for row in self.heights):
            raise ValueError(f"{len(self.forward)} rows of {len(self.left)} heights are wanted")
        return self


class TunnelFrom(_FromPoints):
    """A skin through two or more profiles: each an outline (left, up) from the point of the same number."""

    kind: Literal["tunnel"] = "tunnel"
    points: Annotated[tuple[Id, ...], Field(min_length=2, max_length=12)]
    profiles: Annotated[
        tuple[Annotated[tuple[Vec2, ...], Field(min_length=2, max_length=80)], ...],
        Field(min_length=2, max_length=12),
    ]

    @model_validator(mode="after")
    def _fits(self) -> TunnelFrom:
        if len(self.profiles) != len(self.points):
            raise ValueError(
                f"there are {len(self.points)} points and {len(self.profiles)} profiles; each point wants one"
            )
        return self


Recipe = Annotated[
    RailFrom | BoxFrom | BarFrom | ShaftFrom | PanelFrom | OutlineFrom | GridFrom | TunnelFrom,
    Field(discriminator="kind"),
]


class Swing(Part):
    """Turns about an axis, between two angles from where it stands at ride height (right-handed about the
    axis)."""

    kind: Literal["swing"] = "swing"
    about: Vec3
    axis: Direction
    least_deg: Annotated[float, Field(ge=-180, le=0)]
    most_deg: Annotated[float, Field(ge=0, le=180)]


class Slide(Part):
    """Moves along a line, between two distances from where it stands at ride height or straight ahead."""

    kind: Literal["slide"] = "slide"
    along: Direction
    least_mm: Annotated[float, Field(ge=-2000, le=0)]
    most_mm: Annotated[float, Field(ge=0, le=2000)]


class Follows(Part):
    """Goes with a part of a wheel's suspension on its real linkage, through the wheel's travel."""

    kind: Literal["follows"] = "follows"
    suspension: Id
    part: Literal["lower arm", "upper arm", "tie rod", "upright"] = "lower arm"


Motion = Annotated[Swing | Slide | Follows, Field(discriminator="kind")]
