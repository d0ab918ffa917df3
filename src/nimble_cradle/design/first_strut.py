"""A first torque strut, to be set right, and its bracket on the chassis."""

from __future__ import annotations

from typing import Literal

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.design.first_foot import first_foot
from nimble_cradle.families.strut_stand import on_chassis, told_of
from nimble_cradle.geometry.pose import cross
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.edits import added, free_id, with_value
from nimble_cradle.job.foot import PlateFoot, TabsFoot
from nimble_cradle.job.job import Job
from nimble_cradle.job.strut import Strut

BracketKind = Literal["plate", "tabs"]

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


def with_bracket(job: Job, strut: Strut, kind: BracketKind | None) -> Job:
    """The job with another kind of bracket under a strut's end on the chassis, its bolt level and square to
    the rod as it stands, on the nearest face of the chassis where it had none; None takes it away. Raises
    JobError."""
    base = f"struts/{strut.id}"
    if kind is None:
        return with_value(job, f"{base}/bracket", None)
    old = strut.bracket
    if old is None:
        way = _square_to(job, strut)
        strut = strut.model_copy(update={"bolt_way": way})
        job = with_value(job, f"{base}/bolt_way", way)
        try:
            old = first_foot(job, on_chassis(strut))
        except JobError as error:
            raise told_of(strut, error) from None
    kept = {"host": old.host, "way": old.way, "shift": old.shift}
    wide = {"cheek_foot_mm": old.cheek_foot_mm, "weld_inside": old.weld_inside}
    if kind == "tabs" and not isinstance(old, TabsFoot):
        old = TabsFoot(**kept, **wide)
    elif kind == "plate" and not isinstance(old, PlateFoot):
        old = PlateFoot(**kept, **wide)
    return with_value(job, f"{base}/bracket", old)


def _square_to(job: Job, strut: Strut) -> Vec3:
    """Level and square to a strut as it stands; along the car where it stands upright."""
    run = pose_of(job.position).points(strut.engine_at) - np.asarray(strut.chassis_at, dtype=float)
    way = cross(run, np.array([0.0, 0.0, 1.0]))
    size = float(np.linalg.norm(way))
    if size < 1.0:
        return (1.0, 0.0, 0.0)
    x, y, _ = (round(float(v) / size, 6) for v in way)
    return (x, y, 0.0)
