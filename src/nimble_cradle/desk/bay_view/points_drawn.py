"""What the view shows of the survey: the points, the taped distances between them, and tags for those
that need a look."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from nimble_cradle.desk.kit.session import Session
from nimble_cradle.fit.suspension import pairs_of, places_of
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import MeshPart, SolidPart
from nimble_cradle.job.base import JobError
from nimble_cradle.survey.network import network
from nimble_cradle.survey.network_types import PlacedPoint
from nimble_cradle.units import show

MOST = 5
"""Tags at most, the chosen and the doubtful ones first: more hide the bay."""
CUT_THICK = 8.0
"""A cut line is drawn so many mm thick."""
MARK = 13.0
"""Size of the mark of a point, mm."""
READING_LOOK = {"out of line": ("#ad2318", 7.0), "doubtful": ("#b9780a", 6.0)}
"""Colour and thickness mm of a distance that needs a look."""
_TIPS = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]], dtype=float)
_SIDES = np.array(
    [[0, 2, 4], [2, 1, 4], [1, 3, 4], [3, 0, 4], [2, 0, 5], [1, 2, 5], [3, 1, 5], [0, 3, 5]], dtype=np.int64
)


def _diamond(at: Array, size: float) -> list[SolidPart]:
    """A small eight-sided mark."""
    return [MeshPart(at + size * _TIPS, _SIDES)]


def points_drawn(session: Session) -> Iterator[tuple[str, Any, list[SolidPart], str]]:
    """(id, version, solids, colour) of every point that is pinned down some way."""
    for point in network(session.seen_job).points:
        if "every way" not in point.free:
            colour = "#8a5600" if point.free else "#0b5f6b"
            yield point.id, (tuple(point.at.round(2)), colour), _diamond(point.at, MARK), colour


def marks_drawn(session: Session) -> Iterator[tuple[str, Any, list[SolidPart], str]]:
    """(id, version, solids, colour) of every place picked so far."""
    for k, mark in enumerate(session.marks):
        yield str(k), tuple(mark.round(2)), _diamond(mark, 0.7 * MARK), "#ad2318"


def cut_lines_drawn(session: Session) -> Iterator[tuple[str, Any, list[SolidPart], str]]:
    """(id, version, solids, colour) of every cut line as long as the job is what it was worked out for."""
    if session.cut_lines is None or session.cut_lines[0] is not session.seen_job:
        return
    for line in session.cut_lines[1]:
        parts: list[SolidPart] = [
            bar(a, b, CUT_THICK)
            for ring in line.outlines()
            for a, b in zip(ring, ring[1:], strict=False)
            if np.linalg.norm(b - a) > 0.05
        ]
        if parts:
            yield line.item.id, id(line), parts, "#ad2318"


def suspensions_drawn(session: Session) -> Iterator[tuple[str, Any, list[SolidPart], str]]:
    """(id, version, solids, colour) of every suspension's arms and rods as lines, as it is after what is
    moved."""
    job = session.seen_job
    for one in job.suspensions:
        try:
            _, p = places_of(job, one)
        except JobError:  # said in its room
            continue
        parts: list[SolidPart] = [
            bar(p[a], p[b], CUT_THICK) for a, b, _ in pairs_of(one) if np.linalg.norm(p[a] - p[b]) > 1
        ]
        parts += [part for at in p.values() for part in _diamond(at, MARK)]
        yield one.id, (one, id(job.survey)), parts, "#0b5f66"


def readings_drawn(session: Session) -> Iterator[tuple[str, Any, list[SolidPart], str]]:
    """(id, version, solids, colour) of every distance in use between points that are drawn."""
    net = network(session.seen_job)
    states = {reading.id: reading.state for reading in net.readings}
    shown = {point.id: point.at for point in net.points if "every way" not in point.free}
    for r in session.seen_job.survey.readings:
        if r.kind != "distance" or not r.used or r.point not in shown or r.other not in shown:
            continue
        a, b = shown[r.point], shown[r.other]
        if np.linalg.norm(a - b) > 1:
            colour, thick = READING_LOOK.get(states[r.id], ("#7f8a90", 2.5))
            version = tuple(a.round(2)), tuple(b.round(2)), states[r.id]
            yield r.id, version, [bar(a, b, thick)], colour


def point_tags(session: Session) -> list[tuple[Array, tuple[str, str, str, str, bool]]]:
    """(place, (figure, title, state, key, chosen)) for the chosen point, those not pinned down, those with
    a bad reading, the least sure."""
    job, display = session.seen_job, session.display
    net = network(job)
    kind, key = session.selection
    chosen = key if kind == "point" else ""
    bad = {
        k
        for r, c in zip(job.survey.readings, net.readings, strict=True)
        if c.state in ("out of line", "doubtful")
        for k in (r.point, r.other)
        if k
    }

    def rank(p: PlacedPoint) -> tuple[int, float]:
        """Which comes first."""
        return (0 if p.id == chosen else 1 if p.free else 2 if p.id in bad else 3), -float(p.plus_minus.max())

    tags = []
    for p in sorted((point for point in net.points if "every way" not in point.free), key=rank)[:MOST]:
        number = net.number(p.id) + 1
        figure = f"free {p.free[0]}" if p.free else f"± {show(float(p.plus_minus.max()), 'length', display)}"
        state = "near" if p.free else "fails" if p.id in bad else "holds"
        told = figure + (": reading out of line" if p.id in bad and not p.free else "")
        tags.append((p.at, (told, f"{number} {p.name}", state, f"point:{p.id}", p.id == chosen)))
    return tags
