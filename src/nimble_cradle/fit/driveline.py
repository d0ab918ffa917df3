"""The driveline judged: one calculation for the verdict, the report, the tell-tale, the search for a seat
and its room."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.calc import Worked
from nimble_cradle.fit.joints import HALF_SHAFT, PROPSHAFT
from nimble_cradle.fit.shafts import JOINTS, Chain, chain, joint_state
from nimble_cradle.geometry.pose import Array, Pose, rotation_about, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import METHOD_PLUS_MINUS
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered


@dataclass(frozen=True)
class Driveline:
    """Working angles in degrees at ride height, powertrain at rest, with the verdict in words ('' where it
    holds).

    kind: a propshaft, its first and last joint, or the left and right half-shaft. angles, names: every
    joint of a propshaft. difference: of the two joints of a one-piece shaft or of the half-shafts; of a
    shaft in two pieces the residual angle, which stands for what all its joints leave. plus_minus: of
    front, rear and difference. most: through the wheels' travel; plunge: of a half-shaft, or how much the
    slip joint moves, mm. acceleration: rad/s2 left at top speed.
    """

    front: float
    rear: float
    difference: float
    length: float
    faults: tuple[str, ...]
    worked: Worked
    plus_minus: tuple[float, float, float] = (0.0, 0.0, 0.0)
    kind: str = "propshaft"
    most: float = 0.0
    plunge: float = 0.0
    angles: tuple[float, ...] = ()
    names: tuple[str, ...] = ()
    residual: float = 0.0
    acceleration: float = 0.0

    @property
    def holds(self) -> bool:
        """Whether all limits of the job are met."""
        return not self.faults


@remembered("powertrain", "vehicle", "position", "joint_limits", "propshaft")
def driveline(job: Job) -> Driveline:
    """The propshaft or half-shafts of a job judged against its limits. Raises JobError."""
    return _half_shafts(job) if job.powertrain.gearbox.kind == "transaxle" else _propshaft(job)


def _half_shafts(job: Job) -> Driveline:
    seats, hubs, limits = job.powertrain.gearbox.seats, job.vehicle.hubs, job.joint_limits
    if seats is None or hubs is None:
        raise JobError("The half-shafts' outer joints (hubs) are not measured yet.", "vehicle/hubs")
    pose = pose_of(job.position)
    faults, worked = [], []
    for name, seat, hub in zip(("left", "right"), seats, hubs, strict=True):
        at = pose.points(seat)
        w = HALF_SHAFT.work(
            {"seat_x": "position and transaxle", "hub_x": "measured"},
            seat_x=float(at[0]),
            seat_y=float(at[1]),
            seat_z=float(at[2]),
            hub_x=hub[0],
            hub_y=hub[1],
            hub_z=hub[2],
            up=job.vehicle.wheel_up_mm,
            down=job.vehicle.wheel_down_mm,
        )
        worked.append(w)
        if w.value("ride") > limits.half_shaft_ride_deg:
            faults.append(
                f"The {name} half-shaft stands at {w.value('ride'):.1f} deg at ride height, over the limit of"
                f" {limits.half_shaft_ride_deg:g} deg."
            )
        if w.value("most") > limits.half_shaft_travel_deg:
            faults.append(
                f"The {name} half-shaft reaches {w.value('most'):.1f} deg through the wheel's travel, over"
                f" the limit of {limits.half_shaft_travel_deg:g} deg."
            )
        if w.value("longer") + w.value("shorter") > limits.plunge_mm:
            faults.append(
                f"The {name} half-shaft plunges {w.value('longer') + w.value('shorter'):.1f} mm, over the"
                f" limit of {limits.plunge_mm:g} mm."
            )
    left, right = worked
    doubts = [
        math.degrees(
            math.hypot(job.vehicle.axle_plus_minus_mm, METHOD_PLUS_MINUS["tape"]) / w.value("length")
        )
        for w in worked
    ]
    worst = max(worked, key=lambda w: float(w.value("most")))
    return Driveline(
        left.value("ride"),
        right.value("ride"),
        abs(left.value("ride") - right.value("ride")),
        left.value("length"),
        tuple(faults),
        worst,
        (doubts[0], doubts[1], math.hypot(*doubts)),
        "half-shafts",
        worst.value("most"),
        max(w.value("longer") + w.value("shorter") for w in worked),
    )


def joint_doubt(job: Job, place_mm: float, slope_deg: float) -> tuple[float, ...]:
    """Plus-or-minus of every joint's angle, and last of the difference (of a shaft in two pieces: of the
    residual angle), by linear propagation: each place and slope moved by its own, one at a time."""
    pose = pose_of(job.position)
    box, vehicle, shaft = job.powertrain.gearbox, job.vehicle, job.propshaft

    def told(out: Array, out_way: Array, centre: Array | None, axle: Array, axle_way: Array) -> Array:
        state = joint_state(out, out_way, centre, axle, axle_way, shaft.phase_deg, 0.0)
        last = state.residual if centre is not None else state.angles[0] - state.angles[1]
        return np.array([*state.angles, last])

    start, way = pose.points(box.output), unit(pose.vectors(box.output_direction))
    centre = None if shaft.centre is None else np.asarray(shaft.centre, dtype=float)
    end, last = np.asarray(vehicle.axle_input, dtype=float), unit(vehicle.axle_input_direction)
    pairs: list[tuple[Array, Array]] = []
    for step in np.eye(3) * place_mm if place_mm > 0 else ():
        pairs.append((told(start - step, way, centre, end, last), told(start + step, way, centre, end, last)))
        pairs.append((told(start, way, centre, end - step, last), told(start, way, centre, end + step, last)))
        if centre is not None:
            low, high = centre - step, centre + step
            pairs.append((told(start, way, low, end, last), told(start, way, high, end, last)))
    for axis in ((0.0, 1.0, 0.0), (0.0, 0.0, 1.0)) if slope_deg > 0 else ():
        back, on = (rotation_about(axis, s * math.radians(slope_deg)) for s in (-1.0, 1.0))
        pairs.append((told(start, back @ way, centre, end, last), told(start, on @ way, centre, end, last)))
        pairs.append((told(start, way, centre, end, back @ last), told(start, way, centre, end, on @ last)))
    total = sum(((b - a) / 2) ** 2 for a, b in pairs) if pairs else np.zeros(4 if centre is not None else 3)
    return tuple(float(x) for x in np.sqrt(total))


def _propshaft(job: Job) -> Driveline:
    pose = pose_of(job.position)
    box, vehicle, limits = job.powertrain.gearbox, job.vehicle, job.joint_limits
    at, way = pose.points(box.output), unit(pose.vectors(box.output_direction))
    rear = unit(vehicle.axle_input_direction)
    if way[0] >= -0.1 or rear[0] >= -0.1:
        raise JobError(
            "The gearbox output and the axle input must both point rearwards.",
            "powertrain/gearbox/output_direction",
        )
    middle = [] if job.propshaft.centre is None else [job.propshaft.centre]
    points = [np.asarray(p, dtype=float) for p in (at, *middle, vehicle.axle_input)]
    if any(float(np.linalg.norm(b - a)) < 1 for a, b in zip(points, points[1:], strict=False)):
        raise JobError("Two joints of the propshaft are at the same place.", "vehicle/axle_input")
    found = chain(job)
    angles = found.ride.angles
    two = len(angles) > 2
    difference = found.ride.residual if two else abs(angles[0] - angles[1])
    faults = []
    for name, angle in zip(found.names, angles, strict=True):
        if angle < limits.least_deg:
            faults.append(
                f"The joint {name} works at {angle:.2f} deg; under {limits.least_deg:g} deg its needles do"
                " not roll."
            )
        if angle > limits.most_deg:
            faults.append(
                f"The joint {name} works at {angle:.2f} deg, over the limit of {limits.most_deg:g} deg."
            )
    if not two and difference > limits.difference_deg:
        faults.append(
            f"The joints differ by {difference:.2f} deg, over the limit of {limits.difference_deg:g} deg: the"
            " shaft will shake."
        )
    doubts = joint_doubt(job, vehicle.axle_plus_minus_mm, vehicle.slope_plus_minus_deg)
    slips = [joint.slip for joint in found.states]
    return Driveline(
        angles[0],
        angles[-1],
        difference,
        sum(found.ride.lengths),
        (*faults, *found.faults),
        _worked(job, found, pose),
        (doubts[0], doubts[-2], doubts[-1]),
        most=max(max(joint.angles) for joint in found.states),
        plunge=max(slips) - min(slips),
        angles=angles,
        names=found.names,
        residual=found.ride.residual,
        acceleration=found.acceleration,
    )


def _worked(job: Job, found: Chain, pose: Pose) -> Worked:
    """The working: both angles of a shaft in one piece, or what all joints of two pieces leave."""
    if len(found.names) > 2:
        return JOINTS.work(
            {"angles_deg": "position, bearing and axle", "phases_deg": "planes of the angles and the yokes"},
            angles_deg=", ".join(f"{a:.4f}" for a in found.ride.angles),
            phases_deg=", ".join(f"{p:.3f}" for p in found.ride.phases),
            rpm=found.rpm,
        )
    at, way = (
        pose.points(job.powertrain.gearbox.output),
        pose.vectors(job.powertrain.gearbox.output_direction),
    )
    end, last = job.vehicle.axle_input, job.vehicle.axle_input_direction
    slopes = [
        (math.degrees(math.atan2(-d[2], -d[0])), math.degrees(math.atan2(d[1], -d[0]))) for d in (way, last)
    ]
    return PROPSHAFT.work(
        {"out_side_deg": "position and gearbox", "axle_side_deg": "axle as measured"},
        out_x=float(at[0]),
        out_y=float(at[1]),
        out_z=float(at[2]),
        out_side_deg=slopes[0][0],
        out_plan_deg=slopes[0][1],
        axle_x=end[0],
        axle_y=end[1],
        axle_z=end[2],
        axle_side_deg=slopes[1][0],
        axle_plan_deg=slopes[1][1],
    )
