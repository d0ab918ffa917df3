"""Push a rigid set one way until something stops it; or let it slide along what it touches."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.motion.aims import AimRow, aims_of
from nimble_cradle.motion.contacts import rows_at
from nimble_cradle.motion.descend import descend
from nimble_cradle.motion.linear_program import linear_program
from nimble_cradle.motion.seat_problem import LEVER, SeatProblem, most_sway, moved_by, sway_loss

STEP = 8.0
"""Longest step of a push, mm, before it is checked again: gaps stay nearly linear so far."""
STRAIGHT = 0.05
"""What a millimetre aside costs of one along, so that a push goes no further aside than it must."""
KEPT = 0.02
"""Gaps are kept to this, mm."""


@dataclass(frozen=True, eq=False)
class Pushed:
    """Where a push ended. travelled: mm (turns: mm at LEVER); stopped: (moving body, standing body) pairs
    that stop it, the first first; empty where the limit did."""

    pose: Pose
    travelled: float
    stopped: tuple[tuple[int, int], ...]


def held(problem: SeatProblem, pose: Pose) -> SeatProblem:
    """The problem in which a gap that lacks at ``pose`` needs no more than it has there: a push may leave a
    foul but never deepen it."""
    short = _shorts(problem, pose)[0]
    need = problem.need()
    for (a, b), lack in short.items():
        if lack > 0:
            need[a, b] -= lack
    return problem.with_need(need)


class _Near(NamedTuple):
    """What is near along a push. lacks: by pair the mm that its worst row lacks; losing: by pair the mm that
    it loses for each mm of the way; reach: how far the push may go by the linear view, mm."""

    lacks: dict[tuple[int, int], float]
    losing: dict[tuple[int, int], float]
    reach: float


def _shorts(problem: SeatProblem, pose: Pose, beyond: float = 1.0, way: Array | None = None) -> _Near:
    """The pairs within ``beyond`` mm of what they need, pushed along ``way`` (6,)."""
    rows = rows_at(problem.moving, pose, problem.obstacles, beyond, most_sway(problem, pose))
    matrix = rows.matrix(pose.points(problem.about), LEVER)
    short = rows.short + sway_loss(problem, rows, matrix)
    lacks: dict[tuple[int, int], float] = {}
    losing: dict[tuple[int, int], float] = {}
    reach = np.inf
    rates = np.zeros(len(short)) if way is None else -(matrix @ way)
    for a, b, lack, rate in zip(
        rows.a.tolist(), rows.b.tolist(), short.tolist(), rates.tolist(), strict=True
    ):
        lacks[a, b] = max(lacks.get((a, b), -np.inf), lack)
        if rate > 1e-6:
            if lack > -1.0:
                losing[a, b] = max(losing.get((a, b), 0.0), rate)
            reach = min(reach, max(KEPT - lack, 0.0) / rate)
    return _Near(lacks, losing, reach)


def push(
    problem: SeatProblem, pose: Pose, way: Array, most: float, told: Callable[[], None] | None = None
) -> Pushed:
    """Push along ``way`` (6,): a direction to move in, or an axis to turn about the problem's point, of
    size 1; at most ``most`` mm (turns: mm at LEVER). It stops where a gap would fall under what it needs
    by more than KEPT mm. told() may raise to stop it.
    """
    problem = held(problem, pose)
    here, gone, stopped = pose, 0.0, {}
    while gone < most - 1e-9:
        if told is not None:
            told()
        _, losing, reach = _shorts(problem, here, 4 * STEP, way)
        step = min(STEP, most - gone, reach)
        if step < 1e-3:
            stopped = losing
            break
        while True:
            there = moved_by(problem, here, way * step)
            lacks, _, _ = _shorts(problem, there)
            worst = max(lacks.values(), default=0.0)
            if worst <= 2 * KEPT:
                break
            step /= 2
            if step < 1e-3:
                break
        if step < 1e-3:
            stopped = {k: 1.0 for k, lack in lacks.items() if lack > 2 * KEPT}
            break
        here, gone = there, gone + step
    order = sorted(stopped, key=lambda k: -stopped[k])
    return Pushed(here, gone, tuple(order))


def slide(
    problem: SeatProblem,
    pose: Pose,
    way: Array,
    most: float,
    aside: float = 60.0,
    told: Callable[[], None] | None = None,
) -> Pushed:
    """The same, sliding along what it touches without turning; at most ``aside`` mm off the straight way.
    way: (6,) with no turn."""
    direction = way[:3] / np.linalg.norm(way[:3])
    other = np.linalg.svd(direction[None])[2][1:]
    start = pose.points(problem.about)

    def measure(poses: Sequence[Pose]) -> Array:
        off = np.array([p.points(problem.about) for p in poses]) - start
        return np.column_stack([off @ direction, off @ other[0], off @ other[1]])

    aims = aims_of(
        (
            AimRow("along", -1.0, high=most),
            AimRow("aside", absolute=STRAIGHT, low=-aside, high=aside),
            AimRow("across", absolute=STRAIGHT, low=-aside, high=aside),
        ),
        measure,
    )
    tied = np.array([False] * 3 + [True] * 3)
    freed = replace(held(problem, pose), aims=aims)
    found = descend(
        freed, pose, told=None if told is None else lambda *_: told(), tied=tied, trust=10.0
    ).stand
    gone = float(measure([found.pose])[0, 0])
    stops: dict[tuple[int, int], float] = {}
    program = linear_program(freed, found, 2.0, tied)
    solved = program.solve()
    if solved is not None and gone < most - 0.05:
        for row, k in enumerate(program.gap_rows.tolist()):
            if solved.multipliers[row] > 1e-3:
                pair = int(found.rows.a[k]), int(found.rows.b[k])
                stops[pair] = stops.get(pair, 0.0) + float(solved.multipliers[row])
    return Pushed(found.pose, gone, tuple(sorted(stops, key=lambda k: -stops[k])))
