"""Every pair of parts of two sets that comes near, each by itself: how near, or how far planes keep it
apart."""

from __future__ import annotations

from typing import NamedTuple
from weakref import WeakKeyDictionary

import fcl
import numpy as np

from nimble_cradle.geometry.bodies import Bodies, stepped
from nimble_cradle.geometry.distance import (
    ONE_AT_A_TIME,
    REQUEST,
    ROUND,
    Nearest,
    Ways,
    candidates,
    no_ways,
    part_pair,
)
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.reaches import boxes_apart
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, SolidPart


class Roughly(NamedTuple):
    """above: (moving.count, fixed.count) mm; ways: directions known of pairs of parts."""

    above: Array
    ways: Ways


class ByPlanes(NamedTuple):
    """k pairs of parts that planes keep apart. a, b: (k,) parts of the moving and of the fixed set; apart:
    (k,) mm; on_a, on_b, ways: (k, 3) the points that the planes touch, and the direction from b to a."""

    a: np.ndarray
    b: np.ndarray
    apart: Array
    on_a: Array
    on_b: Array
    ways: Array

    def some(self, which: np.ndarray) -> ByPlanes:
        """Some of them."""
        return ByPlanes(*(column[which] for column in self))


NearPair = tuple[int, int, Nearest, list[tuple[float, Array, Array]]]
"""Part of moving, part of fixed, how near, how near the ends of bars are (distance, point on the moving part,
point on the fixed one)."""


class NearParts(NamedTuple):
    """rows: pairs that were measured; planes: pairs told by planes; ways: which way all that were looked at
    are apart."""

    rows: list[NearPair]
    planes: ByPlanes
    ways: Ways


def near_parts(
    moving: Bodies, pose: Pose, fixed: Bodies, reach: Array, closely: Array, roughly: Roughly | None = None
) -> NearParts:
    """As ``nearest``, but every pair of parts that comes within reach. Ends are looked at where a pair is
    clear and within ``closely``.

    roughly: where planes keep a pair apart by more than it says, how far they do so is told instead of the
    distance, which is no less: planes square to a known direction, or else to the way off the box that
    lies as a mesh does, or to a side of the box round either of two solids. What is told then hangs on
    these directions and the pose alone.
    """
    with ONE_AT_A_TIME:
        limit = reach[moving.owner[:, None], fixed.owner[None]]
        a, b, _, _, memory, laid = candidates(moving, pose, fixed, limit, roughly is None)
        told = _Told(np.ones(len(a), dtype=bool), _NO_PLANES, no_ways(pose))
        if roughly is not None:
            told = _told(moving, a, fixed, b, pose, roughly, laid, limit)
        a, b = a[told.left], b[told.left]
        rows, ways, apart = [], [], []
        for i, j in zip(a.tolist(), b.tolist(), strict=True):
            found = part_pair(moving, i, fixed, j, pose)
            memory.note(i, j, found.distance)
            ways.append(found.way)
            apart.append(found.distance)
            if found.distance < limit[i, j]:
                near = 0 < found.distance < closely[found.a, found.b]
                rows.append((i, j, found, _bar_ends(moving, i, fixed, j, pose) if near else []))
        known = told.known.and_these(a * len(fixed.parts) + b, np.array(ways).reshape(-1, 3), np.array(apart))
        return NearParts(rows, told.far, known)


_NO_PLANES = ByPlanes(*(np.zeros(0, dtype=np.int64),) * 2, np.zeros(0), *(np.zeros((0, 3)),) * 3)


class _Told(NamedTuple):
    """left: (k,) which pairs are left to be measured; far: what planes tell of others; known: what is known
    of all others."""

    left: np.ndarray
    far: ByPlanes
    known: Ways


def _told(
    moving: Bodies,
    a: np.ndarray,
    fixed: Bodies,
    b: np.ndarray,
    pose: Pose,
    roughly: Roughly,
    laid: Ways,
    limit: Array,
) -> _Told:
    """What can be told of pairs of parts (k,) without measuring them."""
    before, centres = roughly.ways, moving.centres
    pairs = a * len(fixed.parts) + b
    have, at = before.of(pairs)
    moved = stepped(moving.arms, before.pose, pose, centres)
    least = np.where(have, before.at_least[at] - moved[a], -np.inf)
    least[moving.for_whole[a] | fixed.for_whole[b]] = -np.inf
    planes = _by_planes(moving, a, fixed, b, pose, np.where(have[:, None], before.ways[at], 0.0), laid)
    away = least >= limit[a, b]
    parted = ~away & (planes.apart > roughly.above[moving.owner[a], fixed.owner[b]])
    others = np.nonzero(away | parted)[0]
    at_least = np.maximum(least, planes.apart)
    known = no_ways(pose).and_these(pairs[others], planes.ways[others], at_least[others])
    return _Told(~(away | parted), planes.some(parted & (planes.apart < limit[a, b])), known)


def _by_planes(
    moving: Bodies, a: np.ndarray, fixed: Bodies, b: np.ndarray, pose: Pose, known: Array, laid: Ways
) -> ByPlanes:
    """How far planes keep each pair of parts (k,) apart, on the corners that they touch; -inf where no plane
    is known, and of pairs that planes are not used for. known: (k, 3) directions, nought where none is."""
    solid, solid_b = moving.reaches.solid[a], fixed.reaches.solid[b]
    have = known.any(1)
    of_boxes, at = laid.of(a * len(fixed.parts) + b)
    ways = np.where((of_boxes & ~have)[:, None], laid.ways[at], known)
    boxed = np.nonzero(solid & solid_b & ~have)[0]
    apart, ways[boxed] = boxes_apart(moving.reaches, a[boxed], pose, fixed.reaches, b[boxed])
    ways[boxed[apart <= 0]] = 0.0
    can = np.nonzero(ways.any(1) & solid & (solid_b | ~fixed.for_whole[b]))[0]
    on_a, on_b, most = np.zeros((len(a), 3)), np.zeros((len(a), 3)), np.full(len(a), -np.inf)
    on_a[can] = pose.points(moving.reaches.farthest(a[can], -ways[can] @ pose.rotation))
    on_b[can] = fixed.reaches.farthest(b[can], ways[can])
    most[can] = np.einsum("kx,kx->k", on_a[can] - on_b[can], ways[can]) - np.where(solid_b[can], 0.0, ROUND)
    return ByPlanes(a, b, most, on_a, on_b, ways)


_DISCS: WeakKeyDictionary[SolidPart, fcl.CollisionObject] = WeakKeyDictionary()
"""Thin slices of round bars, for where only part of a bar is beside something."""


def _bar_ends(moving: Bodies, i: int, fixed: Bodies, j: int, pose: Pose) -> list[tuple[float, Array, Array]]:
    """How near two slices of either bar come to the other convex part: its ends, or where the other ends
    along it."""
    a, b = moving.parts[i], fixed.parts[j]
    if isinstance(a, MeshPart) or isinstance(b, MeshPart):
        return []
    out: list[tuple[float, Array, Array]] = []
    if a.kind == "bar":
        at = pose @ a.pose
        axis = at.rotation[:, 2]
        out += _slices(
            a, at, (float(-b.support(-axis[None])[0]), float(b.support(axis[None])[0])), fixed.object(j)
        )
    if b.kind == "bar":
        axis = b.pose.rotation[:, 2]
        shift, turned = float(pose.translation @ axis), (axis @ pose.rotation)[None]
        span = shift - float(a.support(-turned)[0]), shift + float(a.support(turned)[0])
        out += [(d, q, p) for d, p, q in _slices(b, b.pose, span, moving.object(i))]
    return out


def _slices(
    part: ConvexPart, at: Pose, span: tuple[float, float], other: fcl.CollisionObject
) -> list[tuple[float, Array, Array]]:
    """How near a bar that stands at ``at`` comes to a solid at both ends of the stretch of its axis that
    lies in ``span`` (stations along the axis' direction, mm): distance, point on the bar, point on the
    other."""
    disc = _DISCS.get(part)
    if disc is None:
        disc = _DISCS[part] = fcl.CollisionObject(fcl.Cylinder(part.size[0], 0.002), fcl.Transform())
    axis, half = at.rotation[:, 2], part.size[1] / 2
    middle = float(at.translation @ axis)
    out = []
    for station in {max(min(s - middle, half), -half) for s in span}:
        disc.setTransform(fcl.Transform(at.rotation, at.translation + station * axis))
        result = fcl.DistanceResult()
        d = fcl.distance(disc, other, REQUEST, result)
        if d > 1e-6:
            out.append((float(d), np.array(result.nearest_points[0]), np.array(result.nearest_points[1])))
    return out
