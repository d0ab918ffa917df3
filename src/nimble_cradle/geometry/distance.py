"""Exact gaps between solids: the distance with its nearest points, or for an overlap how deep and the
shortest way out.

Convex pairs are measured by python-fcl (GJK); depth is the least translation that separates two convex
parts, found exactly on the faces of their Minkowski difference. Pairs farther apart than asked for are
skipped on their boxes.
"""

from __future__ import annotations

import threading
from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple
from weakref import WeakKeyDictionary

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


_DISCS: WeakKeyDictionary[SolidPart, fcl.CollisionObject] = WeakKeyDictionary()
"""Thin slices of round bars, for where only part of a bar is beside something."""


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
    with _ONE_AT_A_TIME:
        return _nearest(moving, pose, fixed, reach, known)


Ways = Mapping[tuple[int, int], Array]
"""Unit directions (3,), fixed frame, from a part of the fixed set to one of the moving set, by the numbers of
both."""


class Roughly(NamedTuple):
    """above: (moving.count, fixed.count) mm; ways: directions known of pairs of parts."""

    above: Array
    ways: Ways


class NearParts(NamedTuple):
    """rows: part of moving, part of fixed, how near, how near the ends of bars are (distance, point on the
    moving part, point on the fixed one); ways: which way all that were looked at are apart."""

    rows: list[tuple[int, int, Nearest, list[tuple[float, Array, Array]]]]
    ways: Ways


def near_parts(
    moving: Bodies, pose: Pose, fixed: Bodies, reach: Array, closely: Array, roughly: Roughly | None = None
) -> NearParts:
    """As ``nearest``, but every pair of parts that comes within reach. Ends are looked at where a pair is
    clear and within ``closely``.

    roughly: where planes keep a solid and a mesh apart by more than it says, how far they do so is told
    instead of the distance, which is no less: planes square to such a direction, or to the way off the box
    that lies as the mesh does. What is told then hangs on these directions and the pose alone.
    """
    with _ONE_AT_A_TIME:
        limit = reach[moving.owner[:, None], fixed.owner[None]]
        known = None if roughly is None else _Planes(fixed, roughly.ways)
        rows, columns, _, _, memory = _candidates(moving, pose, fixed, limit, known)
        out: list[tuple[int, int, Nearest, list[tuple[float, Array, Array]]]] = []
        ways: dict[tuple[int, int], Array] = {}
        for i, j in zip(rows.tolist(), columns.tolist(), strict=True):
            found = None if known is None else _between_planes(moving, i, fixed, j, pose, known)
            if found is not None and roughly is not None and found.distance > roughly.above[found.a, found.b]:
                ends = []
            else:
                found = _part_pair(moving, i, fixed, j, pose)
                memory.note(i, j, found.distance)
                near = 0 < found.distance < min(closely[found.a, found.b], limit[i, j])
                ends = _bar_ends(moving, i, fixed, j, pose) if near else []
            ways[i, j] = found.way
            if found.distance < limit[i, j]:
                out.append((i, j, found, ends))
        return NearParts(out, ways)


class _Planes:
    """Which way planes may keep pairs apart: as known, or by boxes that lie as meshes do (laid, by the number
    of a part of moving)."""

    def __init__(self, fixed: Bodies, known: Ways) -> None:
        self.known = known
        self.laid: dict[int, Array] = {}
        self.sheet = {int(j): k for k, j in enumerate(fixed.sheets.parts)}

    def way(self, i: int, j: int) -> Array | None:
        """Unit vector (3,), or None."""
        way = self.known.get((i, j))
        if way is None and i in self.laid and j in self.sheet:
            way = self.laid[i][self.sheet[j]]
            return way if way @ way > 0.5 else None
        return way


def _between_planes(
    moving: Bodies, i: int, fixed: Bodies, j: int, pose: Pose, planes: _Planes
) -> Nearest | None:
    """How far planes keep a solid and a mesh apart, on the corners that they touch; None of other pairs."""
    a, b = moving.parts[i], fixed.parts[j]
    if not isinstance(a, ConvexPart) or not isinstance(b, MeshPart) or b.for_whole:
        return None
    way = planes.way(i, j)
    if way is None:
        return None
    k = int((b.vertices @ way).argmax())
    on_a, on_b = pose.points(a.farthest(-way @ pose.rotation)), b.vertices[k]
    apart = float((on_a - on_b) @ way) - ROUND
    return Nearest(int(moving.owner[i]), int(fixed.owner[j]), apart, on_a, on_b, way)


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
        d = fcl.distance(disc, other, _REQUEST, result)
        if d > 1e-6:
            out.append((float(d), np.array(result.nearest_points[0]), np.array(result.nearest_points[1])))
    return out


_ONE_AT_A_TIME = threading.Lock()


def _candidates(
    moving: Bodies, pose: Pose, fixed: Bodies, limit: Array, planes: _Planes | None = None
) -> tuple[np.ndarray, np.ndarray, Array, Array, Memory]:
    """Pairs of parts that may come within their limit (parts of moving, parts of fixed; mm): numbers of
    both, those with the least bound first and among overlapping boxes the deepest, their bounds, how deep
    two convex parts in such boxes can be in one another at most, and where distances are noted. Both sets
    stand ready to be measured. planes: noted there; what was known of meshes is then not made use of."""
    moving.stand_at(pose)
    fixed.stand_at(HERE)
    memory = _remembered(moving, fixed)
    ca, ha = moving.boxes(pose)
    memory.move_to(pose, ca)
    cb, hb = memory.fixed_boxes
    apart = np.abs(ca[:, None] - cb[None]) - ha[:, None] - hb[None]
    most_deep = np.maximum(-apart.max(2), 0.0)
    apart = np.maximum(apart, 0.0)
    bound = np.sqrt(np.einsum("ijk,ijk->ij", apart, apart))
    known = np.where(fixed.are_meshes, -np.inf, memory.at_least) if planes else memory.at_least
    bound = np.maximum(bound, known)
    against_sheets(moving, pose, fixed, bound, limit, None if planes is None else planes.laid)
    rows, columns = np.nonzero(bound < limit)
    order = np.lexsort((-most_deep[rows, columns], bound[rows, columns]))
    rows, columns = rows[order], columns[order]
    return rows, columns, bound[rows, columns], most_deep[rows, columns], memory


ROUND = 0.02
"""A round bar that is measured as a mesh is so much thicker at most, mm."""


def against_sheets(
    moving: Bodies,
    pose: Pose,
    fixed: Bodies,
    bound: Array,
    limit: Array,
    ways: dict[int, Array] | None = None,
) -> None:
    """Raise bounds (parts of moving, parts of fixed) against meshes by boxes that lie as those do: a sheet
    askew in its upright box is far from most of that. ways: by the part of moving, filled with which way it
    is apart from those boxes (sheets, 3), unit vectors, nought where it is not."""
    sheets = fixed.sheets
    if not len(sheets.parts):
        return
    of = np.broadcast_to(limit, bound.shape)[:, sheets.parts]
    for i, near in enumerate(bound[:, sheets.parts] < of):
        part = moving.parts[i]
        if isinstance(part, MeshPart) or not near.any():
            continue
        axes = sheets.axes[near].reshape(-1, 3)
        local, shift = axes @ pose.rotation, axes @ pose.translation
        high, low = part.support(local) + shift, shift - part.support(-local)
        over, under = low - sheets.high[near].ravel(), sheets.low[near].ravel() - high
        off = np.maximum(over, under).clip(min=0.0).reshape(-1, 3)
        away = np.sqrt((off**2).sum(1))
        if ways is not None:
            signed = np.where(over >= under, 1.0, -1.0).reshape(-1, 3) * off
            ways[i] = np.zeros((len(near), 3))
            found = np.einsum("nk,nkx->nx", signed, sheets.axes[near])
            ways[i][near] = found / np.maximum(away, 1e-9)[:, None]
        away -= ROUND
        columns = sheets.parts[near]
        bound[i, columns] = np.maximum(bound[i, columns], away)


def _nearest(moving: Bodies, pose: Pose, fixed: Bodies, reach: Array, least: Array | None) -> list[Nearest]:
    limit = reach[moving.owner[:, None], fixed.owner[None]]
    best: dict[tuple[int, int], Nearest] = {}
    rows, columns, bounds, deepest, memory = _candidates(moving, pose, fixed, limit)
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
        found = _part_pair(moving, i, fixed, j, pose, deepest_known)
        memory.note(i, j, found.distance)
        if found.distance < limit[i, j] and (known is None or found.distance < known.distance):
            best[key] = found
    return list(best.values())


def _both_convex(moving: Bodies, i: int, fixed: Bodies, j: int) -> bool:
    return isinstance(moving.parts[i], ConvexPart) and isinstance(fixed.parts[j], ConvexPart)


def clearance(moving: Bodies, pose: Pose, fixed: Bodies, reach: float) -> tuple[float, Nearest | None]:
    """The least distance between two sets and where it is; at most ``reach`` mm (None: nothing is nearer),
    nought where they overlap."""
    with _ONE_AT_A_TIME:
        least, at = reach, None
        rows, columns, bounds, _, memory = _candidates(moving, pose, fixed, np.asarray(reach))
        for i, j, bound in zip(rows.tolist(), columns.tolist(), bounds.tolist(), strict=True):
            if bound >= least:
                break
            oa, ob, with_mesh = _objects(moving, i, fixed, j)
            result = fcl.DistanceResult()
            d = fcl.distance(oa, ob, _REQUEST, result)
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
    parts = moving.parts[i], fixed.parts[j]
    if any(isinstance(part, MeshPart) for part in parts):
        return moving.mesh_object(i), fixed.mesh_object(j), True
    return moving.object(i), fixed.object(j), False


def _part_pair(
    moving: Bodies, i: int, fixed: Bodies, j: int, pose: Pose, unless_within: float = 0.0
) -> Nearest:
    """How near two parts are; how deep in one another only where that may be more than ``unless_within``."""
    a, b = moving.parts[i], fixed.parts[j]
    oa, ob, with_mesh = _objects(moving, i, fixed, j)
    result = fcl.DistanceResult()
    d = fcl.distance(oa, ob, _REQUEST, result)
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


_REQUEST = fcl.DistanceRequest(enable_nearest_points=True)


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
