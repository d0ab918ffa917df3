"""Where an arm runs: from the plate's root to the bush eye, for the powertrain at a pose. Vehicle frame,
mm."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.families.family import eye_of
from nimble_cradle.geometry.pose import Array, Pose, cross, frame, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount

TOUCHES = 0.05
"""An eye that stands in its plate by no more than so many mm, as rounded figures leave it, touches it."""
MOST_SLOPE, LEAST_EYE_ANGLE = 60.0, 30.0
"""Degrees off square at the plate beyond which a fillet round the tube is none, and between arm and eye
axis under which it peels the eye (EN 1993-1-8:2005, 4.3.2.1 and 7.1.2, from memory)."""


@dataclass(frozen=True, eq=False)
class ArmRun:
    """An arm's axis. root: (3,) on the plate's outer face; aim: (3,) where it comes nearest the eye's axis,
    past it by the offset; way: (3,) unit.

    length: root to aim. axes: (3, 3) columns u, v, normal of the pad. eye_angle_deg: between arm and eye
    axis, 90 is square. plate_angle_deg: between arm and the plate's normal, 0 is square on.
    """

    root: Array
    aim: Array
    way: Array
    length: float
    axes: Array
    pad_centre: Array
    eye_radius: float
    eye_angle_deg: float
    plate_angle_deg: float


def arm_run(mount: Mount, pose: Pose) -> ArmRun:
    """The arm of a mount, or for a mount without one the line from plate to bush. Raises JobError where it
    cannot be."""
    pad, bush = mount.pad, mount.bush
    axes = pose.rotation @ frame(pad.normal, pad.up)
    centre = pose.points(pad.centre)
    root = centre + axes @ np.array([pad.arm_at[0], pad.arm_at[1], pad.plate_mm])
    eye = np.asarray(bush.centre, dtype=float)
    axis = unit(bush.axis)
    eye_radius = eye_of(bush).outside_mm / 2
    line = eye - root
    if np.linalg.norm(line) < eye_radius - TOUCHES:
        raise JobError(
            f"{mount.name}: the bush eye stands in the plate; move the bush away from the block.",
            f"mounts/{mount.id}/bush/centre",
        )
    aim = eye
    if mount.arm is not None and mount.arm.offset_mm:
        aim = eye + mount.arm.offset_mm * _past(line, axis, mount)
    line = aim - root
    length = float(np.linalg.norm(line))
    way = line / length
    eye_angle = math.degrees(math.acos(min(1.0, abs(float(way @ axis)))))
    plate_angle = math.degrees(math.acos(float(np.clip(way @ axes[:, 2], -1.0, 1.0))))
    if mount.arm is not None:
        if eye_angle < LEAST_EYE_ANGLE:
            raise JobError(
                f"{mount.name}: the arm meets the bush at {eye_angle:.0f} deg to its axis and would peel it;"
                " turn the bush across the arm.",
                f"mounts/{mount.id}/bush/axis",
            )
        if plate_angle > MOST_SLOPE:
            raise JobError(
                f"{mount.name}: the arm leaves the plate at {plate_angle:.0f} deg from square and cannot be"
                " welded; move the bush or the arm's root.",
                f"mounts/{mount.id}/pad/arm_at",
            )
    return ArmRun(root, aim, way, length, axes, centre, eye_radius, eye_angle, plate_angle)


def _past(line: Array, axis: Array, mount: Mount) -> Array:
    """The way (3,) in which an arm passes its eye's axis: the common normal of arm and axis, on which the arm
    ends.

    Square to the axis and to the arm itself, which runs to where it ends: with rho the distance of the
    root from the axis and l the way from the root to it, way . l = -offset / rho.
    """
    assert mount.arm is not None
    level = line - (line @ axis) * axis
    rho = float(np.linalg.norm(level))
    if rho < 1e-6:
        raise JobError(
            f"{mount.name}: the arm runs along the bush's axis; turn the bush.",
            f"mounts/{mount.id}/bush/axis",
        )
    towards = -mount.arm.offset_mm / rho
    if abs(towards) >= 1:
        raise JobError(
            f"{mount.name}: the arm's offset is more than its length.", f"mounts/{mount.id}/arm/offset_mm"
        )
    return towards * level / rho + math.sqrt(1 - towards**2) * cross(axis, level / rho)
