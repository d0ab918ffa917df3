"""Mounts and crossmember that come along with the powertrain: each bush slides along what it stands on, the
crossmember goes along the rails and up or down with the gearbox; the arms are made anew for the place."""

from __future__ import annotations

import numpy as np

from nimble_cradle.bay.bodies import solid_of, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.foot import CROSSMEMBER
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.made.cradle import tube_ends


def brought_along(before: Job, after: Job) -> Job:
    """``after``, in which the powertrain stands elsewhere than in ``before``, with the mounts and the
    crossmember of ``before`` brought along. Raises JobError."""
    mounts, cross = [], before.crossmember
    for mount in before.mounts:
        step = _step(before, after, mount)
        centre = np.asarray(mount.bush.centre, dtype=float) + slide_of(before, mount) @ step
        bush = mount.bush.model_copy(update={"centre": _rounded(centre)})
        mounts.append(mount.model_copy(update={"bush": bush}))
        if cross is not None and before.crossmember is not None and mount.id == before.crossmember.carries:
            shift = step * [1.0, 0.0, 1.0]
            points = tuple(_rounded(np.asarray(p, dtype=float) + shift) for p in before.crossmember.points)
            cross = before.crossmember.model_copy(update={"points": points})
    return after.model_copy(update={"mounts": tuple(mounts), "crossmember": cross})


def _step(before: Job, after: Job, mount: Mount) -> Array:
    """How far a mount's pad has gone, (3,) mm."""
    one, two = pose_of(before.position), pose_of(after.position)
    return two.points(mount.pad.centre) - one.points(mount.pad.centre)


def slide_of(job: Job, mount: Mount) -> Array:
    """(3, 3): what of a step of its pad a bush makes on what it stands on. Raises JobError."""
    if mount.foot is None or mount.foot.host == CROSSMEMBER:
        return np.eye(3)
    way = _long_way(job, mount)
    return np.outer(way, way)


def _long_way(job: Job, mount: Mount) -> Array:
    """Which way (3,) what a mount stands on is long."""
    assert mount.foot is not None
    key = mount.foot.host
    for cradle in job.cradles:
        if cradle.id == key:
            bush = np.asarray(mount.bush.centre, dtype=float)
            ends = [np.asarray(tube_ends(cradle, tube), dtype=float) for tube in cradle.tubes]
            a, b = min(ends, key=lambda e: float(np.linalg.norm(bush - e.mean(0))))
            return np.asarray((b - a) / np.linalg.norm(b - a))
    item = next((item for item in standing_items(job) if item.id == key), None)
    if item is None:
        raise JobError(f"{mount.name} stands on nothing that is there.", f"mounts/{mount.id}/foot/host")
    points = np.vstack([part.triangles[0] for part in solid_of(item, job.meshes, "items")])
    _, _, axes = np.linalg.svd(points - points.mean(0), full_matrices=False)
    return np.asarray(axes[0])


def _rounded(point: Array) -> Vec3:
    x, y, z = (round(float(c), 2) for c in point)
    return x, y, z
