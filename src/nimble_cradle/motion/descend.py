"""The best place near a start: sequential linear programming on exact distances.

At each round every near gap and every window is made linear about the present pose, the linear problem is
solved inside a box of trust (mm; turns as mm at ``LEVER``), and the step is taken if the true merit falls.
merit = cost + PENALTY x the worst shortfall.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np

from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.motion.contacts import Obstacles, Rows, rows_at

LEVER = 400.0
"""A turn of one radian counts as this many mm."""
PENALTY = 30.0
TRUST = 30.0
SMALLEST = 0.004
SMALL = 0.005
"""Step by which slopes of the aims are measured, mm: over the bend of an angle or a length it leaves out
some hundred-thousandths."""
GIVE_UP, FAR_FROM_IT = 14, 40.0
"""A descent that after so many rounds still lacks so much, mm, is given up."""
SHORT = 0.01
"""Gaps that lack less, mm, are kept: the distances themselves are no truer."""


@dataclass(frozen=True, eq=False)
class Aims:
    """What is wished of a pose. ``measure`` gives m values; cost = sum of linear x value + absolute x
    |value - target|; each value must stay within low..high, where ``scale`` turns a unit of it into mm.
    names: in words."""

    measure: Callable[[Pose], Array]
    names: tuple[str, ...]
    linear: Array
    absolute: Array
    target: Array
    low: Array
    high: Array
    scale: Array

    def cost(self, values: Array) -> float:
        """What the values cost, in wish mm."""
        return float(self.linear @ values + self.absolute @ np.abs(values - self.target))

    def shorts(self, values: Array) -> Array:
        """(2 m,) how far each value is under its low and over its high, mm; below nought: to spare; -inf
        where there is no bound."""
        return np.concatenate([(self.low - values) * self.scale, (values - self.high) * self.scale])


@dataclass(frozen=True, eq=False)
class SeatProblem:
    """A set of bodies to be placed. about: the point (3,) in the moving frame that turns leave still. sways:
    (k, 6) small movements (move mm at ``about``, turn rad; outer frame) that must leave every gap too, for
    the bodies where ``swaying`` (count,) is true.

    things: None, or the number (columns,) of the thing that each standing body belongs to: then not the
    worst shortfall counts as the lack but all of them together, of each moving body with each thing and of
    each window. The least of that breaks few of them.
    """

    moving: Bodies
    about: Array
    obstacles: tuple[Obstacles, ...]
    aims: Aims
    sways: Array = field(default_factory=lambda: np.zeros((0, 6)))
    swaying: np.ndarray = field(default_factory=lambda: np.zeros(0, dtype=bool))
    things: np.ndarray | None = None

    @property
    def columns(self) -> int:
        """How many standing bodies there are in all."""
        return sum(o.bodies.count for o in self.obstacles)

    def need(self) -> Array:
        """(moving.count, columns) what each pair must keep, mm."""
        return np.hstack([o.need for o in self.obstacles])

    def with_need(self, need: Array) -> SeatProblem:
        """The same with other needs (moving.count, columns)."""
        at, groups = 0, []
        for o in self.obstacles:
            groups.append(Obstacles(o.bodies, need[:, at : at + o.bodies.count]))
            at += o.bodies.count
        return replace(self, obstacles=tuple(groups))


@dataclass(frozen=True, eq=False)
class Look:
    """The problem looked at from one pose. short: of each row, sway taken off, mm. values, slopes: (m,)
    and (m, 6) of the aims."""

    pose: Pose
    rows: Rows
    matrix: Array
    short: Array
    values: Array
    slopes: Array
    cost: float
    worst: float
    lack: float

    @property
    def merit(self) -> float:
        """What a step is judged by."""
        return self.cost + PENALTY * self.lack


@dataclass(frozen=True, eq=False)
class Found:
    """Where a descent ended. stand: there. ok: everything is kept to SHORT mm."""

    stand: Look
    rounds: int

    @property
    def ok(self) -> bool:
        """Whether everything is kept."""
        return self.stand.worst <= SHORT


def moved_by(problem: SeatProblem, pose: Pose, step: Array) -> Pose:
    """The pose after a step (6,): move mm, turn x LEVER mm, about the problem's own point."""
    return pose.moved(step[:3], step[3:] / LEVER, pose.points(problem.about))


def sway_loss(problem: SeatProblem, rows: Rows, matrix: Array) -> Array:
    """(k,) the most that each row's gap loses by the sways, mm (never a gain)."""
    if not len(problem.sways) or not len(rows.a):
        return np.zeros(len(rows.a))
    q = problem.sways.copy()
    q[:, 3:] *= LEVER
    loss = np.maximum(-(matrix @ q.T).min(1), 0.0)
    return np.where(problem.swaying[rows.a], loss, 0.0)


def most_sway(problem: SeatProblem, pose: Pose) -> Array:
    """(moving.count,) no part of a body moves more than this by sway, mm, the set standing at ``pose``: so
    that such pairs are looked at."""
    most = np.zeros(problem.moving.count)
    if len(problem.sways):
        centres, halves = problem.moving.boxes(pose)
        arm = centres - pose.points(problem.about)
        move, turn = problem.sways[:, None, :3], problem.sways[:, None, 3:]
        by = np.linalg.norm(move + np.cross(turn, arm[None]), axis=2) + np.linalg.norm(
            turn, axis=2
        ) * np.linalg.norm(halves, axis=1)
        np.maximum.at(most, problem.moving.owner, by.max(0))
        most[~problem.swaying] = 0.0
    return most


def stand_at(problem: SeatProblem, pose: Pose, beyond: float) -> Look:
    """Look at the problem from a pose; gaps within ``beyond`` mm of their need are seen."""
    rows = rows_at(problem.moving, pose, problem.obstacles, beyond, most_sway(problem, pose))
    values = problem.aims.measure(pose)
    slopes = np.empty((len(values), 6))
    for k in range(6):
        step = np.zeros(6)
        step[k] = SMALL
        slopes[:, k] = (problem.aims.measure(moved_by(problem, pose, step)) - values) / SMALL
    return _stand(problem, pose, rows, rows.matrix(pose.points(problem.about), LEVER), values, slopes)


def with_needs_of(stand: Look, problem: SeatProblem) -> Look:
    """The same look at a problem that differs in its needs and sways only (rows that it would see besides
    are not looked for)."""
    need = problem.need()[stand.rows.a, stand.rows.b]
    return _stand(
        problem, stand.pose, replace(stand.rows, need=need), stand.matrix, stand.values, stand.slopes
    )


def _stand(problem: SeatProblem, pose: Pose, rows: Rows, matrix: Array, values: Array, slopes: Array) -> Look:
    short = rows.short + sway_loss(problem, rows, matrix)
    windows = problem.aims.shorts(values)
    worst = max(0.0, float(short.max(initial=0.0)), float(windows.max(initial=0.0)))
    return Look(
        pose,
        rows,
        matrix,
        short,
        values,
        slopes,
        problem.aims.cost(values),
        worst,
        _lack(problem, rows, short, windows),
    )


def _pairs(problem: SeatProblem, rows: Rows) -> np.ndarray:
    """(k,) a number for each row, the same for rows of the same moving body and thing."""
    assert problem.things is not None
    return np.asarray(rows.a * (int(problem.things.max(initial=0)) + 1) + problem.things[rows.b])


def _lack(problem: SeatProblem, rows: Rows, short: Array, windows: Array) -> float:
    """What counts as lacking, mm: the worst, or all together."""
    if problem.things is None:
        return max(0.0, float(short.max(initial=0.0)), float(windows.max(initial=0.0)))
    together = float(np.maximum(windows, 0.0).sum())
    if len(short):
        _, number = np.unique(_pairs(problem, rows), return_inverse=True)
        most = np.zeros(number.max() + 1)
        np.maximum.at(most, number, short)
        together += float(most.sum())
    return together


def linear_program(
    problem: SeatProblem,
    stand: Look,
    trust: float,
    tied: np.ndarray | None = None,
    centre: Array | None = None,
) -> tuple[Array, Array, Array, Array, np.ndarray]:
    """The linear problem at a stand as cost (n,), A (r, n), b (r,), bounds (n, 2) for A x <= b; x = step (6),
    shortfall (or all of them), the absolutes; and which gap rows (k,) come first in it: those that can matter
    within the box. Then come lows and highs of the aims that have them.

    centre: (6,) middle of the box of trust (nought). tied: (6,) True where the step must stay at the middle.
    """
    aims = problem.aims
    has = np.nonzero(aims.absolute > 0)[0]
    middle = np.zeros(6) if centre is None else centre
    size = np.full(6, trust)
    if tied is not None:
        size[tied] = 0.0
    lows, highs = np.nonzero(np.isfinite(aims.low))[0], np.nonzero(np.isfinite(aims.high))[0]
    used = np.nonzero(stand.short - stand.matrix @ middle + np.abs(stand.matrix) @ size > 0)[0]
    k = len(used)
    slot = np.zeros(k + len(lows) + len(highs), dtype=int)
    if problem.things is not None:
        slot[:k] = np.unique(_pairs(problem, stand.rows)[used], return_inverse=True)[1]
        slot[k:] = slot[:k].max(initial=-1) + 1 + np.arange(len(slot) - k)
    first = 7 + int(slot.max(initial=0))
    n = first + len(has)
    cost = np.zeros(n)
    cost[:6] = aims.linear @ stand.slopes
    cost[6:first] = PENALTY
    cost[first:] = aims.absolute[has]
    a = np.zeros((k + len(lows) + len(highs) + 2 * len(has), n))
    b = np.zeros(len(a))
    a[:k, :6], b[:k] = -stand.matrix[used], -stand.short[used]
    at = k
    for which, sign, bound in ((lows, -1.0, aims.low), (highs, 1.0, aims.high)):
        rows = slice(at, at + len(which))
        a[rows, :6] = sign * aims.scale[which, None] * stand.slopes[which]
        b[rows] = sign * aims.scale[which] * (bound[which] - stand.values[which])
        at += len(which)
    a[np.arange(at), 6 + slot] = -1.0
    for q, m in enumerate(has):
        for sign in (1.0, -1.0):
            a[at, :6] = sign * stand.slopes[m]
            a[at, first + q] = -1.0
            b[at] = sign * (aims.target[m] - stand.values[m])
            at += 1
    bounds = np.full((n, 2), (0.0, np.inf))
    bounds[:6] = np.column_stack([middle - size, middle + size])
    return cost, a, b, bounds, used


def solve_linear(cost: Array, a: Array, b: Array, bounds: Array) -> tuple[Array, float, Array] | None:
    """Solution (n,), its cost, and the multiplier (r,) >= 0 of each row: how much the cost falls for each
    unit that the row is given. None where it cannot be solved."""
    from scipy.optimize import linprog

    found = linprog(cost, A_ub=a, b_ub=b, bounds=bounds, method="highs-ds")  # type: ignore[call-overload]
    if found.status != 0:
        return None
    return np.asarray(found.x), float(found.fun), -np.asarray(found.ineqlin.marginals)


def descend(
    problem: SeatProblem,
    start: Pose | Look,
    rounds: int = 60,
    told: Callable[[int, Look], None] | None = None,
    tied: np.ndarray | None = None,
    hopeless: float = np.inf,
    trust: float = TRUST,
) -> Found:
    """Step from ``start`` until nothing near is better. told(round, stand) may raise to stop it. A start that
    was looked at already is not looked at again.

    tied: (6,) moves and turns that are not allowed. hopeless: a cost; a descent that crawls far above it
    is given up.
    """
    seen = 2.0
    here = start if isinstance(start, Look) else stand_at(problem, start, seen * trust)
    done = crawl = 0
    while done < rounds and trust > SMALLEST:
        done += 1
        if told is not None:
            told(done, here)
        if problem.things is None and done > GIVE_UP and here.worst > FAR_FROM_IT:
            break
        step = _step(problem, here, trust, tied)
        if step is None:
            trust *= 0.35
            continue
        gain = here.merit - _foreseen(problem, here, step)
        if gain < 2e-4:
            break
        there = stand_at(problem, moved_by(problem, here.pose, step), seen * trust)
        if here.merit - there.merit < 0.6 * gain:
            there = _corrected(problem, here, there, step, trust, tied, seen)
        true_gain = here.merit - there.merit
        if true_gain > 0.05 * gain:
            size = float(np.abs(step).max())
            here = there
            crawl = crawl + 1 if true_gain < 0.5 else 0
            if here.cost > hopeless + 3 and crawl >= 2:
                break
            if true_gain > 0.6 * gain and size > 0.9 * trust:
                trust = min(2 * trust, 60.0)
            elif true_gain < 0.25 * gain:
                trust *= 0.5
        else:
            trust = 0.35 * min(trust, float(np.abs(step).max()))
    return Found(here, done)


def _step(
    problem: SeatProblem, stand: Look, trust: float, tied: np.ndarray | None, centre: Array | None = None
) -> Array | None:
    """The best step (6,) of the linear problem."""
    solved = solve_linear(*linear_program(problem, stand, trust, tied, centre)[:4])
    return None if solved is None else solved[0][:6]


def _foreseen(problem: SeatProblem, stand: Look, step: Array) -> float:
    """The merit after a step if everything were linear."""
    values = stand.values + stand.slopes @ step
    lack = _lack(problem, stand.rows, stand.short - stand.matrix @ step, problem.aims.shorts(values))
    return float(problem.aims.cost(values) + PENALTY * lack)


def _corrected(
    problem: SeatProblem,
    here: Look,
    there: Look,
    step: Array,
    trust: float,
    tied: np.ndarray | None,
    seen: float,
) -> Look:
    """A trial that fell short, mended by one more linear problem about where it came to, still inside the
    first one's box (so that the step follows a bent contact instead of its tangent); the better of the
    two."""
    free = np.ones(6, dtype=bool) if tied is None else ~tied
    more = _step(problem, there, trust, tied, np.where(free, -step, 0.0))
    if more is None:
        return there
    mended = stand_at(problem, moved_by(problem, there.pose, more), seen * trust)
    return mended if mended.merit < there.merit else there


class AimRow(NamedTuple):
    """One measure of a pose: what is minimised of it (linear . value + absolute . distance from target), the
    window that it must stay in, and the scale, unit a mm, that makes it comparable with a gap."""

    name: str
    linear: float = 0.0
    absolute: float = 0.0
    target: float = 0.0
    low: float = -math.inf
    high: float = math.inf
    scale: float = 1.0


def aims_of(rows: Sequence[AimRow], measure: Callable[[Pose], Array]) -> Aims:
    """Aims from rows, of which ``measure`` gives the values of a pose."""
    columns = list(zip(*rows, strict=True))
    return Aims(measure, tuple(columns[0]), *(np.array(c, dtype=float) for c in columns[1:]))
