"""Weighted least squares of readings that are more than are needed: values, doubt, what is not pinned down,
which reading is wrong.

Gauss-Newton with damping on the normal equations; the doubt is the inverse of the weighted normal matrix
with the a-priori weights; readings are judged by data snooping: w = v / sigma_v, and a reading is out of
line where |w| > 3.29 (0.1 %).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from nimble_cradle.geometry.pose import Array

COVER = 2.0
"""A plus-or-minus is this many standard deviations."""
CRITICAL = 3.29
"""Normalised residual beyond which a reading is out of line: 0.1 % of good readings (Baarda, A testing
procedure for use in geodetic networks, 1968; from memory)."""
RIVAL = 6.6
"""Readings whose removal would mend nearly as much (difference of chi-square) cannot be told from the
worst one (1 % point, one degree)."""
UNCHECKED = 0.01
"""A reading of which the others check less than this share could be anything without being noticed."""
State = Literal["agrees", "out of line", "doubtful", "unchecked", "not used"]
FREE_SIGMA = 250.0
"""A direction less certain than this (mm, one sigma) counts as not pinned down."""


@dataclass(frozen=True)
class Row:
    """One reading: what was measured, its sigma, and ``model``: unknowns (n,) -> (value, indices,
    derivatives)."""

    id: str
    measured: float
    sigma: float
    model: Callable[[Array], tuple[float, Any, Any]]


def linear(columns: Sequence[int], weights: Any) -> Callable[[Array], tuple[float, Any, Any]]:
    """The model of a reading that is a weighted sum of some unknowns."""
    at, w = list(columns), np.asarray(weights, dtype=float)
    return lambda x: (float(w @ x[at]), at, w)


@dataclass(frozen=True, eq=False)
class Adjustment:
    """The unknowns x (n,), their covariance (n, n) in sigma squared, unpinned directions free (n, k); and
    by reading: residual (measured less computed), redundancy 0..1, normalised residual w, and the
    chi-square with its degrees of freedom.
    """

    x: Array
    covariance: Array
    free: Array
    jacobian: Array
    residuals: Array
    redundancy: Array
    w: Array
    chi2: float
    dof: int

    @property
    def worst(self) -> int | None:
        """Number of the reading with the largest |w| beyond the critical value; None where all agree."""
        if not len(self.w):
            return None
        k = int(np.abs(self.w).argmax())
        return k if abs(self.w[k]) > CRITICAL else None

    def rivals(self, k: int) -> tuple[int, ...]:
        """Readings that cannot be told from reading k as the wrong one."""
        return tuple(int(j) for j in np.nonzero(self.w[k] ** 2 - self.w**2 < RIVAL)[0] if j != k)


def alone(rows: Sequence[Row], x: Array, columns: Sequence[int]) -> list[Row]:
    """The rows with only these unknowns left (in this order), all others held as they are in x."""
    place = {c: k for k, c in enumerate(columns)}

    def held(row: Row) -> Row:
        def model(few: Array) -> tuple[float, Any, Any]:
            """The row's model with the others held."""
            full = x.copy()
            full[list(columns)] = few
            value, cols, ders = row.model(full)
            kept = [(place[c], d) for c, d in zip(cols, ders, strict=True) if c in place]
            return value, [c for c, _ in kept], [d for _, d in kept]

        return Row(row.id, row.measured, row.sigma, model)

    return [held(row) for row in rows]


def _normal(rows: Sequence[Row], x: Array) -> tuple[Array, Array]:
    """Jacobian (m, n) and residuals (m,), both divided by sigma."""
    jacobian, residuals = np.zeros((len(rows), len(x))), np.zeros(len(rows))
    for i, row in enumerate(rows):
        value, indices, derivatives = row.model(x)
        residuals[i] = (row.measured - value) / row.sigma
        for j, d in zip(indices, derivatives, strict=True):
            jacobian[i, j] += d / row.sigma
    return jacobian, residuals


LEAST_DAMPED = 1e-3


def adjust(rows: Sequence[Row], start: Array, rounds: int = 60) -> Adjustment:
    """Adjust from a first guess ``start`` (n,). Unpinned directions stay where the guess had them."""
    x = np.array(start, dtype=float)
    jacobian, residuals = _normal(rows, x)
    damping = 1e-3
    for _ in range(rounds):
        normal, gradient = jacobian.T @ jacobian, jacobian.T @ residuals
        # in nearly flat geometry a direction has next to no weight of its own and would leap: none is damped
        # by less than a share of the stiffest
        stiff = normal.diagonal()
        weight = np.maximum(stiff, LEAST_DAMPED * stiff.max(initial=0.0)) + 1e-9
        step = np.linalg.solve(normal + (damping + 1e-12) * np.diag(weight), gradient)
        tried_jacobian, tried = _normal(rows, x + step)
        if tried @ tried <= residuals @ residuals * (1 + 1e-12):
            x, jacobian, residuals = x + step, tried_jacobian, tried
            damping = max(damping / 10, 1e-12)
            if np.abs(step).max(initial=0.0) < 1e-7:
                break
        else:
            damping = min(damping * 8, 1e9)
            if damping >= 1e9:
                break
    return _judged(rows, x, jacobian, residuals)


def _judged(rows: Sequence[Row], x: Array, jacobian: Array, residuals: Array) -> Adjustment:
    values, vectors = np.linalg.eigh(jacobian.T @ jacobian)
    pinned = values > FREE_SIGMA**-2
    kept = vectors[:, pinned]
    covariance = (kept / values[pinned]) @ kept.T if pinned.any() else np.zeros((len(x), len(x)))
    share = ((jacobian @ covariance) * jacobian).sum(1)
    redundancy = np.clip(1 - share, 0.0, 1.0)
    checked = redundancy > 1e-6
    w = np.where(checked, residuals / np.sqrt(np.where(checked, redundancy, 1.0)), 0.0)
    sigma = np.array([r.sigma for r in rows])
    return Adjustment(
        x,
        covariance,
        vectors[:, ~pinned],
        jacobian * sigma[:, None] if len(rows) else jacobian,
        residuals * sigma,
        redundancy,
        w,
        float(residuals @ residuals),
        max(len(rows) - int(pinned.sum()), 0),
    )


def shrinks(covariance: Array, wanted: Array, row: Array, sigma: float) -> float:
    """By how much (sigma squared) a further reading with derivatives ``row`` (n,) would lessen the doubt
    of ``wanted`` . x."""
    reach = covariance @ row
    return float((wanted @ reach) ** 2 / (sigma**2 + row @ reach))


def suspects(
    rows: Sequence[Row], start: Array, most: int = 5, done: Adjustment | None = None
) -> tuple[Adjustment, list[tuple[int, tuple[int, ...]]]]:
    """Adjustment of all rows, and the readings out of line, worst first: (number, those it cannot be told
    from). A reading found alone is left out and the rest looked at again, so that one blunder does not
    blame its neighbours. done: the adjustment, where it is there already.
    """
    first = done if done is not None else adjust(rows, start)
    found: list[tuple[int, tuple[int, ...]]] = []
    left = list(range(len(rows)))
    present = first
    while len(found) < most and (k := present.worst) is not None:
        rivals = tuple(left[j] for j in present.rivals(k))
        found.append((left[k], rivals))
        if rivals:
            break
        del left[k]
        present = adjust([rows[i] for i in left], present.x)
    return first, found
