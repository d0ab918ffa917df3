"""A foot, a washer or a tab on the wall of a hollow rail: yield lines in the wall, the two side walls. N, mm,
MPa; loads of k cases at once.

The wall is the chord's face of a joint of hollow sections: EN 1993-1-8:2005, tables 7.11 and 7.14 (from
memory), with all partial factors 1.0.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array

FACE_ONLY, SIDES_ONLY = 0.85, 1.0
"""Up to this share of the face's width its own yield lines count, from the other the side walls; between
them in proportion (EN 1993-1-8 table 7.11)."""
MOST_SHARE = 0.99
E_STEEL = 210_000.0
IMPERFECT = 0.49
"""Buckling curve c, of a cold-formed wall (EN 1993-1-1 table 6.1)."""


class WallCapacity(NamedTuple):
    """What a wall carries from a foot: force N square to it, and moments N mm about the line across the
    rail (``along_moment`` tips the foot along the rail) and about the line along it."""

    force: float
    along_moment: float
    across_moment: float


def two_skins(wall: float, second: float) -> float:
    """The wall as thick as two skins that bend each by itself: plastic moments add, t^2 = t1^2 + t2^2."""
    return math.hypot(wall, second)


def spread(foot: float, patch: float, more: float) -> float:
    """How wide a foot presses through a doubler of ``patch`` mm that reaches ``more`` mm past it on each
    side: 1 in 2.5 through its thickness (EN 1993-1-8, 6.2.6.2, from memory)."""
    return foot + 2 * min(more, 2.5 * patch)


def side_wall_stress(depth: float, wall: float, yield_mpa: float) -> float:
    """What a side wall of ``depth`` mm takes in compression, MPa: as a strut 1 mm wide, held at both edges
    (EN 1993-1-8 table 7.11, note)."""
    slender = 3.46 * max(depth / wall - 2, 0.0) / (math.pi * math.sqrt(E_STEEL / yield_mpa))
    phi = 0.5 * (1 + IMPERFECT * (slender - 0.2) + slender**2)
    return yield_mpa * min(1.0, 1 / (phi + math.sqrt(max(phi**2 - slender**2, 0.0))))


def wall_capacity(
    face: float, depth: float, across: float, along: float, wall: float, yield_mpa: float, side: float = 0.0
) -> WallCapacity:
    """What the wall of a rail carries. face: width of the wall between its side walls; depth: of the side
    walls behind it; across, along: size of the foot across and along the rail; side: thickness of the side
    walls, nought: as the wall; mm."""
    thin = side or wall
    share = min(across / face, 1.0)
    b, eta = min(share, FACE_ONLY), along / face
    root = math.sqrt(1 - b)
    size = b * face
    plain = yield_mpa * wall**2
    face_force = plain / (1 - b) * (2 * eta + 4 * root)
    face_in = plain * along * (1 / (2 * eta) + 2 / root + eta / (1 - b))
    face_out = plain * (along * (1 + b) / (2 * (1 - b)) + math.sqrt(2 * face * size * (1 + b) / (1 - b)))
    if share <= FACE_ONLY:
        return WallCapacity(face_force, face_in, face_out)
    pressed = side_wall_stress(depth, thin, yield_mpa)
    sides = WallCapacity(
        pressed * thin * (2 * along + 10 * thin),
        0.5 * yield_mpa * thin * (along + 5 * thin) ** 2,
        yield_mpa * thin * (face - thin) * (along + 5 * thin),
    )
    to = (share - FACE_ONLY) / (SIDES_ONLY - FACE_ONLY)
    face_only = WallCapacity(face_force, face_in, face_out)
    return WallCapacity(*(a + to * (b - a) for a, b in zip(face_only, sides, strict=True)))


HAT = 0.115
"""alpha of a web of a section with two webs, pressed away from its ends (EN 1993-1-3:2006, 6.1.7.3, category
2, hat sections; from memory)."""
MOST_BEARING = 200.0


def crippling(along: float, wall: float, yield_mpa: float, webs: int = 2) -> float:
    """What side walls take, N, that are pressed over ``along`` mm of a rail before they crumple beside its
    corner, rounded as cold-formed tube is (inside radius the wall): EN 1993-1-3:2006, 6.1.7.3 (from
    memory)."""
    bearing = 0.5 + math.sqrt(0.02 * min(along, MOST_BEARING) / wall)
    return webs * HAT * wall**2 * math.sqrt(yield_mpa * E_STEEL) * (1 - 0.1) * bearing * 3.4


def pressed_capacity(
    face: float,
    depth: float,
    across: float,
    along: float,
    wall: float,
    yield_mpa: float,
    side: float = 0.0,
    walls: float = 2,
) -> WallCapacity:
    """The same of a rail's wall with thin side walls, which may crumple before all else: both under a force,
    one under a moment across the rail, half as long under one along it. walls: 1 under a flange of an open
    rail, which has a side wall along one edge only, and a rib: half of all."""
    whole, thin = wall_capacity(face, depth, across, along, wall, yield_mpa, side), side or wall
    both = WallCapacity(
        min(whole.force, crippling(along, thin, yield_mpa)),
        min(whole.along_moment, crippling(along / 2, thin, yield_mpa) * along / 2),
        min(whole.across_moment, crippling(along, thin, yield_mpa, 1) * max(face - thin, thin)),
    )
    return WallCapacity(*(walls / 2 * capacity for capacity in both))


def wall_use(capacity: WallCapacity, force: Array, along_moment: Array, across_moment: Array) -> Array:
    """(k,) use: the three shares added."""
    return np.asarray(
        np.abs(force) / capacity.force
        + np.abs(along_moment) / capacity.along_moment
        + np.abs(across_moment) / capacity.across_moment
    )


def _worked(
    face: float,
    depth: float,
    across: float,
    along: float,
    wall: float,
    yield_mpa: float,
    side: float = 0.0,
    walls: float = 2,
    force: float = 0.0,
    along_moment: float = 0.0,
    across_moment: float = 0.0,
) -> tuple[float, float, float, float]:
    capacity = pressed_capacity(face, depth, across, along, wall, yield_mpa, side, walls)
    use = wall_use(capacity, np.array([force]), np.array([along_moment]), np.array([across_moment]))
    return float(use[0]), capacity.force, capacity.along_moment, capacity.across_moment


def wall_give(face: float, across: float, along: float, wall: float) -> tuple[float, float, float]:
    """How far a wall gives under a stiff foot: in, mm/N; tipped along the rail and across it, rad/(N mm).

    On both sides of the foot a strip of wall, clamped at the side wall and at the foot's edge, as long as the
    foot and once its own width more at each end. A foot that reaches the side walls gives nothing.
    """
    free = (face - across) / 2
    if across >= FACE_ONLY * face:
        return 0.0, 0.0, 0.0
    plate = E_STEEL * wall**3 / (12 * (1 - 0.3**2))
    long = along + 2 * free
    moved, turned = 12 * plate / free**3, 6 * plate / free**2
    force = 2 * long * moved
    half = across / 2
    over = 2 * long * ((moved * half + turned) * half + turned * half + 4 * plate / free)
    return 1 / force, 1 / (force * long**2 / 12), 1 / over


RAIL_WALL_GIVE = calculation(
    "rail-wall-give",
    "How far the wall of a hollow rail gives under a foot",
    inputs=(
        Q("face", "mm", "width of the wall, from side wall to side wall", above=0),
        Q("across", "mm", "foot, across the rail", above=0),
        Q("along", "mm", "foot, along the rail", above=0),
        Q("wall", "mm", "thickness of the wall", above=0),
    ),
    outputs=(
        Q("force", "mm/N", "in, per force"),
        Q("along_turn", "rad/(N mm)", "tipped along the rail, per moment"),
        Q("across_turn", "rad/(N mm)", "tipped across the rail, per moment"),
    ),
    formula="strips on both sides, c = (face - across)/2: 12 D/c^3 a mm of foot and c more at each end",
    source="clamped strips of plate, statics",
    leaves_out="the side walls' own give, and the rail as a whole",
)(wall_give)

RAIL_WALL = calculation(
    "rail-wall",
    "The wall of a hollow rail under a foot, a tab or a washer",
    inputs=(
        Q("face", "mm", "width of the wall, from side wall to side wall", above=0),
        Q("depth", "mm", "depth of the side walls behind it", above=0),
        Q("across", "mm", "foot, across the rail", above=0),
        Q("along", "mm", "foot, along the rail", above=0),
        Q("wall", "mm", "thickness of the wall", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
        Q("side", "mm", "thickness of the side walls; 0: as the wall", 0.0, low=0),
        Q("walls", "", "side walls behind its edges; 1 under a flange of an open rail", 2, low=1, high=2),
        Q("force", "N", "square to the wall, with its factor", 0.0),
        Q("along_moment", "N mm", "tipping the foot along the rail", 0.0),
        Q("across_moment", "N mm", "tipping it across the rail", 0.0),
    ),
    outputs=(
        Q("use", "", "share used"),
        Q("force_capacity", "N", "force that the wall carries"),
        Q("along_capacity", "N mm", "moment along the rail that it carries"),
        Q("across_capacity", "N mm", "moment across the rail that it carries"),
    ),
    formula=(
        "b = across/face, eta = along/face;  N = fy t^2/(1-b) (2 eta + 4 sqrt(1-b));  M along = fy t^2 h"
        " (1/(2 eta) + 2/sqrt(1-b) + eta/(1-b));  M across = fy t^2 (h (1+b)/(2(1-b)) + sqrt(2 b0 b1"
        " (1+b)/(1-b)));  over b = 0.85 towards the side walls' own;  no more than both side walls bear"
        " before they crumple, each 0.115 t^2 sqrt(fy E) 0.9 (0.5 + sqrt(0.02 h/t)) 3.4;  with one side wall"
        " half of all;  shares added"
    ),
    source="EN 1993-1-8:2005 tables 7.11 and 7.14; EN 1993-1-3:2006, 6.1.7.3 (from memory)",
    leaves_out=(
        "what a rib under the flange of an open rail bears itself; that side walls crumple sooner at the"
        " rail's own end; what else the rail carries there, holes, rust,"
        " and the rail as a whole being twisted"
    ),
)(_worked)
