"""A place found by a search: checked exactly with the engine running and the wheels moving, and drawn in
until model and check agree."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.bay.bodies import powertrain_bodies
from nimble_cradle.bay.position import pose_of, position_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.gaps import fitting_gaps, gaps_at_rest
from nimble_cradle.fit.gaps_running import gaps_running
from nimble_cradle.fit.made_gaps import pieces_to_made, pieces_to_made_running
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.carried import carried
from nimble_cradle.motion.descend import Found, descend
from nimble_cradle.motion.seat_problem import Look, stand_at, with_needs_of
from nimble_cradle.seat.along import brought_along
from nimble_cradle.seat.seating import Seating, at_pose, wish_of
from nimble_cradle.seat.shaft_room import short_of_room, with_room_for
from nimble_cradle.workers import Say, quiet

BROKEN = 0.05
"""A seat is one when no margin is more than this under nought on the exact check, mm."""
AIM = 0.015
"""Margins are drawn in to this, mm, so that rounding does not take them under nought."""
_CLOSE = 0.5
"""Gaps with less than this to spare, mm, count when model and exact check are compared."""
HOPELESS = 0.3
"""What lacks more than this, mm, after two rounds of drawing in is no seat."""
FAR = 8.0
"""What lacks more than this, mm, is told as the search found it: the exact check moves a gap by less."""
NEAR = 6.0
"""Gaps with more to spare than this, mm, are not looked at while a seat is drawn in."""
Given = dict[tuple[str, str], float]
"""Gaps, by piece and item, and how much less than they need they are given, mm."""


@dataclass(frozen=True)
class Looked:
    """How widely a seat was looked for: places judged roughly, at so many angles, and from how many of them
    the search went down; rounds of kicks from the best."""

    places: int
    angles: int
    starts: int
    kicks: int

    @property
    def words(self) -> str:
        """The same in a sentence."""
        at = "1 angle" if self.angles == 1 else f"{self.angles} angles"
        again = f", and from beside the best up to {self.kicks} times" if self.kicks else ""
        return (
            f"Looked over {self.places:,} places at {at}, gone down from the {self.starts} most promising and"
            f" from where it stood{again}; what no one looked at may be better."
        )


@dataclass(frozen=True, eq=False)
class Settled:
    """Where the search ended. before: the job as it was; job: the job at the place found. seating: the
    problem with its needs corrected by the exact check; stand: the look at it from there. gaps: exact, of
    pieces and rooms, tightest first; none where it is far from a seat. margin: the least of the gaps and
    windows, mm. others: where else the search ended. looked: how widely, where that is known. for_arms: what
    was made room for that is made anew; bare: the seat without that room."""

    before: Job
    job: Job
    seating: Seating
    stand: Look
    gaps: tuple[Gap, ...]
    margin: float
    others: tuple[Pose, ...] = ()
    looked: Looked | None = None
    for_arms: tuple[str, ...] = ()
    bare: Settled | None = None

    @property
    def ok(self) -> bool:
        """Whether it is a seat: nothing lacks more than BROKEN mm."""
        return self.margin >= -BROKEN

    @property
    def cost(self) -> float:
        """What the wish is judged by, mm; lower is better."""
        return self.stand.cost

    @property
    def for_arms_mm(self) -> float:
        """What of the wish was given up for what is made anew, mm."""
        return 0.0 if self.bare is None else max(self.cost - self.bare.cost, 0.0)

    @property
    def short(self) -> float:
        """How much the worst place lacks, mm."""
        return max(-self.margin, 0.0)


def placed(job: Job, pose: Pose) -> Job:
    """The job with its powertrain at a pose (rounded as a position is)."""
    return with_value(job, "position", position_of(pose, job.position.pivot))


def exact_gaps(seating: Seating, job: Job, beyond: float = NEAR) -> tuple[Gap, ...]:
    """The gaps of pieces and of rooms to screw in that are near what they need, running where the mounts
    can be solved, tightest first. Raises JobError."""
    pose = pose_of(job.position)
    try:
        cases = carried(job).stands
    except JobError:
        cases = ()
    middles = powertrain_bodies(job).centres
    still = pose.points(middles)
    sway = max((float(np.abs(case.pose.points(middles) - still).max()) for case in cases), default=0.0)
    rest = gaps_at_rest(job, pose, beyond + 2 * sway) + fitting_gaps(job, pose, seating.fittings, beyond)
    rest = tuple(gap for gap in rest if gap.margin_at_rest < beyond + 2 * sway)
    rows = pieces_to_made(job, pose, seating.made, beyond + 2 * sway) if seating.made.rows else []
    off_made = tuple(gap for gap in rows if gap.margin_at_rest < beyond + 2 * sway)
    poses = [(case.case.name, case.pose) for case in cases]
    if cases:
        rest = gaps_running(job, rest, poses, seating.fittings)
        off_made = pieces_to_made_running(job, off_made, poses, seating.made)
    return tuple(sorted(rest + off_made, key=lambda g: g.margin))


def taught(
    seating: Seating, stand: Look, gaps: Sequence[Gap], aim: float = AIM, given: Given | None = None
) -> tuple[Seating, float]:
    """(the problem with its needs corrected so that it agrees with the exact gaps, by how much the tight
    ones were off, mm). A gap with ``aim`` mm to spare counts as just enough. given: mm that some gaps may
    lack."""
    need = seating.problem.need()
    rows: dict[tuple[str, str], float] = {}
    for k, (a, b) in enumerate(zip(stand.rows.a.tolist(), stand.rows.b.tolist(), strict=True)):
        key = seating.owners[a], seating.columns[b]
        rows[key] = max(rows.get(key, -np.inf), float(stand.short[k]))
    number = {owner: k for k, owner in enumerate(seating.owners)}
    off = 0.0
    for gap in gaps:
        key = gap.piece, gap.item
        if key not in rows:
            continue
        margin = gap.exact_margin + (given or {}).get(key, 0.0)
        more = aim - margin - rows[key]
        columns = [k for k, column in enumerate(seating.columns) if column == gap.item]
        need[number[gap.piece], columns] += more
        if min(margin, -rows[key]) < _CLOSE:
            off = max(off, abs(more))
    return replace(seating, problem=seating.problem.with_need(need)), off


def finished(
    seating: Seating,
    before: Job,
    found: Found,
    say: Say = quiet,
    given: Given | None = None,
    proof: bool = False,
) -> Settled:
    """A seat found, checked exactly and drawn in until model and check agree. given: how much less than
    they need some gaps may have, mm, by piece and item; the problem knows of it already. proof: any place
    that is kept is enough, the best is not looked for. A place that lacks more than FAR is left as it was
    found, for no check makes a seat of it. Raises JobError."""
    pose = found.stand.pose
    if found.stand.worst > FAR:
        there = placed(seating.job, pose)
        return Settled(before, there, at_pose(seating, there), found.stand, (), -found.stand.worst)
    best: Settled | None = None
    for drawn in range(10):
        say("Checking every gap with the engine running")
        there = with_mounts(before, placed(seating.job, pose))
        pose = pose_of(there.position)
        seating = at_pose(seating, there)
        gaps = exact_gaps(seating, there)
        stand = stand_at(seating.problem, pose, 25.0)
        windows = float(seating.problem.aims.shorts(stand.values).max(initial=0.0))
        line = max(
            (
                float(s)
                for s, b in zip(stand.short, stand.rows.b, strict=True)
                if seating.columns[b] not in {gap.item for gap in gaps}
            ),
            default=-np.inf,
        )
        less = given or {}
        clear = min((gap.exact_margin + less.get((gap.piece, gap.item), 0.0) for gap in gaps), default=np.inf)
        margin = min(clear, -windows, -line)
        seating, off = taught(seating, stand, gaps, given=given)
        shafts = [
            gap
            for gap in (short_of_room(there) if margin > -HOPELESS else ())
            if gap.exact_margin + less.get((gap.piece, gap.item), 0.0) < 0
        ]
        if shafts:
            say("Looking where the shafts run")
            margin = min(margin, *(g.exact_margin + less.get((g.piece, g.item), 0.0) for g in shafts))
            if not proof or margin > -FAR:
                seating, off = with_room_for(seating, there, shafts, 4 * AIM, less), np.inf
                stand = stand_at(seating.problem, pose, 25.0)
        here = Settled(before, there, seating, with_needs_of(stand, seating.problem), gaps, margin)
        if best is None or rank_of(here) >= rank_of(best):
            best = here
        if proof and (here.ok or here.short > FAR):
            break
        if drawn >= (4 if shafts else 2) and here.stand.worst > HOPELESS:
            break
        better = descend(
            seating.problem,
            here.stand,
            rounds=25,
            trust=4.0,
            told=lambda *_: say("Checking every gap with the engine running"),
        ).stand
        if off < 0.8 * AIM and here.stand.worst < 1.3 * AIM and better.cost > here.cost - 0.02:
            break
        pose = better.pose
    assert best is not None
    return best


def with_mounts(before: Job, there: Job) -> Job:
    """A job at another place than ``before``, with mounts and crossmember brought along where that is
    wished. Raises JobError."""
    return brought_along(before, there) if wish_of(before).made == "comes along" else there


def rank_of(s: Settled) -> tuple[bool, bool, float]:
    """Sorting key, the better first: cleanly kept, kept, then the lower cost or the lesser lack."""
    return s.margin >= -AIM, s.ok, -s.cost if s.ok else s.margin
