"""Working angles of a two-joint propshaft from the gearbox output to the axle input."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.calc import Q, Worked, calculation
from nimble_cradle.fit.position import pose_of
from nimble_cradle.geometry.pose import unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job

SOURCE = ("angle between two directions; side and plan angles join as tan^2 = tan^2 + tan^2 for small slopes "
          "(SAE AE-7 Universal Joint and Driveshaft Design Manual, from memory)")


def compound_angle(side_deg: float, plan_deg: float) -> float:
    """True angle in degrees between two shafts whose slopes differ by side_deg seen from the side and plan_deg from above.

    Exact for one of them along the vehicle's axis: tan^2(true) = tan^2(side) + tan^2(plan).
    """
    return math.degrees(math.atan(math.hypot(math.tan(math.radians(side_deg)), math.tan(math.radians(plan_deg)))))


COMPOUND = calculation(
    "joint-angle", "Working angle of a joint from its side and plan views",
    inputs=(Q("side_deg", "deg", "angle between the shafts seen from the side", low=-80, high=80),
            Q("plan_deg", "deg", "angle between the shafts seen from above", low=-80, high=80)),
    outputs=(Q("angle", "deg", "working angle of the joint"),),
    formula="angle = atan sqrt(tan^2 side + tan^2 plan)", source=SOURCE,
    leaves_out="exact only where one shaft lies along the vehicle; the screen uses the exact angle between directions")(compound_angle)


def propshaft(out_x: float, out_y: float, out_z: float, out_side_deg: float, out_plan_deg: float, axle_x: float, axle_y: float,
              axle_z: float, axle_side_deg: float, axle_plan_deg: float) -> tuple[float, float, float, float]:
    """Working angles (deg) at the front and rear joint, their difference, and the length (mm) between joints.

    Slopes: degrees down towards the back (side) and to the left towards the back (plan), vehicle frame.
    """
    front, rear = _direction(out_side_deg, out_plan_deg), _direction(axle_side_deg, axle_plan_deg)
    shaft = np.array([axle_x - out_x, axle_y - out_y, axle_z - out_z])
    length = float(np.linalg.norm(shaft))
    if length < 1:
        raise ValueError("the gearbox output and the axle input are the same place, so there is no propshaft")
    a, b = _between(front, shaft), _between(shaft, rear)
    return a, b, abs(a - b), length


def _direction(side_deg: float, plan_deg: float) -> np.ndarray:
    return np.array([-1.0, math.tan(math.radians(plan_deg)), -math.tan(math.radians(side_deg))])


def _between(a: np.ndarray, b: np.ndarray) -> float:
    ua, ub = unit(a), unit(b)
    return math.degrees(math.atan2(float(np.linalg.norm(np.cross(ua, ub))), float(ua @ ub)))


_AT = tuple(Q(f"{end}_{axis}", "mm", f"{words}, {way}") for end, words in (("out", "front joint"), ("axle", "rear joint"))
            for axis, way in (("x", "forward of the datum"), ("y", "left of the datum"), ("z", "above the datum")))
PROPSHAFT = calculation(
    "propshaft-angles", "Working angles of a two-joint propshaft",
    inputs=(*_AT[:3], Q("out_side_deg", "deg", "slope of the gearbox output, down towards the back", low=-80, high=80),
            Q("out_plan_deg", "deg", "slope of the gearbox output, to the left towards the back", 0.0, low=-80, high=80),
            *_AT[3:], Q("axle_side_deg", "deg", "slope of the axle input, down towards the back", low=-80, high=80),
            Q("axle_plan_deg", "deg", "slope of the axle input, to the left towards the back", 0.0, low=-80, high=80)),
    outputs=(Q("front", "deg", "working angle at the gearbox joint"), Q("rear", "deg", "working angle at the axle joint"),
             Q("difference", "deg", "difference of the two"), Q("length", "mm", "length between the joints")),
    formula="cos angle = (direction 1 . direction 2) / (|1| |2|), for output and shaft, then shaft and axle input",
    source=SOURCE,
    leaves_out="movement of the axle on its springs and of the gearbox on its mount; the planes of the two angles are assumed to be phased")(
        propshaft)


@dataclass(frozen=True)
class Driveline:
    """Working angles in degrees at ride height, powertrain at rest, with the verdict in words ('' where it holds)."""

    front: float
    rear: float
    difference: float
    length: float
    faults: tuple[str, ...]
    worked: Worked

    @property
    def holds(self) -> bool:
        """Whether all limits of the job are met."""
        return not self.faults


def driveline(job: Job) -> Driveline:
    """The propshaft of a job judged against its limits. Raises JobError."""
    pose = pose_of(job.position)
    box, vehicle, limits = job.powertrain.gearbox, job.vehicle, job.joint_limits
    at, way = pose.points(box.output), unit(pose.vectors(box.output_direction))
    rear = unit(vehicle.axle_input_direction)
    if way[0] >= -0.1 or rear[0] >= -0.1:
        raise JobError("The gearbox output and the axle input must both point rearwards.", "powertrain/gearbox/output_direction")
    slopes = [(math.degrees(math.atan2(-d[2], -d[0])), math.degrees(math.atan2(d[1], -d[0]))) for d in (way, rear)]
    end = vehicle.axle_input
    if float(np.linalg.norm(np.asarray(end) - at)) < 1:
        raise JobError("The gearbox output and the axle input are the same place, so there is no propshaft.", "vehicle/axle_input")
    worked = PROPSHAFT.work(
        {"out_side_deg": "position and gearbox", "axle_side_deg": "axle as measured"},
        out_x=float(at[0]), out_y=float(at[1]), out_z=float(at[2]), out_side_deg=slopes[0][0], out_plan_deg=slopes[0][1],
        axle_x=end[0], axle_y=end[1], axle_z=end[2], axle_side_deg=slopes[1][0], axle_plan_deg=slopes[1][1])
    front, back, difference, length = (worked.value(n) for n in ("front", "rear", "difference", "length"))
    faults = []
    for name, angle in (("front", front), ("rear", back)):
        if angle < limits.least_deg:
            faults.append(f"The {name} joint works at {angle:.2f} deg; under {limits.least_deg:g} deg its needles do not roll.")
        if angle > limits.most_deg:
            faults.append(f"The {name} joint works at {angle:.2f} deg, over the limit of {limits.most_deg:g} deg.")
    if difference > limits.difference_deg:
        faults.append(f"The joints differ by {difference:.2f} deg, over the limit of {limits.difference_deg:g} deg: the shaft will shake.")
    return Driveline(front, back, difference, length, tuple(faults), worked)
