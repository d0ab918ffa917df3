"""Thin-walled sections of straight walls: open, closed, cut, of several cells. mm.

Axes: y across, z up, in the plane of the section. A wall is told by the middle line of its thickness. The
warping w of each node for a twist of one follows from the wall's energy (Laplace's equation on the walls'
network, exact for straight walls), so cells need not be looked for: Vlasov, Thin-Walled Elastic Beams, ch.
I and II (from memory); checked against closed forms and an independent section library in the tests.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array

SAME = 1e-3
"""Ends of walls nearer than so many mm are joined."""
ROUND = 24
"""Straight walls that a round one is made of."""
Point = tuple[float, float]


class Wall(NamedTuple):
    """A straight wall from ``start`` to ``end`` (y, z) mm, and its thickness mm."""

    start: Point
    end: Point
    thickness: float


@dataclass(frozen=True, eq=False)
class Section:
    """Properties of a section about its centroid. area mm2; i_y mm4 against bending up and down, i_z
    sideways, i_yz their product; torsion mm4; warping mm6 about the shear centre; centroid and shear_centre
    (2,) mm. points: (n, 2) mm, corners; sector: (n,) mm2, how far each warps for a twist of one rad/mm about
    the shear centre."""

    area: float
    centroid: Array
    i_y: float
    i_z: float
    i_yz: float
    torsion: float
    shear_centre: Array
    warping: float
    points: Array
    sector: Array

    @property
    def w_y(self) -> float:
        """Elastic modulus mm3 against bending up and down, at the middle of the farthest wall."""
        return self.i_y / max(float(np.abs(self.points[:, 1] - self.centroid[1]).max()), 1e-9)

    @property
    def w_z(self) -> float:
        """The same sideways."""
        return self.i_z / max(float(np.abs(self.points[:, 0] - self.centroid[0]).max()), 1e-9)


def thin_walled(walls: Sequence[Wall]) -> Section:
    """The section of joined walls. Raises ValueError where a wall is none, or the walls are in pieces."""
    if not walls:
        raise ValueError("a section needs a wall")
    points, ends = _nodes(walls)
    start, end = points[ends[:, 0]], points[ends[:, 1]]
    t = np.array([wall.thickness for wall in walls])
    length = np.linalg.norm(end - start, axis=1)
    if (t <= 0).any() or (length < SAME).any():
        raise ValueError("a wall needs a length and a thickness")
    own = length * t
    area = float(own.sum())
    middle = (start + end) / 2
    centroid = (own[:, None] * middle).sum(0) / area
    along = (end - start) / length[:, None]
    r, half = middle - centroid, (end - start) / 2
    across = np.column_stack([-along[:, 1], along[:, 0]])
    second = (
        np.einsum("n,ni,nj->ij", own, r, r)
        + np.einsum("n,ni,nj->ij", own / 3, half, half)
        + np.einsum("n,ni,nj->ij", own * t**2 / 12, across, across)
    )
    w, in_cells = _warping(points - centroid, ends, t, length, along)
    wa, wb = w[ends[:, 0]], w[ends[:, 1]]
    a, b = start - centroid, end - centroid
    mixed = np.array([(own * _overlap(wa, wb, a[:, i], b[:, i])).sum() for i in (0, 1)])
    line = np.einsum("n,ni,nj->ij", own, r, r) + np.einsum("n,ni,nj->ij", own / 3, half, half)
    shear = _shear_centre(line, mixed)
    about = w + shear[0] * (points - centroid)[:, 1] - shear[1] * (points - centroid)[:, 0]
    wa, wb = about[ends[:, 0]], about[ends[:, 1]]
    return Section(
        area,
        centroid,
        float(second[1, 1]),
        float(second[0, 0]),
        float(second[0, 1]),
        in_cells + float((own * t**2).sum() / 3),
        centroid + shear,
        float((own * _overlap(wa, wb, wa, wb)).sum()),
        points,
        about,
    )


def _nodes(walls: Sequence[Wall]) -> tuple[Array, np.ndarray]:
    """Corners (n, 2) and, for each wall, which two of them it joins."""
    points: list[Point] = []
    ends = []
    for wall in walls:
        pair = []
        for end in (wall.start, wall.end):
            near = next((i for i, p in enumerate(points) if math.dist(p, end) < SAME), None)
            if near is None:
                near = len(points)
                points.append(end)
            pair.append(near)
        ends.append(pair)
    seen, grown = {ends[0][0]}, True
    while grown:
        reached = seen | {i for pair in ends for i in pair if seen & set(pair)}
        grown, seen = reached != seen, reached
    if len(seen) < len(points):
        raise ValueError("the walls of a section must hang together")
    return np.array(points, dtype=float), np.array(ends)


def _overlap(a0: Array, a1: Array, b0: Array, b1: Array) -> Array:
    """Mean of the product of two quantities that are linear along each wall, from their ends."""
    return np.asarray((2 * a0 * b0 + a0 * b1 + a1 * b0 + 2 * a1 * b1) / 6)


def _warping(points: Array, ends: np.ndarray, t: Array, length: Array, along: Array) -> tuple[Array, float]:
    """Warping (n,) mm2 of the corners for a twist of one about the centroid, its mean nought, and the torsion
    constant of the cells mm4."""
    arm = points[ends[:, 0], 0] * along[:, 1] - points[ends[:, 0], 1] * along[:, 0]
    n = len(points)
    stiff, load = np.zeros((n, n)), np.zeros(n)
    for (i, j), thick, long, lever in zip(ends, t, length, arm, strict=True):
        stiff[[i, j], [i, j]] += thick / long
        stiff[[i, j], [j, i]] -= thick / long
        load[i] += thick * lever
        load[j] -= thick * lever
    w = np.zeros(n)
    w[1:] = np.linalg.solve(stiff[1:, 1:], load[1:])
    slope = (w[ends[:, 1]] - w[ends[:, 0]]) / length
    cells = float((t * length * (slope + arm) ** 2).sum())
    share = length * t
    w -= float((share * (w[ends[:, 0]] + w[ends[:, 1]]) / 2).sum() / share.sum())
    return w, cells


def _shear_centre(line: Array, mixed: Array) -> Array:
    """(2,) mm from the centroid: about it, warping goes with no bending. line: (2, 2) second moments of the
    middle lines; mixed: (2,) warping with y and with z."""
    matrix = np.array([[line[0, 1], -line[0, 0]], [line[1, 1], -line[0, 1]]])
    out, *_ = np.linalg.lstsq(matrix, -mixed, rcond=1e-9)
    return np.asarray(out)


SectionKind = Literal["box", "open C", "hat on skin", "tube", "angle", "plate"]


def walls_of(kind: SectionKind, height: float, width: float, wall: float, skin: float = 0.0) -> list[Wall]:
    """The walls of a usual section from its outside sizes, mm, corners sharp.

    open C: web at y = 0, open towards +y. hat on skin: a top-hat of ``wall`` with flanges a quarter of its
    width on a skin of ``skin`` (none: as thick as the hat) below. tube: ``height`` is its outside.
    """
    h, b = height - wall, width - wall
    if kind == "tube":
        turn = np.linspace(0, 2 * np.pi, ROUND + 1)
        # as much metal as the round wall has
        radius = h / 2 * (np.pi / ROUND) / math.sin(np.pi / ROUND)
        ring = [(radius * math.cos(a), radius * math.sin(a)) for a in turn[:-1]]
        return [Wall(a, b, wall) for a, b in zip(ring, [*ring[1:], ring[0]], strict=True)]
    if kind == "plate":
        return [Wall((0.0, 0.0), (0.0, height), wall)]
    if kind == "angle":
        return [Wall((0.0, h), (0.0, 0.0), wall), Wall((0.0, 0.0), (b, 0.0), wall)]
    if kind == "open C":
        b = width - wall / 2
        return [
            Wall((b, h), (0.0, h), wall),
            Wall((0.0, h), (0.0, 0.0), wall),
            Wall((0.0, 0.0), (b, 0.0), wall),
        ]
    if kind == "box":
        ring = [(0.0, 0.0), (b, 0.0), (b, h), (0.0, h)]
        return [Wall(a, c, wall) for a, c in zip(ring, [*ring[1:], ring[0]], strict=True)]
    below, flange = skin or wall, width / 4
    return [
        Wall((0.0, 0.0), (0.0, h), wall),
        Wall((0.0, h), (b, h), wall),
        Wall((b, h), (b, 0.0), wall),
        Wall((0.0, 0.0), (b, 0.0), below),
        Wall((-flange, 0.0), (0.0, 0.0), wall + below),
        Wall((b, 0.0), (b + flange, 0.0), wall + below),
    ]


def stiffened_torsion(section: Section, length: float, poisson: float = 0.3) -> float:
    """Torsion constant mm4 of a member of ``length`` mm whose ends cannot warp."""
    return held_torsion(section.torsion, section.warping, length, poisson)


def held_torsion(torsion: float, warping: float, length: float, poisson: float = 0.3) -> float:
    """Torsion constant mm4 of a member of ``length`` mm whose ends cannot warp, or which is twisted in its
    middle between ends that may warp but not turn: J / (1 - tanh(k)/k), k = (L/2) sqrt(G J / (E Iw)) (Vlasov;
    from memory)."""
    if warping < 1e-6:
        return torsion
    k = length / 2 * math.sqrt(torsion / (2 * (1 + poisson) * warping))
    return torsion / (1 - math.tanh(k) / k)


def effective_width(width: float, wall: float, yield_mpa: float) -> float:
    """What of a wall held on both sides works in compression, mm: EN 1993-1-5:2006, 4.4, psi = 1."""
    slender = width / wall / (56.8 * math.sqrt(235.0 / yield_mpa))
    return width * (1.0 if slender <= 0.673 else (slender - 0.22) / slender**2)


def outstand_width(width: float, wall: float, yield_mpa: float) -> float:
    """What of a wall with one free edge works in compression, mm: EN 1993-1-5:2006, 4.4, k = 0.43."""
    slender = width / wall / (28.4 * math.sqrt(0.43 * 235.0 / yield_mpa))
    return width * (1.0 if slender <= 0.748 else (slender - 0.188) / slender**2)


SHEARED_HELD, SHEARED_FREE = 86.4, 42.3
"""Slenderness in shear is a wall's width over so many times its thickness and sqrt(235/fy): 37.4 sqrt(k), k
5.34 of a long wall held along both edges (EN 1993-1-5:2006, 5.3), 1.28 with one edge free (from memory)."""


def shear_share(width: float, wall: float, yield_mpa: float, free: bool = False) -> float:
    """The share of its yield in shear that a long wall bears before it buckles: EN 1993-1-5:2006, table 5.1,
    no stiff end posts, eta = 1 (from memory)."""
    most = (SHEARED_FREE if free else SHEARED_HELD) * wall * math.sqrt(235.0 / yield_mpa)
    return min(1.0, 0.83 * most / width)


def works_sheared(walls: Sequence[Wall], yield_mpa: float) -> float:
    """The least of those shares of the walls of a section."""
    return min(
        shear_share(math.dist(wall.start, wall.end), wall.thickness, yield_mpa, loose)
        for wall, loose in zip(walls, _loose(walls), strict=True)
    )


def works_pressed(walls: Sequence[Wall], yield_mpa: float) -> float:
    """The share of its metal that works where a section of thin walls is pressed along its length, each wall
    as wide as its middle line; one with a free edge buckles sooner."""
    works = total = 0.0
    for wall, loose in zip(walls, _loose(walls), strict=True):
        wide = math.dist(wall.start, wall.end)
        width = (outstand_width if loose else effective_width)(wide, wall.thickness, yield_mpa)
        works, total = works + width * wall.thickness, total + wide * wall.thickness
    return works / total


def _loose(walls: Sequence[Wall]) -> list[bool]:
    """Whether each wall has a free edge: an end that is no other wall's end and on no other's line."""
    ends = [(wall.start, wall.end) for wall in walls]

    def free(p: tuple[float, float], own: int) -> bool:
        return not any(
            math.dist(p, q) < SAME for k, both in enumerate(ends) if k != own for q in both
        ) and not any(_within(p, both) for k, both in enumerate(ends) if k != own)

    return [free(wall.start, k) or free(wall.end, k) for k, wall in enumerate(walls)]


def _within(p: tuple[float, float], ends: tuple[tuple[float, float], tuple[float, float]]) -> bool:
    """Whether a place lies on a wall's middle line between its ends."""
    (ax, ay), (bx, by) = ends
    long = math.dist(*ends)
    t = ((p[0] - ax) * (bx - ax) + (p[1] - ay) * (by - ay)) / max(long**2, 1e-12)
    return 0 < t < 1 and math.dist(p, (ax + t * (bx - ax), ay + t * (by - ay))) < SAME


class Worked(NamedTuple):
    """What the calculation tells: see its outputs."""

    area: float
    i_y: float
    i_z: float
    i_yz: float
    torsion: float
    shear_centre: float
    warping: float
    held: float
    works: float


def _worked(
    kind: SectionKind,
    height: float,
    width: float,
    wall: float,
    skin: float = 0.0,
    length: float = 1000.0,
    yield_mpa: float = 235.0,
) -> Worked:
    s = thin_walled(walls_of(kind, height, width, wall, skin))
    return Worked(
        s.area,
        s.i_y,
        s.i_z,
        s.i_yz,
        s.torsion,
        float(s.shear_centre[0] - s.points[:, 0].min()),
        s.warping / 1e6,
        stiffened_torsion(s, length),
        effective_width(width, wall, yield_mpa),
    )


THIN_WALLED = calculation(
    "thin-walled-section",
    "Section of a rail or a member",
    inputs=(
        Q("kind", "", "section", "box", choices=("box", "open C", "hat on skin", "tube", "angle", "plate")),
        Q("height", "mm", "outside height", above=0),
        Q("width", "mm", "outside width", above=0),
        Q("wall", "mm", "wall", above=0),
        Q("skin", "mm", "skin that a hat stands on (0: as the hat)", 0.0, low=0),
        Q("length", "mm", "between its crossmembers, which keep it from warping", 1000.0, above=0),
        Q("yield_mpa", "MPa", "yield strength", 235.0, above=0),
    ),
    outputs=(
        Q("area", "mm2", "area"),
        Q("i_y", "mm4", "second moment, bent up and down"),
        Q("i_z", "mm4", "second moment, bent sideways"),
        Q("i_yz", "mm4", "product of inertia"),
        Q("torsion", "mm4", "torsion constant, free to warp"),
        Q("shear_centre", "mm", "shear centre from its left-hand wall, to the right"),
        Q("warping", "cm6", "warping constant"),
        Q("held", "mm4", "torsion constant between crossmembers"),
        Q("works", "mm", "how much of its width works in compression"),
    ),
    formula=(
        "middle lines of the walls; J = sum of t l (w' + r)^2 + sum of l t^3 / 3;  held: J / (1 - tanh(k)/k),"
        " k = (L/2) sqrt(G J/(E Iw));  b_eff = b (l - 0.22)/l^2, l = (b/t)/(56.8 e)"
    ),
    source=(
        "Vlasov, Thin-Walled Elastic Beams, ch. I and II; EN 1993-1-5:2006, 4.4 (from memory); C: shear"
        " centre 3 b2 / (h + 6 b)"
    ),
    leaves_out="corner radii and holes",
)(_worked)
