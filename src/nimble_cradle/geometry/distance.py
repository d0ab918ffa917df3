"""Exact gaps between solids: the distance with its nearest points, or for an overlap how deep and the shortest way out.

Convex pairs are measured by python-fcl (GJK); depth is the least translation that separates two convex parts, found exactly
on the faces of their Minkowski difference. Pairs farther apart than asked for are skipped on their boxes.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import fcl
import numpy as np

from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, SolidPart

_SIX = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]], dtype=float)


@dataclass(frozen=True, eq=False)
class Nearest:
    """Gap between body ``a`` of the moving set and body ``b`` of the fixed one, in the fixed set's frame.

    distance: mm, negative for an overlap (then its depth). on_a, on_b: (3,) nearest points. way: (3,) unit direction in which
    ``a`` moves to open the gap; for an overlap the shortest way out.
    """

    a: int
    b: int
    distance: float
    on_a: Array
    on_b: Array
    way: Array


class Bodies:
    """A set of bodies, each one or more parts, ready for measuring. Parts of a body move together; a part's measuring object is made when it
    is first near something."""

    def __init__(self, bodies: Sequence[Sequence[SolidPart]]) -> None:
        self.parts: list[SolidPart] = [part for body in bodies for part in body]
        self.owner = np.array([i for i, body in enumerate(bodies) for _ in body], dtype=np.int64)
        self.count = len(bodies)
        boxes = [part.box for part in self.parts]
        poses = [part.pose if isinstance(part, ConvexPart) else Pose.still() for part in self.parts]
        self.centres = np.array([p.points(c) for p, (c, _) in zip(poses, boxes, strict=True)]).reshape(-1, 3)
        self.axes = np.array([p.rotation * h for p, (_, h) in zip(poses, boxes, strict=True)]).reshape(-1, 3, 3)
        self._objects: list[fcl.CollisionObject | None] = [None] * len(self.parts)
        self._meshes: list[fcl.CollisionObject | None] = [None] * len(self.parts)
        self._pose: Pose | None = None
        self.memories: WeakKeyDictionary[Bodies, Memory] = WeakKeyDictionary()

    def boxes(self, pose: Pose) -> tuple[Array, Array]:
        """Centres and half sizes (n, 3) of the upright boxes that hold each part when the set stands at ``pose``."""
        return pose.points(self.centres), np.abs(pose.rotation @ self.axes).sum(2)

    def stand_at(self, pose: Pose) -> None:
        """Move the measuring objects to ``pose``; parts seen as meshes follow when they are asked for."""
        if self._pose is pose:
            return
        self._pose = pose
        self._placed = [False] * len(self.parts)
        self._placed_mesh = [False] * len(self.parts)

    def object(self, i: int) -> fcl.CollisionObject:
        """The exact solid of part i where the set stands."""
        part = self.parts[i]
        if isinstance(part, MeshPart):
            return self.mesh_object(i)
        o = self._objects[i]
        if o is None:
            o = self._objects[i] = _fcl_object(part)
        if not self._placed[i]:
            assert self._pose is not None
            at = self._pose @ part.pose
            o.setTransform(fcl.Transform(at.rotation, at.translation))
            self._placed[i] = True
        return o

    def mesh_object(self, i: int) -> fcl.CollisionObject:
        """Part i as a triangle mesh, for pairs with a mesh in them."""
        o = self._meshes[i]
        if o is None:
            part = self.parts[i]
            if part not in _INDEXES:
                _INDEXES[part] = _bvh(*part.triangles)
            o = self._meshes[i] = fcl.CollisionObject(_INDEXES[part], fcl.Transform())
        if not self._placed_mesh[i]:
            assert self._pose is not None
            o.setTransform(fcl.Transform(self._pose.rotation, self._pose.translation))
            self._placed_mesh[i] = True
        return o


_SHAPES: WeakKeyDictionary[SolidPart, fcl.CollisionGeometry] = WeakKeyDictionary()
_INDEXES: WeakKeyDictionary[SolidPart, fcl.CollisionGeometry] = WeakKeyDictionary()
"""Measuring shapes, shared by every set that a part is in: the solid itself, and its triangles."""
_DISCS: WeakKeyDictionary[SolidPart, fcl.CollisionObject] = WeakKeyDictionary()
"""Thin slices of round bars, for where only part of a bar is beside something."""


def _bvh(vertices: Array, triangles: np.ndarray) -> fcl.BVHModel:
    model = fcl.BVHModel()
    model.beginModel(len(vertices), len(triangles))
    model.addSubModel(np.ascontiguousarray(vertices), np.ascontiguousarray(triangles))
    model.endModel()
    return model


def _fcl_object(part: ConvexPart) -> fcl.CollisionObject:
    if part not in _SHAPES:
        _SHAPES[part] = _fcl_shape(part)
    return fcl.CollisionObject(_SHAPES[part], fcl.Transform())


def _fcl_shape(part: ConvexPart) -> fcl.CollisionGeometry:
    if part.kind == "box":
        shape: fcl.CollisionGeometry = fcl.Box(*part.size)
    elif part.kind == "bar":
        shape = fcl.Cylinder(*part.size)
    else:
        v, t = part.local
        shape = fcl.Convex(v, len(t), np.column_stack([np.full(len(t), 3), t]).ravel())
    return shape


class Memory:
    """Bounds under the distances of all pairs of parts of two sets, from when they were last measured: a part that was d away is still d less what
    its corners have moved since. at_least: (parts of moving, parts of fixed), mm."""

    def __init__(self, moving: Bodies, fixed: Bodies) -> None:
        self.at_least = np.full((len(moving.parts), len(fixed.parts)), -np.inf)
        self.fixed_boxes = fixed.boxes(_HERE)
        self.arm = np.sqrt((moving.axes**2).sum((1, 2)))
        self.rotation, self.centres = np.eye(3), np.zeros((0, 3))

    def move_to(self, pose: Pose, centres: Array) -> None:
        """The moving set stands at a pose, its parts' centres (n, 3) with it: what was known is worth so much less."""
        if len(self.centres):
            step = centres - self.centres
            turn = float(np.sqrt(((pose.rotation - self.rotation) ** 2).sum() / 2))  # no vector turns by more of its length
            self.at_least -= (np.sqrt((step**2).sum(1)) + turn * self.arm + 1e-6)[:, None]
        self.rotation, self.centres = pose.rotation, centres


def _remembered(moving: Bodies, fixed: Bodies) -> Memory:
    if fixed not in moving.memories:
        moving.memories[fixed] = Memory(moving, fixed)
    return moving.memories[fixed]


def nearest(moving: Bodies, pose: Pose, fixed: Bodies, reach: Array) -> list[Nearest]:
    """Nearest approach of every body pair that comes within ``reach`` (moving.count, fixed.count) mm, nearest part pair each.

    The sets stand somewhere while they are measured and are shared by whoever asks, so one thread at a time is let in.

    moving: stands at ``pose`` in the frame of ``fixed``. Pairs farther than their reach are left out.
    """
    with _ONE_AT_A_TIME:
        return _nearest(moving, pose, fixed, reach)


def near_parts(moving: Bodies, pose: Pose, fixed: Bodies, reach: Array, closely: Array) -> list[tuple[int, int, Nearest, list[tuple[float, Array, Array]]]]:
    """As ``nearest``, but every pair of parts that comes within reach: (part of moving, part of fixed, how near, how near the ends of
    bars are: distance, point on the moving part, point on the fixed one). Ends are looked at where a pair is clear and within ``closely``."""
    with _ONE_AT_A_TIME:
        limit = reach[moving.owner[:, None], fixed.owner[None]]
        rows, columns, _, memory = _candidates(moving, pose, fixed, limit)
        out = []
        for i, j in zip(rows.tolist(), columns.tolist(), strict=True):
            found = _part_pair(moving, i, fixed, j, pose)
            memory.at_least[i, j] = found.distance
            if found.distance < limit[i, j]:
                ends = _bar_ends(moving, i, fixed, j, pose) if 0 < found.distance < closely[found.a, found.b] else []
                out.append((i, j, found, ends))
        return out


def _bar_ends(moving: Bodies, i: int, fixed: Bodies, j: int, pose: Pose) -> list[tuple[float, Array, Array]]:
    """How near two slices of either bar come to the other convex part: its ends, or where the other ends along it."""
    a, b = moving.parts[i], fixed.parts[j]
    if isinstance(a, MeshPart) or isinstance(b, MeshPart):
        return []
    out: list[tuple[float, Array, Array]] = []
    if a.kind == "bar":
        at = pose @ a.pose
        axis = at.rotation[:, 2]
        out += _slices(a, at, (float(-b.support(-axis[None])[0]), float(b.support(axis[None])[0])), fixed.object(j))
    if b.kind == "bar":
        axis = b.pose.rotation[:, 2]
        shift, turned = float(pose.translation @ axis), (axis @ pose.rotation)[None]
        span = shift - float(a.support(-turned)[0]), shift + float(a.support(turned)[0])
        out += [(d, q, p) for d, p, q in _slices(b, b.pose, span, moving.object(i))]
    return out


def _slices(part: ConvexPart, at: Pose, span: tuple[float, float], other: fcl.CollisionObject) -> list[tuple[float, Array, Array]]:
    """How near a bar that stands at ``at`` comes to a solid at both ends of the stretch of its axis that lies in ``span`` (stations along the
    axis' direction, mm): distance, point on the bar, point on the other."""
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


def _candidates(moving: Bodies, pose: Pose, fixed: Bodies, limit: Array) -> tuple[np.ndarray, np.ndarray, Array, Memory]:
    """Pairs of parts that may come within their limit (parts of moving, parts of fixed; mm): numbers of both, those with the least bound first, their
    bounds, and where distances are noted. Both sets stand ready to be measured."""
    moving.stand_at(pose)
    fixed.stand_at(_HERE)
    memory = _remembered(moving, fixed)
    ca, ha = moving.boxes(pose)
    memory.move_to(pose, ca)
    cb, hb = memory.fixed_boxes
    apart = np.maximum(np.abs(ca[:, None] - cb[None]) - ha[:, None] - hb[None], 0.0)
    bound = np.maximum(np.sqrt(np.einsum("ijk,ijk->ij", apart, apart)), memory.at_least)
    rows, columns = np.nonzero(bound < limit)
    order = np.argsort(bound[rows, columns], kind="stable")
    rows, columns = rows[order], columns[order]
    return rows, columns, bound[rows, columns], memory


def _nearest(moving: Bodies, pose: Pose, fixed: Bodies, reach: Array) -> list[Nearest]:
    limit = reach[moving.owner[:, None], fixed.owner[None]]
    best: dict[tuple[int, int], Nearest] = {}
    rows, columns, bounds, memory = _candidates(moving, pose, fixed, limit)
    for i, j, bound in zip(rows.tolist(), columns.tolist(), bounds.tolist(), strict=True):
        key = (int(moving.owner[i]), int(fixed.owner[j]))
        known = best.get(key)
        if known is not None and known.distance <= bound and known.distance >= 0:
            continue
        found = _part_pair(moving, i, fixed, j, pose)
        memory.at_least[i, j] = found.distance
        if found.distance < limit[i, j] and (known is None or found.distance < known.distance):
            best[key] = found
    return list(best.values())


def clearance(moving: Bodies, pose: Pose, fixed: Bodies, reach: float) -> tuple[float, Nearest | None]:
    """The least distance between two sets and where it is; at most ``reach`` mm (None: nothing is nearer), nought where they overlap."""
    with _ONE_AT_A_TIME:
        least, at = reach, None
        rows, columns, bounds, memory = _candidates(moving, pose, fixed, np.asarray(reach))
        for i, j, bound in zip(rows.tolist(), columns.tolist(), bounds.tolist(), strict=True):
            if bound >= least:
                break
            oa, ob, with_mesh = _objects(moving, i, fixed, j)
            result = fcl.DistanceResult()
            d = fcl.distance(oa, ob, _REQUEST, result)
            if d <= 1e-6 or (with_mesh and _swallowed(moving.parts[i], fixed.parts[j], pose)):
                here = np.asarray(pose.points(moving.centres[i]))
                return 0.0, Nearest(int(moving.owner[i]), int(fixed.owner[j]), 0.0, here, here, _SIX[4])
            memory.at_least[i, j] = d
            if d < least:
                pa, pb = np.array(result.nearest_points[0]), np.array(result.nearest_points[1])
                least, at = float(d), Nearest(int(moving.owner[i]), int(fixed.owner[j]), float(d), pa, pb, (pa - pb) / d)
        return least, at


def _objects(moving: Bodies, i: int, fixed: Bodies, j: int) -> tuple[fcl.CollisionObject, fcl.CollisionObject, bool]:
    """What is measured of two parts: the solids, or both as meshes where one is a mesh."""
    with_mesh = isinstance(moving.parts[i], MeshPart) or isinstance(fixed.parts[j], MeshPart)
    if with_mesh:
        return moving.mesh_object(i), fixed.mesh_object(j), True
    return moving.object(i), fixed.object(j), False


_HERE = Pose.still()


def _part_pair(moving: Bodies, i: int, fixed: Bodies, j: int, pose: Pose) -> Nearest:
    a, b = moving.parts[i], fixed.parts[j]
    oa, ob, with_mesh = _objects(moving, i, fixed, j)
    result = fcl.DistanceResult()
    d = fcl.distance(oa, ob, _REQUEST, result)
    owners = int(moving.owner[i]), int(fixed.owner[j])
    if d > 1e-6 and not (with_mesh and _swallowed(a, b, pose)):
        pa, pb = np.array(result.nearest_points[0]), np.array(result.nearest_points[1])
        return Nearest(*owners, float(d), pa, pb, (pa - pb) / d)
    if with_mesh:
        if isinstance(a, ConvexPart) and isinstance(b, MeshPart) and not b.closed:
            found = _through_sheet(owners, a, b, pose)
            if found is not None:
                return found
        return _mesh_overlap(owners, oa, ob, a, b, pose)
    assert isinstance(a, ConvexPart) and isinstance(b, ConvexPart)
    return _convex_overlap(owners, a, b, pose)


_REQUEST = fcl.DistanceRequest(enable_nearest_points=True)


def separation_depth(a: ConvexPart, b: ConvexPart, pose: Pose) -> tuple[float, Array]:
    """How deep two convex parts are in one another and the direction (3,) in which ``a`` leaves by the shortest way.

    depth = min over directions n of reach_b(n) + reach_a(-n). For polyhedra the least is on a face of their Minkowski difference,
    whose normals are the face normals of both and the products of their edges (separating axes); reaches are exact for round bars
    too, and the best direction is then refined.
    """
    moved = ConvexPart(a.kind, pose @ a.pose, a.size, a.hull_vertices, a.hull_triangles)
    (faces_a, edges_a), (faces_b, edges_b) = a.axes, b.axes
    faces_a, edges_a = faces_a @ pose.rotation.T, edges_a @ pose.rotation.T
    products = np.cross(edges_a[:, None], edges_b[None]).reshape(-1, 3)
    size = np.sqrt(np.einsum("ij,ij->i", products, products))
    keep = size > 1e-6
    products = products[keep] / size[keep, None]
    normals = np.vstack([faces_a, -faces_a, faces_b, -faces_b, products, -products])

    def depth(n: Array) -> Array:
        return b.support(n) + moved.support(-n)

    values = depth(normals)
    if "bar" not in (a.kind, b.kind):
        k = int(values.argmin())
        return max(float(values[k]), 0.0), normals[k]
    least, n = _refined(depth, normals[np.argsort(values)[:3]])
    return max(least, 0.0), n


_GRID = np.array([[i, j] for i in range(-4, 5) for j in range(-4, 5)], dtype=float) / 4


def _refined(depth: Callable[[Array], Array], n: Array) -> tuple[float, Array]:
    """The least depth near some directions (k, 3), all at once: a grid on each one's tangent plane, drawn in again and again until a
    ten-thousandth of a degree."""
    spread = 0.12
    while spread > 2e-6:
        first = _crossed(n, _SIX[2 * np.abs(n).argmin(1)])
        first /= np.sqrt((first**2).sum(1))[:, None]
        across = spread * np.stack([first, _crossed(n, first)], axis=1)
        around = n[:, None] + _GRID @ across
        around /= np.sqrt((around**2).sum(2))[..., None]
        at = depth(around.reshape(-1, 3)).reshape(len(n), -1).argmin(1)
        n = around[np.arange(len(n)), at]
        spread *= 0.35
    values = depth(n)
    k = int(values.argmin())
    return float(values[k]), n[k]


def _crossed(a: Array, b: Array) -> Array:
    """Vector products (k, 3); a few rows cost less this way than through the library."""
    return np.asarray(a[:, _NEXT] * b[:, _LAST] - a[:, _LAST] * b[:, _NEXT])


_NEXT, _LAST = [1, 2, 0], [2, 0, 1]


def _convex_overlap(owners: tuple[int, int], a: ConvexPart, b: ConvexPart, pose: Pose) -> Nearest:
    depth, way = separation_depth(a, b, pose)
    moved = pose.points(a.triangles[0])
    inner = moved[int((moved @ way).argmin())]
    face = moved[moved @ way < (moved @ way).min() + 0.5].mean(0)
    lo, hi = b.triangles[0].min(0), b.triangles[0].max(0)
    on_a = np.clip(face, lo, hi) if a.kind != "hull" else np.clip(inner, lo, hi)
    return Nearest(*owners, -depth, on_a, on_a + depth * way, way)


def _swallowed(a: SolidPart, b: SolidPart, pose: Pose) -> bool:
    """Whether one closed solid lies wholly inside the other, where surface distance alone would call it clear."""
    va, vb = pose.points(a.triangles[0]), b.triangles[0]
    if isinstance(b, MeshPart) and b.closed and winding_number(va[0], vb, b.faces) > 0.5:
        return True
    return isinstance(a, MeshPart) and a.closed and winding_number(vb[0], va, a.faces) > 0.5


def winding_number(point: Array, vertices: Array, faces: np.ndarray) -> float:
    """How often a mesh winds round a point: 1 inside a closed mesh that faces outwards, 0 outside (van Oosterom and
    Strackee, IEEE Trans. Biomed. Eng. 30 (1983) 125, solid angle of a triangle; from memory)."""
    p = vertices - point
    a, b, c = p[faces[:, 0]], p[faces[:, 1]], p[faces[:, 2]]
    la, lb, lc = (np.linalg.norm(x, axis=1) for x in (a, b, c))
    top = np.einsum("ij,ij->i", a, np.cross(b, c))
    bottom = la * lb * lc + np.einsum("ij,ij->i", a, b) * lc + np.einsum("ij,ij->i", b, c) * la + np.einsum("ij,ij->i", c, a) * lb
    return float(np.arctan2(top, bottom).sum() / (2 * np.pi))


def _through_sheet(owners: tuple[int, int], a: ConvexPart, b: MeshPart, pose: Pose) -> Nearest | None:
    """Overlap of a convex part with an open surface: the face of the part through which all of the surface's points in it leave by the
    least travel. The part is never pushed through the sheet. None where only edges cross it."""
    at = pose @ a.pose
    normals, offsets = a.sides
    middle, half = pose.points(a.pose.points(a.box[0])), np.abs(at.rotation * a.box[1]).sum(1)
    near = (np.abs(b.vertices - middle) < half).all(1)
    points, into = b.vertices[near], at.inverse()
    depth = offsets - into.points(points) @ normals.T
    inside = np.nonzero(depth.min(1, initial=np.inf) > 0)[0]
    if not len(inside):  # large triangles may have only their middles in it
        points = b.vertices[b.faces[near[b.faces].any(1)]].mean(1)[:20_000]
        depth = offsets - into.points(points) @ normals.T
        inside = np.nonzero(depth.min(1, initial=np.inf) > 0)[0]
    if not len(inside):
        return None
    travel = depth[inside].max(0)
    face = int(travel.argmin())
    k = int(inside[int(depth[inside, face].argmax())])
    way = -at.rotation @ normals[face]
    return Nearest(*owners, -float(travel[face]), points[k] - way * float(travel[face]), points[k], way)


def _mesh_overlap(owners: tuple[int, int], oa: fcl.CollisionObject, ob: fcl.CollisionObject, a: SolidPart, b: SolidPart,
                  pose: Pose) -> Nearest:
    """Depth against a mesh: the shortest travel along one of the six axes that clears it, to 0.02 mm."""
    at = oa.getTranslation()

    def clear(by: Array) -> bool:
        oa.setTranslation(at + by)
        away = fcl.distance(oa, ob, fcl.DistanceRequest(), fcl.DistanceResult()) > 1e-6
        return bool(away and not _swallowed(a, b, Pose(pose.rotation, pose.translation + by)))

    best, way = np.inf, _SIX[4]
    for direction in _SIX:
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
