"""The linear problem at a pose: every near gap and every window made linear, inside a box of trust.

Unknowns x: the step (6,), then one shortfall (or one for each pair of a body and a thing, where
``SeatProblem.things`` asks for all of them), then one distance from its target for each aim that has one.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.motion.aims import Aims
from nimble_cradle.motion.seat_problem import PENALTY, Look, SeatProblem, pair_numbers
from nimble_cradle.motion.simplex import least_from

SHORTFALL = 6
"""Number of the first shortfall among the unknowns."""


@dataclass(frozen=True, eq=False)
class Solution:
    """Solution x (n,), its cost, and the multiplier (rows,) >= 0 of each row: how much the cost falls for
    each unit that the row is given."""

    x: Array
    cost: float
    multipliers: Array

    @property
    def step(self) -> Array:
        """(6,) move mm and turn x LEVER mm."""
        return self.x[:6]


@dataclass(frozen=True, eq=False)
class LinearProgram:
    """Least cost . x with matrix (rows, n) @ x <= limits (rows,) and bounds (n, 2). gap_rows: which gaps
    of the look come first among the rows: those that can matter within the box. Then come the lows and the
    highs of the aims that have them. distances_from: number of the first unknown that is a distance from a
    target."""

    cost: Array
    matrix: Array
    limits: Array
    bounds: Array
    gap_rows: np.ndarray
    distances_from: int

    def solve(self) -> Solution | None:
        """Its solution; None where it has none."""
        found = self.from_corner()
        return found if found is not None else self.by_library()

    def from_corner(self) -> Solution | None:
        """From the corner of the box that costs least, with the one shortfall and the distances that it
        takes; None where there are more shortfalls, or where that comes to no end."""
        n, rows = len(self.cost), len(self.limits)
        if self.distances_from != SHORTFALL + 1 or not rows:
            return None
        low, high = self.bounds[:, 0], self.bounds[:, 1]
        upper = np.nonzero(np.isfinite(high))[0]
        one = np.eye(n)
        matrix = np.vstack([self.matrix, -one, one[upper]])
        limits = np.concatenate([self.limits, -low, high[upper]])
        # the step that costs least by itself, then what that leaves short, row by row
        down = self.cost[:SHORTFALL] >= 0
        x = np.zeros(n)
        x[:SHORTFALL] = np.where(down, low[:SHORTFALL], high[:SHORTFALL])
        corner = np.empty(n, dtype=np.int64)
        corner[:SHORTFALL] = np.where(down, rows, rows + n) + np.arange(SHORTFALL)
        over = self.matrix @ x - self.limits
        for k in range(SHORTFALL, n):
            mine = np.nonzero(self.matrix[:, k] < 0)[0]
            worst = int(mine[over[mine].argmax()]) if len(mine) else -1
            corner[k] = worst if worst >= 0 and over[worst] > 0 else rows + k
        found = least_from(self.cost, matrix, limits, corner)
        if found is None:
            return None
        x, multipliers = found
        return Solution(x, float(self.cost @ x), multipliers[:rows])

    def by_library(self) -> Solution | None:
        """The same by SciPy's HiGHS; None where there is none."""
        from scipy.optimize import linprog

        found = linprog(  # type: ignore[call-overload]
            self.cost, A_ub=self.matrix, b_ub=self.limits, bounds=self.bounds, method="highs-ds"
        )
        if found.status != 0:
            return None
        return Solution(np.asarray(found.x), float(found.fun), -np.asarray(found.ineqlin.marginals))


def linear_program(
    problem: SeatProblem,
    look: Look,
    trust: float,
    tied: np.ndarray | None = None,
    centre: Array | None = None,
) -> LinearProgram:
    """The linear problem at a look.

    trust: half of the box, mm. centre: (6,) its middle (nought). tied: (6,) True where the step must stay
    at the middle.
    """
    middle = np.zeros(6) if centre is None else centre
    size = np.full(6, trust)
    if tied is not None:
        size[tied] = 0.0
    aims = problem.aims
    gap_rows = np.nonzero(look.short - look.matrix @ middle + np.abs(look.matrix) @ size > 0)[0]
    gaps = -look.matrix[gap_rows], -look.short[gap_rows]
    windows = _window_rows(aims, look)
    slots = _slots(problem, look, gap_rows, len(windows[1]))
    first_distance = SHORTFALL + 1 + int(slots.max(initial=0))
    targets = np.nonzero(aims.absolute > 0)[0]
    distances = _distance_rows(aims, look, targets)
    n, kept = first_distance + len(targets), len(slots)
    matrix = np.zeros((kept + len(distances[1]), n))
    matrix[:, :6] = np.vstack([gaps[0], windows[0], distances[0]])
    matrix[np.arange(kept), SHORTFALL + slots] = -1.0
    matrix[kept + np.arange(2 * len(targets)), first_distance + np.arange(len(targets)).repeat(2)] = -1.0
    limits = np.concatenate([gaps[1], windows[1], distances[1]])
    cost, bounds = _cost(aims, look, first_distance, targets), _bounds(n, middle, size)
    return LinearProgram(cost, matrix, limits, bounds, gap_rows, first_distance)


def _window_rows(aims: Aims, look: Look) -> tuple[Array, Array]:
    """Change (k, 6) with the step, and what may be used up of it (k,), of the lows and then the highs, mm."""
    lows, highs = np.nonzero(np.isfinite(aims.low))[0], np.nonzero(np.isfinite(aims.high))[0]
    change, spare = [np.zeros((0, 6))], [np.zeros(0)]
    for which, sign, bound in ((lows, -1.0, aims.low), (highs, 1.0, aims.high)):
        change.append(sign * aims.scale[which, None] * look.slopes[which])
        spare.append(sign * aims.scale[which] * (bound[which] - look.values[which]))
    return np.vstack(change), np.concatenate(spare)


def _slots(problem: SeatProblem, look: Look, gap_rows: np.ndarray, windows: int) -> np.ndarray:
    """(gap rows + windows,) which shortfall each takes from: all the one, or one for each pair."""
    slots = np.zeros(len(gap_rows) + windows, dtype=int)
    if problem.things is not None:
        of_gaps = np.unique(pair_numbers(problem, look.rows)[gap_rows], return_inverse=True)[1]
        slots[: len(gap_rows)] = of_gaps
        slots[len(gap_rows) :] = of_gaps.max(initial=-1) + 1 + np.arange(windows)
    return slots


def _distance_rows(aims: Aims, look: Look, targets: np.ndarray) -> tuple[Array, Array]:
    """Change (2 k, 6) and limit (2 k,) of value - target and of target - value, of each aim with a target."""
    sign = np.tile([1.0, -1.0], len(targets))
    which = targets.repeat(2)
    return sign[:, None] * look.slopes[which], sign * (aims.target[which] - look.values[which])


def _cost(aims: Aims, look: Look, first_distance: int, targets: np.ndarray) -> Array:
    """(n,) what the unknowns cost: the wish's slopes, PENALTY for what lacks, and the distances."""
    cost = np.zeros(first_distance + len(targets))
    cost[:6] = aims.linear @ look.slopes
    cost[6:first_distance] = PENALTY
    cost[first_distance:] = aims.absolute[targets]
    return cost


def _bounds(n: int, middle: Array, size: Array) -> Array:
    """(n, 2): the step in its box, all else from nought up."""
    bounds = np.full((n, 2), (0.0, np.inf))
    bounds[:6] = np.column_stack([middle - size, middle + size])
    return bounds
