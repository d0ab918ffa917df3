"""A direction told as a gauge reads it: the way it mostly points, and two angles off that."""

from __future__ import annotations

import math
from typing import Literal, NamedTuple, get_args

Way = Literal["forward", "back", "left", "right", "up", "down"]
WAYS_OUT: tuple[Way, ...] = get_args(Way)
AXIS_WORDS: tuple[tuple[Way, Way], ...] = (("forward", "back"), ("left", "right"), ("up", "down"))
"""The words of each axis of the vehicle frame, plus and minus. The one table of them."""
WAY_VECTORS: dict[Way, tuple[int, int, int]] = {
    "forward": (1, 0, 0),
    "back": (-1, 0, 0),
    "left": (0, 1, 0),
    "right": (0, -1, 0),
    "up": (0, 0, 1),
    "down": (0, 0, -1),
}
_AXES: dict[Way, tuple[int, float]] = {
    way: (axis, sign)
    for axis, pair in enumerate(AXIS_WORDS)
    for way, sign in zip(pair, (1.0, -1.0), strict=True)
}
MOST_DEG = 89.0
"""Angles off the main way are less than this."""


class GaugeReading(NamedTuple):
    """way: the main way. Of a level one, first: up (plus) or down, as a level laid along it reads; second:
    to the left of a way forward or back, or forward of a way to the side (plus), in plan. Of an upright
    one, first: leaning forward (plus) or back, seen from the side; second: leaning left (plus) or right,
    seen from the front. Degrees."""

    way: Way
    first: float
    second: float


def told(vector: tuple[float, float, float]) -> GaugeReading:
    """How a direction (x forward, y left, z up; any length but nought) is told."""
    size = math.sqrt(sum(c * c for c in vector))
    v = [c / size for c in vector]
    axis = max(range(3), key=lambda k: (round(abs(v[k]), 9), -k))
    way = next(w for w, (k, sign) in _AXES.items() if k == axis and sign * v[axis] > 0)
    if axis == 2:
        return GaugeReading(way, *(math.degrees(math.atan2(v[k], abs(v[2]))) for k in (0, 1)))
    aside = 1 - axis
    up = math.degrees(math.asin(max(-1.0, min(1.0, v[2]))))
    return GaugeReading(way, up, math.degrees(math.atan2(v[aside], abs(v[axis]))))


def direction(way: Way, first: float, second: float) -> tuple[float, float, float]:
    """The unit direction that is told so. Raises ValueError for an angle of MOST_DEG or more."""
    if max(abs(first), abs(second)) > MOST_DEG:
        raise ValueError(f"an angle off {way} is at most {MOST_DEG:g} deg; choose another way it points")
    axis, sign = _AXES[way]
    a, b = math.radians(first), math.radians(second)
    v = [0.0, 0.0, 0.0]
    if axis == 2:
        v[0], v[1], v[2] = math.tan(a), math.tan(b), sign
        size = math.sqrt(sum(c * c for c in v))
        v = [c / size for c in v]
    else:
        v[axis], v[1 - axis], v[2] = sign * math.cos(a) * math.cos(b), math.cos(a) * math.sin(b), math.sin(a)
    x, y, z = (round(c, 7) + 0.0 for c in v)
    return x, y, z
