"""How deep two solids are in one another, and the shortest way out."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose, crosses
from nimble_cradle.geometry.solids import ConvexPart, MeshPart

Overlap = tuple[float, Array, Array, Array]
"""Depth as a negative distance, mm; a point (3,) on the moving part, the point of the other that it leaves
by, and the way out (3,)."""
SIX = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]], dtype=float)
"""Forward, back, left, right, up, down."""


def separation_depth(
    a: ConvexPart, b: ConvexPart, pose: Pose, unless_within: float = 0.0
) -> tuple[float, Array]:
    """How deep two convex parts are in one another and the direction (3,) in which ``a`` leaves by the
    shortest way.

    depth = min over directions n of reach_b(n) + reach_a(-n). For polyhedra the least is on a face of
    their Minkowski difference, whose normals are the face normals of both and the products of their edges
    (separating axes); reaches are exact for round bars too, and the best direction is then refined. It is not
    where the depth is ``unless_within`` or less in any case: then only that is known of it.
    """
    if unless_within > 0:  # faces alone bound it, and there are few of them
        normals, values = candidate_axes(a, b, pose, faces_only=True)
        k = int(values.argmin())
        if values[k] <= unless_within:
            return max(float(values[k]), 0.0), normals[k]
    normals, values = candidate_axes(a, b, pose)
    k = int(values.argmin())
    if "bar" not in (a.kind, b.kind) or values[k] <= unless_within:
        return max(float(values[k]), 0.0), normals[k]
    moved = a.placed(pose)
    least, n = _refined(lambda n: b.support(n) + moved.support(-n), normals[np.argsort(values)[:3]])
    return max(least, 0.0), n


def candidate_axes(a: ConvexPart, b: ConvexPart, pose: Pose, faces_only: bool = False) -> tuple[Array, Array]:
    """Directions (k, 3) among which, for polyhedra, are all faces of their Minkowski difference, and how
    far ``a``, at ``pose``, must go along each until a plane across it parts the two (k,), mm; below
    nought: they are that far apart. faces_only: without the products of their edges, quicker and not all."""
    (faces_a, edges_a), (faces_b, edges_b) = a.axes, b.axes
    faces_a, edges_a = faces_a @ pose.rotation.T, edges_a @ pose.rotation.T
    normals = [faces_a, -faces_a, faces_b, -faces_b]
    if not faces_only:
        products = crosses(edges_a[:, None], edges_b[None]).reshape(-1, 3)
        size = np.sqrt(np.einsum("ij,ij->i", products, products))
        keep = size > 1e-6
        products = products[keep] / size[keep, None]
        normals += [products, -products]
    n = np.vstack(normals)
    return n, b.support(n) + a.placed(pose).support(-n)


_GRID = np.array([[i, j] for i in range(-4, 5) for j in range(-4, 5)], dtype=float) / 4
"""Nine by nine places of a square from -1 to 1: the next grid, 0.35 of it wide, reaches over the
neighbouring places, a quarter away."""


def _refined(depth: Callable[[Array], Array], n: Array) -> tuple[float, Array]:
    """The least depth near some directions (k, 3), all at once: a grid on each one's tangent plane, drawn
    in again and again until a ten-thousandth of a degree."""
    spread = 0.12
    while spread > 2e-6:
        first = _crossed(n, SIX[2 * np.abs(n).argmin(1)])
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


def convex_overlap(a: ConvexPart, b: ConvexPart, pose: Pose, unless_within: float = 0.0) -> Overlap:
    """Overlap of two convex parts by the shortest way out; one no deeper than ``unless_within`` is told only
    roughly."""
    depth, way = separation_depth(a, b, pose, unless_within)
    moved = pose.points(a.triangles[0])
    inner = moved[int((moved @ way).argmin())]
    face = moved[moved @ way < (moved @ way).min() + 0.5].mean(0)
    lo, hi = b.triangles[0].min(0), b.triangles[0].max(0)
    on_a = np.clip(face, lo, hi) if a.kind != "hull" else np.clip(inner, lo, hi)
    return -depth, on_a, on_a + depth * way, way


def through_sheet(a: ConvexPart, b: MeshPart, pose: Pose) -> Overlap | None:
    """Overlap of a convex part with an open surface: the face of the part through which all of the
    surface's points in it leave by the least travel. The part is never pushed through the sheet. None
    where only edges cross it."""
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
    return -float(travel[face]), points[k] - way * float(travel[face]), points[k], way
