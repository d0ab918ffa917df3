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
    """All that is wished of a pose: m rows of AimRow as columns (m,). measure: n poses -> values (n, m), each
    in the unit of its row. cuts: what was cut off, as the last rows; base: the aims without them."""

    measure: Callable[[Sequence[Pose]], Array]
    names: tuple[str, ...]
    linear: Array
    absolute: Array
    target: Array
    low: Array
    high: Array
    scale: Array
    cuts: tuple[Cut, ...] = ()
    base: Aims | None = None

    def cut_at(self, row: int) -> Cut | None:
        """What was cut off by a row; None for any other row."""
        first = len(self.names) - len(self.cuts)
        return self.cuts[row - first] if row >= first else None

    def cost(self, values: Array) -> float:
        """Cost of values (m,), mm of wish; lower is better."""
        return float(self.linear @ values + self.absolute @ np.abs(values - self.target))

    def shorts(self, values: Array) -> Array:
        """(2 m,) how far each value is under its low and over its high, mm; below nought: to spare; -inf
        where there is no bound."""
        return np.concatenate([(self.low - values) * self.scale, (values - self.high) * self.scale])


def aims_of(rows: Sequence[AimRow], measure: Callable[[Sequence[Pose]], Array]) -> Aims:
    """The aims of some rows. measure: n poses -> values (n, len(rows)), in the order of the rows."""
    columns = list(zip(*rows, strict=True))
    linear, absolute, target, low, high, scale = (np.array(c, dtype=float) for c in columns[1:])
    return Aims(measure, tuple(columns[0]), linear, absolute, target, low, high, scale)


@dataclass(frozen=True, eq=False)
class Cut:
    """A plane that cuts places off: at ``pose`` a measure is ``value`` mm, and it changes by ``slope`` (6,)
    with a step from there (move mm of a point, turn x lever mm); it must stay at ``low``. pair: ids of what
    is measured of."""

    name: str
    pose: Pose
    value: float
    slope: Array
    low: float
    pair: tuple[str, str] = ("", "")


def cut_off(aims: Aims, more: Sequence[Cut], about: Array, lever: float) -> Aims:
    """The aims with some places cut off; a cut takes the place of an older one of its name. about: (3,) the
    point, in the moving frame, whose moves are meant."""
    if not more:
        return aims
    cuts = tuple({cut.name: cut for cut in (*aims.cuts, *more)}.values())
    base = aims.base or aims

    def measure(poses: Sequence[Pose]) -> Array:
        after = [[_after(cut, pose, about, lever) for cut in cuts] for pose in poses]
        return np.hstack([base.measure(poses), after])

    own = aims_of([AimRow(cut.name, low=cut.low) for cut in cuts], measure)

    def both(name: str) -> Array:
        return np.concatenate([getattr(base, name), getattr(own, name)])

    return Aims(
        measure,
        base.names + own.names,
        both("linear"),
        both("absolute"),
        both("target"),
        both("low"),
        both("high"),
        both("scale"),
        cuts,
        base,
    )


def _after(cut: Cut, pose: Pose, about: Array, lever: float) -> float:
    turn = pose.rotation @ cut.pose.rotation.T
    twist = np.array([turn[2, 1] - turn[1, 2], turn[0, 2] - turn[2, 0], turn[1, 0] - turn[0, 1]]) / 2
    move = pose.points(about) - cut.pose.points(about)
    return cut.value + float(cut.slope[:3] @ move + cut.slope[3:] @ twist * lever)
