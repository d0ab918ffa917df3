"""The walls where tubes are welded together: a branch on a chord that goes through, and a mitred corner. N,
mm, MPa, N mm; angles deg.

EN 1993-1-8:2005, tables 7.2, 7.3, 7.5, 7.11, 7.13, 7.14 and 7.5.2 for corners, all from memory, with all
partial factors 1.0.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array
from nimble_cradle.strength.rail_wall import FACE_ONLY, wall_capacity

ROUND, BOX = "round", "box"
LEAST_ANGLE = 30.0
"""A branch that leans nearer to its chord cannot be welded in the heel (EN 1993-1-8, 7.1.2)."""
MOST_PULLED = 0.2
"""A plain corner is pulled or pressed by no more than that share of what the box carries (7.5.2)."""
MOST_ROUND, MOST_BOX = 50.0, 35.0
"""Diameter or width over wall up to which the formulas hold (tables 7.1 and 7.8)."""


class Chord(NamedTuple):
    """The tube that goes through. face: width of the wall that the branch stands on, or diameter; depth: of
    the walls beside it; used: share of its yield that its own pull and bending use there."""

    shape: str
    face: float
    depth: float
    wall: float
    used: float


class Branch(NamedTuple):
    """The tube that ends on it. along, across: its size along the chord and across it; angle: between both
    axes."""

    shape: str
    along: float
    across: float
    wall: float
    angle: float


class JointCapacity(NamedTuple):
    """What the walls carry: force square to the chord's face, and moments in the plane of both axes and out
    of it."""

    force: float
    in_plane: float
    out_of_plane: float


def joint_capacity(chord: Chord, branch: Branch, yield_mpa: float) -> JointCapacity:
    """What the walls carry of a branch, the weakest of all ways in which they fail."""
    on = _on_round if chord.shape == ROUND else _on_box
    ways = on(chord, branch, yield_mpa)
    return JointCapacity(*(min(way[k] for way in ways) for k in range(3)))


def _on_round(chord: Chord, branch: Branch, fy: float) -> list[tuple[float, float, float]]:
    """A round chord's wall drawn in, and punched through."""
    d, t, size = chord.face, chord.wall, branch.across
    beta, gamma, sine = min(size / d, 1.0), d / (2 * t), math.sin(math.radians(branch.angle))
    used = min(chord.used, 1.0)
    less, through = fy * (1 - 0.3 * used * (1 + used)), fy * t / math.sqrt(3)
    if branch.shape == BOX:
        plain = less * t**2 * (4 + 20 * beta**2) * (1 + 0.25 * branch.along / d)
        ways = [(plain, branch.along * plain, 0.5 * size * plain)]
        if size > d - 2 * t:
            return ways
        # pull and bending a mm of the branch's wall against the shear of the chord's
        edge = branch.along * size
        each = 2 * (branch.along + size), edge + branch.along**2 / 3, edge + size**2 / 3
        return [*ways, (through * each[0], through * each[1], through * each[2])]
    ways = [
        (
            less * gamma**0.2 * t**2 * (2.8 + 14.2 * beta**2),
            less * 4.85 * t**2 * size * math.sqrt(gamma) * beta / sine,
            less * t**2 * size * 2.7 / (1 - 0.81 * beta) / sine,
        )
    ]
    if size <= d - 2 * t:
        ways.append(
            (
                through * math.pi * size * (1 + sine) / (2 * sine),
                through * size**2 * (1 + 3 * sine) / (4 * sine**2),
                through * size**2 * (3 + sine) / (4 * sine**2),
            )
        )
    return ways


def _on_box(chord: Chord, branch: Branch, fy: float) -> list[tuple[float, float, float]]:
    """A box chord's face and side walls, punched through, the box pushed out of square, and the part of the
    branch's own wall that is held stiffly."""
    face, depth, t = chord.face, chord.depth, chord.wall
    sine = math.sin(math.radians(branch.angle))
    across, beta = min(branch.across, face), min(branch.across / face, 1.0)
    along = branch.along / sine
    less = min(1.0, 1.3 - 0.4 * min(chord.used, 1.0) / beta)
    walls = wall_capacity(face, depth, across, along, t, fy)
    ways = [(less * walls.force, less * walls.along_moment, less * walls.across_moment)]
    lozenge = 2 * fy * t * (branch.along * t + math.sqrt(face * depth * t * (face + depth)))
    ways.append((math.inf, math.inf, lozenge))
    held = min(10 * t / face, 1.0) * across
    if beta <= 1 - 2 * t / face:
        ways.append((fy * t / math.sqrt(3) * 2 * (along + held), math.inf, math.inf))
    if beta > FACE_ONLY:
        own, h = branch.wall, branch.along
        part = min(held * t / own, across)
        ways.append(
            (
                fy * own * (2 * h - 4 * own + 2 * part) * sine,
                fy * (plastic(across, h, own) - (1 - part / across) * across * (h - own) * own),
                fy * (plastic(h, across, own) - 0.5 * own * (across - part) ** 2),
            )
        )
    if branch.shape == ROUND:
        ways = [(math.pi / 4 * a, math.pi / 4 * b, math.pi / 4 * c) for a, b, c in ways]
    return ways


def plastic(width: float, height: float, wall: float) -> float:
    """Plastic modulus mm3 of a box, sharp-cornered, bent so that its height works."""
    return (width * height**2 - (width - 2 * wall) * (height - 2 * wall) ** 2) / 4


def joint_share(
    both_round: bool, capacity: Sequence[ArrayLike], force: ArrayLike, in_plane: ArrayLike, out: ArrayLike
) -> Array:
    """(k,) share used: the three added, bending in the plane of two round tubes squared. capacity: three,
    each one or (k,)."""
    n, mi, mo = capacity
    bent = np.abs(in_plane) / mi
    return np.asarray(np.abs(force) / n + bent ** (2 if both_round else 1) + np.abs(out) / mo)


def _joint_use(
    chord: str,
    face: float,
    depth: float,
    wall: float,
    branch: str,
    along: float,
    across: float,
    branch_wall: float,
    angle: float,
    yield_mpa: float,
    used: float = 0.0,
    force: float = 0.0,
    in_plane: float = 0.0,
    out_of_plane: float = 0.0,
    beside: float = 0.0,
) -> tuple[float, float, float, float]:
    found = joint_capacity(
        Chord(chord, face, depth, wall, used), Branch(branch, along, across, branch_wall, angle), yield_mpa
    )
    own = joint_share(chord == branch == ROUND, found, force, in_plane, out_of_plane)
    return float(own) + beside, *found


TUBE_JOINT = calculation(
    "tube-joint",
    "The walls where a tube is welded onto another that goes through",
    inputs=(
        Q("chord", "", "tube that goes through", choices=(ROUND, BOX)),
        Q("face", "mm", "width of its wall there, or its diameter", above=0),
        Q("depth", "mm", "of the walls beside that", above=0),
        Q("wall", "mm", "its wall", above=0),
        Q("branch", "", "tube that ends on it", choices=(ROUND, BOX)),
        Q("along", "mm", "its size along the other", above=0),
        Q("across", "mm", "its size across the other", above=0),
        Q("branch_wall", "mm", "its wall", above=0),
        Q("angle", "deg", "between both axes", 90.0, low=LEAST_ANGLE, high=90.0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
        Q("used", "", "share of its yield that the tube through uses itself", 0.0, low=0),
        Q("force", "N", "square to the wall, with its factor", 0.0),
        Q("in_plane", "N mm", "bending in the plane of both axes", 0.0),
        Q("out_of_plane", "N mm", "bending out of that plane", 0.0),
        Q("beside", "", "use of the same wall by other tubes there", 0.0, low=0),
    ),
    outputs=(
        Q("use", "", "share used"),
        Q("force_capacity", "N", "square to the wall alone"),
        Q("in_plane_capacity", "N mm", "in the plane alone"),
        Q("out_of_plane_capacity", "N mm", "out of the plane alone"),
    ),
    formula=(
        "round: N = kp g^0.2 fy t^2 (2.8 + 14.2 b^2), Mi = kp 4.85 fy t^2 d sqrt(g) b/sin, Mo = kp fy t^2 d"
        " 2.7/(1 - 0.81 b)/sin; box: the rail's wall times kn, 10 t/b0 of the branch's wall over b = 0.85;"
        " each no more than punching; N + Mi (squared round on round) + Mo + what stands beside <= 1"
    ),
    source="EN 1993-1-8:2005 tables 7.2, 7.3, 7.5, 7.11, 7.13 and 7.14 (from memory)",
    leaves_out="a rib inside, a gusset across the corner, walls that are rusted or drilled",
)(_joint_use)


def corner_factor(in_plane_depth: float, width: float, wall: float, angle: float) -> float:
    """What a plain mitred corner of two boxes carries, as a share of the box. angle: between both axes, 180
    where they are in line."""
    square: float = 3 * math.sqrt(width / in_plane_depth) / (width / wall) ** 0.8 + 1 / (
        1 + 2 * width / in_plane_depth
    )
    square = min(square, 1.0)
    return square if angle <= 90 else 1 - math.sqrt(2) * math.cos(math.radians(angle / 2)) * (1 - square)


def corner_share(
    deep: float,
    wide: float,
    wall: float,
    angle: float,
    yield_mpa: float,
    force: ArrayLike,
    in_plane: ArrayLike,
    out: ArrayLike,
) -> Array:
    """(k,) share used of a corner of boxes ``deep`` mm in its plane and ``wide`` out of it."""
    pulled = np.abs(force) / (2 * wall * (deep + wide - 2 * wall) * yield_mpa)
    bent = np.abs(in_plane) / (plastic(wide, deep, wall) * yield_mpa)
    aside = np.abs(out) / (plastic(deep, wide, wall) * yield_mpa)
    return np.maximum((pulled + bent + aside) / corner_factor(deep, wide, wall, angle), pulled / MOST_PULLED)


def _corner_use(
    in_plane_depth: float,
    width: float,
    wall: float,
    angle: float,
    yield_mpa: float,
    force: float = 0.0,
    in_plane: float = 0.0,
    out_of_plane: float = 0.0,
) -> tuple[float, float]:
    sizes = in_plane_depth, width, wall, angle
    share = corner_share(*sizes, yield_mpa, force, in_plane, out_of_plane)
    return float(share), corner_factor(*sizes)


TUBE_CORNER = calculation(
    "tube-corner",
    "A mitred corner of two boxes without a plate in it",
    inputs=(
        Q("in_plane_depth", "mm", "of the box in the plane of both", above=0),
        Q("width", "mm", "of the box out of that plane", above=0),
        Q("wall", "mm", "its wall", above=0),
        Q("angle", "deg", "between both axes, 180 in line", 90.0, above=0, high=180.0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
        Q("force", "N", "along the box, with its factor", 0.0),
        Q("in_plane", "N mm", "bending in the plane of both", 0.0),
        Q("out_of_plane", "N mm", "bending out of it", 0.0),
    ),
    outputs=(Q("use", "", "share used"), Q("factor", "", "share of the box that the corner carries")),
    formula=(
        "k = 3 sqrt(b/h)/(b/t)^0.8 + 1/(1 + 2 b/h), past 90 deg 1 - sqrt2 cos(a/2) (1 - k);  (N/Npl + M/Mpl"
        " + Mo/Mopl)/k <= 1 and N <= 0.2 Npl"
    ),
    source="EN 1993-1-8:2005, 7.5.2 (from memory); Mo is added likewise, which the standard does not treat",
    leaves_out="twist at the corner, and a plate welded in the mitre, which carries the whole box",
)(_corner_use)
