"""A half-shaft with its outer joint on the real path of its wheel: angle and plunge, before and after pivots
are moved."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.steering import joint_angle, steered_paths
from nimble_cradle.fit.suspension import checked, corner_linkage, heights, hub, places_of
from nimble_cradle.geometry.linkage import moved_through
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.suspension import Corner

SAME_WHEEL = 350.0
"""An outer joint is of a wheel whose middle is within so many mm along the car."""


@dataclass(frozen=True)
class RealShaft:
    """ride, most: degrees off straight across at ride and at the worst of the travel; plunge: mm from its
    shortest to its longest, straight ahead. lock: degrees between the shaft and its wheel's axis at the worst
    of travel and lock; None where the rack's travel is not said, or the wheel does not get there."""

    ride: float
    most: float
    plunge: float
    lock: float | None = None


def real_shaft(job: Job, corner: Corner) -> tuple[RealShaft, RealShaft] | None:
    """A wheel's half-shaft before and after; None where it drives none. The outer joint goes with the
    upright. Raises JobError where the linkage is none or topples within its travel."""
    seats, hubs = job.powertrain.gearbox.seats, job.vehicle.hubs
    if not _drives(job, corner) or seats is None or hubs is None:
        return None
    k = 0 if corner.side == "left" else 1
    inner = np.asarray(pose_of(job.position).points(seats[k]))
    up = heights(job)[:, None]
    out = []
    moves = (0.0, 0.0, 0.0), corner.wheel.moved
    for points, by, lock in zip(places_of(job, corner), moves, _joints_at_lock(job, corner), strict=True):
        checked(corner, points)
        places = moved_through(corner_linkage(corner, points), up)
        if not places.met.all():
            raise JobError(
                f"{corner.name}: its linkage topples within its travel.", f"suspensions/{corner.id}"
            )
        outer = np.add(hubs[k], by)[None]
        run = places.points(outer)[0] - inner
        angle = np.degrees(np.arctan2(np.hypot(run[:, 0], run[:, 2]), np.abs(run[:, 1])))
        long = np.linalg.norm(run, axis=1)
        ride = int(np.argmin(np.abs(up)))
        out.append(RealShaft(float(angle[ride]), float(angle.max()), float(np.ptp(long)), lock))
    return out[0], out[1]


def outer_joint_at_lock(job: Job, corner: Corner) -> float | None:
    """The most that a wheel's outer joint works at over all its travel and lock as it is after what is moved,
    degrees; None where it drives none, or that is not known."""
    return _joints_at_lock(job, corner)[1]


def _joints_at_lock(job: Job, corner: Corner) -> tuple[float | None, float | None]:
    """The same before and after."""
    seats, hubs = job.powertrain.gearbox.seats, job.vehicle.hubs
    k = 0 if corner.side == "left" else 1
    paths = steered_paths(job).get(corner.id, (None, None))
    if not _drives(job, corner) or seats is None or hubs is None:
        return None, None
    inner = np.asarray(pose_of(job.position).points(seats[k]))
    out: list[float | None] = []
    for path, by in zip(paths, ((0.0, 0.0, 0.0), corner.wheel.moved), strict=True):
        if path is None:
            out.append(None)
            continue
        at, faces = path.through(np.add(hubs[k], by), hub(corner)[1])
        out.append(float(joint_angle(at - inner, faces).max()))
    return out[0], out[1]


def _drives(job: Job, corner: Corner) -> bool:
    """Whether a half-shaft goes to a wheel."""
    hubs = job.vehicle.hubs
    if job.powertrain.gearbox.kind != "transaxle" or job.powertrain.gearbox.seats is None or hubs is None:
        return False
    k = 0 if corner.side == "left" else 1
    return abs(hubs[k][0] - corner.wheel.at[0]) <= SAME_WHEEL
