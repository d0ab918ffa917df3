"""A first guess of a hole pattern, from the readings that give it."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.pattern import BETWEEN, HoleReading, Pattern
from nimble_cradle.survey.adjust import COVER, HELD, RIVAL, Apart, Observed, alone, from_each, linear
from nimble_cradle.survey.pattern_types import LEAST, Columns


def observed_of(pattern: Pattern, columns: Columns, r: HoleReading) -> Observed:
    sigma = max(r.give_or_take, LEAST) / COVER
    ax, ay = columns.of(r.hole)
    measured = r.value
    if r.kind in BETWEEN:
        size = {hole.id: hole.diameter_mm for hole in pattern.holes}
        both = (size[r.hole] + size[r.other]) / 2
        measured = r.value - {"centres": 0.0, "outer-edges": both, "inner-edges": -both}[r.kind]
        return Observed(r.id, measured, sigma, Apart([ax, ay], list(columns.of(r.other))))
    if r.kind == "radius":
        return Observed(r.id, measured, sigma, Apart([ax, ay], [HELD, HELD]))
    if r.kind in ("across", "up"):
        return Observed(r.id, measured, sigma, linear((ax if r.kind == "across" else ay,), (1.0,)))

    def angle(x: Array) -> tuple[float, Any, Any]:
        """Angle from the pin, degrees, on the turn that the reading is on."""
        u, v = _at(x, ax), _at(x, ay)
        length = max(math.hypot(u, v), 1e-9)
        found = math.degrees(math.atan2(v, u))
        found = measured + (found - measured + 180) % 360 - 180
        return found, *_kept((ax, math.degrees(-v / length**2)), (ay, math.degrees(u / length**2)))

    return Observed(r.id, measured, sigma, angle)


def _at(x: Array, column: int) -> float:
    return float(x[column]) if column >= 0 else 0.0


def _kept(*pairs: tuple[int, float]) -> tuple[list[int], list[float]]:
    return [c for c, _ in pairs if c >= 0], [d for c, d in pairs if c >= 0]


def start_of(pattern: Pattern, columns: Columns, rows: list[Observed]) -> Array:
    """One hole after another from those placed, each from several places round about; the best taken."""
    x = np.zeros(columns.size)
    used = [reading for reading in pattern.readings if reading.used]
    reach = max((abs(r.value) for r in used if r.kind != "angle"), default=100.0)
    placed: set[str] = set()
    if not columns.from_pin and pattern.holes:
        placed.add(pattern.holes[0].id)
    todo = [hole for hole in pattern.holes if hole.id not in placed]
    turn = -1.0 if pattern.turn == "clockwise" else 1.0
    while todo:

        def links(h: Any) -> int:
            return sum(
                1
                for r in used
                if h.id in (r.hole, r.other) and {r.hole, r.other or r.hole} <= placed | {h.id}
            )

        hole = max(todo, key=links)
        todo.remove(hole)
        own = [
            row
            for row, r in zip(rows, used, strict=True)
            if hole.id in (r.hole, r.other) and {r.hole, r.other or r.hole} <= placed | {hole.id}
        ]
        cx, cy = columns.of(hole.id)
        about = columns.points(x)[[columns.number[k] for k in placed]].mean(0) if placed else np.zeros(2)
        crossings = _crossings(
            hole.id,
            own,
            [r for row, r in zip(rows, used, strict=True) if any(row is o for o in own)],
            columns,
            x,
        )
        if hole.roughly is not None and columns.from_pin:
            starts = [np.asarray(hole.roughly, dtype=float)]
        elif crossings:
            starts = sorted(
                crossings, key=lambda p: -turn * float(_side(columns.points(x), placed, columns, p))
            )
        else:
            angles = turn * (np.arange(12) * np.pi / 6 + 0.2)
            starts = [about + 0.6 * reach * np.array([np.cos(a), np.sin(a)]) for a in angles]
        if own:
            places, chi2 = best_place(own, x, (cx, cy), starts)
            at = places[int((chi2 <= chi2.min() + RIVAL).argmax())]
        else:
            at = starts[0]
        for c, value in zip((cx, cy), at, strict=True):
            if c >= 0:
                x[c] = value
        placed.add(hole.id)
    return x


def _crossings(
    key: str, own: list[Observed], readings: list[HoleReading], columns: Columns, x: Array
) -> list[Array]:
    """Where the circles of a hole's two longest distances cross: two places, or none to be had that way."""
    circles = [
        (
            columns.points(x)[columns.number[reading.other if reading.hole == key else reading.hole]],
            row.measured,
        )
        for row, reading in zip(own, readings, strict=True)
        if reading.kind in BETWEEN
    ]
    best: list[Array] = []
    widest = 0.0
    for i in range(len(circles)):
        for j in range(i + 1, len(circles)):
            (a, ra), (b, rb) = circles[i], circles[j]
            d = b - a
            apart = float(np.linalg.norm(d))
            if apart < max(1.0, widest):
                continue
            along = (apart**2 + ra**2 - rb**2) / (2 * apart)
            off = math.sqrt(max(ra**2 - along**2, 1.0))
            e = d / apart
            across = np.array([-e[1], e[0]])
            widest, best = apart, [a + along * e + off * across, a + along * e - off * across]
    return best


def _side(points: Array, placed: set[str], columns: Columns, place: Array) -> float:
    """On which side of the first two placed holes a place lies: positive to the left of the way from the
    first to the second."""
    first = [points[columns.number[k]] for k in columns.number if k in placed][:2]
    if len(first) < 2:
        return 1.0
    d, p = first[1] - first[0], place - first[0]
    return float(d[0] * p[1] - d[1] * p[0])


def best_place(
    rows: list[Observed], x: Array, columns: tuple[int, int], starts: list[Array]
) -> tuple[Array, Array]:
    """Places (k, 2) of one hole with the others held, from each of some starts, and their chi-squares
    (k,)."""
    free = [k for k, column in enumerate(columns) if column >= 0]
    found, chi2 = from_each(alone(rows, x, [columns[k] for k in free]), np.array(starts)[:, free], 40)
    at = np.zeros((len(starts), 2))
    at[:, free] = found
    return at, chi2


def turn_of(p: Array) -> float:
    """Area of holes 1, 2, 3, positive anticlockwise."""
    return (
        float((p[1, 0] - p[0, 0]) * (p[2, 1] - p[0, 1]) - (p[2, 0] - p[0, 0]) * (p[1, 1] - p[0, 1])) / 2
        if len(p) > 2
        else 0.0
    )
