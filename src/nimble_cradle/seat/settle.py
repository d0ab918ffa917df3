"""Settle: the best seat for a job's wish, checked exactly with the engine running and the wheels moving."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from itertools import product

import numpy as np

from nimble_cradle.bay.bodies import powertrain_bodies
from nimble_cradle.bay.position import pose_of, position_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.gaps import fitting_gaps, gaps_at_rest
from nimble_cradle.fit.gaps_running import gaps_running
from nimble_cradle.fit.made_gaps import pieces_to_made, pieces_to_made_running
from nimble_cradle.geometry.pose import Array, Pose, rotation_xyz
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Position
from nimble_cradle.job.wish import Window, Wish
from nimble_cradle.judge.carried import carried
from nimble_cradle.motion.descend import Found, descend
from nimble_cradle.motion.rough_judging import places_at
from nimble_cradle.motion.search import SAME, Alone, Doing, search
from nimble_cradle.motion.seat_problem import LEVER, Look, stand_at, with_needs_of
from nimble_cradle.seat.along import brought_along
from nimble_cradle.seat.helped import Beginning, Helped, later_of, same_problem
from nimble_cradle.seat.lessons import Lessons, learned, lessons_of
from nimble_cradle.seat.seating import Seating, at_pose, seating_of, wish_of
from nimble_cradle.seat.shaft_room import short_of_room, with_room_for
from nimble_cradle.workers import Say, Shared, quiet

BROKEN = 0.05
"""A seat is one when no margin is more than this under nought on the exact check, mm."""
AIM = 0.015
"""Margins are drawn in to this, mm, so that rounding does not take them under nought."""
STARTS = 16
"""So many places are gone down from: by trial on bays with tunnels and pockets."""
_CLOSE = 0.5
"""Gaps with less than this to spare, mm, count when model and exact check are compared."""
RIVALS = 5
"""So many seats are gone down from again where the exact check found the sways otherwise."""
NARROW = 1.2
"""Angles within a window narrower than so many degrees are alike enough to begin from."""
NUDGE = 6.0
"""How far the first step goes from a seat whose bay changed a little, mm."""
NEARLY = 4.0
"""Where no seat was found but so little lacks, mm, the bay is looked over once more, wider and with what
the exact check taught."""
HOPELESS = 0.3
"""What lacks more than this, mm, after two rounds of drawing in is no seat."""
FAR = 8.0
"""What lacks more than this, mm, is told as the search found it: the exact check moves a gap by less."""
SWAY = 0.4
"""Sways that differ by more than this, mm, ask for another look round."""
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
    windows, mm. others: where else the search ended. looked: how widely, where that is known."""

    before: Job
    job: Job
    seating: Seating
    stand: Look
    gaps: tuple[Gap, ...]
    margin: float
    others: tuple[Pose, ...] = ()
    looked: Looked | None = None

    @property
    def ok(self) -> bool:
        """Whether it is a seat: nothing lacks more than BROKEN mm."""
        return self.margin >= -BROKEN

    @property
    def cost(self) -> float:
        """What the wish is judged by, mm; lower is better."""
        return self.stand.cost

    @property
    def short(self) -> float:
        """How much the worst place lacks, mm."""
        return max(-self.margin, 0.0)


def placed(job: Job, pose: Pose) -> Job:
    """The job with its powertrain at a pose (rounded as a position is)."""
    return with_value(job, "position", position_of(pose, job.position.pivot))


def clipped_position(position: Position, wish: Wish) -> Position:
    """A position brought inside the wish's windows."""

    def into(value: float, low: float, high: float) -> float:
        return min(max(value, low), high)

    return position.model_copy(
        update={
            "x": into(position.x, wish.fore_aft.low, wish.fore_aft.high),
            "y": into(position.y, wish.side.low, wish.side.high),
            "z": into(position.z, wish.height.low, wish.height.high),
            "pitch_deg": into(position.pitch_deg, wish.nose_up.low, wish.nose_up.high),
            "roll_deg": into(position.roll_deg, wish.clocked.low, wish.clocked.high),
            "yaw_deg": into(position.yaw_deg, wish.yaw.low, wish.yaw.high),
        }
    )


def rotations_of(wish: Wish, start: Pose) -> list[Array]:
    """The angles at which the bay is looked over: those of the start, all windows at their middle, and every
    corner of them; a window narrower than NARROW deg is taken at its middle."""

    def ends(window: Window) -> tuple[float, ...]:
        wide = window.high - window.low > NARROW
        return (window.low, window.high) if wide else ((window.low + window.high) / 2,)

    out = [start.rotation]
    middle = [((w.low + w.high) / 2,) for w in (wish.clocked, wish.nose_up, wish.yaw)]
    corners = [ends(w) for w in (wish.clocked, wish.nose_up, wish.yaw)]
    for clocked, nose_up, yaw in (*product(*middle), *product(*corners)):
        r = rotation_xyz(clocked, -nose_up, yaw)
        if all(float(np.abs(r - o).max()) > 1e-3 for o in out):
            out.append(r)
    return out


def exact_gaps(seating: Seating, job: Job, beyond: float = NEAR) -> tuple[Gap, ...]:
    """The gaps of pieces and of rooms to screw in that are near what they need, running where the mounts
    can be solved, tightest first. Raises JobError."""
    pose = pose_of(job.position)
    try:
        cases = carried(job).stands
    except JobError:
        cases = ()
    sway = max(
        (
            float(np.abs(case.pose.points(c) - pose.points(c)).max())
            for case in cases
            for c in powertrain_bodies(job).centres
        ),
        default=0.0,
    )
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
        there = placed(seating.job, pose)
        if wish_of(before).made == "comes along":
            there = brought_along(before, there)
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
            seating, off = with_room_for(seating, there, shafts, 4 * AIM, less), np.inf
            stand = stand_at(seating.problem, pose, 25.0)
        here = Settled(before, there, seating, with_needs_of(stand, seating.problem), gaps, margin)
        if best is None or _rank(here) >= _rank(best):
            best = here
        if proof and here.ok:
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


def _rank(s: Settled) -> tuple[bool, bool, float]:
    """Sorting key, the better first: cleanly kept, kept, then the lower cost or the lesser lack."""
    return s.margin >= -AIM, s.ok, -s.cost if s.ok else s.margin


def settle(
    job: Job,
    say: Say = quiet,
    most: int = STARTS,
    kicks: int = 2,
    centre: Array | None = None,
    old: Lessons | None = None,
) -> Settled:
    """The best seat for the job's wish from wherever it stands. Raises JobError; ``say`` may raise to stop
    it: the job is never touched.

    most, kicks: how widely is looked. centre: as for ``seating_of``. old: what was learned of a problem
    much like this one, with its seat as the start: the bay is then looked over at the start's angles only.
    """
    wish = wish_of(job)
    say("Reading the bay")
    begin = Beginning(with_value(job, "position", clipped_position(job.position, wish)), centre, old)
    seating, shared = begin.seating, Shared(begin)
    start = pose_of(begin.job.position)
    low, high = (
        np.array([getattr(w, end) for w in (wish.fore_aft, wish.side, wish.height)])
        for end in ("low", "high")
    )
    rotations = rotations_of(wish, start) if old is None else [start.rotation]
    looked = Looked(len(rotations) * places_at(len(rotations)), len(rotations), most, kicks)
    found = search(seating.problem, [start], rotations, low, high, say, most, 0, Helped(shared))
    best = finished(seating, job, found[0], say)
    for _ in range(2):
        swayed = _swayed_otherwise(seating, best.seating)
        if not best.ok or not (kicks or swayed):
            break
        seating = best.seating
        rivals = [f.stand.pose for f in found[:RIVALS]] if swayed else []
        doing, again_in = _helped_later(shared, begin, best)
        again = search(again_in.problem, [best.stand.pose, *rivals], [], low, high, say, 0, kicks, doing)[0]
        if not again.ok or again.stand.cost > best.cost - SAME:
            break
        best = _best_of(best, [finished(seating, job, again, say)])
    if not best.ok:
        best = _best_of(
            best, [finished(seating, job, rival, say) for rival in found[1:3] if rival.stand.worst < HOPELESS]
        )
    if not best.ok:
        best = replace(best, others=tuple(f.stand.pose for f in found[1:]))
    if not best.ok and kicks and best.short < NEARLY:
        wider = search(
            best.seating.problem,
            [best.stand.pose],
            rotations_of(wish, best.stand.pose),
            low,
            high,
            say,
            2 * most,
            kicks,
        )
        best = _best_of(best, [finished(best.seating, job, f, say) for f in wider[:2]])
        best = replace(best, others=tuple(f.stand.pose for f in wider[1:]))
        looked = replace(looked, places=2 * looked.places, starts=3 * most)
    return replace(best, looked=looked)


def _helped_later(shared: Shared, begin: Beginning, best: Settled) -> tuple[Doing, Seating]:
    """Who goes on from a seat that was checked, and in which problem: the workers make it anew, unless mounts
    came along or it has become one of other bodies."""
    if wish_of(begin.job).made != "comes along":
        later = later_of(best.seating, best.job)
        with suppress(ValueError):  # needs of other bodies do not fit
            again = begin.at(later)
            if same_problem(again, best.seating):
                return Helped(shared, later), again
    return Alone(), best.seating


def _best_of(best: Settled, others: Sequence[Settled]) -> Settled:
    for other in others:
        best = other if _rank(other) > _rank(best) else best
    return best


def _swayed_otherwise(a: Seating, b: Seating) -> bool:
    """True if the powertrain sways so differently in two places that the needs corrected at one are wrong at
    the other."""
    x, y = a.problem.sways, b.problem.sways
    return x.shape != y.shape or bool(np.abs((x - y) * ([1.0] * 3 + [LEVER] * 3)).max(initial=0.0) > SWAY)


def resettle(settled: Settled, job: Job, say: Say = quiet) -> Settled:
    """The seat drawn in again after a small change (an item nudged): from the old seat only. Raises
    JobError."""
    seating = learned(seating_of(placed(job, settled.stand.pose)), lessons_of(settled.seating))
    return finished(
        seating,
        job,
        descend(seating.problem, settled.stand.pose, trust=NUDGE, told=lambda *_: say("Looking for a seat")),
        say,
    )


def restored(
    before: Job, job: Job, lessons: Lessons, gaps: tuple[Gap, ...], margin: float, centre: Array | None = None
) -> Settled:
    """The Settled of a seat that a worker found, from the plain values that it sent. Raises JobError."""
    seating = learned(seating_of(job, centre), lessons)
    return Settled(before, job, seating, stand_at(seating.problem, pose_of(job.position), 25.0), gaps, margin)
