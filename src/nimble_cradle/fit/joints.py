"""Working angles of joints: a two-joint propshaft from the gearbox output to the axle input, and
half-shafts."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.calc import Q, calculation

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
