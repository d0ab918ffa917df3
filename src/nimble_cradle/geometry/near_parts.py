"""Every pair of parts of two sets that comes near, each by itself: how near, or how far planes keep it
apart."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from nimble_cradle.geometry.bodies import Bodies, stepped
from nimble_cradle.geometry.distance import (
    ONE_AT_A_TIME,
    ROUND,
    Nearest,
    Ways,
    candidates,
    no_ways,
    part_pair,
)
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.reaches import boxes_apart, sheets_apart


class Roughly(NamedTuple):
    """above: (moving.count, fixed.count) mm; ways: what is known of pairs of parts."""

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


class NearPair(NamedTuple):
    """Part of moving, part of fixed, how near."""

    i: int
    j: int
    near: Nearest


class NearParts(NamedTuple):
    """rows: pairs that were measured; planes: pairs told by planes; ways: which way all that were looked at
    are apart."""

    rows: list[NearPair]
    planes: ByPlanes
    ways: Ways


def near_parts(
    moving: Bodies, pose: Pose, fixed: Bodies, reach: Array, roughly: Roughly | None = None
) -> NearParts:
    """As ``nearest``, but every pair of parts that comes within reach.

    roughly: where planes keep a pair apart by more than it says, how far they do so is told instead of the
    distance, which is no less: planes square to a known direction, or else to the way off the box that lies
    as a mesh does or to one of thirteen directions, or to a side of the box round either of two solids; and
    a pair that was so far apart that it cannot have come within reach since is left out. What is told then
    hangs on what is known and the pose alone.
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
                rows.append(NearPair(i, j, found))
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
    laid_out = np.nonzero(solid & ~solid_b & ~fixed.for_whole[b] & ~have)[0]
    if len(laid_out):
        apart, across = sheets_apart(moving.reaches, a[laid_out], pose, fixed.reaches, b[laid_out])
        by_box = np.where(of_boxes, laid.at_least[at], -np.inf)[laid_out]
        ways[laid_out[apart > by_box]] = across[apart > by_box]
    boxed = np.nonzero(solid & solid_b & ~have)[0]
    apart, ways[boxed] = boxes_apart(moving.reaches, a[boxed], pose, fixed.reaches, b[boxed])
    ways[boxed[apart <= 0]] = 0.0
    can = np.nonzero(ways.any(1) & solid & (solid_b | ~fixed.for_whole[b]))[0]
    on_a, on_b, most = np.zeros((len(a), 3)), np.zeros((len(a), 3)), np.full(len(a), -np.inf)
    on_a[can] = pose.points(moving.reaches.farthest(a[can], -ways[can] @ pose.rotation))
    on_b[can] = fixed.reaches.farthest(b[can], ways[can])
    most[can] = np.einsum("kx,kx->k", on_a[can] - on_b[can], ways[can]) - np.where(solid_b[can], 0.0, ROUND)
    return ByPlanes(a, b, most, on_a, on_b, ways)
