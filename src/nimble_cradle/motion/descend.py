"""The best place near a start: sequential linear programming on exact distances.

At each round every near gap and every window is made linear about the present pose, the linear problem is
solved inside a box of trust (mm; turns as mm at ``LEVER``), and the step is taken if the true merit falls.
merit = cost + PENALTY x the worst shortfall. The rule for the box is the usual one of trust regions (Nocedal
and Wright, Numerical Optimization, chapter 4): its numbers were
chosen by trial; theirs are of the same size.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.motion.linear_program import linear_program
from nimble_cradle.motion.seat_problem import PENALTY, Look, SeatProblem, lack_of, moved_by, stand_at

TRUST = 30.0
"""Half of the first box, mm: about as far as a gap stays nearly linear beside parts of an engine's size."""
MOST_TRUST = 60.0
"""Half of the largest box, mm: what is looked at grows with the box, and so does the time of a round."""
SMALLEST = 0.004
"""A box smaller than this, mm, has nothing left to find: distances are no truer than SHORT."""
SEEN = 2.0
"""Gaps are looked at as far as this many half boxes: a move and a turn may both go to the edge."""
SHRINK = 0.35
"""A box in which nothing was gained shrinks to this part of the step: to a twentieth in three rounds."""
HALVE, DOUBLE = 0.5, 2.0
"""By how much the box shrinks and grows: the usual factors of trust regions."""
POOR, GOOD = 0.25, 0.6
"""A step that brings less than POOR of what was foreseen halves the box; one that brings more than GOOD and
went to its edge doubles it. One under GOOD is corrected first."""
AT_EDGE = 0.9
"""A step of this part of the box went to its edge."""
INSIDE, LEAST_TRUST = 0.2, 2.0
"""A step that ended so far inside the box, a part of it, draws the box in to as much about the step, no
smaller than LEAST_TRUST mm: what the box does not stop need not be looked for so far off."""
TAKEN = 0.05
"""A step that brings less than this of what was foreseen is not taken."""
ENOUGH = 2e-4
"""No round is worth less than this, wish mm."""
GIVE_UP, FAR_FROM_IT = 14, 40.0
"""A descent that after so many rounds still lacks so much, mm, is given up."""
CRAWL, DEARER, CRAWLS = 0.5, 3.0, 2
"""Gains under CRAWL wish mm, CRAWLS times in a row, at a cost more than DEARER over what is hopeless: given
up."""
FLAT, ALIKE = 0.02, 0.05
"""Gains under FLAT wish mm, CRAWLS times in a row, and not better by ALIKE than what is hopeless: given
up."""
STUCK, STUCK_CRAWL = 8.0, 6.0
"""One that lacks more than STUCK mm is given up where its gains are under STUCK_CRAWL, a fifth of a mm of
what lacks."""
CORNERS_FROM = 15.0
"""While more than this lacks, mm, nearest points alone say where to go."""
SHORT = 0.01
"""Gaps that lack less, mm, are kept: the distances themselves are no truer."""


@dataclass(frozen=True, eq=False)
class Found:
    """Where a descent ended. stand: there. ok: everything is kept to SHORT mm."""

    stand: Look
    rounds: int

    @property
    def ok(self) -> bool:
        """Whether everything is kept."""
        return self.stand.worst <= SHORT


@dataclass
class _Descent:
    """One descent under way. trust: half of the box, mm; crawl, flat: rounds in a row that gained
    little, or next to nothing."""

    problem: SeatProblem
    tied: np.ndarray | None
    hopeless: float
    trust: float
    here: Look
    corners: bool = True
    going: Callable[[Pose], None] | None = None
    done: int = 0
    crawl: int = 0
    flat: int = 0

    def look(self, pose: Pose) -> Look:
        """Look from there, as far as the box can matter."""
        if self.going is not None:
            self.going(pose)
        corners = self.corners and self.here.worst < CORNERS_FROM
        return stand_at(self.problem, pose, SEEN * self.trust, corners, self.here.rows, roughly=True)

    def lost(self) -> bool:
        """Whether it lacks too much after too many rounds."""
        one_lack = self.problem.things is None
        return one_lack and self.done > GIVE_UP and self.here.worst > FAR_FROM_IT

    def round(self) -> bool:
        """One round; False if the descent is at its end."""
        step = self.best_step(self.here)
        if step is None:
            self.trust *= SHRINK
            return True
        foreseen = self.here.merit - self.foreseen_merit(step)
        if foreseen < ENOUGH:
            return False
        there = self.look(moved_by(self.problem, self.here.pose, step))
        if self.here.merit - there.merit < GOOD * foreseen:
            there = self.corrected(there, step)
        gain = self.here.merit - there.merit
        self.flat = self.flat + 1 if gain < FLAT else 0
        if self.flat >= CRAWLS and self.here.merit > self.hopeless - ALIKE:
            return False
        if gain <= TAKEN * foreseen:
            self.trust = SHRINK * min(self.trust, float(np.abs(step).max()))
            return True
        self.here = there
        return self.judged(gain, foreseen, float(np.abs(step).max()))

    def judged(self, gain: float, foreseen: float, size: float) -> bool:
        """The box made larger or smaller after a step of ``size`` mm that was taken; False if it only
        crawls."""
        stuck = self.problem.things is None and self.here.worst > STUCK
        self.crawl = self.crawl + 1 if gain < (STUCK_CRAWL if stuck else CRAWL) else 0
        if self.crawl >= CRAWLS and (stuck or self.here.cost > self.hopeless + DEARER):
            return False
        if gain > GOOD * foreseen and size > AT_EDGE * self.trust:
            self.trust = min(DOUBLE * self.trust, MOST_TRUST)
        elif gain < POOR * foreseen:
            self.trust *= HALVE
        elif size < INSIDE * self.trust:
            self.trust = min(max(size / INSIDE, LEAST_TRUST), self.trust)
        return True

    def best_step(self, look: Look, centre: Array | None = None) -> Array | None:
        """The best step (6,) of the linear problem; None where it has no solution."""
        solved = linear_program(self.problem, look, self.trust, self.tied, centre).solve()
        return None if solved is None else solved.step

    def foreseen_merit(self, step: Array) -> float:
        """The merit after a step (6,) if everything were linear."""
        here, aims = self.here, self.problem.aims
        values = here.values + here.slopes @ step
        lack = lack_of(self.problem, here.rows, here.short - here.matrix @ step, aims.shorts(values))
        return float(aims.cost(values) + PENALTY * lack)

    def corrected(self, there: Look, step: Array) -> Look:
        """A trial that fell short, mended by one more linear problem about where it came to, still inside
        the first one's box (so that the step follows a bent contact instead of its tangent); the better of
        the two."""
        free = np.ones(6, dtype=bool) if self.tied is None else ~self.tied
        more = self.best_step(there, np.where(free, -step, 0.0))
        if more is None:
            return there
        mended = self.look(moved_by(self.problem, there.pose, more))
        return mended if mended.merit < there.merit else there


def descend(
    problem: SeatProblem,
    start: Pose | Look,
    rounds: int = 60,
    told: Callable[[int, Look], None] | None = None,
    tied: np.ndarray | None = None,
    hopeless: float = np.inf,
    trust: float = TRUST,
    corners: bool = True,
    going: Callable[[Pose], None] | None = None,
) -> Found:
    """Step from ``start`` until nothing near is better. told(round, look) may raise to stop it, and so may
    going(pose) when it sets out for a place. A start that was looked at already is not looked at again.

    rounds: at most. tied: (6,) moves and turns that are not allowed. hopeless: a cost; a descent that crawls
    far above it is given up. trust: half of the first box, mm. corners: as for ``rows_at``.
    """
    here = start
    if not isinstance(here, Look):
        here = stand_at(problem, here, SEEN * trust, corners, roughly=True)
    else:
        here = replace(here, rows=here.rows.guessed())
    descent = _Descent(problem, tied, hopeless, trust, here, corners, going)
    while descent.done < rounds and descent.trust > SMALLEST:
        descent.done += 1
        if told is not None:
            told(descent.done, descent.here)
        if descent.lost() or not descent.round():
            break
    return Found(descent.here, descent.done)
