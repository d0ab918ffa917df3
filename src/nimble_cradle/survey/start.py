"""First guesses for the adjustment: offsets as they stand, then one point after another from those that
are placed already."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.survey.adjust import RIVAL, Row, adjust, alone
from nimble_cradle.survey.observations import AXES, Unknowns

_CORNERS = np.array([[i, j, k] for i in (-1, 1) for j in (-1, 1) for k in (-1, 1)], dtype=float)


def first_guess(unknowns: Unknowns, rows: list[Row]) -> Array:
    """A start x (n,) for all points of a survey (without temporary datums)."""
    survey = unknowns.survey
    x = np.zeros(unknowns.size)
    if unknowns.width >= 0:
        x[unknowns.width] = survey.width_mm or 0.0
    placed: set[str] = set()
    partly: dict[str, set[int]] = {}
    for p in survey.points:
        about = p.given if p.given is not None else p.roughly
        if about is not None:
            x[unknowns.at(p.id)] = about
            placed.add(p.id)
    for r in survey.readings:
        if (
            r.used
            and not r.datum
            and (r.kind in AXES or r.kind.startswith("from-"))
            and r.point not in placed
        ):
            half = (survey.width_mm or 0.0) / 2
            axis = AXES.get(r.kind, 1)
            x[unknowns.at(r.point)[axis]] = {
                "from-left-wall": half - r.value_mm,
                "from-right-wall": r.value_mm - half,
            }.get(r.kind, r.value_mm)
            partly.setdefault(r.point, set()).add(axis)
    placed |= {key for key, axes in partly.items() if len(axes) == 3}
    touching = {
        p.id: [row for row in rows if set(unknowns.at(p.id)) & set(_columns(row, x))]
        for p in survey.points
        if p.id not in placed
    }
    owner = {c: p.id for p in survey.points for c in unknowns.at(p.id)}
    while touching:
        ready = {
            key: [row for row in found if {owner.get(c, key) for c in _columns(row, x)} <= placed | {key}]
            for key, found in touching.items()
        }
        key = max(ready, key=lambda k: len(ready[k]))
        if ready[key]:
            x[unknowns.at(key)] = _best_place(unknowns, ready[key], x, key)
        placed.add(key)
        del touching[key]
    return x


def _columns(row: Row, x: Array) -> list[int]:
    return list(row.model(x)[1])


def _neighbours(unknowns: Unknowns, rows: list[Row], x: Array, key: str) -> Array:
    at = set(unknowns.at(key))
    owner = {c: i for i in range(len(unknowns.survey.points)) for c in (3 * i, 3 * i + 1, 3 * i + 2)}
    seen = {owner[c] for row in rows for c in _columns(row, x) if c in owner and c not in at}
    return x[: 3 * len(unknowns.survey.points)].reshape(-1, 3)[sorted(seen)] if seen else np.zeros((0, 3))


def _best_place(unknowns: Unknowns, rows: list[Row], x: Array, key: str) -> Array:
    """Where one point fits its readings best, the others held; from its present place and from eight about
    its neighbours."""
    local = alone(rows, x, unknowns.at(key))
    here = x[unknowns.at(key)]
    near = _neighbours(unknowns, rows, x, key)
    reach = max((abs(r.measured) for r in rows), default=100.0)
    starts = [
        here + 1e-3,
        *(near.mean(0) + 0.5 * reach * _CORNERS if len(near) else here + 0.5 * reach * _CORNERS),
    ]
    found = [adjust(local, s, 40) for s in starts]
    return min(found, key=lambda a: a.chi2).x


def mirror_of(unknowns: Unknowns, rows: list[Row], x: Array, key: str) -> Array | None:
    """A second place (3,) where the point fits its readings as well, on the other side of its neighbours;
    None where there is none."""
    at = unknowns.at(key)
    own = [row for row in rows if set(at) & set(_columns(row, x))]
    near = _neighbours(unknowns, own, x, key)
    if len(near) < 2 or len(own) < 3:
        return None
    centre = near.mean(0)
    normal = np.linalg.svd(near - centre)[2][2]
    here = x[at]
    local = alone(own, x, unknowns.at(key))
    present = sum(((r.measured - r.model(here)[0]) / r.sigma) ** 2 for r in local)
    other = adjust(local, here - 2 * ((here - centre) @ normal) * normal, 40)
    if float(np.linalg.norm(other.x - here)) > 10.0 and other.chi2 - present < RIVAL:
        return other.x
    return None
