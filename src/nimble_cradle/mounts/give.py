"""How far what each bush stands on gives: its cheeks, and the crossmember under it."""

from __future__ import annotations

from contextlib import suppress

import numpy as np

from nimble_cradle.families.family import foot_family
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.made.foot_seats import foot_seats
from nimble_cradle.strength.beam import unit_response


@remembered("mounts", "items", "survey", "meshes", "crossmember")
def brackets_give(job: Job) -> dict[str, Array]:
    """By mount, (3, 3) mm/N in the vehicle frame: cheeks on their foot, and the crossmember where that
    carries it. Rails, plates and arms are taken for stiff. Never raises: what cannot be told is taken for
    stiff too, and said elsewhere."""
    feet, out = foot_seats(job), {}
    for mount in job.mounts:
        give = np.zeros((3, 3))
        seat = feet.of(mount.id)
        if mount.foot is not None and seat is not None:
            give = give + foot_family(mount.foot).give(mount, seat)
        cross = job.crossmember
        if cross is not None and cross.carries == mount.id:
            with suppress(JobError, ValueError):
                response = unit_response(
                    cross.points, cross.section, cross.ends, mount.bush.centre, cross.rail_n_per_mm
                )
                moved = response.moved[:3]
                give = give + (moved + moved.T) / 2
        out[mount.id] = give
    return out
