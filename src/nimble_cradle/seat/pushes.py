"""Push the engine by hand until something stops it: checked with the engine running and the wheels moving,
as a seat is."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.links import links
from nimble_cradle.geometry.direction import WAY_VECTORS
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.judge.gaps import shaft_gaps
from nimble_cradle.motion.push import KEPT, Pushed, push, slide
from nimble_cradle.motion.seat_problem import LEVER, stand_at
from nimble_cradle.seat.seating import Seating, at_pose, seating_of
from nimble_cradle.seat.settled import exact_gaps, placed, taught
from nimble_cradle.units import Display, show
from nimble_cradle.workers import Say, quiet

MOST_MM = 400.0
"""Further than this no engine is pushed in one go, mm."""
_WAYS: dict[str, tuple[tuple[float, ...], float]] = {
    **{way: ((*vector, 0, 0, 0), MOST_MM) for way, vector in WAY_VECTORS.items()},
    "nose up": ((0, 0, 0, 0, -1, 0), 0),
    "nose down": ((0, 0, 0, 0, 1, 0), 0),
    "clock left": ((0, 0, 0, -1, 0, 0), 0),
    "clock right": ((0, 0, 0, 1, 0, 0), 0),
    "nose left": ((0, 0, 0, 0, 0, 1), 0),
    "nose right": ((0, 0, 0, 0, 0, -1), 0),
}
PUSHED_ON = 4
"""So often a push is looked at again where it stopped."""
MOST_TURN = 15.0
"""Farthest turn of a push, deg."""


@dataclass(frozen=True, eq=False)
class PushEnd:
    """The job after a push, in words and figures. stops: (piece or room, item) ids that stopped it; names
    of both; distance mm or degrees."""

    job: Job
    distance: float
    turned: bool
    stops: tuple[tuple[str, str], ...]
    names: tuple[str, ...]

    def words(self, way: str, display: Display) -> str:
        """``12.4 mm back, stopped by Turbocharger – Battery box``."""
        exact = Display(display.length)
        amount = show(self.distance, "angle") if self.turned else show(self.distance, "length", exact)
        if not self.names:
            return f"Pushed {amount} {way}; nothing stopped it."
        lead = (
            f"Does not go {way}"
            if self.distance < (0.005 if self.turned else 0.05)
            else f"Pushed {amount} {way}"
        )
        return f"{lead}: stopped by {', and '.join(self.names[:3])}."


def pushed(job: Job, way: str, sliding: bool = False, say: Say = quiet) -> PushEnd:
    """Push the powertrain one of the ways of _WAYS until something stops it. Raises JobError; ``say`` is
    told words and may raise to stop it."""
    vector, most = _WAYS[way]
    turned = most == 0
    direction = np.array(vector, dtype=float)
    start = pose_of(job.position)
    seating = seating_of(job)
    limit = np.radians(MOST_TURN) * LEVER if turned else most
    before = exact_gaps(seating, job, beyond=60.0)
    seating, _ = taught(seating, stand_at(seating.problem, start, 60.0), before, 2 * KEPT)
    go = slide if sliding and not turned else push
    found = go(seating.problem, start, direction, limit, told=lambda: say(f"Pushing {way}"))
    say("Checking every gap with the engine running")
    allowed = {(gap.piece, gap.item): min(gap.exact_margin, 0.0) for gap in (*before, *_shafts(job))}
    if go is push:
        found = _pushed_on(seating, job, found, direction, limit, allowed)
    found, last = _drawn_back(seating, job, start, found, allowed)
    named = dict(zip(seating.owners, seating.owner_names, strict=True))
    items = {column: seating.column_name(k) for k, column in enumerate(seating.columns)}
    met = {
        (seating.owners[a], seating.columns[b]): f"{named[seating.owners[a]]} – {items[seating.columns[b]]}"
        for a, b in found.stopped
    }
    if last is not None:  # the exact check drew it back to here
        met = {(last.piece, last.item): f"{last.piece_name} – {last.item_name}"}
    distance = float(np.degrees(found.travelled / LEVER)) if turned else found.travelled
    return PushEnd(placed(job, found.pose), distance, turned, tuple(met), tuple(met.values()))


def _shafts(job: Job) -> tuple[Gap, ...]:
    """Gaps of the shafts whose size somebody said, tightest first; none where they cannot be measured, which
    is told elsewhere."""
    with suppress(JobError):
        known = {link.id for link in links(job) if link.turns and not link.assumed}
        return tuple(gap for gap in shaft_gaps(job) if {gap.piece, gap.item} & known)
    return ()


def _pushed_on(
    seating: Seating,
    job: Job,
    found: Pushed,
    direction: Array,
    limit: float,
    allowed: dict[tuple[str, str], float],
) -> Pushed:
    """A push that stopped by how the engine swayed at its start, pushed on by how it sways where it stands
    now, until that brings nothing more."""
    given = {pair: -least for pair, least in allowed.items()}
    for _ in range(PUSHED_ON):
        there = placed(job, found.pose)
        here = at_pose(seating, there)
        stand = stand_at(here.problem, found.pose, 60.0)
        here, _ = taught(here, stand, exact_gaps(here, there, beyond=60.0), KEPT / 2, given)
        more = push(here.problem, found.pose, direction, limit - found.travelled)
        if more.travelled < KEPT:
            break
        found = Pushed(more.pose, found.travelled + more.travelled, more.stopped)
    return found


def _drawn_back(
    seating: Seating, job: Job, start: Pose, found: Pushed, allowed: dict[tuple[str, str], float]
) -> tuple[Pushed, Gap | None]:
    """A push taken back along its way until the exact check holds, and what stops it then: the engine sways
    differently where it stands now, and shafts are looked at only here. What lacked before it may lack as
    much, no more."""

    def at(share: float) -> Pose:
        turn = found.pose.rotation @ start.rotation.T
        angle = float(np.arccos(np.clip((np.trace(turn) - 1) / 2, -1.0, 1.0)))
        axis = np.array([turn[2, 1] - turn[1, 2], turn[0, 2] - turn[2, 0], turn[1, 0] - turn[0, 1]])
        size = float(np.linalg.norm(axis))
        centre = start.points(seating.problem.about)
        return start.moved(
            share * (found.pose.points(seating.problem.about) - centre),
            share * angle * axis / size if size > 1e-12 else np.zeros(3),
            centre,
        )

    def worst(share: float) -> tuple[float, Gap | None]:
        there = placed(job, at(share))
        least, tightest = np.inf, None
        for gap in (*exact_gaps(at_pose(seating, there), there), *_shafts(there)):
            margin = gap.exact_margin - allowed.get((gap.piece, gap.item), 0.0)
            if margin < least:
                least, tightest = margin, gap
        return least, tightest

    low, high = 0.0, 1.0
    lack, last = worst(1.0)
    if lack >= -KEPT or last is None:
        return found, None
    for _ in range(7):
        middle = (low + high) / 2
        here, other = worst(middle)
        if here >= -KEPT / 2:
            low = middle
        else:
            high, last = middle, other
    return Pushed(at(low), found.travelled * low, ()), last
