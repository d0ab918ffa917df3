"""The best seat from anywhere: many rough starts, a descent from each, and kicks from the best until none
helps."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.motion.descend import FAR_FROM_IT, TRUST, Found, descend
from nimble_cradle.motion.rough_judging import Rough, judged_at, starts
from nimble_cradle.motion.seat_problem import LEVER, Look, SeatProblem, moved_by
from nimble_cradle.workers import Say, Turn, quiet

SAME = 0.05
"""Two seats whose merits differ by less are taken as one, wish mm."""
KICKS = np.array(
    [
        [0, 0, 14, 0, 0, 0],
        [14, 0, 6, 0, 0, 0],
        [-14, 0, 6, 0, 0, 0],
        [0, 12, 6, 0, 0, 0],
        [0, -12, 6, 0, 0, 0],
        [0, 0, 6, 0, 9, 0],
        [0, 0, 6, 0, -9, 0],
    ],
    dtype=float,
)
"""Short moves (mm, turns x LEVER) away from a seat, after which it is looked for again."""


class _BeenThere(Exception):
    """Raised to end a descent that sets out for where another one ended."""


def _alike(problem: SeatProblem, a: Pose, b: Pose, within: float = 1.5) -> bool:
    """Whether two poses are within so many mm of one another (a turn counted at LEVER), near enough that a
    descent goes to the same place."""
    return bool(
        np.abs(a.points(problem.about) - b.points(problem.about)).max() < within
        and np.abs(a.rotation - b.rotation).max() * LEVER < within
    )


def better(a: Found, b: Found | None) -> bool:
    """True if ``a`` is the better seat: first the one that keeps everything; then the lower cost, or the
    lesser lack if neither keeps everything."""
    if b is None or a.ok != b.ok:
        return b is None or a.ok
    return a.stand.cost < b.stand.cost if a.ok else a.stand.worst < b.stand.worst


@dataclass(frozen=True, eq=False)
class Errand:
    """One descent to be done, wherever: from where, of how many rounds, with or without corners, its first
    box, mm. been: where others ended, so that it ends there; hopeless: as for ``descend``; words: what it
    tells."""

    start: Pose
    trust: float = TRUST
    rounds: int = 60
    corners: bool = True
    been: tuple[Pose, ...] = ()
    hopeless: float = np.inf
    words: str = "Looking for a seat"


def run(problem: SeatProblem, errand: Errand, say: Say = quiet) -> Found | None:
    """Where it ends; None where another one has been."""

    def told(_: int, __: Look) -> None:
        say(errand.words)

    def going(to: Pose) -> None:
        if any(_alike(problem, to, pose) for pose in errand.been):
            raise _BeenThere

    try:
        return descend(
            problem,
            errand.start,
            errand.rounds,
            told,
            hopeless=errand.hopeless,
            trust=errand.trust,
            corners=errand.corners,
            going=going,
        )
    except _BeenThere:
        return None


class Doing(Protocol):
    """Who does the work of a search: here, or helped. What comes back hangs on nothing else."""

    def descents(self, problem: SeatProblem, errands: Sequence[Errand], say: Say) -> Sequence[Found | None]:
        """``run`` of each."""

    def in_turn(
        self,
        problem: SeatProblem,
        count: int,
        errand: Callable[[int], Errand],
        done: Callable[[Found | None], bool],
        say: Say,
    ) -> None:
        """``run`` of ``count`` errands, what each found told to ``done`` in their order; True from it ends
        them. An errand is asked for when all but the last LAG - 1 before it have been told, and no
        more."""

    def judged(
        self, problem: SeatProblem, rotations: Sequence[Array], low: Array, high: Array, say: Say
    ) -> Sequence[list[Rough]]:
        """``judged_at`` of each rotation."""


LAG = 3
"""So many descents may be under way at a time, so one does not know where the last LAG - 1 before it end; it
is the same however many cores there are."""


class Alone:
    """In this process."""

    def descents(self, problem: SeatProblem, errands: Sequence[Errand], say: Say) -> Sequence[Found | None]:
        """See ``Doing``."""
        return [run(problem, errand, say) for errand in errands]

    def in_turn(
        self,
        problem: SeatProblem,
        count: int,
        errand: Callable[[int], Errand],
        done: Callable[[Found | None], bool],
        say: Say,
    ) -> None:
        """See ``Doing``."""
        turn = Turn(count, errand, done, LAG)
        while not turn.told():
            k = turn.first_open()
            turn.results[k] = run(problem, turn.rows[k], say)

    def judged(
        self, problem: SeatProblem, rotations: Sequence[Array], low: Array, high: Array, say: Say
    ) -> Sequence[list[Rough]]:
        """See ``Doing``."""
        return [judged_at(problem, rotations, k, low, high, say) for k in range(len(rotations))]


class _Searching:
    """The seats found so far, the best first, no two alike."""

    def __init__(self, problem: SeatProblem, say: Say, doing: Doing) -> None:
        self.problem, self.say, self.doing = problem, say, doing
        self.found: list[Found] = []

    def go(self, starts: Sequence[Pose], trust: float = TRUST, enough: bool = False) -> bool:
        """Descend from some starts. True if one gives a new best seat, other than the last one by SAME;
        enough: no more are told then."""
        any_better = False

        def errand(k: int) -> Errand:
            hopeless = min((f.stand.cost for f in self.found if f.ok), default=np.inf)
            been = tuple(f.stand.pose for f in self.found)
            words = "Looking for a seat" + (f": {len(self.found)} found so far" if self.found else "")
            return Errand(starts[k], trust, been=been, hopeless=hopeless, words=words)

        def done(found: Found | None) -> bool:
            nonlocal any_better
            any_better |= found is not None and self._kept(found)
            return any_better and enough

        self.doing.in_turn(self.problem, len(starts), errand, done, self.say)
        return any_better

    def _kept(self, f: Found) -> bool:
        """Keep where a descent ended. True for a new best, other than the last one by SAME."""
        best = self.found[0] if self.found else None
        if best is None or better(f, best):
            self.found.insert(0, f)
            return best is None or best.ok != f.ok or abs(best.stand.merit - f.stand.merit) > SAME
        if all(abs(f.stand.merit - k.stand.merit) > SAME for k in self.found):
            self.found.append(f)
        return False

    def kick(self) -> bool:
        """Descend from places beside the best seat. True as soon as one is better."""
        base = self.found[0].stand.pose
        starts = [moved_by(self.problem, base, kick) for kick in KICKS]
        return self.go(starts, KICKED_TRUST, enough=True)


KICKED_TRUST = 15.0
"""First step of a descent after a kick, mm: a kick is not meant to leave its valley at once."""


FIRST_ROUNDS = 2
"""Every start goes down so many rounds before those that come together are taken as one."""
TOGETHER = 4.0
"""Two that have come so near one another after them, mm and turn x LEVER, go to the same place."""


def _begun(
    problem: SeatProblem,
    rotations: Sequence[Array],
    low: Array,
    high: Array,
    say: Say,
    most: int,
    doing: Doing,
) -> list[Pose]:
    """Where the starts of a look over the bay are after their first rounds, which look at nearest points
    only, the most promising first; of those that have come together only the best."""
    chosen = starts(rotations, doing.judged(problem, rotations, low, high, say), most)
    errands = [Errand(start.pose, rounds=FIRST_ROUNDS, corners=False) for start in chosen]
    looks = [f.stand for f in doing.descents(problem, errands, say) if f is not None]
    looks.sort(key=lambda look: look.merit)
    kept: list[Look] = []
    for look in looks:
        if not any(_alike(problem, look.pose, other.pose, TOGETHER) for other in kept):
            kept.append(look)
    return [look.pose for look in kept]


def search(
    problem: SeatProblem,
    present: Sequence[Pose],
    rotations: Sequence[Array],
    low: Array,
    high: Array,
    say: Say = quiet,
    most: int = 5,
    kicks: int = 3,
    doing: Doing | None = None,
) -> tuple[Found, ...]:
    """Seats found, the best first, no two alike. present: poses to begin from besides those that a look
    over low..high (3,) (the place of the moving frame, mm) at ``rotations`` gives, ``most`` of them.
    kicks: rounds of kicks from the best at the end. ``say`` is told words and may raise to stop it. doing:
    who does the work."""
    doing = Alone() if doing is None else doing
    seats = _Searching(problem, say, doing)
    begun = _begun(problem, rotations, low, high, say, most, doing) if most else []
    seats.go([*present, *begun])
    for _ in range(kicks if seats.found[0].stand.worst < FAR_FROM_IT / 2 else 0):
        if not seats.kick():
            break
    return tuple(sorted(seats.found, key=lambda f: (not f.ok, f.stand.cost if f.ok else f.stand.worst)))
