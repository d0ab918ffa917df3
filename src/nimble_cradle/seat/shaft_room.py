"""Room for the shafts in a search: a shaft that would lack where a seat was found cuts that place off.

How much room a shaft has is measured exactly, and how that changes with each move and turn of the engine;
the search then keeps to the side of that plane on which there is enough, and it is measured again where it
comes to.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

import numpy as np

from nimble_cradle.bay.position import pose_of, position_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.link_gaps import link_gaps
from nimble_cradle.fit.links import links
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.judge.gaps import shaft_gaps
from nimble_cradle.motion.aims import Cut, cut_off
from nimble_cradle.motion.seat_problem import LEVER, moved_by
from nimble_cradle.seat.seating import Seating, wish_of

STEP = 0.5
"""Moves and turns (mm at LEVER) by which it is measured how a shaft's room changes."""
Key = tuple[str, str]
Measure = Callable[[Job, Pose, Sequence[Key]], dict[Key, float]]
"""Margins mm at rest of some pairs, with a job's powertrain at another pose."""


def short_of_room(job: Job) -> tuple[Gap, ...]:
    """Gaps of shafts that lack in a job whose wish keeps the driveline's limits, tightest first; a shaft
    whose size nobody said is left out, and told. Raises JobError."""
    if not wish_of(job).joints:
        return ()
    known = {link.id for link in links(job) if link.turns and not link.assumed}
    stays = wish_of(job).made == "stays"

    def counts(gap: Gap) -> bool:
        """What comes along is made anew, and may be made otherwise."""
        others = {gap.piece, gap.item} - known
        return len(others) == 1 and (stays or "." not in others.pop())

    return tuple(g for g in shaft_gaps(job) if g.margin < 0 and counts(g))


def with_room_for(
    seating: Seating,
    job: Job,
    rows: Sequence[Gap],
    aim: float,
    given: Mapping[Key, float] | None = None,
    measure: Measure | None = None,
) -> Seating:
    """The problem with every place cut off where one of those gaps would lack, as far as can be told from
    where the job stands. aim: mm to be kept to spare; given: mm that some of them may lack; measure: how they
    are measured elsewhere, as shafts are where it is left out. Raises JobError."""
    problem, rest, measured = seating.problem, pose_of(job.position), measure or _at_rest
    keys = tuple(key_of(g) for g in rows)
    still = measured(job, rest, keys)
    slopes = np.zeros((len(keys), 6))
    for k in range(6):
        step = np.zeros(6)
        step[k] = STEP
        there = measured(job, moved_by(problem, rest, step), keys)
        slopes[:, k] = [
            (there[key] - still[key]) / STEP if key in there and key in still else 0.0 for key in keys
        ]
    cuts = [
        Cut(
            f"{g.piece_name} – {g.item_name}",
            rest,
            g.exact_margin,
            slopes[n],
            aim - (given or {}).get(key_of(g), 0.0),
            key_of(g),
        )
        for n, g in enumerate(rows)
        if np.abs(slopes[n]).max() > 1e-3
    ]
    return replace(seating, problem=replace(problem, aims=cut_off(problem.aims, cuts, problem.about, LEVER)))


def key_of(gap: Gap) -> Key:
    """The pair that a gap is between."""
    return gap.piece, gap.item


def _at_rest(job: Job, pose: Pose, only: Sequence[Key]) -> dict[Key, float]:
    """Margins at rest, through the wheels' travel, with the powertrain at another pose: how they change
    there is how they change in every case."""
    there = with_value(job, "position", position_of(pose, job.position.pivot))
    return {key_of(g): g.margin_at_rest for g in link_gaps(there, (), only)}
