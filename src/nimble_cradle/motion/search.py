"""The best seat from anywhere: many rough starts, a descent from each, and kicks from the best until none
helps."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.motion.descend import FAR_FROM_IT, Found, descend
from nimble_cradle.motion.rough_judging import starts
from nimble_cradle.motion.seat_problem import LEVER, Look, SeatProblem, moved_by
from nimble_cradle.workers import Say, quiet

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
    """Raised to end a descent that has come to where another one ended."""


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


class _Searching:
    """The seats found so far, the best first, no two alike."""

    def __init__(self, problem: SeatProblem, say: Say) -> None:
        self.problem, self.say = problem, say
        self.found: list[Found] = []

    def told(self, done: int, stand: Look) -> None:
        """Called at every round of a descent. Raises _BeenThere where another one has been."""
        self.say("Looking for a seat" + (f": {len(self.found)} found so far" if self.found else ""))
        if done > 1 and any(_alike(self.problem, stand.pose, f.stand.pose) for f in self.found):
            raise _BeenThere

    def go(self, start: Pose | Look, trust: float = 30.0) -> bool:
        """Descend from a start. True if that gives a new best seat, other than the last one by SAME."""
        hopeless = min((f.stand.cost for f in self.found if f.ok), default=np.inf)
        try:
            f = descend(self.problem, start, told=self.told, hopeless=hopeless, trust=trust)
        except _BeenThere:
            return False
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
        return any(self.go(moved_by(self.problem, base, kick), KICKED_TRUST) for kick in KICKS)


KICKED_TRUST = 15.0
"""First step of a descent after a kick, mm: a kick is not meant to leave its valley at once."""


FIRST_ROUNDS = 2
"""Every start goes down so many rounds before those that come together are taken as one."""
TOGETHER = 4.0
"""Two that have come so near one another after them, mm and turn x LEVER, go to the same place."""


def _begun(
    problem: SeatProblem, rotations: Sequence[Array], low: Array, high: Array, say: Say, most: int
) -> list[Pose]:
    """Where the starts of a look over the bay are after their first rounds, which look at nearest points
    only, the most promising first; of those that have come together only the best."""
    looks = []
    for start in starts(problem, rotations, low, high, most=most, told=say):
        say("Looking for a seat")
        looks.append(descend(problem, start.pose, rounds=FIRST_ROUNDS, corners=False).stand)
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
) -> tuple[Found, ...]:
    """Seats found, the best first, no two alike. present: poses to begin from besides those that a look
    over low..high (3,) (the place of the moving frame, mm) at ``rotations`` gives, ``most`` of them.
    kicks: rounds of kicks from the best at the end. ``say`` is told words and may raise to stop it."""
    seats = _Searching(problem, say)
    for pose in present:
        seats.go(pose)
    for pose in _begun(problem, rotations, low, high, say, most) if most else ():
        seats.go(pose)
    for _ in range(kicks if seats.found[0].stand.worst < FAR_FROM_IT / 2 else 0):
        if not seats.kick():
            break
    return tuple(sorted(seats.found, key=lambda f: (not f.ok, f.stand.cost if f.ok else f.stand.worst)))
