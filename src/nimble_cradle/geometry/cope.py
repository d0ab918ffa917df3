"""Tube end cuts as wrap-round templates: the cope (fish-mouth) on a round tube, and the mitre on a plate. mm,
degrees.

With w along the tube towards the receiver and the receiver's axis a chosen so that a . w >= 0, station 0
is the line on the side of e1 (a made square to w): there the tube is longest. Stations go anticlockwise
seen from the cut end, so that on the unrolled template, printed side out and cut edge up, they run to the
right. A radial cutter is assumed: one depth per station.
"""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array

Wall = Literal["outer", "inner", "both"]


def cope_depth(angles: Array, radius: float, receiver: float, angle_deg: float, offset: float) -> Array:
    """Distance (n,) mm from the receiving tube's axis back to where lines on a tube of ``radius`` meet it.

    angles: (n,) rad round the tube. receiver: radius met. angle_deg: between the axes, 90 is square.
    offset: the tube's axis past the receiver's, towards station 90 deg. The result is back along the tube
    from the point where the axes pass each other; NaN where a line misses the receiver: s = (sqrt(R2 - (r
    sin t + e)2) - r cos t cos(angle)) / sin(angle).
    """
    a = math.radians(angle_deg)
    across = radius * np.sin(angles) + offset
    inside = receiver**2 - across**2
    with np.errstate(invalid="ignore"):
        root = np.sqrt(np.where(inside >= 0, inside, np.nan))
    return np.asarray((root - radius * np.cos(angles) * math.cos(a)) / math.sin(a))


def cope(
    outside: float,
    wall: float,
    receiver_outside: float,
    angle_deg: float,
    offset: float = 0.0,
    fit: Wall = "both",
    stations: int = 360,
    start_deg: float = 0.0,
) -> Array:
    """Wrap of a cope: (stations + 1, 2) with the distance round the outside (0 to pi d) and the depth from
    the receiver's axis, mm.

    fit: outer or inner wall line; both (usual for thick wall) cuts to the deeper of the two, so that no
    edge holds the joint open. start_deg: the station that the wrap begins with. Raises ValueError for a
    tube that does not sit on its receiver.
    """
    if not 0 < 2 * wall < outside:
        raise ValueError(f"a {outside:g} mm tube cannot have a {wall:g} mm wall")
    if not 20 <= angle_deg <= 90:
        raise ValueError(f"the angle between the tubes must be 20 to 90 deg, not {angle_deg:g}")
    r, big = outside / 2, receiver_outside / 2
    if abs(offset) + r > big + 1e-9:
        raise ValueError(
            f"a {outside:g} mm tube {abs(offset):g} mm off centre reaches past a {receiver_outside:g} mm eye"
        )
    t = np.linspace(0, 2 * math.pi, stations + 1)
    at = t + math.radians(start_deg)
    outer = cope_depth(at, r, big, angle_deg, offset)
    lines = [outer] if fit == "outer" else [cope_depth(at, r - wall, big, angle_deg, offset)]
    if fit == "both":
        lines += [outer, cope_depth(at, r - wall / 2, big, angle_deg, offset)]
    return np.column_stack([t * r, np.max(lines, axis=0)])


def mitre(
    outside: float,
    wall: float,
    angle_deg: float,
    fit: Wall = "both",
    stations: int = 360,
    start_deg: float = 0.0,
) -> Array:
    """Wrap of a flat cut: (stations + 1, 2) distance round and depth from the plane's meeting point on the
    axis, mm.

    angle_deg: between the tube's axis and the plate's normal, 0 is square. Station 0 is where the cut is
    deepest; the wrap begins with the station start_deg.
    """
    if not 0 <= angle_deg < 80:
        raise ValueError(f"the tube must meet the plate within 80 deg of square, not {angle_deg:g}")
    t = np.linspace(0, 2 * math.pi, stations + 1)
    slope = math.tan(math.radians(angle_deg))
    radii = {
        "outer": (outside / 2,),
        "inner": (outside / 2 - wall,),
        "both": (outside / 2, outside / 2 - wall),
    }[fit]
    return np.column_stack(
        [t * outside / 2, np.max([r * np.cos(t + math.radians(start_deg)) * slope for r in radii], axis=0)]
    )


def _cope_ends(
    outside: float, wall: float, receiver: float, angle_deg: float, offset: float, fit: Wall
) -> tuple[float, float, float, float, float]:
    wrap = cope(outside, wall, receiver, angle_deg, offset, fit)
    quarter = [float(wrap[k, 1]) for k in (0, 90, 180, 270)]
    return (*quarter, float(wrap[-1, 0]))  # type: ignore[return-value]


COPE = calculation(
    "tube-cope",
    "Cope of a tube on a round eye",
    inputs=(
        Q("outside", "mm", "outside diameter of the tube", above=0),
        Q("wall", "mm", "its wall", above=0),
        Q("receiver", "mm", "outside diameter of the eye", above=0),
        Q("angle_deg", "deg", "between the axes, 90 is square", 90.0, low=20, high=90),
        Q("offset", "mm", "axis past axis", 0.0),
        Q("fit", "", "wall line that is cut to", "both", choices=("outer", "inner", "both")),
    ),
    outputs=(
        Q("at_0", "mm", "depth from the eye's axis at station 0 (toe)"),
        Q("at_90", "mm", "at a quarter round"),
        Q("at_180", "mm", "at half round (heel)"),
        Q("at_270", "mm", "at three quarters"),
        Q("round", "mm", "round the tube"),
    ),
    formula="s(t) = (sqrt(R^2 - (r sin t + e)^2) - r cos t cos a) / sin a, the deepest over the wall",
    source="intersection of two cylinders (analytic geometry), checked against a mesh boolean",
    leaves_out="the kerf of the cutter and the gap wanted for the weld's root",
)(_cope_ends)


def _worked_mitre(
    turn_deg: float, side_deg: float, plan_deg: float, height: float
) -> tuple[float, float, float]:
    if turn_deg and (side_deg or plan_deg):
        raise ValueError("give the turn itself, or the slopes in side and plan view, not both")
    a, b = math.radians(side_deg), math.radians(plan_deg)
    seen = math.acos(1.0 / math.sqrt(1.0 + math.tan(a) ** 2 + math.tan(b) ** 2))
    turn = math.radians(turn_deg) if turn_deg else seen
    return math.degrees(turn), math.degrees(turn) / 2, height * math.tan(turn / 2)


MITRE = calculation(
    "mitre",
    "Mitre where two like tubes meet",
    inputs=(
        Q(
            "turn_deg",
            "deg",
            "how far the second tube turns off the first (0: in line)",
            0.0,
            low=0,
            high=150,
        ),
        Q("side_deg", "deg", "or: its slope off the first in the side view", 0.0, low=-80, high=80),
        Q("plan_deg", "deg", "and in the plan view", 0.0, low=-80, high=80),
        Q("height", "mm", "outside of the tube across the cut, in the plane of the turn", above=0),
    ),
    outputs=(
        Q("turn", "deg", "turn between the two axes"),
        Q("saw", "deg", "set the saw so far off square, for each tube"),
        Q("longer", "mm", "long side past the short side of each cut"),
    ),
    formula=(
        "turn = acos(1 / sqrt(1 + tan^2 side + tan^2 plan)); saw = turn / 2; longer = height tan(turn / 2)"
    ),
    source="geometry",
    leaves_out="the saw's kerf, and the gap that a weld wants",
)(_worked_mitre)
