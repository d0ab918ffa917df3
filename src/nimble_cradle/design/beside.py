"""Places beside what is there for something new."""

from __future__ import annotations

from typing import Literal

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, powertrain_bodies, solid_of
from nimble_cradle.bay.position import pose_of
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.edits import value_at
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.twins import twin


def beside(job: Job, where: Literal["items", "powertrain/pieces"]) -> Vec3:
    """A place for something new, mm: to the left of everything that is there of its kind, level with the
    engine; vehicle frame for items, powertrain frame for pieces."""
    try:
        if where == "items":
            at, bodies = pose_of(job.position).translation, bay_bodies(job)
        else:
            at, bodies = np.zeros(3), powertrain_bodies(job)
        centres, halves = bodies.boxes(Pose.still())
        left = float((centres + halves)[:, 1].max(initial=0.0))
    except JobError:
        return 0.0, 1200.0, 0.0
    return round(float(at[0])), round(min(left, 3000.0) + 120.0), round(float(at[2]))


def duplicated(job: Job, path: str) -> tuple[Job, str]:
    """The job with a second of the item, piece or mount at ``path`` beside the first, and its id. Raises
    JobError."""
    where, one = path.rpartition("/")[0], value_at(job, path)
    by: Vec3 = (-120.0, 0.0, 0.0)
    if not isinstance(one, Mount):
        parts = solid_of(one, job.meshes, where)
        across = (
            np.ptp(np.vstack([part.triangles[0] for part in parts]), axis=0) if parts else np.full(3, 100.0)
        )
        by = (0.0, float(round(across[1])) + 20.0, 0.0)
    return twin(job, path, mirror=False, by=by)
