"""The driveline whole: chains of joints with their phasing, critical speed of the tube, slip and length,
and all of it through the axle's travel."""

from __future__ import annotations

import cmath
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array, Pose, rotation_about, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job

STEEL_E, STEEL_DENSITY = 207_000.0, 7850e-12
"""Young's modulus N/mm2 and density t/mm3 of steel tube (handbook values, from memory)."""
SAFE_SHARE = 0.75
"""A propshaft is kept under this share of its first critical speed (common practice, no source)."""
STATIONS = 13
"""Places of the wheels' travel that are looked at, besides ride height."""
STEEPEST = 2.5
"""Through the travel a joint may work at so many times its limit at ride height (common practice, no
source)."""


def one_joint(angle_deg: float) -> tuple[float, float, float]:
    """Speed of the driven yoke over that of the driving one: most, least, and their difference. Per unit
    of speed."""
    b = math.radians(angle_deg)
    return 1 / math.cos(b), math.cos(b), math.tan(b) * math.sin(b)


HOOKE = calculation(
    "single-joint",
    "Speed variation of a single joint",
    inputs=(Q("angle_deg", "deg", "working angle of the joint", low=0, high=60),),
    outputs=(
        Q("most", "", "most speed of the driven side over the driving one"),
        Q("least", "", "least"),
        Q("variation", "", "their difference"),
    ),
    formula="most = 1 / cos b;  least = cos b;  variation = tan b sin b",
    source="kinematics of a cross joint (SAE AE-7 Universal Joint and Driveshaft Design Manual, from memory)",
    leaves_out="play and spring of the joint",
)(one_joint)


def residual_angle(angles_deg: Sequence[float], phases_deg: Sequence[float]) -> float:
    """The single joint (deg) that would vary the speed as much as a chain does: |sum of b^2 e^(2 i
    phase)|^(1/2). angles: of each joint; phases: where its driving yoke stands to the plane of its own
    angle, deg, as that angle's plane is turned. Small angles."""
    total = 0j
    for angle, phase in zip(angles_deg, phases_deg, strict=True):
        total += cmath.rect(math.radians(angle) ** 2, 2 * math.radians(phase))
    return math.degrees(math.sqrt(abs(total)))


def critical_speed(outside: float, wall: float, length: float) -> tuple[float, float]:
    """First bending critical speed of a steel tube between joints (1/min) and what it is kept under.
    outside, wall, length: mm."""
    inside = outside - 2 * wall
    if inside < 0:
        raise ValueError("the wall is thicker than half the tube")
    speed = (
        60
        / (2 * math.pi)
        * (math.pi / length) ** 2
        * math.sqrt(STEEL_E / STEEL_DENSITY)
        * math.sqrt(outside**2 + inside**2)
        / 4
    )
    return speed, SAFE_SHARE * speed


CRITICAL = calculation(
    "critical-speed",
    "Critical speed of a propshaft's tube",
    inputs=(
        Q("outside", "mm", "outside diameter of the tube", above=0),
        Q("wall", "mm", "its wall", above=0),
        Q("length", "mm", "between the joints", above=0),
    ),
    outputs=(Q("speed", "rpm", "first critical speed"), Q("safe", "rpm", "kept under (75 %)")),
    formula=(
        "n = 60/(2 pi) (pi/L)^2 sqrt(E I / m), I/m of a tube = (D^2 + d^2) E / (16 rho);  about 1.2e8"
        " sqrt(D^2 + d^2) / L^2 for steel"
    ),
    source="beam on two pins, first bending mode (Young and Budynas, Roark's Formulas; both from memory)",
    leaves_out=(
        "joints, yokes, slip part, imbalance and the spring of the bearings, all of which lower it: hence the"
        " share"
    ),
)(critical_speed)


def acceleration_of(angle_deg: float, rpm: float) -> float:
    """Torsional acceleration rad/s2 of a residual angle at a speed: (w b)^2."""
    return (rpm * math.pi / 30 * math.radians(angle_deg)) ** 2


ACCELERATION = calculation(
    "torsional-acceleration",
    "Torsional acceleration from a residual joint angle",
    inputs=(
        Q("angle_deg", "deg", "residual (equivalent single joint) angle", low=0, high=45),
        Q("rpm", "rpm", "speed of the shaft", low=0),
    ),
    outputs=(Q("acceleration", "rad/s2", "amplitude of the driven side's acceleration"),),
    formula="a = (w b)^2",
    source="SAE AE-7 (from memory): kept under about 300 to 500 rad/s2",
    leaves_out="secondary couples on the bearings",
)(acceleration_of)


def _joints(angles_deg: str, phases_deg: str, rpm: float) -> tuple[float, float]:
    try:
        angles, phases = ([float(x) for x in text.split(",")] for text in (angles_deg, phases_deg))
    except ValueError:
        raise ValueError("write angles and phases as numbers with commas between") from None
    if len(angles) != len(phases):
        raise ValueError("give as many phases as angles")
    left = residual_angle(angles, phases)
    return left, acceleration_of(left, rpm)


JOINTS = calculation(
    "joint-chain",
    "What the joints of a shaft leave together",
    inputs=(
        Q("angles_deg", "deg", "working angle of each joint, with commas", many=True),
        Q(
            "phases_deg",
            "deg",
            "where each driving yoke stands to the plane of its angle, likewise",
            many=True,
        ),
        Q("rpm", "rpm", "speed of the shaft", low=0),
    ),
    outputs=(
        Q("residual", "deg", "single joint that would do as much"),
        Q("acceleration", "rad/s2", "of the driven side"),
    ),
    formula="residual = |sum of b^2 e^(2 i phase)|^(1/2);  a = (w residual)^2",
    source=(
        "SAE AE-7 Universal Joint and Driveshaft Design Manual (from memory); phases clockwise as seen from"
        " behind"
    ),
    leaves_out="play and spring of the joints; exact for small angles",
)(_joints)


@dataclass(frozen=True, eq=False)
class JointState:
    """The driveline at one place of the suspension. travel: mm up from ride height. angles: deg of each
    joint; residual: deg; lengths: mm of each shaft between joints; slip: how much the sliding shaft is
    longer than at ride height, mm."""

    travel: float
    angles: tuple[float, ...]
    residual: float
    lengths: tuple[float, ...]
    slip: float
    phases: tuple[float, ...] = ()


@dataclass(frozen=True, eq=False)
class Chain:
    """A propshaft in one or two pieces through the axle's travel. names of the joints; ride: the state at
    ride height; rpm: its top speed; critical: (1/min, kept under) of each shaft; order_mm: lengths to
    order between joint centres; faults in words."""

    names: tuple[str, ...]
    states: tuple[JointState, ...]
    ride: JointState
    rpm: float
    critical: tuple[tuple[float, float], ...]
    order_mm: tuple[float, ...]
    acceleration: float
    faults: tuple[str, ...]


def axle_at(job: Job, travel: float) -> tuple[Array, Array]:
    """Place and direction of the axle's input with the axle ``travel`` mm up from ride height: swung about
    its pivot, or straight up."""
    at, way = np.asarray(job.vehicle.axle_input, dtype=float), unit(job.vehicle.axle_input_direction)
    pivot = job.propshaft.axle_pivot
    if pivot is None:
        return at + np.array([0.0, 0.0, travel]), way
    arm = at - np.asarray(pivot)
    reach = math.hypot(arm[0], arm[2])
    if reach < 50.0:
        raise JobError("The axle's pivot is too near its input to swing about.", "propshaft/axle_pivot")
    now = math.atan2(arm[2], -arm[0])
    lift = (arm[2] + travel) / reach
    if abs(lift) > 0.95:
        raise JobError("The axle's pivot is too near its input for such a travel.", "propshaft/axle_pivot")
    turn = rotation_about((0.0, 1.0, 0.0), math.asin(lift) - now)  # up at the back of a pivot ahead of it
    return np.asarray(pivot) + turn @ arm, turn @ way


def joint_state(
    start: Array,
    out_way: Array,
    centre: Array | None,
    end: Array,
    last_way: Array,
    phase_deg: Sequence[float],
    travel: float,
) -> JointState:
    """The joints of a shaft from the gearbox's output (place, way rearwards) over a joint behind a centre
    bearing, where there is one, to the axle's input. Vehicle frame. slip is filled in by the caller.

    A yoke stands at an angle about the shafts, counted clockwise as seen from behind (from the car's left
    up). phase_deg: how far each piece's rear yoke is turned from its front one, counted so.
    """
    points = [start, *([centre] if centre is not None else []), end]
    ways = [out_way, *(unit(b - a) for a, b in zip(points, points[1:], strict=False)), last_way]
    angles, phases = [], []
    twist = 0.0
    for k, (a, b) in enumerate(zip(ways, ways[1:], strict=False)):
        (ax, ay, az), (bx, by, bz) = a.tolist(), b.tolist()
        cx, cy, cz = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
        size = math.sqrt(cx * cx + cy * cy + cz * cz)
        angles.append(math.degrees(math.atan2(size, ax * bx + ay * by + az * bz)))
        plane = math.degrees(math.atan2(cz, cy)) if size > 1e-12 else 0.0
        # a shaft with its yokes in line turns the next joint's driving yoke by 90 deg to the last one's
        # driven yoke
        phases.append(plane - 90.0 * k - twist)
        if k < len(ways) - 2:
            twist += phase_deg[min(k, 1)]
    lengths = tuple(float(np.linalg.norm(b - a)) for a, b in zip(points, points[1:], strict=False))
    return JointState(travel, tuple(angles), residual_angle(angles, phases), lengths, 0.0, tuple(phases))


def joint_angles(
    starts: Array,
    out_ways: Array,
    centre: Array | None,
    end: Array,
    last_way: Array,
    phase_deg: Sequence[float],
) -> tuple[Array, Array, Array]:
    """The same for n places and ways (n, 3) of the output at once, and n or one of the axle's end and way:
    angles (n, joints) deg, residual (n,) deg, lengths (n, joints - 1) mm."""
    n = len(starts)
    points = [starts, *([np.broadcast_to(centre, (n, 3))] if centre is not None else [])]
    points.append(np.broadcast_to(end, (n, 3)))
    runs = [b - a for a, b in zip(points, points[1:], strict=False)]
    lengths = [np.sqrt((run**2).sum(1)) for run in runs]
    ways = [out_ways, *(run / long[:, None] for run, long in zip(runs, lengths, strict=True))]
    ways.append(np.broadcast_to(last_way, (n, 3)))
    angles, total, twist = [], np.zeros(n, dtype=complex), 0.0
    for k, (a, b) in enumerate(zip(ways, ways[1:], strict=False)):
        cx = a[:, 1] * b[:, 2] - a[:, 2] * b[:, 1]
        cy = a[:, 2] * b[:, 0] - a[:, 0] * b[:, 2]
        cz = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]
        size = np.sqrt(cx * cx + cy * cy + cz * cz)
        angle = np.arctan2(size, (a * b).sum(1))
        plane = np.where(size > 1e-12, np.arctan2(cz, cy), 0.0)
        total += angle**2 * np.exp(2j * (plane - np.radians(90.0 * k + twist)))
        angles.append(np.degrees(angle))
        if k < len(ways) - 2:
            twist += phase_deg[min(k, 1)]
    return np.array(angles).T, np.degrees(np.sqrt(np.abs(total))), np.array(lengths).T


def _state(job: Job, pose: Pose, travel: float) -> JointState:
    """One place of the axle's travel."""
    box, shaft = job.powertrain.gearbox, job.propshaft
    centre = None if shaft.centre is None else np.asarray(shaft.centre, dtype=float)
    return joint_state(
        pose.points(box.output),
        unit(pose.vectors(box.output_direction)),
        centre,
        *axle_at(job, travel),
        shaft.phase_deg,
        travel,
    )


def top_speed(job: Job) -> float:
    """Speed of the propshaft at the redline in its highest gear, 1/min."""
    return job.powertrain.engine.redline_rpm / min(job.powertrain.gearbox.ratios)


def chain(job: Job) -> Chain:
    """The propshaft through bump and droop at the job's position. Raises JobError."""
    if job.powertrain.gearbox.kind == "transaxle":
        raise JobError("A transaxle has half-shafts and no propshaft.", "powertrain/gearbox/kind")
    vehicle, shaft, limits = job.vehicle, job.propshaft, job.joint_limits
    pose = pose_of(job.position)
    ride = _state(job, pose, 0.0)
    states = []
    for travel in sorted({0.0, *np.linspace(-vehicle.wheel_down_mm, vehicle.wheel_up_mm, STATIONS).tolist()}):
        s = _state(job, pose, travel)
        states.append(replace(s, slip=s.lengths[-1] - ride.lengths[-1]))
    ride = next(joint for joint in states if joint.travel == 0.0)
    names = (
        ("at the gearbox", "behind the bearing", "at the axle")
        if shaft.centre is not None
        else ("at the gearbox", "at the axle")
    )
    rpm = top_speed(job)
    critical = tuple(
        critical_speed(shaft.tube_outside_mm, shaft.tube_wall_mm, length) for length in ride.lengths
    )
    acceleration = acceleration_of(ride.residual, rpm)
    faults = []
    for (_, safe), length in zip(critical, ride.lengths, strict=True):
        if rpm > safe:
            faults.append(
                f"The shaft of {length:.0f} mm runs at {rpm:.0f} rpm at the redline in top gear, over the"
                f" {safe:.0f} rpm that its tube is kept under."
            )
    if acceleration > shaft.most_acceleration:
        faults.append(
            f"The joints leave {acceleration:.0f} rad/s2 of torsional acceleration at {rpm:.0f} rpm, over"
            f" {shaft.most_acceleration:g}."
        )
    steepest = max(max(joint.angles) for joint in states)
    if steepest > STEEPEST * limits.most_deg:
        faults.append(f"Through the axle's travel a joint reaches {steepest:.1f} deg.")
    longest, shortest = max(joint.slip for joint in states), min(joint.slip for joint in states)
    if shaft.slip_mm - longest < shaft.slip_least_mm:
        faults.append(
            f"In droop the slip joint keeps {shaft.slip_mm - longest:.0f} mm of engagement, under the"
            f" {shaft.slip_least_mm:g} mm wanted."
        )
    if -shortest > shaft.slip_mm:
        faults.append(f"In bump the slip joint closes by {-shortest:.0f} mm, more than it has.")
    return Chain(names, tuple(states), ride, rpm, critical, ride.lengths, acceleration, tuple(faults))
