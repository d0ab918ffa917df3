"""Both ends of an arm: the cope at the eye, the mitre at the plate."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.families.arm_run import ArmRun, arm_run
from nimble_cradle.geometry.cope import cope, mitre
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.geometry.pose import cross as vector_product
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.tube_arm import Tube


@dataclass(frozen=True, eq=False)
class ArmCut:
    """Both ends of an arm. cope, mitre: (n, 2) round and depth, mm, both beginning at one line along the
    tube: the one that faces ``zero`` ((3,), vehicle frame, square to the tube; upwards where that can be).
    Each runs anticlockwise as seen from its own cut end. long_mm: the tube from long point to long point.
    """

    cope: Array
    mitre: Array
    zero: Array
    long_mm: float
    run: ArmRun

    def line(self, angle: float, at_plate: bool = False) -> Array:
        """The way (3,) that a line of the wrap faces, ``angle`` rad round from its zero."""
        sense = -1.0 if at_plate else 1.0
        return np.asarray(
            self.zero * math.cos(angle) + sense * vector_product(self.run.way, self.zero) * math.sin(angle)
        )


def arm_cut(mount: Mount, pose: Pose) -> ArmCut:
    """How a mount's arm is cut for the powertrain at ``pose``: a straight one, or of a kinked one the leg at
    the eye, whose ``mitre`` is that of the kink. Raises JobError."""
    arm = mount.arm
    if not isinstance(arm, Tube):
        raise JobError(f"{mount.name} has no arm of tube.", f"mounts/{mount.id}/arm")
    whole = arm_run(mount, pose)
    run = whole.at_eye
    # what it begins on: the plate, or the plane that halves the kink
    normal = run.axes[:, 2] if whole.last is None else unit(whole.way + run.way)
    axis = unit(mount.bush.axis)
    if axis @ run.way < 0:
        axis = -axis
    e1 = unit(axis - (axis @ run.way) * run.way)
    e2 = vector_product(run.way, e1)
    offset = float((run.aim - np.asarray(mount.bush.centre)) @ e2)
    top = np.array([0.0, 0.0, 1.0]) if abs(run.way[2]) < 0.9 else np.array([1.0, 0.0, 0.0])
    zero = unit(top - (top @ run.way) * run.way)

    def round_from_e1(way: Array) -> float:
        """Degrees from e1, about the arm."""
        return math.degrees(math.atan2(float(way @ e2), float(way @ e1)))

    deep = -(normal - (normal @ run.way) * run.way)
    lean = round_from_e1(deep) if np.linalg.norm(deep) > 1e-9 else 0.0
    start = round_from_e1(zero)
    try:
        eye = cope(
            arm.outside_mm, arm.wall_mm, 2 * run.eye_radius, run.eye_angle_deg, offset, start_deg=start
        )
        # seen from its own end the foot runs the other way round; its cut is the same either way from where
        # it is deepest
        flat = mitre(arm.outside_mm, arm.wall_mm, run.plate_angle_deg, start_deg=lean - start)
    except ValueError as error:
        raise JobError(f"{mount.name}: {error}.", f"mounts/{mount.id}/arm") from None
    long = run.length - float(eye[:, 1].min()) - float(flat[:, 1].min())
    return ArmCut(eye, flat, zero, long, run)


def plate_cut(mount: Mount, pose: Pose) -> ArmCut:
    """The same of the leg at the plate of a kinked arm, whose ``cope`` is the mitre of the kink; of a
    straight arm all of it. Raises JobError."""
    whole = arm_cut(mount, pose)
    run = arm_run(mount, pose)
    if run.last is None:
        return whole
    arm = mount.arm
    assert isinstance(arm, Tube)
    top = np.array([0.0, 0.0, 1.0]) if abs(run.way[2]) < 0.9 else np.array([1.0, 0.0, 0.0])
    zero = unit(top - (top @ run.way) * run.way)
    side = vector_product(run.way, zero)

    def lean(normal: Array) -> float:
        """Degrees from the zero line, about the leg, to where its cut by a plane is deepest."""
        deep = -(normal - (normal @ run.way) * run.way)
        flat = float(np.linalg.norm(deep)) <= 1e-9
        return 0.0 if flat else math.degrees(math.atan2(float(deep @ side), float(deep @ zero)))

    halves = unit(run.way + run.last.way)
    try:
        at_kink = mitre(arm.outside_mm, arm.wall_mm, run.kink_deg / 2, start_deg=-lean(-halves))
        flat = mitre(arm.outside_mm, arm.wall_mm, run.plate_angle_deg, start_deg=lean(run.axes[:, 2]))
    except ValueError as error:
        raise JobError(f"{mount.name}: {error}.", f"mounts/{mount.id}/arm") from None
    long = run.length - float(at_kink[:, 1].min()) - float(flat[:, 1].min())
    return ArmCut(at_kink, flat, zero, long, run)
