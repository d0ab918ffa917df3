"""Solids made of convex parts and triangle meshes: what distances, pictures and masses are computed from.

A ``ConvexPart`` is exact: a box, a round bar or a hull of points. Concave outlines are cut into convex ones.
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from nimble_cradle.geometry.pose import Array, Pose, frame, unit
from nimble_cradle.geometry.winding import Whole

Triangles = NDArray[np.int64]
BAR_SIDES = 40

_BOX_FACES = np.array(
    [
        [0, 1, 3],
        [0, 3, 2],
        [4, 6, 7],
        [4, 7, 5],
        [0, 4, 5],
        [0, 5, 1],
        [2, 3, 7],
        [2, 7, 6],
        [0, 2, 6],
        [0, 6, 4],
        [1, 5, 7],
        [1, 7, 3],
    ],
    dtype=np.int64,
)


class ShapeError(ValueError):
    """A shape that cannot be; the message is one sentence."""


@dataclass(frozen=True, eq=False)
class ConvexPart:
    """One convex solid at ``pose`` in its owner's frame.

    kind box: size = full lengths (3,). bar: size = (radius, length), axis along local z, centred. hull:
    vertices (n, 3).
    """

    kind: Literal["box", "bar", "hull"]
    pose: Pose
    size: tuple[float, ...] = ()
    hull_vertices: Array = field(default_factory=lambda: np.zeros((0, 3)))
    hull_triangles: Triangles = field(default_factory=lambda: np.zeros((0, 3), dtype=np.int64))

    @cached_property
    def local(self) -> tuple[Array, Triangles]:
        """Vertices (n, 3) and outward triangles (m, 3) in the part's own frame; a bar as a prism of 40
        sides on its surface."""
        if self.kind == "box":
            half = np.array(self.size) / 2
            signs = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)], dtype=float)
            return signs * half, _BOX_FACES
        if self.kind == "bar":
            return cylinder(self.size[0], self.size[1])
        return self.hull_vertices, self.hull_triangles

    @cached_property
    def triangles(self) -> tuple[Array, Triangles]:
        """As ``local``, in the owner's frame."""
        v, t = self.local
        return self.pose.points(v), t

    @cached_property
    def box(self) -> tuple[Array, Array]:
        """Centre and half size (3,), (3,) of the box in the part's own frame that holds it."""
        if self.kind == "bar":
            return np.zeros(3), np.array([self.size[0], self.size[0], self.size[1] / 2])
        v = self.local[0]
        return (v.max(0) + v.min(0)) / 2, (v.max(0) - v.min(0)) / 2

    @cached_property
    def axes(self) -> tuple[Array, Array]:
        """Unit normals of the faces (n, 3) and directions of the edges (m, 3), each once whichever way it
        points, owner's frame."""
        if self.kind == "box":
            return self.pose.rotation.T.copy(), self.pose.rotation.T.copy()
        v, t = self.triangles
        normals = np.cross(v[t[:, 1]] - v[t[:, 0]], v[t[:, 2]] - v[t[:, 0]])
        edges = np.vstack([v[t[:, k]] - v[t[:, k - 1]] for k in range(3)])
        if self.kind == "bar":
            a = np.arange(BAR_SIDES // 2) * 2 * np.pi / BAR_SIDES
            ring = np.column_stack([np.cos(a), np.sin(a), 0 * a]) @ self.pose.rotation.T
            axis = self.pose.rotation[:, 2][None]
            return np.vstack([ring, axis]), np.vstack([ring, axis])
        return _once(normals), _once(edges)

    @cached_property
    def planes(self) -> tuple[Array, Array, Array]:
        """Corners (m, 3, 3), outward unit normal (m, 3) and offset (m,) of every triangle, in the part's
        own frame."""
        v, t = self.local
        corners = v[t]
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        normals = normals / np.sqrt((normals**2).sum(1))[:, None]
        return corners, normals, (normals * corners[:, 0]).sum(1)

    @cached_property
    def sides(self) -> tuple[Array, Array]:
        """Outward unit normal (k, 3) and offset (k,) of every side once, in the part's own frame; a bar's
        are those of its prism."""
        _, normals, offsets = self.planes
        both = np.unique(np.column_stack([normals, offsets]).round(6), axis=0, return_index=True)[1]
        return normals[both], offsets[both]

    @cached_property
    def ridges(self) -> np.ndarray:
        """(e, 2) numbers of the vertices at both ends of every edge where two faces of a box or hull meet
        at an angle."""
        t, normals = self.local[1], self.planes[1]
        faces: dict[tuple[int, int], list[int]] = {}
        for k, (p, q, r) in enumerate(t.tolist()):
            for edge in ((p, q), (q, r), (r, p)):
                faces.setdefault((min(edge), max(edge)), []).append(k)
        sharp = [e for e, f in faces.items() if len(f) != 2 or normals[f[0]] @ normals[f[1]] < 0.9998]
        return np.array(sharp, dtype=np.int64).reshape(-1, 2)

    def placed(self, pose: Pose) -> ConvexPart:
        """The part moved with its owner's frame to ``pose``."""
        return ConvexPart(self.kind, pose @ self.pose, self.size, self.hull_vertices, self.hull_triangles)

    def support(self, directions: Array) -> Array:
        """Greatest reach (k,) of the part along each direction (k, 3), both in the owner's frame; exact
        for round bars."""
        local = directions @ self.pose.rotation
        shift = directions @ self.pose.translation
        if self.kind == "bar":
            radius, length = self.size
            return np.asarray(
                shift + radius * np.hypot(local[:, 0], local[:, 1]) + length / 2 * np.abs(local[:, 2])
            )
        return np.asarray(shift + (local @ self.local[0].T).max(1))

    def mass_properties(self) -> tuple[float, Array, Array]:
        """Volume mm3, centroid (3,) and inertia (3, 3) mm5 about the centroid, owner's axes, for density
        one."""
        if self.kind == "bar":
            r, h = self.size
            volume = float(np.pi * r * r * h)
            across, along = volume * (3 * r * r + h * h) / 12, volume * r * r / 2
            i = self.pose.rotation @ np.diag([across, across, along]) @ self.pose.rotation.T
            return volume, self.pose.translation.copy(), i
        return mesh_mass_properties(*self.triangles)


@dataclass(frozen=True, eq=False)
class MeshPart:
    """A triangle mesh in its owner's frame; open surfaces are normal. vertices (n, 3) mm, faces (m, 3).
    whole: the closed mesh that this is a cell of, for which one of its cells, ``for_whole``, answers."""

    vertices: Array
    faces: Triangles
    whole: Whole | None = None
    for_whole: bool = False

    @property
    def triangles(self) -> tuple[Array, Triangles]:
        """Vertices and triangles in the owner's frame."""
        return self.vertices, self.faces

    @cached_property
    def box(self) -> tuple[Array, Array]:
        """Centre and half size of the box that holds it."""
        return (self.vertices.max(0) + self.vertices.min(0)) / 2, (
            self.vertices.max(0) - self.vertices.min(0)
        ) / 2

    @cached_property
    def closed(self) -> bool:
        """Whether every edge is shared by exactly two triangles, each way round once."""
        edges = np.concatenate([self.faces[:, [0, 1]], self.faces[:, [1, 2]], self.faces[:, [2, 0]]])
        n = len(self.vertices)
        forward, backward = np.sort(edges[:, 0] * n + edges[:, 1]), np.sort(edges[:, 1] * n + edges[:, 0])
        return bool((forward[1:] != forward[:-1]).all() and np.array_equal(forward, backward))

    @cached_property
    def piece_points(self) -> Array:
        """One vertex (k, 3) of each connected piece; corners at the same place count as one."""
        from scipy.sparse import coo_matrix
        from scipy.sparse.csgraph import connected_components

        _, same = np.unique(self.vertices.round(4), axis=0, return_inverse=True)
        f = same.reshape(-1)[self.faces]
        n = int(same.max()) + 1
        links = np.concatenate([f[:, [0, 1]], f[:, [1, 2]]])
        graph = coo_matrix((np.ones(len(links), dtype=np.int8), (links[:, 0], links[:, 1])), shape=(n, n))
        _, piece = connected_components(graph, directed=False)
        _, first = np.unique(piece[same.reshape(-1)[self.faces[:, 0]]], return_index=True)
        return np.asarray(self.vertices[self.faces[first, 0]])

    def mass_properties(self) -> tuple[float, Array, Array]:
        """As for a convex part; wrong unless the mesh is closed (then a box round it is used)."""
        if not self.closed:
            c, h = self.box
            size = tuple(float(s) for s in np.maximum(2 * h, 1.0))
            return ConvexPart("box", Pose(np.eye(3), c), size).mass_properties()
        return mesh_mass_properties(self.vertices, self.faces)


SolidPart = ConvexPart | MeshPart


def placed_part(part: SolidPart, pose: Pose) -> SolidPart:
    """The part moved with its owner's frame to ``pose``."""
    if isinstance(part, MeshPart):
        whole = None if part.whole is None else part.whole.placed(pose)
        return MeshPart(pose.points(part.vertices), part.faces, whole, part.for_whole)
    return part.placed(pose)


def _once(directions: Array) -> Array:
    """Unit directions (n, 3) without repeats, opposite ones counted as the same."""
    size = np.linalg.norm(directions, axis=1)
    d = directions[size > 1e-9] / size[size > 1e-9, None]
    first = np.argmax(np.abs(d) > 1e-6, axis=1)
    d = d * np.sign(d[np.arange(len(d)), first])[:, None]
    return np.asarray(np.unique(d.round(7), axis=0))


def cylinder(radius: float, length: float, sides: int = BAR_SIDES) -> tuple[Array, Triangles]:
    """A prism with its corners on a round bar, axis along z, centred: vertices and outward triangles."""
    n = sides
    a = np.arange(n) * 2 * np.pi / n
    ring = np.column_stack([radius * np.cos(a), radius * np.sin(a)])
    vertices = np.vstack(
        [
            np.column_stack([ring, np.full(n, -length / 2)]),
            np.column_stack([ring, np.full(n, length / 2)]),
            [[0, 0, -length / 2], [0, 0, length / 2]],
        ]
    )
    i, j = np.arange(n), (np.arange(n) + 1) % n
    side = np.vstack([np.column_stack([i, j, j + n]), np.column_stack([i, j + n, i + n])])
    caps = np.vstack(
        [np.column_stack([j, i, np.full(n, 2 * n)]), np.column_stack([i + n, j + n, np.full(n, 2 * n + 1)])]
    )
    return vertices, np.vstack([side, caps]).astype(np.int64)


def mesh_mass_properties(vertices: Array, triangles: Triangles) -> tuple[float, Array, Array]:
    """Volume, centroid and inertia about the centroid of a closed mesh at density one, by signed tetrahedra.

    Wrong unless the mesh is closed and its triangles face outwards.
    """
    a, b, c = (vertices[triangles[:, k]] for k in range(3))
    origin = vertices.mean(0)
    a, b, c = a - origin, b - origin, c - origin
    det = np.einsum("ij,ij->i", a, np.cross(b, c))
    volume = float(det.sum() / 6)
    if abs(volume) < 1e-9:
        raise ShapeError("The shape holds no volume.")
    centroid = (det[:, None] * (a + b + c)).sum(0) / 24 / volume
    s = a + b + c
    second = sum(np.einsum("i,ij,ik->jk", det, x, x) for x in (a, b, c, s)) / 120 - volume * np.outer(
        centroid, centroid
    )
    return volume, centroid + origin, np.trace(second) * np.eye(3) - second


def box(centre: ArrayLike, size: ArrayLike, rotation: Array | None = None) -> ConvexPart:
    """A box by centre, full size and rotation."""
    pose = Pose(np.eye(3) if rotation is None else rotation, np.asarray(centre, dtype=float))
    return ConvexPart("box", pose, tuple(float(s) for s in np.asarray(size, dtype=float)))


def bar(start: ArrayLike, end: ArrayLike, diameter: float) -> ConvexPart:
    """A round bar between two points on its axis."""
    a, b = np.asarray(start, dtype=float), np.asarray(end, dtype=float)
    return ConvexPart(
        "bar", Pose(frame(b - a, (0.0, 0.0, 1.0)), (a + b) / 2), (diameter / 2, float(np.linalg.norm(b - a)))
    )


def hull(points: ArrayLike) -> ConvexPart:
    """The convex hull of points (n, 3). Raises ShapeError where they hold no volume."""
    from scipy.spatial import ConvexHull, QhullError

    p = np.asarray(points, dtype=float)
    try:
        found = ConvexHull(p)
    except QhullError:
        raise ShapeError("The shape is flat: it holds no volume.") from None
    faces = found.simplices.astype(np.int64)
    normals = np.cross(p[faces[:, 1]] - p[faces[:, 0]], p[faces[:, 2]] - p[faces[:, 0]])
    flip = np.einsum("ij,ij->i", normals, found.equations[:, :3]) < 0
    faces[flip] = faces[flip][:, ::-1]
    used = np.unique(faces)
    renumber = np.zeros(len(p), dtype=np.int64)
    renumber[used] = np.arange(len(used))
    return ConvexPart("hull", Pose.still(), (), p[used], renumber[faces])


def convex_outlines(outline: ArrayLike) -> list[Array]:
    """Cut a simple polygon (n, 2) into convex ones. Raises ShapeError where it crosses itself or holds no
    area."""
    ring = np.asarray(outline, dtype=float)
    if _is_convex(ring):
        return [ring]
    import shapely
    from shapely.geometry import Polygon

    polygon = Polygon(np.asarray(outline, dtype=float))
    if not polygon.is_valid or polygon.area < 1e-6:
        raise ShapeError("The outline crosses itself or holds no area.")
    if polygon.convex_hull.area - polygon.area < 1e-9 * polygon.area:
        return [np.asarray(polygon.exterior.coords)[:-1]]
    parts = [g for g in shapely.constrained_delaunay_triangles(polygon).geoms if isinstance(g, Polygon)]
    return [np.asarray(p.exterior.coords)[:-1] for p in _merged(parts, 1e-9 * polygon.area)]


def _merged(parts: list[Any], little: float) -> list[Any]:
    """Triangles (shapely polygons) joined, first ones first, wherever two with a side in common are convex
    together to within an area of ``little``."""
    sides: dict[frozenset[tuple[float, ...]], list[int]] = {}
    for k, part in enumerate(parts):
        ring = list(part.exterior.coords)
        for one, two in zip(ring, ring[1:], strict=False):
            sides.setdefault(frozenset((one, two)), []).append(k)
    beside: dict[int, set[int]] = {k: set() for k in range(len(parts))}
    for both in sides.values():
        for k in both:
            beside[k].update(o for o in both if o != k)
    kept = dict(enumerate(parts))
    rings = {k: _ring(part) for k, part in kept.items()}
    waiting = [(i, j) for i in kept for j in beside[i] if i < j]
    heapq.heapify(waiting)
    while waiting:
        i, j = heapq.heappop(waiting)
        if i not in kept or j not in kept or (waiting and waiting[0] == (i, j)):
            continue
        if _bent_in(rings[i], rings[j]) >= little:
            continue
        both_ = kept[i].union(kept[j])
        if both_.geom_type != "Polygon" or both_.convex_hull.area - both_.area >= little:
            continue
        kept[i], rings[i] = both_, _ring(both_)
        del kept[j], rings[j]
        beside[i] |= beside.pop(j)
        beside[i] -= {i, j}
        for other in beside[i]:
            beside[other] = (beside[other] - {j}) | {i}
            heapq.heappush(waiting, (min(i, other), max(i, other)))
    return [kept[k] for k in sorted(kept)]


_Corner = tuple[float, float]


def _ring(part: Any) -> dict[_Corner, tuple[_Corner, _Corner]]:
    """Each corner of a polygon with those before and after it, anticlockwise."""
    ring = list(part.exterior.coords)[:-1]
    if not part.exterior.is_ccw:
        ring.reverse()
    return {p: (ring[k - 1], ring[(k + 1) % len(ring)]) for k, p in enumerate(ring)}


def _bent_in(
    one: dict[_Corner, tuple[_Corner, _Corner]], two: dict[_Corner, tuple[_Corner, _Corner]]
) -> float:
    """Area by which two convex polygons with a side in common are hollow, together, at its ends: the whole is
    hollow by no less."""
    if len(one) > len(two):
        one, two = two, one
    most = 0.0
    for corner, (before, after) in one.items():
        if corner in two:
            for a, b in ((before, two[corner][1]), (two[corner][0], after)):
                if a not in two or b not in one:  # at an end of what they share, not along it
                    turn = (corner[0] - a[0]) * (b[1] - corner[1]) - (corner[1] - a[1]) * (b[0] - corner[0])
                    most = max(most, -turn / 2)
    return most


def _is_convex(ring: Array) -> bool:
    """Whether a polygon turns one way only, and once round."""
    steps = np.roll(ring, -1, axis=0) - ring
    after = np.roll(steps, -1, axis=0)
    turns = np.arctan2(steps[:, 0] * after[:, 1] - steps[:, 1] * after[:, 0], (steps * after).sum(1))
    return bool(
        (np.hypot(*steps.T) > 1e-9).all()
        and (np.all(turns > 1e-9) or np.all(turns < -1e-9))
        and abs(abs(turns.sum()) - 2 * np.pi) < 1e-6
    )


def pushed(near: Array, along: Array) -> ConvexPart:
    """A convex outline (n, 3) pushed by the vector ``along``, as a hull with outward triangles."""
    n = len(near)
    normal = np.cross(near[1] - near[0], near[2] - near[1])
    if normal @ along > 0:
        near = near[::-1]
    fan = np.array([[0, k, k + 1] for k in range(1, n - 1)], dtype=np.int64)
    i = np.arange(n)
    j = (i + 1) % n
    sides = np.vstack([np.column_stack([j, i, i + n]), np.column_stack([j, i + n, j + n])])
    return ConvexPart(
        "hull", Pose.still(), (), np.vstack([near, near + along]), np.vstack([fan, fan[:, ::-1] + n, sides])
    )


def prism(
    origin: ArrayLike, along: ArrayLike, up: ArrayLike, outline: ArrayLike, length: float
) -> list[ConvexPart]:
    """An outline (n, 2) in the plane across ``along``, pushed ``length`` along it; v along ``up``, u = up
    x along."""
    axes = frame(along, up)
    start = np.asarray(origin, dtype=float)
    out = []
    for ring in convex_outlines(outline):
        out.append(pushed(start + ring @ axes[:, :2].T, length * axes[:, 2]))
    return out


def slab(corners: ArrayLike, thickness: float, most_bow: float = 5.0) -> list[ConvexPart]:
    """A flat polygon (n, 3) with thickness, half to each side. Raises ShapeError where corners bow out of
    plane by more."""
    p = np.asarray(corners, dtype=float)
    centre = p.mean(0)
    _, spread, axes = np.linalg.svd(p - centre)
    if spread[1] < 1e-3:
        raise ShapeError("The corners of the slab lie on one line.")
    bow = float(np.abs((p - centre) @ axes[2]).max())
    if bow > most_bow:
        raise ShapeError(f"The corners of the slab are {bow:.0f} mm out of one plane.")
    n = unit(axes[2])
    return prism(centre - n * thickness / 2, n, axes[1], (p - centre) @ frame(n, axes[1])[:, :2], thickness)


def skin(rows: ArrayLike) -> MeshPart:
    """An open surface through rows of points (r, c, 3), two triangles a field. Raises ShapeError where a
    field has no area."""
    p = np.asarray(rows, dtype=float)
    r, c = p.shape[:2]
    number = np.arange(r * c).reshape(r, c)
    a, b, d, e = (number[i : i + r - 1, j : j + c - 1].ravel() for i, j in ((0, 0), (0, 1), (1, 0), (1, 1)))
    faces = np.vstack([np.column_stack([a, b, d]), np.column_stack([b, e, d])]).astype(np.int64)
    v = p.reshape(-1, 3)
    area = np.linalg.norm(np.cross(v[faces[:, 1]] - v[faces[:, 0]], v[faces[:, 2]] - v[faces[:, 0]]), axis=1)
    faces = faces[area > 1e-6]
    if not len(faces):
        raise ShapeError("The surface has no area: its points lie on one line.")
    return MeshPart(v, faces)
