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
class Observed:
    """One reading: what was measured, its sigma, and ``model``: unknowns (n,) -> (value, indices,
    derivatives)."""

    id: str
    measured: float
    sigma: float
    model: Callable[[Array], tuple[float, Any, Any]]


HELD = -1
"""The column of a coordinate that is held at nought and so is no unknown."""


def _value(x: Array, column: int) -> float:
    return float(x[column]) if column != HELD else 0.0


@dataclass(frozen=True, eq=False)
class Sum:
    """The model of a reading that is a weighted sum of some unknowns and something known."""

    columns: list[int]
    weights: Array
    known: float = 0.0

    def __call__(self, x: Array) -> tuple[float, Any, Any]:
        kept = [
            (column, weight)
            for column, weight in zip(self.columns, self.weights, strict=True)
            if column != HELD
        ]
        value = sum(float(w) * float(x[c]) for c, w in kept) + self.known
        return value, [c for c, _ in kept], np.array([w for _, w in kept])


def linear(columns: Sequence[int], weights: Any) -> Sum:
    """The model of a reading that is a weighted sum of some unknowns."""
    return Sum(list(columns), np.asarray(weights, dtype=float))


@dataclass(frozen=True, eq=False)
class Apart:
    """The model of a distance between a point and another, or a place that is known; in a plane or in space
    (all of one problem alike)."""

    at: list[int]
    other: list[int]
    place: Array | None = None

    def __call__(self, x: Array) -> tuple[float, Any, Any]:
        to = [_value(x, c) for c in self.other] if self.place is None else self.place
        d = np.array([_value(x, c) for c in self.at]) - to
        size = float(np.sqrt(d @ d))
        e = d / size if size > 1e-9 else np.eye(len(d))[0]
        ends = [
            *zip(self.at, e, strict=True),
            *(zip(self.other, -e, strict=True) if self.place is None else ()),
        ]
        kept = [(c, float(w)) for c, w in ends if c != HELD]
        return size, [c for c, _ in kept], np.array([w for _, w in kept])


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


def alone(rows: Sequence[Observed], x: Array, columns: Sequence[int]) -> list[Observed]:
    """The rows with only these unknowns left (in this order), all others held as they are in x."""
    place = {column: k for k, column in enumerate(columns)}

    def held(row: Observed) -> Observed:
        was = row.model
        if isinstance(was, Sum):
            known = was.known + sum(
                float(weight) * _value(x, column)
                for column, weight in zip(was.columns, was.weights, strict=True)
                if column not in place
            )
            kept = [
                (place[column], weight)
                for column, weight in zip(was.columns, was.weights, strict=True)
                if column in place
            ]
            few = Sum([c for c, _ in kept], np.array([w for _, w in kept], dtype=float), known)
            return Observed(row.id, row.measured, row.sigma, few)
        if isinstance(was, Apart) and was.place is None:
            for one, two in ((was.at, was.other), (was.other, was.at)):
                if set(one) <= place.keys() and not set(two) & place.keys():
                    there = np.array([_value(x, c) for c in two])
                    return Observed(
                        row.id, row.measured, row.sigma, Apart([place[c] for c in one], [], there)
                    )

        def model(few: Array) -> tuple[float, Any, Any]:
            """The row's model with the others held."""
            full = x.copy()
            full[list(columns)] = few
            value, cols, ders = was(full)
            kept = [(place[c], d) for c, d in zip(cols, ders, strict=True) if c in place]
            return value, [c for c, _ in kept], [d for _, d in kept]

        return Observed(row.id, row.measured, row.sigma, model)

    return [held(row) for row in rows]


class _Together:
    """Rows evaluated together: sums by one matrix, distances side by side, all others one by one. n: how many
    unknowns."""

    def __init__(self, rows: Sequence[Observed], n: int) -> None:
        self.sigma = np.array([row.sigma for row in rows])
        self.measured = np.array([row.measured for row in rows])
        self.sums = np.zeros((len(rows), n + 1))  # the last column is for what is held, and is dropped
        self.known = np.zeros(len(rows))
        self.others: list[tuple[int, Observed]] = []
        between: list[tuple[int, list[int], list[int]]] = []
        from_: list[tuple[int, list[int], Array]] = []
        for i, row in enumerate(rows):
            model = row.model
            if isinstance(model, Sum):
                np.add.at(self.sums[i], model.columns, model.weights)
                self.known[i] = model.known
            elif isinstance(model, Apart):
                if model.place is None:
                    between.append((i, model.at, model.other))
                else:
                    from_.append((i, model.at, model.place))
            else:
                self.others.append((i, row))
        wide = len((between or from_)[0][1]) if between or from_ else 3
        self.row = np.array([r[0] for r in (*between, *from_)], dtype=int)
        self.at = np.array([r[1] for r in (*between, *from_)], dtype=int).reshape(-1, wide)
        self.other = np.array([r[2] for r in between], dtype=int).reshape(-1, wide)
        self.place = np.array([r[2] for r in from_], dtype=float).reshape(-1, wide)
        self.first = np.eye(wide)[0]

    def side_by_side(self, x: Array) -> tuple[Array, Array]:
        """Jacobians (k, m, n) and residuals (k, m) of several x (k, n), both divided by sigma; sums and
        distances only."""
        x = np.column_stack([x, np.zeros(len(x))])
        jacobian = np.broadcast_to(self.sums, (len(x), *self.sums.shape)).copy()
        values = x @ self.sums.T + self.known
        if len(self.row):
            to = np.concatenate(
                [x[:, self.other], np.broadcast_to(self.place, (len(x), *self.place.shape))], axis=1
            )
            d = x[:, self.at] - to
            size = np.sqrt((d * d).sum(2))
            values[:, self.row] = size
            e = np.where(size[..., None] > 1e-9, d / np.maximum(size, 1e-9)[..., None], self.first)
            jacobian[:, self.row[:, None], self.at] = e
            k = len(self.other)
            jacobian[:, self.row[:k, None], self.other] = -e[:, :k]
        jacobian = jacobian[:, :, :-1]
        return jacobian / self.sigma[:, None], (self.measured - values) / self.sigma

    def normal(self, x: Array) -> tuple[Array, Array]:
        """Jacobian (m, n) and residuals (m,), both divided by sigma."""
        (jacobian,), (residuals,) = self.side_by_side(x[None])
        for i, row in self.others:
            value, indices, derivatives = row.model(x)
            residuals[i] = (row.measured - value) / row.sigma
            for j, der in zip(indices, derivatives, strict=True):
                jacobian[i, j] += der / row.sigma
        return jacobian, residuals


LEAST_DAMPED = 1e-3
"""Every unknown is damped as if at least this share of the stiffest: what is free does not run away."""


def adjust(rows: Sequence[Observed], start: Array, rounds: int = 60) -> Adjustment:
    """Adjust from a first guess ``start`` (n,). Unpinned directions stay where the guess had them."""
    x = np.array(start, dtype=float)
    together = _Together(rows, len(x))
    jacobian, residuals = together.normal(x)
    damping = 1e-3
    for _ in range(rounds):
        normal, gradient = jacobian.T @ jacobian, jacobian.T @ residuals
        # in nearly flat geometry a direction has next to no weight of its own and would leap: none is damped
        # by less than a share of the stiffest
        stiff = normal.diagonal()
        weight = np.maximum(stiff, LEAST_DAMPED * stiff.max(initial=0.0)) + 1e-9
        step = np.linalg.solve(normal + (damping + 1e-12) * np.diag(weight), gradient)
        tried_jacobian, tried = together.normal(x + step)
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


def from_each(rows: Sequence[Observed], starts: Array, rounds: int) -> tuple[Array, Array]:
    """Where Gauss-Newton comes to from several starts (k, n), as ``adjust`` does, all side by side: the
    unknowns (k, n) and the chi-square (k,) of each."""
    together = _Together(rows, starts.shape[1])
    if together.others:
        each = [adjust(rows, s, rounds) for s in starts]
        return np.array([a.x for a in each]), np.array([a.chi2 for a in each])
    x = np.array(starts, dtype=float)
    jacobian, residuals = together.side_by_side(x)
    chi2 = (residuals**2).sum(1)
    damping, going = np.full(len(x), 1e-3), np.ones(len(x), dtype=bool)
    one = np.eye(x.shape[1])
    for _ in range(rounds):
        normal = np.einsum("kmi,kmj->kij", jacobian, jacobian)
        gradient = np.einsum("kmi,km->ki", jacobian, residuals)
        stiff = np.einsum("kii->ki", normal)
        weight = np.maximum(stiff, LEAST_DAMPED * stiff.max(1, keepdims=True)) + 1e-9
        damped = normal + ((damping[:, None] + 1e-12) * weight)[:, :, None] * one
        step = np.linalg.solve(damped, gradient[:, :, None])[:, :, 0]
        tried_jacobian, tried = together.side_by_side(x + step)
        tried_chi2 = (tried**2).sum(1)
        better = going & (tried_chi2 <= chi2 * (1 + 1e-12))
        x[better] += step[better]
        jacobian[better], residuals[better], chi2[better] = (
            tried_jacobian[better],
            tried[better],
            tried_chi2[better],
        )
        going &= ~(better & (np.abs(step).max(1) < 1e-7))
        damping = np.where(better, np.maximum(damping / 10, 1e-12), np.minimum(damping * 8, 1e9))
        going &= better | (damping < 1e9)
        if not going.any():
            break
    return x, chi2


def _judged(rows: Sequence[Observed], x: Array, jacobian: Array, residuals: Array) -> Adjustment:
    values, vectors = np.linalg.eigh(jacobian.T @ jacobian)
    pinned = values > FREE_SIGMA**-2
    kept = vectors[:, pinned]
    covariance = (kept / values[pinned]) @ kept.T if pinned.any() else np.zeros((len(x), len(x)))
    share = ((jacobian @ covariance) * jacobian).sum(1)
    redundancy = np.clip(1 - share, 0.0, 1.0)
    checked = redundancy > 1e-6
    w = np.where(checked, residuals / np.sqrt(np.where(checked, redundancy, 1.0)), 0.0)
    sigma = np.array([row.sigma for row in rows])
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
