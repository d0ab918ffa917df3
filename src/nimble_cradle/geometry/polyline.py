"""Lengths and bends of lines through points."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.geometry.pose import Array

STEP_DEG = 12.0
"""An arc is taken in chords that turn by no more than so many degrees: 0.14 % of its radius off it."""
Place = tuple[float, float, float]


def axis_length(points: Sequence[Sequence[float]]) -> float:
    """Length mm of an axis through points."""
    return sum(math.dist(a, b) for a, b in zip(points, points[1:], strict=False))


def nearest_on(points: ArrayLike, to: ArrayLike) -> tuple[int, Array]:
    """Of a line through points (n, d) the leg and the place (d,) nearest to a point (d,); of equally near
    ones the first."""
    line, p = np.asarray(points, dtype=float), np.asarray(to, dtype=float)
    run = np.diff(line, axis=0)
    t = np.clip(((p - line[:-1]) * run).sum(1) / np.maximum((run**2).sum(1), 1e-9), 0.0, 1.0)
    places = line[:-1] + t[:, None] * run
    k = int(np.linalg.norm(places - p, axis=1).argmin())
    return k, np.asarray(places[k])


def turns_of(points: Sequence[Sequence[float]]) -> list[float]:
    """How far a line through points turns at each of them but the ends, deg."""
    ways = [np.subtract(b, a) / math.dist(a, b) for a, b in zip(points, points[1:], strict=False)]
    turns = [float(a @ b) for a, b in zip(ways, ways[1:], strict=False)]
    return [math.degrees(math.acos(min(max(turn, -1.0), 1.0))) for turn in turns]


def tangents_of(points: Sequence[Sequence[float]], radius: float) -> list[float]:
    """How much of its legs each bend of that radius takes on either side, mm: R tan(turn / 2)."""
    return [radius * math.tan(math.radians(turn / 2)) for turn in turns_of(points)]


def rounded(points: Sequence[Place], radius: float) -> tuple[Place, ...]:
    """The line with arcs of that radius in place of its corners, as chords whose ends lie on the arcs. Raises
    ValueError where a leg is shorter than what its bends take of it."""
    if radius <= 0 or len(points) < 3:
        return tuple(points)
    taken, turns = [0.0, *tangents_of(points, radius), 0.0], turns_of(points)
    for k, (a, b) in enumerate(zip(points, points[1:], strict=False)):
        long, gone = math.dist(a, b), taken[k] + taken[k + 1]
        if gone > long - 1.0:
            raise ValueError(f"leg {k + 1} is {long:.0f} mm long, and its bends take {gone:.0f} of it")
    out = [points[0]]
    for k, turn in enumerate(turns, 1):
        corner = np.asarray(points[k], dtype=float)
        back, on = (np.subtract(points[n], corner) / math.dist(points[n], corner) for n in (k - 1, k + 1))
        if turn < 0.01:
            out.append(points[k])
            continue
        middle = back + on
        centre = corner + middle / np.linalg.norm(middle) * radius / math.cos(math.radians(turn / 2))
        start, end = corner + taken[k] * back - centre, corner + taken[k] * on - centre
        count, whole = max(1, math.ceil(turn / STEP_DEG)), math.radians(turn)
        for n in range(count + 1):
            share = n / count
            one, two = math.sin((1 - share) * whole), math.sin(share * whole)
            p = centre + (one * start + two * end) / math.sin(whole)
            out.append((float(p[0]), float(p[1]), float(p[2])))
    return (*out, points[-1])
