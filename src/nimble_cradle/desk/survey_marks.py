"""What the view shows on Survey: the points, the taped distances between them, and tags for those that
need a look."""

from __future__ import annotations

from typing import Any

import numpy as np

from nimble_cradle.desk.session import Session
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import MeshPart, SolidPart, bar
from nimble_cradle.survey.network import PlacedPoint, network
from nimble_cradle.units import show

MOST = 5
MARK = 13.0
_TIPS = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]], dtype=float)
_SIDES = np.array(
    [[0, 2, 4], [2, 1, 4], [1, 3, 4], [3, 0, 4], [2, 0, 5], [1, 2, 5], [3, 1, 5], [0, 3, 5]], dtype=np.int64
)


def _diamond(at: Array, size: float) -> list[SolidPart]:
    """A small eight-sided mark."""
    return [MeshPart(at + size * _TIPS, _SIDES)]


def survey_things(session: Session) -> dict[tuple[str, str], tuple[Any, list[SolidPart], str]]:
    """(kind, id) -> (version, solids, colour) of every pinned point and every used distance."""
    job = session.job
    net = network(job)
    out: dict[tuple[str, str], tuple[Any, list[SolidPart], str]] = {}
    states = {r.id: r.state for r in net.readings}
    for p in net.points:
        if "every way" not in p.free:
            out["point", p.id] = (
                tuple(p.at.round(2)),
                _diamond(p.at, MARK),
                "#8a5600" if p.free else "#0b5f6b",
            )
    for k, mark in enumerate(session.marks):
        out["mark", str(k)] = (tuple(mark.round(2)), _diamond(mark, 0.7 * MARK), "#ad2318")
    for r in job.survey.readings:
        if r.kind == "distance" and r.used and ("point", r.point) in out and ("point", r.other) in out:
            a, b = net.point(r.point).at, net.point(r.other).at
            if np.linalg.norm(a - b) > 1:
                state = states[r.id]
                colour, thick = {"out of line": ("#ad2318", 7.0), "doubtful": ("#b9780a", 6.0)}.get(
                    state, ("#7f8a90", 2.5)
                )
                out["reading", r.id] = (
                    (tuple(a.round(2)), tuple(b.round(2)), state),
                    [bar(a, b, thick)],
                    colour,
                )
    return out


def survey_tags(session: Session) -> list[tuple[Array, tuple[str, str, str, str, bool]]]:
    """(place, (figure, title, state, key, chosen)) for the chosen point, those not pinned down, those with
    a bad reading, the least sure."""
    job, d = session.job, session.display
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
    for p in sorted((p for p in net.points if "every way" not in p.free), key=rank)[:MOST]:
        number = net.number(p.id) + 1
        figure = f"free {p.free[0]}" if p.free else f"± {show(float(p.plus_minus.max()), 'length', d)}"
        state = "near" if p.free else "fails" if p.id in bad else "holds"
        told = figure + (": reading out of line" if p.id in bad and not p.free else "")
        tags.append((p.at, (told, f"{number} {p.name}", state, f"point:{p.id}", p.id == chosen)))
    return tags
