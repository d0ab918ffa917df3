"""What is wished of a place, and the windows that it must stay in: measures of a pose, a row each."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose


class AimRow(NamedTuple):
    """One measure of a pose. Its cost is linear x value + absolute x |value - target|; it must stay within
    low..high. scale: mm that one unit of it counts as beside a gap."""

    name: str
    linear: float = 0.0
    absolute: float = 0.0
    target: float = 0.0
    low: float = -math.inf
    high: float = math.inf
    scale: float = 1.0


@dataclass(frozen=True, eq=False)
class Aims:
    """All that is wished of a pose: m rows of AimRow as columns (m,). measure: pose -> values (m,), each in
    the unit of its row."""

    measure: Callable[[Pose], Array]
    names: tuple[str, ...]
    linear: Array
    absolute: Array
    target: Array
    low: Array
    high: Array
    scale: Array

    def cost(self, values: Array) -> float:
        """Cost of values (m,), mm of wish; lower is better."""
        return float(self.linear @ values + self.absolute @ np.abs(values - self.target))

    def shorts(self, values: Array) -> Array:
        """(2 m,) how far each value is under its low and over its high, mm; below nought: to spare; -inf
        where there is no bound."""
        return np.concatenate([(self.low - values) * self.scale, (values - self.high) * self.scale])


def aims_of(rows: Sequence[AimRow], measure: Callable[[Pose], Array]) -> Aims:
    """The aims of some rows. measure: pose -> values (len(rows),), in the order of the rows."""
    columns = list(zip(*rows, strict=True))
    return Aims(measure, tuple(columns[0]), *(np.array(column, dtype=float) for column in columns[1:]))
