"""Holes from a straight-down photograph: four known points take the perspective out, the picked holes come
out in mm.

Direct linear transformation with normalised points: Hartley and Zisserman, Multiple View Geometry (2nd ed.
2004), 4.1 and 4.4.4 (from memory).
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ShapeError


@dataclass(frozen=True, eq=False)
class Flat:
    """matrix (3, 3) takes picture points (pixels, y down) to the plate (mm, y up); residuals (n,) mm at
    the known points."""

    matrix: Array
    residuals: Array

    def points(self, picked: ArrayLike) -> Array:
        """Picked points (n, 2) pixels as (n, 2) mm."""
        p = np.asarray(picked, dtype=float).reshape(-1, 2)
        q = np.column_stack([p, np.ones(len(p))]) @ self.matrix.T
        return np.asarray(q[:, :2] / q[:, 2:])

    def plus_minus(self, picked: ArrayLike, pixels: float) -> Array:
        """Plus-or-minus mm (n,) of picked points for picks good to ``pixels`` (two sigma): by the local
        scale of the picture."""
        p = np.asarray(picked, dtype=float).reshape(-1, 2)
        at = self.points(p)
        along = [np.linalg.norm(self.points(p + step) - at, axis=1) for step in ((1.0, 0.0), (0.0, 1.0))]
        return np.asarray(np.maximum(*along) * pixels)


def _area(a: Array, b: Array, c: Array) -> float:
    """Twice the area of a triangle, with its sign."""
    return float((b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1]))


def _normalised(p: Array) -> tuple[Array, Array]:
    centre = p.mean(0)
    scale = np.sqrt(2) / max(float(np.linalg.norm(p - centre, axis=1).mean()), 1e-12)
    t = np.array([[scale, 0, -scale * centre[0]], [0, scale, -scale * centre[1]], [0, 0, 1.0]])
    return np.column_stack([p, np.ones(len(p))]) @ t.T, t


def flatten(picked: ArrayLike, known: ArrayLike) -> Flat:
    """The transformation from four or more picked points (n, 2) pixels to known ones (n, 2) mm. Raises
    ShapeError where they do not give one: fewer than four, two in one place, or three on one line."""
    a, b = np.asarray(picked, dtype=float).reshape(-1, 2), np.asarray(known, dtype=float).reshape(-1, 2)
    if len(a) < 4 or len(a) != len(b):
        raise ShapeError(f"Four known points are needed, not {min(len(a), len(b))}.")
    for p, word in ((a, "picked"), (b, "known")):
        size = float(np.ptp(p, axis=0).max())
        if any(np.linalg.norm(u - v) < 0.01 * size for u, v in combinations(p, 2)):
            raise ShapeError(f"Two of the {word} points are the same place.")
        if len(p) == 4 and any(abs(_area(*three)) < 0.005 * size**2 for three in combinations(p, 3)):
            raise ShapeError(
                f"Three of the four {word} points lie on one line: take the corners of a square or a rule and"
                " its ends."
            )
    pa, ta = _normalised(a)
    pb, tb = _normalised(b)
    rows = []
    for (x, y, _), (u, v, _) in zip(pa, pb, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y, -u], [0, 0, 0, x, y, 1, -v * x, -v * y, -v]]
    h = np.linalg.svd(np.array(rows))[2][-1].reshape(3, 3)
    matrix = np.linalg.inv(tb) @ h @ ta
    made = Flat(matrix / matrix[2, 2], np.zeros(len(a)))
    flat = Flat(made.matrix, np.linalg.norm(made.points(a) - b, axis=1))
    side = np.column_stack([a, np.ones(len(a))]) @ flat.matrix[2]
    if side.min() * side.max() <= 0:
        raise ShapeError(
            "The four points were picked in another order than they are known: go round the same way."
        )
    return flat
