"""Settle: the best seat for a job's wish, checked exactly with the engine running and the wheels moving."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import replace
from itertools import product

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.geometry.pose import Array, Pose, rotation_xyz
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Position
from nimble_cradle.job.wish import Window, Wish
from nimble_cradle.motion.descend import descend
from nimble_cradle.motion.rough_judging import places_at
from nimble_cradle.motion.search import SAME, Alone, Doing, search
from nimble_cradle.motion.seat_problem import LEVER, stand_at
from nimble_cradle.seat.arm_room import with_arms
from nimble_cradle.seat.helped import Beginning, Helped, later_of, same_problem
from nimble_cradle.seat.lessons import Lessons, learned, lessons_of
from nimble_cradle.seat.seating import Seating, seating_of, wish_of
from nimble_cradle.seat.settled import HOPELESS, Looked, Settled, finished, placed, rank_of, with_mounts
from nimble_cradle.workers import Say, Shared, quiet

STARTS = 16
"""So many places are gone down from: by trial on bays with tunnels and pockets."""
RIVALS = 5
"""So many seats are gone down from again where the exact check found the sways otherwise."""
NARROW = 1.2
"""Angles within a window narrower than so many degrees are alike enough to begin from."""
NUDGE = 6.0
"""How far the first step goes from a seat whose bay changed a little, mm."""
NEARLY = 4.0
"""Where no seat was found but so little lacks, mm, the bay is looked over once more, wider and with what
the exact check taught."""
SWAY = 0.4
"""Sways that differ by more than this, mm, ask for another look round."""


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


def settle(
    job: Job,
    say: Say = quiet,
    most: int = STARTS,
    kicks: int = 2,
    centre: Array | None = None,
    old: Lessons | None = None,
    arms: bool = True,
) -> Settled:
    """The best seat for the job's wish from wherever it stands. Raises JobError; ``say`` may raise to stop
    it: the job is never touched.

    most, kicks: how widely is looked. centre: as for ``seating_of``. old: what was learned of a problem
    much like this one, with its seat as the start: the bay is then looked over at the start's angles only.
    arms: room is made for what is made anew, where it lacks a little.
    """
    wish = wish_of(job)
    say("Reading the bay")
    inside = with_value(job, "position", clipped_position(job.position, wish))
    begin = Beginning(with_mounts(job, inside), centre, old)
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
        doing, again_in = _helped_later(shared, begin, best)
        if best.seating.problem.aims.cuts:  # the workers know of none
            doing, again_in = Alone(), best.seating
        from_here, angles = [best.stand.pose], rotations_of(wish, best.stand.pose)
        wider = search(again_in.problem, from_here, angles, low, high, say, 2 * most, kicks, doing)
        best = _best_of(best, [finished(best.seating, job, f, say) for f in wider[:2]])
        best = replace(best, others=tuple(f.stand.pose for f in wider[1:]))
        looked = replace(looked, places=2 * looked.places, starts=3 * most)
    return replace(with_arms(best, job, say) if best.ok and arms else best, looked=looked)


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
        best = other if rank_of(other) > rank_of(best) else best
    return best


def _swayed_otherwise(a: Seating, b: Seating) -> bool:
    """True if the powertrain sways so differently in two places that the needs corrected at one are wrong at
    the other."""
    x, y = a.problem.sways, b.problem.sways
    return x.shape != y.shape or bool(np.abs((x - y) * ([1.0] * 3 + [LEVER] * 3)).max(initial=0.0) > SWAY)


def resettle(settled: Settled, job: Job, say: Say = quiet) -> Settled:
    """The seat drawn in again after a small change (an item nudged): from the old seat only. Raises
    JobError."""
    there = with_mounts(job, placed(job, settled.stand.pose))
    seating = learned(seating_of(there), lessons_of(settled.seating))
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
