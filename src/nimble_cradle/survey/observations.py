"""The observation equation of every kind of reading: unknowns are point coordinates, the width, and six
for each temporary datum."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose, crosses, rotation_about
from nimble_cradle.job.survey import Reading, Survey
from nimble_cradle.survey.adjust import COVER, Apart, Observed, linear

AXES = {"forward": 0, "left": 1, "up": 2}
LEAST = 1e-3
"""No reading is better than this, mm."""


class Unknowns:
    """Where each unknown stands in the vector x, and the rows of a survey. bases: where each temporary
    datum is about."""

    def __init__(self, survey: Survey, up: Array, bases: dict[str, Pose]) -> None:
        self.survey, self.up, self.bases = survey, up, bases
        self.number = {point.id: i for i, point in enumerate(survey.points)}
        n = 3 * len(survey.points)
        self.width = n if survey.width_mm is not None else -1
        n += self.width >= 0
        self.datum = {key: n + 6 * k for k, key in enumerate(bases)}
        self.size = n + 6 * len(bases)

    def at(self, key: str) -> list[int]:
        """Columns of a point."""
        i = 3 * self.number[key]
        return [i, i + 1, i + 2]

    def rows(self) -> list[Observed]:
        """Every reading that is used and whose datum is tied in, then what is given."""
        rows = [
            row
            for reading in self.survey.readings
            if reading.used and (not reading.datum or reading.datum in self.bases)
            for row in self.rows_of(reading)
        ]
        for point in self.survey.points:
            if point.given is not None:
                sigma = max(point.given_plus_minus_mm, LEAST) / COVER
                rows += [
                    Observed(
                        f"given {point.id}", point.given[k], sigma, linear((self.at(point.id)[k],), (1.0,))
                    )
                    for k in range(3)
                ]
        if self.width >= 0 and self.survey.width_mm is not None:
            rows.append(
                Observed(
                    "width",
                    self.survey.width_mm,
                    max(self.survey.width_plus_minus_mm, LEAST) / COVER,
                    linear((self.width,), (1.0,)),
                )
            )
        return rows

    def rows_of(self, r: Reading) -> list[Observed]:
        """One row for each reading, two for a plumb one (either way across the upright)."""
        at, sigma = self.at(r.point), max(r.give_or_take, LEAST) / COVER
        if r.kind == "plumb":
            both = [*at, *self.at(r.other)]
            first = crosses(self.up, [0.0, 1.0, 0.0])
            first /= np.linalg.norm(first)
            return [
                Observed(r.id, 0.0, sigma, linear(both, [*e, *-e])) for e in (first, crosses(self.up, first))
            ]
        return [Observed(r.id, r.value_mm, sigma, self._model(r, at))]

    def _model(self, r: Reading, at: list[int]) -> Callable[[Array], tuple[float, Any, Any]]:
        if r.datum:
            return _from_datum(at, self.datum[r.datum], AXES[r.kind], self.bases[r.datum])
        if r.kind == "up" and r.method == "level":
            return linear(at, self.up)
        if r.kind in AXES:
            return linear((at[AXES[r.kind]],), (1.0,))
        if r.kind.startswith("from-"):
            return linear((self.width, at[1]), (0.5, -1.0 if r.kind == "from-left-wall" else 1.0))
        other = self.at(r.other)
        if r.kind == "rise":
            return linear([*at, *other], [*self.up, *-self.up])
        return Apart(at, other)


def _from_datum(
    at: list[int], first: int, axis: int, base: Pose
) -> Callable[[Array], tuple[float, Any, Any]]:
    shift, turn = slice(first, first + 3), slice(first + 3, first + 6)
    columns = [*at, *range(first, first + 6)]
    along = np.eye(3)[axis]

    def model(x: Array) -> tuple[float, Any, Any]:
        """Offset along an axis of the temporary datum, which stands at ``base`` less a small shift and
        turn (in its own axes)."""
        angle = float(np.linalg.norm(x[turn]))
        rotation = base.rotation @ (rotation_about(x[turn], angle) if angle > 1e-12 else np.eye(3))
        d = x[at] - base.translation - x[shift]
        e = rotation[:, axis]
        return float(e @ d), columns, np.concatenate([e, -e, crosses(rotation.T @ d, along) * -1.0])

    return model
