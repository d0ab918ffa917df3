"""The suspension: what its measured points say, and what pivots that are moved do to where the car goes."""

from __future__ import annotations

from itertools import chain

import numpy as np

from nimble_cradle.findings.finding import Problem
from nimble_cradle.fit.linked_axle import GIVES, AxleFound, axles_found
from nimble_cradle.fit.pivots import pivots_of
from nimble_cradle.fit.real_shaft import outer_joint_at_lock
from nimble_cradle.fit.steering import BothLocked, LockFound, both_locked, locks_found, steered_paths
from nimble_cradle.fit.suspension import CornerFound, Curves, corners_found
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.suspension import Corner, LinkedAxle
from nimble_cradle.judge.guard import problem_of

SIDES_UNLIKE = 1.0
"""Both sides may be moved unlike by so much, mm (common practice, no source)."""
SAME_AXLE = 200.0
"""Wheels so near to one another along the car are of one axle, mm."""
SUSPENSION_LEFT_OUT = (
    "Rigid arms on pivots without play, straight ahead but where lock is named; rubber, tyres and springs are"
    " not in it. Toe in and camber with its top out are positive. The doubt is what the points are good to."
)
NEAR_DEAD = 20.0
"""A rod that comes nearer to the line of its arm than so many degrees may go over its dead point under load
(common practice, no source)."""
TURNS_UNLIKE = 2.0
"""A wheel that turns by so many degrees less at its lock than before what was moved is asked about (common
practice, no source)."""


def suspension_questions(job: Job) -> tuple[Problem, ...]:
    """What is open about it, in sentences."""
    out: list[Problem] = []
    for found in chain(corners_found(job), axles_found(job)):
        if isinstance(found, JobError):
            out.append(problem_of("chassis", found))
        elif isinstance(found, AxleFound):
            out += _of_axle(found)
        else:
            out += _of_corner(found)
            out += _of_sides(job, found)
    for lock in locks_found(job):
        if not isinstance(lock, JobError):  # said already
            out += _at_lock(job, lock)
    for one in job.suspensions:
        if one.measured == "guess":
            said = f"{one.name}: its points are guesses; measure them, for the wheel goes where they say."
            out.append(Problem("chassis", f"suspensions/{one.id}/measured", said))
    return tuple(out)


def steers_doubt(curves: Curves) -> float:
    """What the self-steer at ride is good to, degrees on 10 mm."""
    ride = int(np.argmin(np.abs(curves.up)))
    beside = [k for k in (ride - 1, ride + 1) if np.isfinite(curves.toe_doubt[k])]
    return max((10 * curves.toe_doubt[k] / abs(curves.up[k]) for k in beside), default=float("inf"))


def _of_corner(found: CornerFound) -> list[Problem]:
    out = []
    corner, now = found.corner, found.after
    place = f"suspensions/{corner.id}"
    if not now.whole:
        low, high = now.reach
        said = f"{corner.name}: its linkage topples over beyond {low:.0f} and {high:+.0f} mm from ride"
        out.append(Problem("chassis", f"{place}/wheel/at", f"{said}; look at its points."))
    doubt = steers_doubt(now)
    if abs(now.steers) > corner.most_steer_deg:
        was = f", {found.before.steers:+.2f} before" if found.moved else ""
        said = f"{corner.name} steers itself {now.steers:+.2f} deg on 10 mm of travel, \u00b1{doubt:.2f}{was}"
        limit = f"{corner.most_steer_deg:g} may be"
        out.append(Problem("chassis", f"{place}/rod_inner/moved", f"{said}; {limit}."))
    return out


def _at_lock(job: Job, found: LockFound) -> list[Problem]:
    """What is open about a wheel at lock."""
    corner, now = found.corner, found.after
    place = f"suspensions/{corner.id}/rack_travel_mm"
    if not now.whole:
        there = now.rack[np.isfinite(now.turns)]
        far = float(min(there.max(), -there.min()))
        said = f"{corner.name}: its rod goes over its dead point with the rack {far:.0f} mm to a side"
        return [
            Problem("chassis", place, f"{said}, before its {corner.rack_travel_mm:g}; look at its balls.")
        ]
    out = []
    if steered_paths(job).get(corner.id, (None, None))[1] is None:
        said = f"{corner.name}: it goes to lock at ride height, but not all through the wheel's travel"
        more = "look at its balls; what goes with the steering is looked at straight ahead only"
        out.append(Problem("chassis", place, f"{said}; {more}."))
    if now.nearest_dead < NEAR_DEAD:
        said = f"{corner.name}: at lock its rod is {now.nearest_dead:.0f} deg from the line of its arm"
        limit = f"{NEAR_DEAD:g} are wanted, or it may go over under load"
        out.append(Problem("chassis", place, f"{said}; {limit}."))
    for side, is_now, was in zip(("left", "right"), now.locks, found.before.locks, strict=True):
        if found.moved and is_now < was - TURNS_UNLIKE:
            said = f"{corner.name} turns {is_now:.1f} deg to the {side} at lock, {was:.1f} before"
            out.append(Problem("chassis", place, f"{said}; the car will not turn as tightly."))
    joint, limit_deg = outer_joint_at_lock(job, corner), job.joint_limits.half_shaft_lock_deg
    if joint is not None and joint > limit_deg:
        said = f"{corner.name}: the outer joint of its half-shaft reaches {joint:.1f} deg at lock"
        out.append(Problem("chassis", place, f"{said}, over the {limit_deg:g} that it may."))
    return out


def locks_words(found: LockFound) -> str:
    """How far a wheel turns, in a sentence."""
    now, was = found.after, found.before
    if not now.whole:
        return "At lock its rod goes over its dead point."
    old = ""
    if found.moved and any(abs(a - b) >= 0.05 for a, b in zip(now.locks, was.locks, strict=True)):
        old = f", {was.locks[0]:.1f} and {was.locks[1]:.1f} before"
    return f"At lock it turns {now.locks[0]:.1f} deg to the left and {now.locks[1]:.1f} to the right{old}."


def axle_at_lock(job: Job, found: LockFound) -> tuple[BothLocked, ...]:
    """A wheel and the one across from it at lock, to the left and to the right; none where the other is not
    known."""
    other = across_of(job, found.corner)
    every = [f for f in locks_found(job) if not isinstance(f, JobError)]
    theirs = next((f for f in every if other is not None and f.corner.id == other.id), None)
    if theirs is None:
        return ()
    return both_locked(job, found, theirs) if found.corner.side == "left" else both_locked(job, theirs, found)


def back_words(found: CornerFound) -> str:
    """What gives the old steering back, in a sentence; empty where nothing does or need be."""
    ways = [
        f"{word} {abs(by):.1f} mm {'up' if by > 0 else 'down'}"
        for word, by in (("the rack", found.rack_up), ("the rod's outer ball", found.ball_up))
        if by is not None and abs(by) >= 0.05
    ]
    return f" {' or '.join(ways).capitalize()} from where it is now gives that back." if ways else ""


def _of_sides(job: Job, found: CornerFound) -> list[Problem]:
    """What is moved on one side only."""
    corner = found.corner
    if not found.moved:
        return []
    place = f"suspensions/{corner.id}/wheel/moved"
    other = across_of(job, corner)
    if other is None:
        said = (
            f"{corner.name}: what is moved here is to be moved the same on the other side, or the car pulls"
        )
        return [Problem("chassis", place, f"{said}; the other side is not measured.")]
    theirs = pivots_of(other)
    for key, (word, pivot) in pivots_of(corner).items():
        x, y, z = theirs[key][1].moved
        off = float(np.abs(np.subtract(pivot.moved, (x, -y, z))).max())
        if off > SIDES_UNLIKE:
            said = f"{corner.name} and {other.name}: {word.lower()} is moved unlike by {off:.1f} mm"
            return [Problem("chassis", place, f"{said}; the car will pull to one side.")]
    return []


def across_of(job: Job, corner: Corner) -> Corner | None:
    """The wheel of the same axle on the other side."""
    for one in job.suspensions:
        if isinstance(one, LinkedAxle) or one.side == corner.side or one.kind != corner.kind:
            continue
        if abs(one.wheel.at[0] - corner.wheel.at[0]) < SAME_AXLE:
            return one
    return None


def _of_axle(found: AxleFound) -> list[Problem]:
    axle, now = found.axle, found.after
    place = f"suspensions/{axle.id}/left_wheel/at"
    out = []
    if not now.whole:
        said = f"{axle.name}: its links lock or topple within its travel"
        out.append(Problem("chassis", place, f"{said}; look at their eyes."))
    if now.forced > GIVES:
        said = f"{axle.name}: its links fight one another by {now.forced:.1f} mm over its travel"
        out.append(Problem("chassis", place, f"{said}; rubber gives about {GIVES:g}."))
    return out
