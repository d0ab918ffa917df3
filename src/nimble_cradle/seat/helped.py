"""A search for a seat that the workers help with: each makes the problem of the job for itself, and does
descents and rough looks at it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Any, NamedTuple

from nimble_cradle.bay.position import pose_of
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Position
from nimble_cradle.motion.descend import Found
from nimble_cradle.motion.rough_judging import Rough, judged_at
from nimble_cradle.motion.search import LAG, Errand, run
from nimble_cradle.motion.seat_problem import SeatProblem
from nimble_cradle.seat.lessons import Lessons, learned
from nimble_cradle.seat.seating import Seating, at_pose, seating_of
from nimble_cradle.workers import Say, Shared


class Later(NamedTuple):
    """The problem once the exact check has been at a place: where, and the needs (owners, columns), mm, that
    it was taught there."""

    position: Position
    need: Array


@dataclass(frozen=True, eq=False)
class Beginning:
    """What a problem is made of; what is made of it is not sent along. See ``settle`` for centre and old."""

    job: Job
    centre: Array | None
    old: Lessons | None

    @cached_property
    def seating(self) -> Seating:
        """The problem as it is begun. Raises JobError."""
        return learned(seating_of(self.job, self.centre), self.old)

    @cached_property
    def _kept(self) -> dict[bytes, Seating]:
        return {}

    def at(self, later: Later | None) -> Seating:
        """The problem as begun, or later. Raises JobError."""
        if later is None:
            return self.seating
        key = later.need.tobytes() + repr(later.position).encode()
        if key not in self._kept:
            self._kept.clear()
            there = at_pose(self.seating, with_value(self.job, "position", later.position))
            taught = there.problem.with_need(later.need)
            self._kept[key] = replace(there, problem=taught)
        return self._kept[key]

    def __getstate__(self) -> dict[str, Any]:
        return {field.name: getattr(self, field.name) for field in fields(self)}


class _Descent(NamedTuple):
    later: Later | None
    errand: Errand


class _Look(NamedTuple):
    later: Later | None
    rotations: Sequence[Array]
    k: int
    low: Array
    high: Array


def _descended(beginning: Beginning, row: _Descent, say: Say) -> Found | None:
    return run(beginning.at(row.later).problem, row.errand, say)


def _judged(beginning: Beginning, row: _Look, say: Say) -> list[Rough]:
    return judged_at(beginning.at(row.later).problem, row.rotations, row.k, row.low, row.high, say)


class Helped:
    """``Doing`` of a search with the workers' help, for the problem of a beginning, or a later one."""

    def __init__(self, shared: Shared, later: Later | None = None) -> None:
        self.shared, self.later = shared, later

    def descents(self, problem: SeatProblem, errands: Sequence[Errand], say: Say) -> Sequence[Found | None]:
        """See ``Doing``; the problem is that of the beginning."""
        return self.shared.each(_descended, [_Descent(self.later, errand) for errand in errands], say)

    def in_turn(
        self,
        problem: SeatProblem,
        count: int,
        errand: Callable[[int], Errand],
        done: Callable[[Found | None], bool],
        say: Say,
    ) -> None:
        """See ``Doing``; the problem is that of the beginning."""

        def row(k: int) -> _Descent:
            return _Descent(self.later, errand(k))

        self.shared.in_turn(_descended, count, row, done, LAG, say)

    def judged(
        self, problem: SeatProblem, rotations: Sequence[Array], low: Array, high: Array, say: Say
    ) -> Sequence[list[Rough]]:
        """See ``Doing``."""
        rows = [_Look(self.later, rotations, k, low, high) for k in range(len(rotations))]
        return self.shared.each(_judged, rows, say)


def later_of(seating: Seating, job: Job) -> Later:
    """What a problem was taught at a job's place."""
    return Later(job.position, seating.problem.need())


def same_problem(a: Seating, b: Seating) -> bool:
    """Whether two problems are of the same bodies at the same place."""
    return (
        a.owners == b.owners
        and a.columns == b.columns
        and a.problem.moving.count == b.problem.moving.count
        and pose_of(a.job.position).translation.tolist() == pose_of(b.job.position).translation.tolist()
    )
