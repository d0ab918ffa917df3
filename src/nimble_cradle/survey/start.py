"""First guesses for the adjustment: offsets as they stand, then one point after another from those that
are placed already."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.survey.adjust import RIVAL, Observed, adjust, alone, from_each
from nimble_cradle.survey.observations import AXES, Unknowns

_CORNERS = np.array([[i, j, k] for i in (-1, 1) for j in (-1, 1) for k in (-1, 1)], dtype=float)


def first_guess(unknowns: Unknowns, rows: list[Observed]) -> Array:
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
    for reading in survey.readings:
        if (
            reading.used
            and not reading.datum
            and (reading.kind in AXES or reading.kind.startswith("from-"))
            and reading.point not in placed
        ):
            half = (survey.width_mm or 0.0) / 2
            axis = AXES.get(reading.kind, 1)
            x[unknowns.at(reading.point)[axis]] = {
                "from-left-wall": half - reading.value_mm,
                "from-right-wall": reading.value_mm - half,
            }.get(reading.kind, reading.value_mm)
            partly.setdefault(reading.point, set()).add(axis)
    placed |= {key for key, axes in partly.items() if len(axes) == 3}
    of = RowsOf(unknowns, rows, x)
    waiting = {point.id: k for k, point in enumerate(survey.points) if point.id not in placed}
    missing = {k: of.points[k] & waiting.keys() for k in range(len(rows))}
    ready = dict.fromkeys(waiting, 0)
    for few in missing.values():
        if len(few) == 1:
            ready[next(iter(few))] += 1
    while waiting:
        key = max(waiting, key=ready.__getitem__)
        own = [k for k in of.rows[key] if missing[k] <= {key}]
        if own:
            x[unknowns.at(key)] = _best_place(unknowns, of, own, x, key)
        placed.add(key)
        del waiting[key]
        for k in of.rows[key]:
            missing[k].discard(key)
            if len(missing[k]) == 1:
                ready[next(iter(missing[k]))] += 1
    return x


class RowsOf:
    """Which rows a point has part in, and which points a row has: by number of the row, by id of the
    point."""

    def __init__(self, unknowns: Unknowns, rows: list[Observed], x: Array) -> None:
        self.all = rows
        owner = {c: point.id for point in unknowns.survey.points for c in unknowns.at(point.id)}
        self.points = [{owner[c] for c in row.model(x)[1] if c in owner} for row in rows]
        self.rows: dict[str, list[int]] = {point.id: [] for point in unknowns.survey.points}
        for k, points in enumerate(self.points):
            for key in points:
                self.rows[key].append(k)

    def neighbours(self, unknowns: Unknowns, some: list[int], x: Array, key: str) -> Array:
        """Where the other points of some rows are, (n, 3) in the order of the survey."""
        seen = sorted({unknowns.number[p] for k in some for p in self.points[k] if p != key})
        return x[: 3 * len(unknowns.survey.points)].reshape(-1, 3)[seen] if seen else np.zeros((0, 3))


def _best_place(unknowns: Unknowns, of: RowsOf, some: list[int], x: Array, key: str) -> Array:
    """Where one point fits its readings best, the others held; from its present place and from eight about
    its neighbours."""
    rows = [of.all[k] for k in some]
    local = alone(rows, x, unknowns.at(key))
    here = x[unknowns.at(key)]
    near = of.neighbours(unknowns, some, x, key)
    reach = max((abs(row.measured) for row in rows), default=100.0)
    starts = [
        here + 1e-3,
        *(near.mean(0) + 0.5 * reach * _CORNERS if len(near) else here + 0.5 * reach * _CORNERS),
    ]
    x, chi2 = from_each(local, np.array(starts), 40)
    return np.asarray(x[int(chi2.argmin())])


def mirror_of(unknowns: Unknowns, of: RowsOf, x: Array, key: str) -> Array | None:
    """A second place (3,) where the point fits its readings as well, on the other side of its neighbours;
    None where there is none."""
    at = unknowns.at(key)
    own = [of.all[k] for k in of.rows[key]]
    near = of.neighbours(unknowns, of.rows[key], x, key)
    if len(near) < 2 or len(own) < 3:
        return None
    centre = near.mean(0)
    normal = np.linalg.svd(near - centre)[2][2]
    here = x[at]
    local = alone(own, x, unknowns.at(key))
    present = sum(((row.measured - row.model(here)[0]) / row.sigma) ** 2 for row in local)
    other = adjust(local, here - 2 * ((here - centre) @ normal) * normal, 40)
    if float(np.linalg.norm(other.x - here)) > 10.0 and other.chi2 - present < RIVAL:
        return other.x
    return None
