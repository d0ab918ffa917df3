"""Where an arm runs: from the plate's root to the bush eye, for the powertrain at a pose. Vehicle frame,
mm."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from nimble_cradle.families.family import eye_of
from nimble_cradle.geometry.pose import Array, Pose, cross, frame, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.kinked_arm import KinkedArm
from nimble_cradle.job.mounts import Mount

TOUCHES = 0.05
"""An eye that stands in its plate by no more than so many mm, as rounded figures leave it, touches it."""
LEAST_LEG, MOST_TURN = 20.0, 60.0
"""A leg of a kinked arm is at least so long, mm, and the arm turns by at most so many degrees."""


@dataclass(frozen=True, eq=False)
class ArmRun:
    """An arm's axis, or its leg at the plate. root: (3,) on the plate's outer face; aim: (3,) where it comes
    nearest the eye's axis, past it by the offset, or where it is kinked; way: (3,) unit. last: the leg at the
    eye of one that is kinked, from the kink, its plate_angle_deg half of what it turns by.

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
    last: ArmRun | None = None

    @property
    def at_eye(self) -> ArmRun:
        """The leg that meets the eye: this one, or the one after the kink."""
        return self if self.last is None else self.last

    @property
    def kink_deg(self) -> float:
        """How far it turns at its kink, degrees; nought of a straight one."""
        return 0.0 if self.last is None else 2 * self.last.plate_angle_deg


def arm_run(mount: Mount, pose: Pose) -> ArmRun:
    """The arm of a mount, or for a mount without one the line from plate to bush. Raises JobError where it
    cannot be."""
    pad, bush = mount.pad, mount.bush
    axes = pose.rotation @ frame(pad.normal, pad.up)
    centre = pose.points(pad.centre)
    root = centre + axes @ np.array([pad.arm_at[0], pad.arm_at[1], pad.out_mm])
    eye = np.asarray(bush.centre, dtype=float)
    axis = unit(bush.axis)
    eye_radius = eye_of(bush).outside_mm / 2
    line = eye - root
    if np.linalg.norm(line) < eye_radius - TOUCHES:
        raise JobError(
            f"{mount.name}: the bush eye stands in the plate; move the bush away from the block.",
            f"mounts/{mount.id}/bush/centre",
        )
    if isinstance(mount.arm, KinkedArm):
        return _kinked(mount, mount.arm, pose, axes, centre, root)
    aim = _aim(mount, root, eye, axis)
    leg = _Leg.of(root, aim, axis)
    plate_angle = math.degrees(math.acos(float(np.clip(leg.way @ axes[:, 2], -1.0, 1.0))))
    if mount.arm is not None:
        _meets_eye(mount, leg.eye_angle_deg)
        _leaves_plate(mount, plate_angle)
    return ArmRun(root, aim, leg.way, leg.length, axes, centre, eye_radius, leg.eye_angle_deg, plate_angle)


class _Leg(NamedTuple):
    """A straight leg: its way (3,), its length, and its angle with the eye's axis."""

    way: Array
    length: float
    eye_angle_deg: float

    @classmethod
    def of(cls, start: Array, end: Array, axis: Array) -> _Leg:
        line = end - start
        length = float(np.linalg.norm(line))
        way = line / length
        return cls(way, length, math.degrees(math.acos(min(1.0, abs(float(way @ axis))))))


def _aim(mount: Mount, start: Array, eye: Array, axis: Array) -> Array:
    """Where an arm that comes from ``start`` ends: on the eye's axis or past it."""
    if mount.arm is None or not mount.arm.offset_mm:
        return eye
    return np.asarray(eye + mount.arm.offset_mm * _past(eye - start, axis, mount))


def _meets_eye(mount: Mount, angle: float) -> None:
    assert mount.arm is not None
    if angle < mount.arm.least_eye_deg:
        raise JobError(
            f"{mount.name}: the arm meets the bush at {angle:.0f} deg to its axis and would peel it; turn the"
            " bush across the arm.",
            f"mounts/{mount.id}/bush/axis",
        )


def _leaves_plate(mount: Mount, angle: float) -> None:
    assert mount.arm is not None
    if angle > mount.arm.most_slope_deg:
        raise JobError(
            f"{mount.name}: the arm leaves the plate at {angle:.0f} deg from square and cannot be"
            " welded; move the bush or the arm's root.",
            f"mounts/{mount.id}/pad/arm_at",
        )


def _kinked(mount: Mount, arm: KinkedArm, pose: Pose, axes: Array, centre: Array, root: Array) -> ArmRun:
    """Both legs of a kinked arm. Raises JobError where a leg is too short or it turns back."""
    kink, eye = pose.points(arm.kink), np.asarray(mount.bush.centre, dtype=float)
    axis, eye_radius = unit(mount.bush.axis), eye_of(mount.bush).outside_mm / 2
    place = f"mounts/{mount.id}/arm/kink"
    if np.linalg.norm(kink - root) < LEAST_LEG or np.linalg.norm(eye - kink) < eye_radius + LEAST_LEG:
        raise JobError(
            f"{mount.name}: a leg of its arm is too short; move the kink away from plate and eye.", place
        )
    first = _Leg.of(root, kink, axis)
    aim = _aim(mount, kink, eye, axis)
    last = _Leg.of(kink, aim, axis)
    turn = math.degrees(math.acos(float(np.clip(first.way @ last.way, -1.0, 1.0))))
    if turn > MOST_TURN:
        raise JobError(f"{mount.name}: its arm turns by {turn:.0f} deg at its kink; move the kink.", place)
    plate_angle = math.degrees(math.acos(float(np.clip(first.way @ axes[:, 2], -1.0, 1.0))))
    _leaves_plate(mount, plate_angle)
    _meets_eye(mount, last.eye_angle_deg)
    at_eye = ArmRun(kink, aim, last.way, last.length, axes, centre, eye_radius, last.eye_angle_deg, turn / 2)
    return ArmRun(
        root, kink, first.way, first.length, axes, centre, eye_radius, last.eye_angle_deg, plate_angle, at_eye
    )


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
