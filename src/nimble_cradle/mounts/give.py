"""How far what holds each bush gives on both its sides: plate and arm; cheeks, the host's wall, and the
crossmember."""

from __future__ import annotations

from contextlib import suppress

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.arm_give import arm_give
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.family import foot_family
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.job.base import JobError
from nimble_cradle.job.cradle import Cradle
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.remember import remembered
from nimble_cradle.made.foot_seats import foot_seats
from nimble_cradle.mounts.cradles import cradle_give
from nimble_cradle.mounts.springs import Gives
from nimble_cradle.strength.beam import axis_of, unit_response


def brackets_give(job: Job) -> Gives:
    """mm/N in the vehicle frame: plate and arm; cheeks, the wall under their foot, and the crossmember or the
    cradle that carries them. Rails as a whole are taken for stiff. Never raises: what cannot be told is taken
    for stiff too, and said elsewhere."""
    stands, out = _stands_give(job), {}
    pose = pose_of(job.position)
    for mount in job.mounts:
        give = stands.own[mount.id]
        with suppress(JobError, ValueError):
            give = give + arm_give(mount, arm_run(mount, pose))
        out[mount.id] = give
    return Gives(out, stands.beside)


@remembered("mounts", "items", "survey", "meshes", "crossmember", "cradles", "openings")
def _stands_give(job: Job) -> Gives:
    """The same of what stands still: it does not go with the engine."""
    feet, out, beside = foot_seats(job), {}, {}
    for mount in job.mounts:
        give = np.zeros((3, 3))
        seat = feet.of(mount.id)
        if mount.foot is not None and seat is not None:
            give = give + foot_family(mount.foot).give(mount, seat)
        cross = job.crossmember
        if cross is not None and cross.carries == mount.id:
            with suppress(JobError, ValueError):
                response = unit_response(
                    axis_of(cross), cross.section, cross.ends, mount.bush.centre, cross.rail_n_per_mm
                )
                moved = response.moved[:3]
                give = give + (moved + moved.T) / 2
        out[mount.id] = give
    for cradle in job.cradles:
        rows = standing_on(job, cradle)
        with suppress(JobError, ValueError):
            give = cradle_give(cradle, rows)
            for k, (mount, _) in enumerate(rows):
                out[mount.id] = out[mount.id] + give[k, k]
                others = {other.id: give[k, j] for j, (other, _) in enumerate(rows) if j != k}
                if others:
                    beside[mount.id] = others
    return Gives(out, beside)


def standing_on(job: Job, cradle: Cradle) -> list[tuple[Mount, FootSeat]]:
    """The mounts that stand on a cradle, with their seats, in the job's order."""
    feet = foot_seats(job)
    rows = [(m, feet.of(m.id)) for m in job.mounts if m.foot is not None and m.foot.host == cradle.id]
    return [(mount, seat) for mount, seat in rows if seat is not None]
