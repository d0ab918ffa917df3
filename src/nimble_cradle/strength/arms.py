"""Where an arm runs: from the plate's root to the bush eye, for the powertrain at a pose. Vehicle frame, mm."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose, frame, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount


@dataclass(frozen=True, eq=False)
class ArmRun:
    """An arm's axis. root: (3,) on the plate's outer face; aim: (3,) on the eye's axis side, past it by the offset; way: (3,) unit.

    length: root to aim. axes: (3, 3) columns u, v, normal of the pad. eye_angle_deg: between arm and eye axis, 90 is square.
    plate_angle_deg: between arm and the plate's normal, 0 is square on.
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
    """The arm of a mount, or for a mount without one the line from plate to bush. Raises JobError where it cannot be."""
    pad, bush = mount.pad, mount.bush
    axes = pose.rotation @ frame(pad.normal, pad.up)
    centre = pose.points(pad.centre)
    root = centre + axes @ np.array([pad.arm_at[0], pad.arm_at[1], pad.plate_mm])
    eye = np.asarray(bush.centre, dtype=float)
    axis = unit(bush.axis)
    eye_radius = bush.eye_bore_mm / 2 + bush.eye_wall_mm
    line = eye - root
    if np.linalg.norm(line) < eye_radius:
        raise JobError(f"{mount.name}: the bush eye stands in the plate; move the bush away from the block.", f"mounts/{mount.id}/bush/centre")
    aim = eye
    if mount.arm is not None and mount.arm.offset_mm:
        across = np.cross(axis, line)
        if np.linalg.norm(across) < 1e-6:
            raise JobError(f"{mount.name}: the arm runs along the bush's axis; turn the bush.", f"mounts/{mount.id}/bush/axis")
        aim = eye + mount.arm.offset_mm * unit(across)
    line = aim - root
    length = float(np.linalg.norm(line))
    way = line / length
    eye_angle = math.degrees(math.acos(min(1.0, abs(float(way @ axis)))))
    plate_angle = math.degrees(math.acos(float(np.clip(way @ axes[:, 2], -1.0, 1.0))))
    if mount.arm is not None:
        if eye_angle < 25:
            raise JobError(f"{mount.name}: the arm meets the bush at {eye_angle:.0f} deg to its axis and would peel it; turn the bush "
                           "across the arm.", f"mounts/{mount.id}/bush/axis")
        if plate_angle > 75:
            raise JobError(f"{mount.name}: the arm leaves the plate at {plate_angle:.0f} deg from square and cannot be welded; move the "
                           "bush or the arm's root.", f"mounts/{mount.id}/pad/arm_at")
    return ArmRun(root, aim, way, length, axes, centre, eye_radius, eye_angle, plate_angle)
