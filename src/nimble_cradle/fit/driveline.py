"""Working angles of a two-joint propshaft from the gearbox output to the axle input."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.calc import Q, Worked, calculation
from nimble_cradle.fit.position import pose_of
from nimble_cradle.geometry.pose import unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import METHOD_PLUS_MINUS
from nimble_cradle.job.job import Job

SOURCE = (
    "angle between two directions; side and plan angles join as tan^2 = tan^2 + tan^2 for small slopes "
    "(SAE AE-7 Universal Joint and Driveshaft Design Manual, from memory)"
)


def compound_angle(side_deg: float, plan_deg: float) -> float:
    """True angle in degrees between two shafts whose slopes differ by side_deg seen from the side and
    plan_deg from above.

    Exact for one of them along the vehicle's axis: tan^2(true) = tan^2(side) + tan^2(plan).
    """
    return math.degrees(
        math.atan(math.hypot(math.tan(math.radians(side_deg)), math.tan(math.radians(plan_deg))))
    )


COMPOUND = calculation(
    "joint-angle",
    "Working angle of a joint from its side and plan views",
    inputs=(
        Q("side_deg", "deg", "angle between the shafts seen from the side", low=-80, high=80),
        Q("plan_deg", "deg", "angle between the shafts seen from above", low=-80, high=80),
    ),
    outputs=(Q("angle", "deg", "working angle of the joint"),),
    formula="angle = atan sqrt(tan^2 side + tan^2 plan)",
    source=SOURCE,
    leaves_out=(
        "exact only where one shaft lies along the vehicle; the screen uses the exact angle between"
        " directions"
    ),
)(compound_angle)


def propshaft(
    out_x: float,
    out_y: float,
    out_z: float,
    out_side_deg: float,
    out_plan_deg: float,
    axle_x: float,
    axle_y: float,
    axle_z: float,
    axle_side_deg: float,
    axle_plan_deg: float,
) -> tuple[float, float, float, float]:
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


def propshaft_angles(
    output: np.ndarray, output_way: np.ndarray, axle: np.ndarray, axle_way: np.ndarray
) -> tuple[float, float]:
    """Working angles (deg) at the front and rear joint from places and directions (3,), vehicle frame;
    both directions point rearwards."""
    shaft = axle - output
    return _between(output_way, shaft), _between(shaft, axle_way)


def _direction(side_deg: float, plan_deg: float) -> np.ndarray:
    return np.array([-1.0, math.tan(math.radians(plan_deg)), -math.tan(math.radians(side_deg))])


def _between(a: np.ndarray, b: np.ndarray) -> float:
    (ax, ay, az), (bx, by, bz) = a.tolist(), b.tolist()
    across = math.sqrt((ay * bz - az * by) ** 2 + (az * bx - ax * bz) ** 2 + (ax * by - ay * bx) ** 2)
    return math.degrees(math.atan2(across, ax * bx + ay * by + az * bz))


_AT = tuple(
    Q(f"{end}_{axis}", "mm", f"{words}, {way}")
    for end, words in (("out", "front joint"), ("axle", "rear joint"))
    for axis, way in (("x", "forward of the datum"), ("y", "left of the datum"), ("z", "above the datum"))
)
PROPSHAFT = calculation(
    "propshaft-angles",
    "Working angles of a two-joint propshaft",
    inputs=(
        *_AT[:3],
        Q("out_side_deg", "deg", "slope of the gearbox output, down towards the back", low=-80, high=80),
        Q(
            "out_plan_deg",
            "deg",
            "slope of the gearbox output, to the left towards the back",
            0.0,
            low=-80,
            high=80,
        ),
        *_AT[3:],
        Q("axle_side_deg", "deg", "slope of the axle input, down towards the back", low=-80, high=80),
        Q(
            "axle_plan_deg",
            "deg",
            "slope of the axle input, to the left towards the back",
            0.0,
            low=-80,
            high=80,
        ),
    ),
    outputs=(
        Q("front", "deg", "working angle at the gearbox joint"),
        Q("rear", "deg", "working angle at the axle joint"),
        Q("difference", "deg", "difference of the two"),
        Q("length", "mm", "length between the joints"),
    ),
    formula=(
        "cos angle = (direction 1 . direction 2) / (|1| |2|), for output and shaft, then shaft and axle input"
    ),
    source=SOURCE,
    leaves_out=(
        "movement of the axle on its springs and of the gearbox on its mount; the planes of the two angles"
        " are assumed to be phased"
    ),
)(propshaft)


def half_shaft(
    seat_x: float,
    seat_y: float,
    seat_z: float,
    hub_x: float,
    hub_y: float,
    hub_z: float,
    up: float,
    down: float,
) -> tuple[float, float, float, float, float]:
    """Angle (deg) of a half-shaft to straight across at ride height, the most through the wheel's travel,
    its length (mm) at ride height and by how much that grows and shrinks (plunge). The hub is taken to
    rise and fall straight."""
    angles, lengths = [], []
    for dz in (0.0, up, -down, min(max(seat_z - hub_z, -down), up)):
        x, y, z = hub_x - seat_x, hub_y - seat_y, hub_z + dz - seat_z
        length = math.sqrt(x * x + y * y + z * z)
        if length < 1:
            raise ValueError("the shaft's seat and the hub are the same place, so there is no half-shaft")
        angles.append(math.degrees(math.atan2(math.hypot(x, z), abs(y))))
        lengths.append(length)
    return angles[0], max(angles), lengths[0], max(lengths) - lengths[0], lengths[0] - min(lengths)


HALF_SHAFT = calculation(
    "half-shaft",
    "A half-shaft at ride height and through the wheel's travel",
    inputs=(
        Q("seat_x", "mm", "inner joint, forward of the datum"),
        Q("seat_y", "mm", "left of the datum"),
        Q("seat_z", "mm", "above the datum"),
        Q("hub_x", "mm", "outer joint at ride height, forward"),
        Q("hub_y", "mm", "left"),
        Q("hub_z", "mm", "above"),
        Q("up", "mm", "the wheel rises", low=0),
        Q("down", "mm", "the wheel drops", low=0),
    ),
    outputs=(
        Q("ride", "deg", "working angle at ride height"),
        Q("most", "deg", "most through the travel"),
        Q("length", "mm", "between the joints"),
        Q("longer", "mm", "it grows by"),
        Q("shorter", "mm", "it shrinks by"),
    ),
    formula="cos angle = (shaft . across) / |shaft|;  plunge = change of |hub - seat|",
    source="geometry; both joints' axes are taken straight across the car",
    leaves_out="camber, steering of the wheel (the outer joint's own angle) and the arc of the arm",
)(half_shaft)


@dataclass(frozen=True)
class Driveline:
    """Working angles in degrees at ride height, powertrain at rest, with the verdict in words ('' where it
    holds). plus_minus: of the angles and their difference. kind: a propshaft's front and rear joint, or
    the left and right half-shaft; most: through the wheels' travel.
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

    @property
    def holds(self) -> bool:
        """Whether all limits of the job are met."""
        return not self.faults


def driveline(job: Job) -> Driveline:
    """The propshaft or half-shafts of a job judged against its limits. Raises JobError."""
    return _half_shafts(job) if job.powertrain.gearbox.kind == "transaxle" else _propshaft(job)


def angle_doubt(given: dict[str, float], place_mm: float, slope_deg: float) -> tuple[float, float, float]:
    """Plus-or-minus of both angles and of their difference, by linear propagation: each slope and place
    moved by its own, one at a time."""

    def angles(values: dict[str, float]) -> np.ndarray:
        """Front, rear, and their difference with its sign."""
        front, rear, *_ = propshaft(**values)
        return np.array([front, rear, front - rear])

    total = np.zeros(3)
    for name, value in given.items():
        step = slope_deg if name.endswith("_deg") else place_mm
        if step > 0:
            total += (
                (angles({**given, name: value + step}) - angles({**given, name: value - step})) / 2
            ) ** 2
    return float(np.sqrt(total[0])), float(np.sqrt(total[1])), float(np.sqrt(total[2]))


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
    slopes = [
        (math.degrees(math.atan2(-d[2], -d[0])), math.degrees(math.atan2(d[1], -d[0]))) for d in (way, rear)
    ]
    end = vehicle.axle_input
    if float(np.linalg.norm(np.asarray(end) - at)) < 1:
        raise JobError(
            "The gearbox output and the axle input are the same place, so there is no propshaft.",
            "vehicle/axle_input",
        )
    worked = PROPSHAFT.work(
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
    front, back, difference, length = (worked.value(n) for n in ("front", "rear", "difference", "length"))
    faults = []
    for name, angle in (("front", front), ("rear", back)):
        if angle < limits.least_deg:
            faults.append(
                f"The {name} joint works at {angle:.2f} deg; under {limits.least_deg:g} deg its needles do"
                " not roll."
            )
        if angle > limits.most_deg:
            faults.append(
                f"The {name} joint works at {angle:.2f} deg, over the limit of {limits.most_deg:g} deg."
            )
    if difference > limits.difference_deg:
        faults.append(
            f"The joints differ by {difference:.2f} deg, over the limit of {limits.difference_deg:g} deg: the"
            " shaft will shake."
        )
    given = {q.name: float(v) for q, v, _ in worked.inputs}
    return Driveline(
        front,
        back,
        difference,
        length,
        tuple(faults),
        worked,
        angle_doubt(given, vehicle.axle_plus_minus_mm, vehicle.slope_plus_minus_deg),
    )
