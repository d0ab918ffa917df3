"""A first crossmember to begin from, and its bends."""

from __future__ import annotations

import numpy as np

from nimble_cradle.families.family import eye_of
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.stock.rack import NOTHING, Rack, nearest_tube, section_of
from nimble_cradle.stock.tubes import stock


def first_crossmember(job: Job, rack: Rack = NOTHING) -> Crossmember:
    """A straight tube just under the gearbox mount's eye, 400 mm to each side: square 50 x 3, or the nearest
    at hand. Raises JobError without a gearbox mount."""
    mount = next((m for m in job.mounts if m.carries == "gearbox"), None)
    if mount is None:
        raise JobError("There is no gearbox mount yet for it to carry; add that on Mounts first.", "mounts")
    x, _, z = mount.bush.centre
    low = z - eye_of(mount.bush).outside_mm / 2 - 30
    tube = nearest_tube(rack, "square", 50.0, 3.0)
    section = section_of(tube) if tube is not None else stock()["square 50x50x3"]
    return Crossmember(
        points=((x, 400.0, low), (x, -400.0, low)),
        section=section,
        steel=tube.steel if tube is not None else "S235",
        carries=mount.id,
    )


def with_bend(job: Job) -> Job:
    """The job with one more bend in its crossmember, in the middle of its longest stretch. Raises
    JobError."""
    cross = job.crossmember
    if cross is None:
        raise JobError("There is no crossmember yet.", "crossmember")
    points = np.array(cross.points)
    k = int(np.linalg.norm(np.diff(points, axis=0), axis=1).argmax())
    x, y, z = (round(float(c), 1) for c in (points[k] + points[k + 1]) / 2)
    return with_value(job, "crossmember/points", (*cross.points[: k + 1], (x, y, z), *cross.points[k + 1 :]))


def without_bend(job: Job, k: int) -> Job:
    """The job without bend ``k`` (1 is the first from the left) of its crossmember. Raises JobError."""
    cross = job.crossmember
    if cross is None or not 0 < k < len(cross.points) - 1:
        raise JobError("There is no such bend.", "crossmember/points")
    return with_value(job, "crossmember/points", (*cross.points[:k], *cross.points[k + 1 :]))
