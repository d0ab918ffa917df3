"""Exact gaps between solids: the distance with its nearest points, or for an overlap how deep and the
shortest way out.

Convex pairs are measured by python-fcl (GJK); depth is the least translation that separates two convex
parts, found exactly on the faces of their Minkowski difference. Pairs farther apart than asked for are
skipped on their boxes.
"""

from __future__ import annotations

import threading
from dataclasses import dataclass
from typing import NamedTuple

import fcl
import numpy as np

from nimble_cradle.geometry.bodies import HERE, Bodies, Memory
from nimble_cradle.geometry.inside import swallowed
from nimble_cradle.geometry.overlap import SIX, Overlap, convex_overlap, through_sheet
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, SolidPart


@dataclass(frozen=True, eq=False)
class Nearest:
    """Gap between body ``a`` of the moving set and body ``b`` of the fixed one, in the fixed set's frame.

    distance: mm, negative for an overlap (then its depth). on_a, on_b: (3,) nearest points. way: (3,) unit
    direction in which ``a`` moves to open the gap; for an overlap the shortest way out.
    """

    a: int
    b: int
    distance: float
    on_a: Array
    on_b: Array
    way: Array


def _remembered(moving: Bodies, fixed: Bodies) -> Memory:
    if fixed not in moving.memories:
        moving.memories[fixed] = Memory(moving, fixed)
    return moving.memories[fixed]


def nearest(
    moving: Bodies, pose: Pose, fixed: Bodies, reach: Array, known: Array | None = None
) -> list[Nearest]:
    """Nearest approach of every body pair that comes within ``reach`` (moving.count, fixed.count) mm, nearest
    part pair each.

    The sets stand somewhere while they are measured and are shared by whoever asks, so one thread at a time
    is let in.

    moving: stands at ``pose`` in the frame of ``fixed``. Pairs farther than their reach are left out. known:
    (moving.count, fixed.count) a distance that is only of interest where it is undercut: of a pair that is
    deeper in one another than nought, but no deeper than this, the depth is told only roughly.
    """
    with ONE_AT_A_TIME:
        return _nearest(moving, pose, fixed, reach, known)


ONE_AT_A_TIME = threading.Lock()


class Ways(NamedTuple):
    """What is known of pairs of parts from when they were looked at. pairs: (k,), ascending: number of the
    moving part x parts of the fixed set + number of the fixed part, the first of no pair; ways: (k, 3) unit
    directions, fixed frame, from the fixed part to the moving one; at_least: (k,) mm that they were apart,
    the moving set standing at ``pose``."""

    pairs: np.ndarray
    ways: Array
    at_least: Array
    pose: Pose

    def of(self, pairs: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Of each of pairs (k,): whether it is among them, and where (k,)."""
        at = np.minimum(np.searchsorted(self.pairs, pairs), len(self.pairs) - 1)
        return self.pairs[at] == pairs, at

    def and_these(self, pairs: np.ndarray, ways: Array, at_least: Array) -> Ways:
        """More pairs (k,), in any order, with what is known of them."""
        order = (all_pairs := np.concatenate([self.pairs, pairs])).argsort()
        return Ways(
            all_pairs[order],
            np.concatenate([self.ways, ways])[order],
            np.concatenate([self.at_least, at_least])[order],
            self.pose,
        )

    def guesses(self) -> Ways:
        """The directions alone, for sets that may be others."""
        return self._replace(at_least=np.full(len(self.pairs), -np.inf))


def no_ways(pose: Pose = HERE) -> Ways:
    """Nothing known."""
    return Ways(np.array([-1]), np.zeros((1, 3)), np.array([-np.inf]), pose)


def candidates(
    moving: Bodies, pose: Pose, fixed: Bodies, limit: Array, from_memory: bool = True
) -> tuple[np.ndarray, np.ndarray, Array, Array, Memory, Ways]:
    """Pairs of parts that may come within their limit (parts of moving, parts of fixed; mm): numbers of
    both, those with the least bound first and among overlapping boxes the deepest, their bounds, how deep
    two convex parts in such boxes can be in one another at most, where distances are noted, and which way
    solids are apart from the boxes of meshes. Both sets stand ready to be measured. from_memory: pairs that
    are known to be too far apart are left out, so which pairs come hangs on what was measured before."""
    moving.stand_at(pose)
    fixed.stand_at(HERE)
    memory = _remembered(moving, fixed)
    ca, ha = moving.boxes(pose)
    memory.move_to(pose)
    cb, hb = memory.fixed_boxes
    apart = np.abs(ca[:, None] - cb[None]) - ha[:, None] - hb[None]
    most_deep = np.maximum(-apart.max(2), 0.0)
    apart = np.maximum(apart, 0.0)
    bound = np.sqrt(np.einsum("ijk,ijk->ij", apart, apart))
    if from_memory:
        bound = np.maximum(bound, memory.at_least)
    laid = against_sheets(moving, pose, fixed, bound, limit)
    rows, columns = np.nonzero(bound < limit)
    order = np.lexsort((-most_deep[rows, columns], bound[rows, columns]))
    rows, columns = rows[order], columns[order]
    return rows, columns, bound[rows, columns], most_deep[rows, columns], memory, laid


ROUND = 0.02
"""A round bar that is measured as a mesh is so much thicker at most, mm."""


def against_sheets(moving: Bodies, pose: Pose, fixed: Bodies, bound: Array, limit: Array) -> Ways:
    """Raise bounds (parts of moving, parts of fixed) under the limit against meshes by boxes that lie as
    those do: a sheet askew in its upright box is far from most of that. Returns which way solids are apart
    from those boxes, unit vectors, nought where they are not."""
    sheets = fixed.sheets
    if not len(sheets.parts):
        return no_ways()
    of = np.broadcast_to(limit, bound.shape)[:, sheets.parts]
    rows, which = np.nonzero((bound[:, sheets.parts] < of) & moving.reaches.solid[:, None])
    axes, columns = sheets.axes[which], sheets.parts[which]
    flat = axes.reshape(-1, 3)
    low, high = moving.reaches.extent(rows.repeat(3), flat @ pose.rotation)
    shift = flat @ pose.translation
    over = (low + shift).reshape(-1, 3) - sheets.high[which]
    under = sheets.low[which] - (high + shift).reshape(-1, 3)
    off = np.maximum(np.maximum(over, under), 0.0)
    away = np.sqrt((off**2).sum(1))
    signed = np.where(over >= under, 1.0, -1.0) * off
    ways = np.einsum("nk,nkx->nx", signed, axes) / np.maximum(away, 1e-9)[:, None]
    bound[rows, columns] = np.maximum(bound[rows, columns], away - ROUND)
    return no_ways(pose).and_these(rows * len(fixed.parts) + columns, ways, away - ROUND)


def _nearest(moving: Bodies, pose: Pose, fixed: Bodies, reach: Array, least: Array | None) -> list[Nearest]:
    limit = reach[moving.owner[:, None], fixed.owner[None]]
    best: dict[tuple[int, int], Nearest] = {}
    rows, columns, bounds, deepest, memory, _ = candidates(moving, pose, fixed, limit)
    for i, j, bound, deep in zip(
        rows.tolist(), columns.tolist(), bounds.tolist(), deepest.tolist(), strict=True
    ):
        key = (int(moving.owner[i]), int(fixed.owner[j]))
        known = best.get(key)
        if known is not None and known.distance <= bound and known.distance >= 0:
            continue
        if known is not None and known.distance <= -deep and _both_convex(moving, i, fixed, j):
            continue
        deepest_known = max(0.0, -known.distance) if known is not None else 0.0
        if least is not None:
            deepest_known = max(deepest_known, -float(least[key]))
        found = part_pair(moving, i, fixed, j, pose, deepest_known)
        memory.note(i, j, found.distance)
        if found.distance < limit[i, j] and (known is None or found.distance < known.distance):
            best[key] = found
    return list(best.values())


def _both_convex(moving: Bodies, i: int, fixed: Bodies, j: int) -> bool:
    return isinstance(moving.parts[i], ConvexPart) and isinstance(fixed.parts[j], ConvexPart)


def clearance(moving: Bodies, pose: Pose, fixed: Bodies, reach: float) -> tuple[float, Nearest | None]:
    """The least distance between two sets and where it is; at most ``reach`` mm (None: nothing is nearer),
    nought where they overlap."""
    with ONE_AT_A_TIME:
        least, at = reach, None
        rows, columns, bounds, _, memory, _ = candidates(moving, pose, fixed, np.asarray(reach))
        for i, j, bound in zip(rows.tolist(), columns.tolist(), bounds.tolist(), strict=True):
            if bound >= least:
                break
            oa, ob, with_mesh = _objects(moving, i, fixed, j)
            result = fcl.DistanceResult()
            d = fcl.distance(oa, ob, REQUEST, result)
            if d <= 1e-6 or (with_mesh and swallowed(moving.parts[i], fixed.parts[j], pose)):
                here = np.asarray(pose.points(moving.centres[i]))
                return 0.0, Nearest(int(moving.owner[i]), int(fixed.owner[j]), 0.0, here, here, SIX[4])
            memory.note(i, j, float(d))
            if d < least:
                pa, pb = np.array(result.nearest_points[0]), np.array(result.nearest_points[1])
                least, at = (
                    float(d),
                    Nearest(int(moving.owner[i]), int(fixed.owner[j]), float(d), pa, pb, (pa - pb) / d),
                )
        return least, at


def _objects(
    moving: Bodies, i: int, fixed: Bodies, j: int
) -> tuple[fcl.CollisionObject, fcl.CollisionObject, bool]:
    """What is measured of two parts: the solids, or both as meshes where one is a mesh."""
    if moving.are_meshes[i] or fixed.are_meshes[j]:
        return moving.mesh_object(i), fixed.mesh_object(j), True
    return moving.object(i), fixed.object(j), False


def part_pair(
    moving: Bodies, i: int, fixed: Bodies, j: int, pose: Pose, unless_within: float = 0.0
) -> Nearest:
    """How near two parts are; how deep in one another only where that may be more than ``unless_within``."""
    a, b = moving.parts[i], fixed.parts[j]
    oa, ob, with_mesh = _objects(moving, i, fixed, j)
    result = fcl.DistanceResult()
    d = fcl.distance(oa, ob, REQUEST, result)
    owners = int(moving.owner[i]), int(fixed.owner[j])
    if d > 1e-6 and not (with_mesh and swallowed(a, b, pose)):
        pa, pb = np.array(result.nearest_points[0]), np.array(result.nearest_points[1])
        return Nearest(*owners, float(d), pa, pb, (pa - pb) / d)
    if with_mesh:
        if isinstance(a, ConvexPart) and isinstance(b, MeshPart) and not b.closed:
            found = through_sheet(a, b, pose)
            if found is not None:
                return _overlapping(owners, found)
        return _mesh_overlap(owners, oa, ob, a, b, pose)
    assert isinstance(a, ConvexPart) and isinstance(b, ConvexPart)
    return _overlapping(owners, convex_overlap(a, b, pose, unless_within))


def _overlapping(owners: tuple[int, int], found: Overlap) -> Nearest:
    depth, on_a, on_b, way = found
    return Nearest(*owners, depth, on_a, on_b, way)


REQUEST = fcl.DistanceRequest(enable_nearest_points=True)


def _mesh_overlap(
    owners: tuple[int, int],
    oa: fcl.CollisionObject,
    ob: fcl.CollisionObject,
    a: SolidPart,
    b: SolidPart,
    pose: Pose,
) -> Nearest:
    """Depth against a mesh: the shortest travel along one of the six axes that clears it, to 0.02 mm."""
    at = oa.getTranslation()

    def clear(by: Array) -> bool:
        oa.setTranslation(at + by)
        away = fcl.distance(oa, ob, fcl.DistanceRequest(), fcl.DistanceResult()) > 1e-6
        return bool(away and not swallowed(a, b, Pose(pose.rotation, pose.translation + by)))

    best, way = np.inf, SIX[4]
    for direction in SIX:
        low, high = 0.0, 1.0
        while high < best and not clear(direction * high):
            low, high = high, 2 * high
            if high > 4096:
                break
        if high >= min(best, 4096):
            high = min(best, 4096.0)
            if not np.isfinite(high) or high >= 4096 or not clear(direction * high):
                continue
        while high - low > 0.02:
            middle = (low + high) / 2
            low, high = (low, middle) if clear(direction * middle) else (middle, high)
        if high < best:
            best, way = high, direction
    oa.setTranslation(at)
    depth = float(best) if np.isfinite(best) else 0.0
    points = pose.points(a.triangles[0])
    centre = points.mean(0)
    on_a = np.clip(centre, b.triangles[0].min(0), b.triangles[0].max(0))
    return Nearest(*owners, -depth, on_a, on_a + depth * way, way)
