"""The eye of a bush: how it stands on a plate, its solid, a packing piece under it."""

from __future__ import annotations

import numpy as np

from nimble_cradle.families.arm_run import ArmRun, arm_run
from nimble_cradle.families.family import eye_of
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.mounts import Mount


def eye_spacing(mount: Mount) -> float:
    """Between the two welds of an eye that stands straight on its plate: half the eye's outside, mm."""
    return eye_of(mount.bush).outside_mm / 2


def eye_along(mount: Mount, run: ArmRun) -> Array | None:
    """The way (3,) of the welds of an eye that stands straight on its plate; None where it stands square
    on it."""
    normal, axis = run.axes[:, 2], np.asarray(mount.bush.axis, dtype=float)
    along = axis - axis @ normal * normal
    square = float(np.linalg.norm(along)) <= 1e-6 * float(np.linalg.norm(axis))
    return None if square else unit(along)


def eye_solid(mount: Mount) -> ConvexPart:
    """The outside of a mount's eye, in the vehicle frame."""
    bush = mount.bush
    eye = eye_of(bush)
    half = unit(bush.axis) * eye.length_mm / 2
    centre = np.asarray(bush.centre, dtype=float)
    return bar(centre - half, centre + half, eye.outside_mm)


def packing_heights(mount: Mount, pose: Pose) -> tuple[float, float] | None:
    """Height of a packing piece at both ends of an eye without an arm, mm, towards the back and the front
    of its axis; None without one. Raises JobError."""
    if mount.arm is not None or not mount.packing:
        return None
    run = arm_run(mount, pose)
    local = run.axes.T @ (np.asarray(mount.bush.centre, dtype=float) - run.root)
    axis = run.axes.T @ unit(mount.bush.axis)
    level = max(float(np.linalg.norm(axis[:2])), 1e-9)
    air = float(local[2]) - run.eye_radius / level
    tilt = float(axis[2]) / level * eye_of(mount.bush).length_mm / 2
    return max(air - tilt, 0.0), max(air + tilt, 0.0)
