"""The datum fitted to measured points: the plane of the rail tops, the centre line between left and right,
the front reference."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array, Pose, crosses, unit
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.job.survey import DatumFit


def centre_from_walls(width: float, from_left: float) -> float:
    """Place left of the centre line (mm) of something measured from the left wall."""
    return width / 2 - from_left


CENTRE = calculation(
    "centre-from-walls",
    "Left or right of the centre line, from the left wall",
    inputs=(
        Q("width", "mm", "wall to wall, or rail to rail", above=0),
        Q("from_left", "mm", "from the left wall", low=0),
    ),
    outputs=(Q("left", "mm", "left of the centre line; below nought to the right"),),
    formula="y = width / 2 - reading",
    source="definition",
    leaves_out="walls that are not parallel: take the width where the reading is taken",
)(centre_from_walls)


def fitted_frame(fit: DatumFit, at: Mapping[str, Array]) -> tuple[Pose, tuple[tuple[str, float], ...]]:
    """The datum's pose in the frame of ``at`` (point id -> (3,) mm), and what is left at each point, mm,
    worst first.

    z: normal of the plane through the tops; x: along the middles of the pairs; origin: on the centre line,
    in the plane, at the mean of the front points. Raises ShapeError where the points do not give a datum.
    """
    tops = np.array([at[k] for k in fit.tops])
    middles = np.array([(at[a] + at[b]) / 2 for a, b in fit.pairs])
    front = np.array([at[k] for k in fit.front])
    _, spread, axes = np.linalg.svd(tops - tops.mean(0))
    if spread[1] < 20.0:
        raise ShapeError(
            "The datum cannot be fitted: its rail-top points lie on one line, so the car could still lean"
            " about it"
        )
    z = axes[2] * (1.0 if axes[2][2] >= 0 else -1.0)
    flat = middles - np.outer((middles - tops.mean(0)) @ z, z)
    _, length, ways = np.linalg.svd(flat - flat.mean(0))
    if length[0] < 20.0:
        raise ShapeError(
            "The datum cannot be fitted: its left and right pairs are all at one place along the car"
        )
    x = unit(ways[0] - (ways[0] @ z) * z)
    x = x * (1.0 if x[0] >= 0 else -1.0)
    y = crosses(z, x)
    centre = flat.mean(0)
    origin = centre + ((front.mean(0) - centre) @ x) * x
    frame = Pose(np.column_stack([x, y, z]), origin)
    left = [(key, float((at[key] - tops.mean(0)) @ z)) for key in fit.tops]
    left += [(f"{a} and {b}", float((m - origin) @ y)) for (a, b), m in zip(fit.pairs, middles, strict=True)]
    left += [(key, float((at[key] - origin) @ x)) for key in fit.front] if len(fit.front) > 1 else []
    return frame, tuple(sorted(left, key=lambda row: -abs(row[1])))
