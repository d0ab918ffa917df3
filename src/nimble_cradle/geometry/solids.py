"""Solids made of convex parts and triangle meshes: what distances, pictures and masses are computed from.

A ``ConvexPart`` is exact: a box, a round bar or a hull of points. Concave outlines are cut into convex ones.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np

from nimble_cradle.geometry.cylinder import BAR_SIDES, cylinder, once_each
from nimble_cradle.geometry.cylinder import Triangles as Triangles
from nimble_cradle.geometry.pose import Array, Pose, crosses
from nimble_cradle.geometry.winding import Whole

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


class MassProperties(NamedTuple):
    """Volume mm3, centroid (3,) and inertia (3, 3) mm5 about the centroid, owner's axes, for density one."""

    volume: float
    centroid: Array
    inertia: Array


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
    def across(self) -> float:
        """No two of its points are farther apart than this, mm."""
        return float(2 * np.linalg.norm(self.box[1]))

    @cached_property
    def longest(self) -> float:
        """Two of its points are at least this far apart, mm."""
        return float(2 * self.box[1].max())

    @cached_property
    def axes(self) -> tuple[Array, Array]:
        """Unit normals of the faces (n, 3) and directions of the edges (m, 3), each once whichever way it
        points, owner's frame."""
        if self.kind == "box":
            return self.pose.rotation.T.copy(), self.pose.rotation.T.copy()
        v, t = self.triangles
        normals = crosses(v[t[:, 1]] - v[t[:, 0]], v[t[:, 2]] - v[t[:, 0]])
        edges = np.vstack([v[t[:, k]] - v[t[:, k - 1]] for k in range(3)])
        if self.kind == "bar":
            a = np.arange(BAR_SIDES // 2) * 2 * np.pi / BAR_SIDES
            ring = np.column_stack([np.cos(a), np.sin(a), 0 * a]) @ self.pose.rotation.T
            axis = self.pose.rotation[:, 2][None]
            return np.vstack([ring, axis]), np.vstack([ring, axis])
        return once_each(normals), once_each(edges)

    @cached_property
    def planes(self) -> tuple[Array, Array, Array]:
        """Corners (m, 3, 3), outward unit normal (m, 3) and offset (m,) of every triangle, in the part's
        own frame."""
        v, t = self.local
        corners = v[t]
        normals = crosses(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        normals = normals / np.sqrt((normals**2).sum(1))[:, None]
        return corners, normals, (normals * corners[:, 0]).sum(1)

    @cached_property
    def faces(self) -> tuple[Array, Array, Array]:
        """As ``planes``, in the owner's frame."""
        corners, normals, _ = self.planes
        corners, normals = self.pose.points(corners), self.pose.vectors(normals)
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

    def farthest(self, direction: Array) -> Array:
        """The point (3,) of the part that reaches farthest along a direction (3,), both in the owner's frame;
        one of them where there are several."""
        local = direction @ self.pose.rotation
        if self.kind == "bar":
            radius, length = self.size
            flat = math.hypot(local[0], local[1])
            x, y = (local[:2] * radius / flat).tolist() if flat > 1e-12 else (0.0, 0.0)
            return self.pose.points(np.array([x, y, math.copysign(length / 2, local[2])]))
        corners = self.local[0]
        return self.pose.points(corners[int((corners @ local).argmax())])

    def mass_properties(self) -> MassProperties:
        """Volume, centroid and inertia."""
        if self.kind == "bar":
            r, h = self.size
            volume = float(np.pi * r * r * h)
            across, along = volume * (3 * r * r + h * h) / 12, volume * r * r / 2
            i = self.pose.rotation @ np.diag([across, across, along]) @ self.pose.rotation.T
            return MassProperties(volume, self.pose.translation.copy(), i)
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
    def longest(self) -> float:
        """Two of its points are at least this far apart, mm."""
        return float(2 * self.box[1].max())

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
        _, same = np.unique(self.vertices.round(4), axis=0, return_inverse=True)
        f = same.reshape(-1)[self.faces]
        piece = connected(int(same.max()) + 1, np.concatenate([f[:, [0, 1]], f[:, [1, 2]]]))
        _, first = np.unique(piece[same.reshape(-1)[self.faces[:, 0]]], return_index=True)
        return np.asarray(self.vertices[self.faces[first, 0]])

    def mass_properties(self) -> MassProperties:
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


def connected(n: int, links: Triangles) -> Triangles:
    """For each of n places the lowest one that links (m, 2) join it to, (n,).

    Each round hooks the lowest known of every piece to its neighbours' and jumps to its end. SciPy's own
    takes a third of a second to import, which is felt when a job is opened.
    """
    lowest = np.arange(n)
    a, b = links.T
    while True:
        from_a, from_b = lowest[a], lowest[b]
        low = np.minimum(from_a, from_b)
        if np.array_equal(from_a, from_b):
            return lowest
        np.minimum.at(lowest, from_a, low)
        np.minimum.at(lowest, from_b, low)
        while not np.array_equal(lowest, jumped := lowest[lowest]):
            lowest = jumped


def mesh_mass_properties(vertices: Array, triangles: Triangles) -> MassProperties:
    """Volume, centroid and inertia about the centroid of a closed mesh at density one, by signed tetrahedra.

    Wrong unless the mesh is closed and its triangles face outwards.
    """
    a, b, c = (vertices[triangles[:, k]] for k in range(3))
    origin = vertices.mean(0)
    a, b, c = a - origin, b - origin, c - origin
    det = np.einsum("ij,ij->i", a, crosses(b, c))
    volume = float(det.sum() / 6)
    if abs(volume) < 1e-9:
        raise ShapeError("The shape holds no volume.")
    centroid = (det[:, None] * (a + b + c)).sum(0) / 24 / volume
    s = a + b + c
    second = sum(np.einsum("i,ij,ik->jk", det, x, x) for x in (a, b, c, s)) / 120 - volume * np.outer(
        centroid, centroid
    )
    return MassProperties(volume, centroid + origin, np.trace(second) * np.eye(3) - second)


Corner = tuple[float, float]
