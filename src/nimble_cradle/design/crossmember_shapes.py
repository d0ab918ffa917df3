"""Families of lines that a gearbox crossmember may take from rail to rail: straight, to a point, dropped, and
led round something on one side."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.polyline import nearest_on
from nimble_cradle.geometry.pose import Array, unit
from nimble_cradle.job.base import Vec3
from nimble_cradle.job.mounts import Crossmember, Mount

FLATS = (50.0, 90.0)
"""Half of what runs level under the mount of one that is dropped, mm."""
OUT = (0.0, 70.0)
"""How far it goes straight in from the rails before it drops, mm."""
ROUND = (30.0, 60.0)
"""How far it is led round something, mm."""
ALIKE = 2.0
"""Lines no farther apart than that are one, mm."""
WAYS = {"up": (0.0, 0.0, 1.0), "down": (0.0, 0.0, -1.0), "forward": (1.0, 0.0, 0.0), "back": (-1.0, 0.0, 0.0)}


@dataclass(frozen=True)
class Shape:
    """A line from the left end to the right one, vehicle frame, mm. round_something: led round what is in the
    way on one side."""

    name: str
    points: tuple[Vec3, ...]
    round_something: bool = False


def shapes_of(cross: Crossmember, mount: Mount) -> tuple[Shape, ...]:
    """The present line first; then the families, those led round something last, with the same ends, under
    the mount where the present one is."""
    line = np.asarray(cross.points, dtype=float)
    left, right = line[0], line[-1]
    _, under = nearest_on(line, mount.bush.centre)
    along = unit(right - left)
    out = [Shape("as it is", cross.points), _shape("straight", left, right)]
    out.append(_shape("to a point", left, under, right))
    for flat in FLATS:
        one, other = under - flat * along, under + flat * along
        for far in OUT:
            ends = [left + far * along, right - far * along] if far else []
            told = f"dropped, {2 * flat:.0f} mm level" + (f", {far:.0f} mm straight in" if far else "")
            out.append(_shape(told, left, *ends[:1], one, other, *ends[1:], right))
    flat = FLATS[-1]
    one, other = under - flat * along, under + flat * along
    for side, end, near in (("left", left, one), ("right", right, other)):
        middle = (end + near) / 2
        for word, way in WAYS.items():
            for far in ROUND:
                there = middle + far * np.array(way)
                rest = (there, one, other) if side == "left" else (one, other, there)
                found = _shape(f"led {far:.0f} mm {word} on the {side}", left, *rest, right)
                out.append(Shape(found.name, found.points, True))
    kept: list[Shape] = []
    for shape in out:
        if all(_apart(shape, other) > ALIKE for other in kept):
            kept.append(shape)
    return tuple(kept)


def _shape(name: str, *points: Array) -> Shape:
    """Without corners that are none, or that are at another one."""
    kept = [points[0]]
    for here, after in zip(points[1:], points[2:], strict=False):
        if np.linalg.norm(here - kept[-1]) > ALIKE and _off(here, kept[-1], after) > ALIKE:
            kept.append(here)
    kept.append(points[-1])
    return Shape(name, tuple((float(x), float(y), float(z)) for x, y, z in kept))


def _off(point: Array, *line: Array) -> float:
    """From a point to a line through others, mm."""
    return float(np.linalg.norm(point - nearest_on(line, point)[1]))


def _apart(one: Shape, other: Shape) -> float:
    """The most that a corner of either lies off the other, mm."""
    a, b = np.array(one.points), np.array(other.points)
    return max(*(_off(p, *b) for p in a), *(_off(p, *a) for p in b))
