"""Every place where one rigid set comes near another, made linear: how each gap changes as the moving set
moves.

A row is a gap g with the direction n that opens it and its place r from the point moved about: a motion
(dp, dtheta) of the set changes it by n . (dp + dtheta x r). The nearest points of two parts give one row;
corners of both that face each other give more, so that two flat faces cannot roll into one another within
one step.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import Ways, no_ways
from nimble_cradle.geometry.near_parts import NearPair, Roughly, near_parts
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.reaches import BAR, Reaches
from nimble_cradle.geometry.solids import ConvexPart, MeshPart
from nimble_cradle.motion.part_distance import crossing_points, facing_corners, from_parts, slice_points

CORNERS_WITHIN = 25.0
"""Corners are followed that lie within this of the nearest point, mm along the contact's direction."""
CLOSE = 18.0
"""Corners are looked at where a gap is within this of what it needs, mm."""
ROUGHLY = 18.0
"""Beyond this, mm more than a gap needs, planes may tell it: of 110 bays with known seats none ends worse for
it."""
AT_FIRST = 6.0
"""The same while corners are not looked at, in the first rounds and far from a seat."""


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
    (k, 3) point of the moving body; outer frame. ways: of each group of obstacles, which way its pairs of
    parts are apart.
    """

    a: np.ndarray
    b: np.ndarray
    gap: Array
    need: Array
    way: Array
    place: Array
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

    def guessed(self) -> Rows:
        """The same, whose ways are no more than guesses: of a problem that may be another."""
        return replace(self, ways=tuple(ways.guesses() for ways in self.ways))

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
    roughly: of a pair of parts farther from one another than ROUGHLY mm over what it needs (AT_FIRST without
    corners), the gap is that between two planes, no more than the true one; known: rows from a pose near
    by, from where those planes are.
    """
    more = np.zeros(moving.count) if allow is None else allow
    base, ways, columns, needs = 0, [], [], []
    for n, group in enumerate(obstacles):
        # of another problem they are guesses, which planes may be as well as any
        before = known.ways[n] if known is not None and n < len(known.ways) else no_ways()
        above = (
            group.need + (min(beyond, ROUGHLY if corners else AT_FIRST) + np.minimum(more, CLOSE))[:, None]
        )
        closely = group.need + (min(beyond, CLOSE) + np.minimum(more, CLOSE))[:, None]
        limit = group.need + beyond + more[:, None]
        bodies = group.bodies
        found = near_parts(moving, pose, bodies, limit, Roughly(above, before) if roughly else None)
        ways.append(found.ways)
        far = found.planes
        rows = [
            _nearest_points(found.rows),
            _Columns(moving.owner[far.a], bodies.owner[far.b], far.apart, far.ways, far.on_a),
        ]
        if corners:
            close = [row for row in found.rows if row.near.distance < closely[row.near.a, row.near.b]]
            rows += _corners(moving, pose, bodies, close, limit)
        for some in rows:
            columns.append(some._replace(b=some.b + base))
            needs.append(group.need[some.a, some.b])
        base += bodies.count
    a, b, gap, way, place = (np.concatenate(column) for column in zip(_NOTHING, *columns, strict=True))
    return Rows(a, b, gap, np.concatenate([np.zeros(0), *needs]), way, place, tuple(ways))


class _Columns(NamedTuple):
    """k gaps: as in ``Rows``."""

    a: np.ndarray
    b: np.ndarray
    gap: Array
    way: Array
    place: Array

    def within(self, limit: Array) -> _Columns:
        """Those that come within a limit (moving.count, fixed.count), mm."""
        keep = self.gap < limit[self.a, self.b]
        return _Columns(*(column[keep] for column in self))


_NONE = np.zeros(0, dtype=np.int64)
_NOTHING = _Columns(_NONE, _NONE, np.zeros(0), np.zeros((0, 3)), np.zeros((0, 3)))


def _nearest_points(rows: Sequence[NearPair]) -> _Columns:
    """The nearest points of each pair of parts."""
    if not rows:
        return _NOTHING
    told = ((n.a, n.b, n.distance, n.way, n.on_a) for _, _, n in rows)
    of_a, of_b, gaps, ways, places = zip(*told, strict=True)
    return _Columns(np.array(of_a), np.array(of_b), np.array(gaps), np.array(ways), np.array(places))


def _corners(
    moving: Bodies, pose: Pose, fixed: Bodies, rows: Sequence[NearPair], limit: Array
) -> list[_Columns]:
    """Further gaps of pairs of parts: corners of each that face the other, measured to it."""
    both = [row for row in rows if isinstance(moving.parts[row.i], ConvexPart)]
    solids = [row for row in both if isinstance(fixed.parts[row.j], ConvexPart)]
    sheets = [row for row in both if not isinstance(fixed.parts[row.j], ConvexPart)]
    out: list[_Columns] = []
    if solids:
        part_a, part_b = np.array([row.i for row in solids]), np.array([row.j for row in solids])
        way = np.array([row.near.way for row in solids])
        crossing = _crossings(moving, pose, fixed, solids)
        # seen from the moving set
        towards, axes = -way @ pose.rotation, moving.reaches.turns[part_a][:, :, 2]
        shift = axes @ (pose.rotation.T @ pose.translation)
        low, high = fixed.reaches.extent(part_b, axes @ pose.rotation.T)
        of, own = _facing(moving.reaches, part_a, towards, low - shift, high - shift)
        of, mine = np.concatenate([of, crossing[0]]), np.concatenate([pose.points(own), crossing[1]])
        gap, opens = from_parts(fixed.reaches, part_b[of], mine)
        out.append(
            _Columns(moving.owner[part_a[of]], fixed.owner[part_b[of]], gap, opens, mine).within(limit)
        )
        # and from the standing one
        axes = fixed.reaches.turns[part_b][:, :, 2]
        shift = axes @ pose.translation
        low, high = moving.reaches.extent(part_a, axes @ pose.rotation)
        of, other = _facing(fixed.reaches, part_b, way, low + shift, high + shift)
        of, theirs = np.concatenate([of, crossing[0]]), np.concatenate([other, crossing[2]])
        out.append(_to_moving(moving, pose, fixed, part_a[of], part_b[of], theirs).within(limit))
    if sheets:
        near = [_near_vertices(fixed.parts[j], n.on_b, limit[n.a, n.b]) for _, j, n in sheets]
        of = np.repeat(np.arange(len(sheets)), [len(points) for points in near])
        part_a, part_b = np.array([row.i for row in sheets]), np.array([row.j for row in sheets])
        found = _to_moving(moving, pose, fixed, part_a[of], part_b[of], np.concatenate(near))
        # points of a sheet deeper in the part are the nearest pair's to judge: they may lie past its middle
        keep = np.nonzero((found.gap < limit[found.a, found.b]) & (found.gap > -5.0))[0]
        keep = keep[np.lexsort((found.gap[keep], of[keep]))]
        starts = np.concatenate([[0], np.nonzero(np.diff(of[keep]))[0] + 1]).astype(int)
        place = np.arange(len(keep)) - np.repeat(starts, np.diff([*starts, len(keep)]))
        out.append(_Columns(*(column[keep[place < MOST_OF_SHEET]] for column in found)))
    return out


def _facing(
    reaches: Reaches, which: np.ndarray, ways: Array, low: Array, high: Array
) -> tuple[np.ndarray, Array]:
    """Points of convex parts (k,) that look along a direction (k, 3): corners, and of a bar the surface at
    both ends of the stretch low..high (k,) along its axis. Numbers (n,) of the rows and points (n, 3)."""
    corners, there = facing_corners(reaches, which, ways, CORNERS_WITHIN)
    bars = np.nonzero(reaches.kinds[which] == BAR)[0]
    beside, cut = slice_points(reaches, which[bars], ways[bars], low[bars], high[bars])
    (k, n), (b, m) = np.nonzero(there), np.nonzero(cut)
    return np.concatenate([k, bars[b]]), np.concatenate([corners[k, n], beside[b, m]])


def _to_moving(
    moving: Bodies, pose: Pose, fixed: Bodies, part_a: np.ndarray, part_b: np.ndarray, points: Array
) -> _Columns:
    """Gaps of points (k, 3) of parts (k,) of the fixed set to parts (k,) of the moving one."""
    gap, way = from_parts(moving.reaches, part_a, pose.inverse().points(points))
    opens = -pose.vectors(way)
    return _Columns(moving.owner[part_a], fixed.owner[part_b], gap, opens, points + opens * gap[:, None])


def _crossings(
    moving: Bodies, pose: Pose, fixed: Bodies, rows: Sequence[NearPair]
) -> tuple[np.ndarray, Array, Array]:
    """Where edges of pairs of boxes and hulls cross, seen along their nearest points: numbers (n,) of the
    pairs, points (n, 3) on the moving part's edges and on the fixed one's."""
    of, on_a, on_b = [np.zeros(0, dtype=np.int64)], [np.zeros((0, 3))], [np.zeros((0, 3))]
    turned: dict[int, Array] = {}
    for k, (i, j, near) in enumerate(rows):
        a, b = moving.parts[i], fixed.parts[j]
        assert isinstance(a, ConvexPart) and isinstance(b, ConvexPart)
        if "bar" in (a.kind, b.kind):
            continue
        if i not in turned:
            turned[i] = pose.points(a.triangles[0])
        mine, theirs = crossing_points(
            (turned[i], a.ridges), (b.triangles[0], b.ridges), near.way, CORNERS_WITHIN
        )
        of.append(np.full(len(mine), k))
        on_a.append(mine)
        on_b.append(theirs)
    return np.concatenate(of), np.concatenate(on_a), np.concatenate(on_b)


MOST_OF_SHEET = 6
"""So many points of a sheet are told beside one part."""


def _near_vertices(b: ConvexPart | MeshPart, at: Array, most: float, spread: float = 120.0) -> Array:
    """Vertices (k, 3) of a surface round a place, thinned to some thirty."""
    v = b.triangles[0]
    near = v[(np.abs(v - at) < spread).all(1)]
    return near[:: max(1, len(near) // 30)] if len(near) else near
