"""Where the tubes of a cradle meet: which goes through, which ends on it, and how their walls are used."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations
from typing import Any

import numpy as np

from nimble_cradle.calc import Calculation
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.pose import Array, cross, unit
from nimble_cradle.job.cradle import Cradle
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.tubes import properties
from nimble_cradle.strength.cradle_frame import CradleResponse
from nimble_cradle.strength.frame import member_axes
from nimble_cradle.strength.tube_joint import (
    BOX,
    LEAST_ANGLE,
    MOST_BOX,
    MOST_ROUND,
    ROUND,
    TUBE_CORNER,
    TUBE_JOINT,
    Branch,
    Chord,
    corner_share,
    joint_capacity,
    joint_share,
)

IN_LINE = 170.0
"""Two tubes of one section go through where they meet at no less, deg."""
ASKEW = 15.0
"""A branch stands on a face of a box, its walls lie along the other tube, and a corner bends about one of its
axes, within so many deg."""
LEAST_CORNER = 45.0
CURE = "a thicker wall, a branch as wide as the tube it ends on, a plate across the corner"


@dataclass(frozen=True, eq=False)
class End:
    """An end of a tube at a point. axes: (3, 3) rows along it as it is drawn, across, up; away: (3,) from
    the point; vehicle frame."""

    tube: int
    side: int
    section: HollowSection
    axes: Array
    away: Array

    @property
    def shape(self) -> str:
        """As its formulas name it."""
        return ROUND if self.section.shape == "round" else BOX

    @property
    def sizes(self) -> tuple[float, float]:
        """Across and up, mm."""
        height = self.section.height_mm
        return (self.section.width_mm if self.section.shape == "rectangle" else height), height


@dataclass(frozen=True, eq=False)
class Landing:
    """A tube that ends on one that goes through. normal: (3,) out of the wall it stands on."""

    point: int
    through: tuple[End, End]
    branch: End
    normal: Array
    face: float
    depth: float
    along: float
    across: float
    angle: float


@dataclass(frozen=True, eq=False)
class Corner:
    """Two boxes of one section, mitred. normal: (3,) to their plane; deep: the box's depth in that plane."""

    point: int
    ends: tuple[End, End]
    normal: Array
    deep: float
    wide: float
    angle: float


@dataclass(frozen=True, eq=False)
class Joints:
    """All joints of a cradle. unjudged: numbers of points where tubes meet in a way that is not judged."""

    landings: tuple[Landing, ...]
    corners: tuple[Corner, ...]
    unjudged: tuple[int, ...]


@lru_cache(maxsize=32)
def joints_of(cradle: Cradle) -> Joints:
    """How the tubes meet at every point of a cradle."""
    landings: list[Landing] = []
    corners: list[Corner] = []
    unjudged = []
    for number, ends in enumerate(_ends(cradle)):
        if len(ends) < 2:
            continue
        through = _through(ends)
        if through is not None:
            rows = [_landing(number, through, end) for end in ends if end not in through]
            landings += [row for row in rows if row is not None]
            whole = all(row is not None for row in rows)
        else:
            corner = _corner(number, ends[0], ends[1]) if len(ends) == 2 else None
            corners += [corner] if corner is not None else []
            whole = corner is not None
        if not whole:
            unjudged.append(number)
    return Joints(tuple(landings), tuple(corners), tuple(unjudged))


def _ends(cradle: Cradle) -> list[list[End]]:
    """The ends of tubes at every point."""
    at = {point.id: np.asarray(point.at, dtype=float) for point in cradle.points}
    index = {point.id: k for k, point in enumerate(cradle.points)}
    out: list[list[End]] = [[] for _ in cradle.points]
    for k, tube in enumerate(cradle.tubes):
        axes = member_axes(at[tube.start], at[tube.end], (0.0, 0.0, 1.0))
        section = cradle.section_of(tube)
        out[index[tube.start]].append(End(k, 0, section, axes, axes[0]))
        out[index[tube.end]].append(End(k, 1, section, axes, -axes[0]))
    return out


def _turn(a: Array, b: Array) -> float:
    """Angle between two directions, deg."""
    return math.degrees(math.acos(float(np.clip(a @ b, -1.0, 1.0))))


def _through(ends: Sequence[End]) -> tuple[End, End] | None:
    """The two ends that are one tube in all but a butt weld: the heaviest where there are several pairs."""
    pairs = [
        (a, b)
        for a, b in combinations(ends, 2)
        if _turn(a.away, b.away) >= IN_LINE and _same(a.section, b.section)
    ]
    return max(pairs, key=lambda pair: properties(pair[0].section).area, default=None)


def _same(a: HollowSection, b: HollowSection) -> bool:
    sizes = [(s.shape, s.height_mm, s.width_mm if s.shape == "rectangle" else 0.0, s.wall_mm) for s in (a, b)]
    return sizes[0] == sizes[1]


def _landing(number: int, through: tuple[End, End], branch: End) -> Landing | None:
    """A branch on a tube that goes through; None where its joint is none that is judged."""
    chord = through[0]
    own = chord.axes[0]
    angle = min(_turn(branch.away, own), _turn(branch.away, -own))
    out = branch.away - (branch.away @ own) * own
    if angle < LEAST_ANGLE or float(np.linalg.norm(out)) < 1e-6:
        return None
    normal, (wide, high) = unit(out), chord.sizes
    face, depth = wide, wide
    if chord.shape == BOX:
        if wide / chord.section.wall_mm > MOST_BOX or high / chord.section.wall_mm > MOST_BOX:
            return None
        across, up = chord.axes[1], chord.axes[2]
        to_up = abs(float(normal @ up)) >= abs(float(normal @ across))
        square = up if to_up else across
        square = square if float(normal @ square) > 0 else -square
        if _turn(normal, square) > ASKEW:
            return None
        normal, face, depth = square, *((wide, high) if to_up else (high, wide))
    elif face / chord.section.wall_mm > MOST_ROUND:
        return None
    b_wide, b_high = branch.sizes
    if branch.shape == BOX:
        # which of the branch's walls run along the tube that goes through
        lies = unit(own - (own @ branch.away) * branch.away)
        if max(abs(float(branch.axes[k] @ lies)) for k in (1, 2)) < math.cos(math.radians(ASKEW)):
            return None  # turned about its own axis
        runs_up = abs(float(branch.axes[2] @ lies)) > abs(float(branch.axes[1] @ lies))
        along, across_it = (b_high, b_wide) if runs_up else (b_wide, b_high)
        most = MOST_BOX
    else:
        along = across_it = b_high
        most = MOST_ROUND
    if across_it > face + 1.0 or max(b_wide, b_high) / branch.section.wall_mm > most:
        return None
    return Landing(number, through, branch, normal, face, depth, along, across_it, angle)


def _corner(number: int, a: End, b: End) -> Corner | None:
    """Two boxes that meet in a mitre; None where that is none that is judged."""
    angle = _turn(a.away, b.away)
    if a.shape != BOX or not _same(a.section, b.section) or angle < LEAST_CORNER:
        return None
    if angle >= IN_LINE:
        return None
    normal = unit(cross(a.away, b.away))
    deep: set[float] = set()
    for end in (a, b):
        off = [min(_turn(normal, axis), _turn(normal, -axis)) for axis in end.axes[1:]]
        if min(off) > ASKEW:
            return None
        deep.add(end.sizes[1] if off[0] <= off[1] else end.sizes[0])
    wide, high = a.sizes
    if len(deep) > 1 or max(wide, high) / a.section.wall_mm > MOST_BOX:
        return None
    depth = deep.pop()
    return Corner(number, (a, b), normal, depth, wide if depth == high else high, angle)


def joint_finding(
    cradle: Cradle, cases: Cases, response: CradleResponse, ends: Array, stress: Array
) -> list[Finding]:
    """The hardest-used walls of all its joints; none where no joint is judged. ends: (k, members, 2, 6) with
    the factors; stress: (k, members) MPa of the same."""
    joints, fy = joints_of(cradle), STEELS[cradle.steel].yield_mpa
    of_tube = list(response.of_tube)

    def member(end: End) -> int:
        """The piece of a tube at that end."""
        own = [m for m, k in enumerate(of_tube) if k == end.tube]
        return own[0] if end.side == 0 else own[-1]

    def meets(end: End) -> tuple[Array, Array]:
        """Force and moment (k, 3) at an end, vehicle frame."""
        at = ends[:, member(end), end.side]
        return at[:, :3] @ end.axes, at[:, 3:] @ end.axes

    rows: list[tuple[Array, Calculation, dict[str, Any], dict[str, Array], Array, str]] = []
    told: list[tuple[Landing, Array]] = []
    for landing in joints.landings:
        used = np.maximum(*(stress[:, member(end)] for end in landing.through)) / fy
        rows.append(_landing_row(landing, meets(landing.branch), used, fy))
        told.append((landing, rows[-1][0]))
    # what stands on one wall of one tube at one point counts together
    for k, (landing, own) in enumerate(told):
        beside = sum(
            (
                use
                for other, use in told
                if other is not landing
                and other.point == landing.point
                and float(other.normal @ landing.normal) > math.cos(math.radians(60))
            ),
            np.zeros(len(own)),
        )
        use, calc, given, loads, force, where = rows[k]
        rows[k] = use + beside, calc, given, {**loads, "beside": beside}, force, where
    for corner in joints.corners:
        rows.append(_corner_row(corner, [meets(end) for end in corner.ends], fy))
    if not rows:
        return []
    use, calc, given, loads, force, where = max(rows, key=lambda row: float(row[0].max()))
    return [
        worst(
            cradle,
            Check("cradle-joint", f"walls of its tubes where they meet, {where}", "force", CURE),
            cases,
            use,
            force,
            calc,
            lambda k: {**given, **{name: float(row[k]) for name, row in loads.items()}},
            {"force": "space frame", "face": "the cradle"},
        )
    ]


def _landing_row(
    landing: Landing, at: tuple[Array, Array], used: Array, fy: float
) -> tuple[Array, Calculation, dict[str, Any], dict[str, Array], Array, str]:
    """Use of the walls under one branch, and what its working is made of."""
    chord, branch = landing.through[0], landing.branch
    own = chord.axes[0]
    force, moment = at[0] @ landing.normal, at[1]
    in_plane, out = moment @ cross(landing.normal, own), moment @ own
    parts = [
        joint_capacity(
            Chord(chord.shape, landing.face, landing.depth, chord.section.wall_mm, float(share)),
            Branch(branch.shape, landing.along, landing.across, branch.section.wall_mm, landing.angle),
            fy,
        )
        for share in used
    ]
    both_round = chord.shape == branch.shape == ROUND
    use = joint_share(both_round, list(np.array(parts).T), force, in_plane, out)
    given = {
        "chord": chord.shape,
        "face": landing.face,
        "depth": landing.depth,
        "wall": chord.section.wall_mm,
        "branch": branch.shape,
        "along": landing.along,
        "across": landing.across,
        "branch_wall": branch.section.wall_mm,
        "angle": landing.angle,
        "yield_mpa": fy,
    }
    loads = {"used": used, "force": force, "in_plane": in_plane, "out_of_plane": out}
    where = f"tube {branch.tube + 1} on tube {chord.tube + 1}"
    return use, TUBE_JOINT, given, loads, np.abs(force), where


def _corner_row(
    corner: Corner, at: Sequence[tuple[Array, Array]], fy: float
) -> tuple[Array, Calculation, dict[str, Any], dict[str, Array], Array, str]:
    """Use of a corner: of the harder-loaded of its two ends in each case."""
    wall = corner.ends[0].section.wall_mm
    sizes = corner.deep, corner.wide, wall, corner.angle
    rows = []
    for end, (force, moment) in zip(corner.ends, at, strict=True):
        pull = np.abs(force @ end.away)
        in_plane = np.abs(moment @ corner.normal)
        out = np.abs(moment @ unit(cross(corner.normal, end.away)))
        rows.append((corner_share(*sizes, fy, pull, in_plane, out), pull, in_plane, out))
    use, pull, in_plane, out = max(rows, key=lambda row: float(row[0].max()))
    given = {
        "in_plane_depth": corner.deep,
        "width": corner.wide,
        "wall": wall,
        "angle": corner.angle,
        "yield_mpa": fy,
    }
    loads = {"force": pull, "in_plane": in_plane, "out_of_plane": out}
    where = f"corner of tubes {corner.ends[0].tube + 1} and {corner.ends[1].tube + 1}"
    return use, TUBE_CORNER, given, loads, pull, where


def unjudged_words(cradle: Cradle) -> str:
    """The points whose walls are not judged, in words; empty where all are."""
    numbers = [str(k + 1) for k in joints_of(cradle).unjudged]
    if not numbers:
        return ""
    last = numbers.pop()
    return f"point{'s' if numbers else ''} {', '.join(numbers)}{' and ' if numbers else ''}{last}"


def has_joints(cradle: Cradle) -> bool:
    """Whether any joint of it is judged."""
    joints = joints_of(cradle)
    return bool(joints.landings or joints.corners)
