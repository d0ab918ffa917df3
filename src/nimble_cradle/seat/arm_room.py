"""Room for what is made anew for a place: an arm, an eye, a bracket that comes along.

A search does not know them, for an arm may be led otherwise. What lacks a little at the seat found is made
room for there, as for a shaft: measured exactly, with how it changes, and that side cut off.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from nimble_cradle.bay.position import position_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.made_gaps import engine_made_gaps, gaps_on_car, made_to_engine, together_gaps
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.gaps import made_gaps
from nimble_cradle.motion.descend import descend
from nimble_cradle.seat.seating import Seating, wish_of
from nimble_cradle.seat.settled import AIM, Settled, finished, with_mounts
from nimble_cradle.seat.shaft_room import Key, key_of, with_room_for
from nimble_cradle.workers import Say

ARMS_COST = 1.0
"""So many mm of the wish at most are given up for arms and eyes; what would cost more is told, and led
otherwise by the user (common practice, no source)."""
ARM_ROUNDS = 5
MOST_SHORT = 8.0
"""What lacks more, mm, is led otherwise than straight: it is told, and no room is made for it here."""
MADE_ANEW = (engine_made_gaps, made_to_engine, together_gaps)
"""What tells of gaps that change where parts are made anew."""


def short_of_arms(job: Job) -> tuple[Gap, ...]:
    """Gaps of what is made that lack where a job stands and change with the powertrain, tightest first.
    Raises JobError."""
    fixed = {key_of(g) for g in gaps_on_car(job)} if wish_of(job).made == "stays" else set()
    return tuple(g for g in made_gaps(job) if g.margin < 0 and key_of(g) not in fixed)


def cut_for_arms(seating: Seating, before: Job, job: Job, rows: Sequence[Gap], aim: float) -> Seating:
    """The problem with every place cut off where one of those gaps would lack. before: the job that mounts
    come along from. Raises JobError."""

    wanted = {key_of(g) for g in rows}
    telling = [tell for tell in MADE_ANEW if wanted & {key_of(g) for g in tell(job)}]

    def margins(there: Job, pose: Pose, only: Sequence[Key]) -> dict[Key, float]:
        """Of parts made anew at another pose."""
        there = with_mounts(before, with_value(there, "position", position_of(pose, there.position.pivot)))
        told = [gap for tell in telling for gap in tell(there)]
        return {key_of(g): g.margin_at_rest for g in told if key_of(g) in only}

    return with_room_for(seating, job, rows, aim, measure=margins)


def with_arms(best: Settled, job: Job, say: Say) -> Settled:
    """The seat moved on until what is made anew there has room, where that costs no more than ARMS_COST."""
    here, names = best, dict[str, None]()
    for _ in range(ARM_ROUNDS):
        try:
            rows = [row for row in short_of_arms(here.job) if row.exact_margin >= -MOST_SHORT]
            if not rows:
                return replace(here, for_arms=tuple(names), bare=best) if names else here
            names |= {f"{row.piece_name} – {row.item_name}": None for row in rows}
            say("Making room for what is made anew")
            seating = cut_for_arms(here.seating, job, here.job, rows, 4 * AIM)
        except JobError:  # what cannot be made there is told
            return best
        here = finished(seating, job, descend(seating.problem, here.stand.pose, trust=4.0), say)
        if not here.ok or here.cost > best.cost + ARMS_COST:
            return best
    return best
