"""Every place where one rigid set comes near another, made linear: how each gap changes as the moving set
moves.

A row is a gap g with the direction n that opens it and its place r from the point moved about: a motion
(dp, dtheta) of the set changes it by n . (dp + dtheta x r). The nearest points of two parts give one row;
corners of both that face each other give more, so that two flat faces cannot roll into one another within
one step.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import Nearest, Roughly, Ways, near_parts
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart, MeshPart
from nimble_cradle.motion.part_distance import crossing_points, facing_corners, from_part

CORNERS_WITHIN = 25.0
"""Corners are followed that lie within this of the nearest point, mm along the contact's direction."""
CLOSE = 18.0
"""Corners are looked at where a gap is within this of what it needs, mm."""
ROUGHLY = 36.0
"""Beyond this, mm more than a gap needs, planes may tell it: at 18 one of nine scanned bays ended 0.6 mm
worse, at 36 none, and a settle over a whole scan takes little longer."""


@dataclass(frozen=True, eq=False)
class Obstacles:
    """What stands still. bodies; need (moving.count, bodies.count): the gap that each pair must keep, mm
    (-inf: the pair does not matter)."""

    bodies: Bodies
    need: Array


@dataclass(frozen=True, eq=False)
class Rows:
    """k linear gaps. a, b: (k,) numbers of the moving body and of the standing body, the standing ones
    numbered through all obstacles. gap, need: (k,) mm. way: (k, 3) unit direction that opens the gap; place:
    (k, 3) point of the moving body; outer frame. main: (k,) True for the nearest points of a pair of parts.
    ways: of each group of obstacles, which way its pairs of parts are apart.
    """

    a: np.ndarray
    b: np.ndarray
    gap: Array
    need: Array
    way: Array
    place: Array
    main: np.ndarray
    ways: tuple[Ways, ...] = ()

    def matrix(self, about: Array, lever: float) -> Array:
        """(k, 6): change of each gap with the move mm and the turn times ``lever`` mm, the set turning
        about ``about``."""
        r = self.place - about
        n = self.way
        turn = np.column_stack(
            [
                r[:, 1] * n[:, 2] - r[:, 2] * n[:, 1],
                r[:, 2] * n[:, 0] - r[:, 0] * n[:, 2],
                r[:, 0] * n[:, 1] - r[:, 1] * n[:, 0],
            ]
        )
        return np.hstack([n, turn / lever])

    @property
    def short(self) -> Array:
        """(k,) need - gap, mm; below 0 there is that much to spare."""
        return self.need - self.gap


def rows_at(
    moving: Bodies,
    pose: Pose,
    obstacles: Sequence[Obstacles],
    beyond: float,
    allow: Array | None = None,
    corners: bool = True,
    known: Rows | None = None,
    roughly: bool = False,
) -> Rows:
    """All rows of pairs whose gap is within ``beyond`` mm of what they need, the set standing at ``pose``.

    allow: (moving.count,) mm that each body's gaps may lose by sway; pairs are seen that much farther.
    corners: without them only the nearest points of each pair are told, which is enough far from a seat.
    roughly: of a solid farther from a mesh than ROUGHLY mm over what it needs, the gap is that between two
    planes, no more than the true one; known: rows from a pose near by, from where those planes are.
    """
    a, b, gap, need, way, place, main = [], [], [], [], [], [], []
    base = 0
    ways: list[Ways] = []
    more = np.zeros(moving.count) if allow is None else allow
    for n, group in enumerate(obstacles):
        # of another problem they are guesses, which planes may be as well as any
        before = known.ways[n] if known is not None and n < len(known.ways) else {}
        above = group.need + (min(beyond, ROUGHLY) + np.minimum(more, CLOSE))[:, None]
        closely = group.need + (min(beyond, CLOSE) + np.minimum(more, CLOSE))[:, None]
        found = near_parts(
            moving,
            pose,
            group.bodies,
            group.need + beyond + more[:, None],
            closely,
            Roughly(above, before) if roughly else None,
        )
        ways.append(found.ways)
        for i, j, near, ends in found.rows:
            want = group.need[near.a, near.b]
            rows = [(near.distance, near.way, near.on_a)]
            if corners and near.distance < closely[near.a, near.b]:
                rows += [(d, (p - q) / d, p) for d, p, q in ends]
                rows += _corners(
                    moving.parts[i], group.bodies.parts[j], pose, near, want + beyond + more[near.a]
                )
            for k, (g, w, p) in enumerate(rows):
                a.append(near.a)
                b.append(base + near.b)
                gap.append(g)
                need.append(want)
                way.append(w)
                place.append(p)
                main.append(k == 0)
        base += group.bodies.count
    return Rows(
        np.array(a, dtype=int),
        np.array(b, dtype=int),
        np.array(gap, dtype=float),
        np.array(need, dtype=float),
        np.array(way, dtype=float).reshape(-1, 3),
        np.array(place, dtype=float).reshape(-1, 3),
        np.array(main, dtype=bool),
        tuple(ways),
    )


def _corners(
    a: ConvexPart | MeshPart, b: ConvexPart | MeshPart, pose: Pose, n: Nearest, most: float
) -> list[tuple[float, Array, Array]]:
    """Further gaps of a pair of parts: corners of each that face the other, measured to it."""
    out: list[tuple[float, Array, Array]] = []
    into_a = n.way @ pose.rotation  # the direction away from b, in the moving frame
    if isinstance(a, ConvexPart) and isinstance(b, ConvexPart):
        mine, theirs = (
            pose.points(facing_corners(a, -into_a, CORNERS_WITHIN)),
            facing_corners(b, n.way, CORNERS_WITHIN),
        )
        if "bar" not in (a.kind, b.kind):
            on_a, on_b = crossing_points(a, b, pose, n.way, CORNERS_WITHIN)
            mine, theirs = np.vstack([mine, on_a]), np.vstack([theirs, on_b])
        if len(mine):
            d, way = from_part(b, mine)
            out += [(float(d[k]), way[k], mine[k]) for k in range(len(mine)) if d[k] < most]
    elif isinstance(a, ConvexPart):
        theirs = _near_vertices(b, n.on_b, most)
    else:
        return out
    if len(theirs):
        d, way = from_part(a, pose.inverse().points(theirs))
        opens = -pose.vectors(way)
        keep = np.nonzero(d < most)[0]
        if isinstance(b, MeshPart):
            keep = keep[
                d[keep] > -5.0
                # points of a sheet deeper in the part are the nearest pair's to judge: they may lie past its
                # middle
            ]
            keep = keep[np.argsort(d[keep])[:6]]
        out += [(float(d[k]), opens[k], theirs[k] + opens[k] * d[k]) for k in keep]
    return out


def _near_vertices(b: ConvexPart | MeshPart, at: Array, most: float, spread: float = 120.0) -> Array:
    """Vertices (k, 3) of a surface round a place, thinned to some thirty."""
    v = b.triangles[0]
    near = v[(np.abs(v - at) < spread).all(1)]
    return near[:: max(1, len(near) // 30)] if len(near) else near
