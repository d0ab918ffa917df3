"""A template recorded once in millimetres, and replayed to PDF, DXF, SVG and the preview on the screen. x
right, y up."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Literal

Layer = Literal["CUT", "MARK", "FOLD", "NOTE", "BAY", "ENGINE", "GHOST"]
Point = tuple[float, float]


@dataclass(frozen=True)
class Path:
    """Straight lines through points; ``closed`` joins the last to the first."""

    points: tuple[Point, ...]
    closed: bool = False
    layer: Layer = "CUT"


@dataclass(frozen=True)
class Circle:
    """A circle."""

    centre: Point
    radius: float
    layer: Layer = "CUT"


@dataclass(frozen=True)
class Text:
    """Words at a point (left end of the base line, or its middle), letters ``height`` mm high, turned by
    degrees."""

    at: Point
    text: str
    height: float = 3.5
    layer: Layer = "NOTE"
    turn_deg: float = 0.0
    middle: bool = False


Mark = Path | Circle | Text


@dataclass(frozen=True)
class Drawing:
    """One template: a file name, a title, what to check, and its marks in mm."""

    name: str
    title: str
    marks: tuple[Mark, ...]
    notes: tuple[str, ...] = ()
    warnings: tuple[str, ...] = field(default=())

    def extent(self) -> tuple[float, float, float, float]:
        """Least x, least y, greatest x, greatest y of everything but loose words, mm."""
        xs, ys = [], []
        for mark in self.marks:
            if isinstance(mark, Path):
                xs += [point[0] for point in mark.points]
                ys += [point[1] for point in mark.points]
            elif isinstance(mark, Circle):
                xs += [mark.centre[0] - mark.radius, mark.centre[0] + mark.radius]
                ys += [mark.centre[1] - mark.radius, mark.centre[1] + mark.radius]
            else:
                xs.append(mark.at[0])
                ys += [mark.at[1], mark.at[1] + mark.height]
        return min(xs), min(ys), max(xs), max(ys)


def path(points: Iterable[Sequence[float]], closed: bool = False, layer: Layer = "CUT") -> Path:
    """A path from any rows of x, y."""
    return Path(tuple((float(point[0]), float(point[1])) for point in points), closed, layer)


def cross(centre: Sequence[float], size: float, layer: Layer = "MARK") -> tuple[Path, Path]:
    """Two short lines that mark a centre."""
    x, y = float(centre[0]), float(centre[1])
    return path([(x - size, y), (x + size, y)], layer=layer), path(
        [(x, y - size), (x, y + size)], layer=layer
    )


def ruler(at: Point, length: float, step: float, name: str) -> tuple[Mark, ...]:
    """A check ruler: a line with ticks and its name. length and step in mm."""
    x, y = at
    marks: list[Mark] = [
        path([(x, y), (x + length, y)], layer="NOTE"),
        Text((x + length + 2, y - 1.2), name, 3.2),
    ]
    count = round(length / step)
    for i in range(count + 1):
        tall = 5.0 if i in (0, count) else (3.5 if i * 2 == count else 2.2)
        marks.append(path([(x + i * length / count, y), (x + i * length / count, y + tall)], layer="NOTE"))
    return tuple(marks)
