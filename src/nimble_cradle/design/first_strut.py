"""A first torque strut, to be set right."""

from __future__ import annotations

from nimble_cradle.bay.position import pose_of
from nimble_cradle.job.edits import added, free_id
from nimble_cradle.job.job import Job
from nimble_cradle.job.strut import Strut

ABOVE, LONG = 250.0, 260.0
"""A first strut stands so far above the crank, and is so long across the car, mm: to be typed over."""


def with_strut(job: Job) -> Job:
    """The job with one more torque strut, high on the engine and across the crank."""
    key = free_id("strut", {mount.id for mount in job.mounts} | {strut.id for strut in job.struts})
    on_engine = (100.0, 0.0, ABOVE)
    pose = pose_of(job.position)
    x, y, z = (round(float(c), 1) for c in pose.points(on_engine) + pose.rotation[:, 1] * LONG)
    strut = Strut(id=key, name="Torque strut", engine_at=on_engine, chassis_at=(x, y, z))
    return added(job, "struts", strut)
