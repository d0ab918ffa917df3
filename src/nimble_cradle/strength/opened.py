"""A section of straight walls cut open on one side, and mended. mm; y across, z up, the middle of its
outside at nought."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.strength.section import Point, SectionKind, Wall, walls_of

TURNS: dict[tuple[int, float], int] = {(0, 1.0): 0, (1, 1.0): 1, (0, -1.0): 2, (1, -1.0): 3}
"""Quarter turns from the way y to a way: axis 0 or 1, sign."""
SAME = 1e-4


def laid(
    kind: SectionKind, tall: float, wide: float, wall: float, skin: float, opens: tuple[int, float]
) -> list[Wall]:
    """The walls of a section as it lies in the car, from its outside sizes. opens: the axis and the sign of
    the way in which an open C is open, or in which the skin of a hat lies. tall, wide: of what is drawn, a
    hat without its flanges."""
    if kind in ("box", "tube", "plate", "angle"):
        walls = walls_of(kind, tall, wide, wall, skin)
        turns = 0
    else:
        on_end = opens[0] == 1
        # an open C opens to +y as it is made, a hat's skin lies below
        high, broad = (tall, wide) if (kind == "open C") != on_end else (wide, tall)
        walls = walls_of(kind, high, broad, wall, skin)
        turns = (TURNS[opens] - (0 if kind == "open C" else 3)) % 4
    return _centred([_turned(w, turns) for w in walls])


def _turned(wall: Wall, turns: int) -> Wall:
    def at(p: Point) -> Point:
        y, z = p
        for _ in range(turns):
            y, z = -z, y
        return (y, z)

    return Wall(at(wall.start), at(wall.end), wall.thickness)


def _centred(walls: Sequence[Wall]) -> list[Wall]:
    points = np.array([p for w in walls for p in (w.start, w.end)])
    y, z = ((points.max(0) + points.min(0)) / 2).tolist()
    return [Wall((w.start[0] - y, w.start[1] - z), (w.end[0] - y, w.end[1] - z), w.thickness) for w in walls]


def cut_open(walls: Sequence[Wall], axis: int, sign: float, line: float) -> list[Wall]:
    """What is left of walls when all beyond ``line`` mm is cut off: of the coordinate ``axis`` times sign."""
    out = []
    for wall in walls:
        a, b = (sign * p[axis] for p in (wall.start, wall.end))
        if min(a, b) >= line - SAME:
            continue
        start, end = wall.start, wall.end
        if max(a, b) > line:
            share = (line - a) / (b - a)
            there = tuple(s + share * (e - s) for s, e in zip(start, end, strict=True))
            start, end = (start, there) if a < b else (there, end)  # type: ignore[assignment]
        out.append(Wall(start, end, wall.thickness))
    return out


THREAD = 1e-4
"""A wall so thin, mm, carries nothing and holds what is on both sides of a hole together."""


def cut_hole(
    walls: Sequence[Wall], axis: int, sign: float, at: float, wide: float, through: bool
) -> tuple[list[Wall], tuple[Point, Point]]:
    """What is left of walls where the outer half of a section has a hole ``wide`` mm about ``at``, measured
    along the other axis, on the side that ``axis`` and ``sign`` tell; through: the other half too, of which
    a thread stays. And both edges of the hole, lower first. Raises ValueError where the hole meets no wall on
    one of its edges."""
    other = 1 - axis
    reach = [sign * p[axis] for w in walls for p in (w.start, w.end)]
    middle = (max(reach) + min(reach)) / 2
    out: list[Wall] = []
    edges: dict[float, Point] = {}
    for wall in walls:
        a, b = (p[other] for p in (wall.start, wall.end))
        here = sign * (wall.start[axis] + wall.end[axis]) / 2 - middle
        if abs(b - a) < SAME or (here < SAME and not (through and here < -SAME)):
            out.append(wall)
            continue
        share = sorted(min(max((line - a) / (b - a), 0.0), 1.0) for line in (at - wide / 2, at + wide / 2))

        def place(t: float, w: Wall = wall) -> Point:
            return (w.start[0] + t * (w.end[0] - w.start[0]), w.start[1] + t * (w.end[1] - w.start[1]))

        low, high = share
        if high - low < 1e-9:
            out.append(wall)
            continue
        if low > 1e-9:
            out.append(Wall(wall.start, place(low), wall.thickness))
        if high < 1 - 1e-9:
            out.append(Wall(place(high), wall.end, wall.thickness))
        if here < 0:
            out.append(Wall(place(low), place(high), THREAD))
        else:
            for t in (low, high):
                if 1e-9 < t < 1 - 1e-9:
                    edges[place(t)[other]] = place(t)
    if len(edges) != 2:
        raise ValueError(
            "the hole reaches over the edge of its wall; cut it from edge to edge, or make it less"
        )
    return out, (edges[min(edges)], edges[max(edges)])


def covered(left: Sequence[Wall], thick: float) -> Wall:
    """A plate over the open edges: from one free edge of what is left to the other. Raises ValueError where
    there are not two of them."""
    edges: list[Point] = []
    for point in (p for w in left for p in (w.start, w.end)):
        near = next((e for e in edges if math.dist(e, point) < SAME), None)
        if near is None:
            edges.append(point)
        else:
            edges.remove(near)
    if len(edges) != 2:
        raise ValueError("what is left has not two open edges that a plate could go over")
    return Wall(edges[0], edges[1], thick)


def plated(left: Sequence[Wall], axis: int, thick: float) -> tuple[list[Wall], list[float]]:
    """The walls beside a cut made thicker by plates on them, and how wide each plate is. Raises
    ValueError where there is no such wall."""
    out: list[Wall] = []
    wide: list[float] = []
    for wall in left:
        run = np.subtract(wall.end, wall.start)
        size = float(np.hypot(*run))
        if abs(run[axis]) > 0.8 * size:
            out.append(Wall(wall.start, wall.end, wall.thickness + thick))
            wide.append(size)
        else:
            out.append(wall)
    if not wide:
        raise ValueError("there is no wall beside the cut that a plate could go on")
    return out, wide


def whole_share(there: float, cut: float, length: float) -> float:
    """Share of a member's stiffness when over ``cut`` of its ``length`` only the share ``there`` is left,
    its load the same all along it."""
    if there <= 0:
        return 0.0
    return length / (length - cut + cut / there)


CUT_MEMBER = calculation(
    "cut-member",
    "What a cut leaves of a whole member",
    inputs=(
        Q("there", "", "share of stiffness that is left where it is cut", low=0),
        Q("cut", "mm", "how long the cut is", low=0),
        Q("length", "mm", "the member", above=0),
    ),
    outputs=(Q("whole", "", "share left of the whole member"),),
    formula="L / (L - c + c/s)",
    source="beams in series: turns add up (Euler and Bernoulli; de Saint-Venant)",
    leaves_out="what the ends of the cut disturb, and that bending is seldom the same all along",
)(whole_share)
