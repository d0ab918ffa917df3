"""Linear problems of a few unknowns and a few hundred rows, from a corner to the next: Dantzig's simplex
method on the dictionary of all slacks (Chvatal, Linear Programming, 1983, chapter 2; from memory).

A search for a seat solves some hundred of them, one after another. The library's solver takes six times
as long for one, nearly all of it to check and hand over what it is given; it is asked where this does not
come to an end.
"""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array

MOST_PIVOTS = 200
"""So many steps from corner to corner at most: those of the demos' seats take 3 to 32. One that goes round in
circles is left to the library."""
PIVOT = 1e-9
"""Slopes smaller than this stop nothing."""
GAINS = 1e-9
"""Prices above less this are nought."""
KEPT = 1e-7
"""Rows are kept to this, as the library keeps them."""


def least_from(cost: Array, matrix: Array, limits: Array, corner: np.ndarray) -> tuple[Array, Array] | None:
    """Least cost . x with matrix (m, n) @ x <= limits (m,), from the corner where the rows ``corner`` (n,)
    are just kept, and all are: x (n,) and the multiplier (m,) of each row, not below nought. None where that
    is no such corner, where cost falls without end, or where no end is found."""
    active = corner.copy()
    try:
        back = np.linalg.inv(matrix[active])
    except np.linalg.LinAlgError:
        return None
    slack = limits - matrix @ (back @ limits[active])
    change = matrix @ back  # of every slack with those of the active rows
    prices = -(cost @ back)
    if slack.min() < -KEPT:
        return None
    slack = np.maximum(slack, 0.0)
    slack[active] = 0.0
    for _ in range(MOST_PIVOTS):
        k = int(prices.argmin())
        if prices[k] > -GAINS:
            return _polished(cost, matrix, limits, active)
        along = change[:, k]
        falls = np.nonzero(along < -PIVOT)[0]
        if not len(falls):
            return None
        room = slack[falls] / -along[falls]
        least = room.min()
        ties = falls[room <= least + 1e-12]
        row = int(ties[along[ties].argmin()])
        slack += least * along
        slack[row] = 0.0
        pivot = change[row] / along[row]
        price = prices[k]
        change = change - along[:, None] * pivot
        prices = prices - price * pivot
        change[:, k], prices[k] = along / along[row], price / along[row]
        active[k] = row
    return None


def _polished(cost: Array, matrix: Array, limits: Array, active: np.ndarray) -> tuple[Array, Array] | None:
    """Corner and multipliers worked anew from the rows that are just kept; None where they do not hold."""
    try:
        x = np.linalg.solve(matrix[active], limits[active])
        each = -np.linalg.solve(matrix[active].T, cost)
    except np.linalg.LinAlgError:
        return None
    if (matrix @ x - limits).max() > KEPT or each.min() < -KEPT:
        return None
    multipliers = np.zeros(len(limits))
    multipliers[active] = np.maximum(each, 0.0)
    return x, multipliers
