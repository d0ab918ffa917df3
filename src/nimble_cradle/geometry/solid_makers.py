"""Solids from their sizes."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.geometry.outlines import convex_outlines
from nimble_cradle.geometry.pose import Array, Pose, crosses, frame, unit
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, ShapeError


def box(centre: ArrayLike, size: ArrayLike, rotation: Array | None = None) -> ConvexPart:
    """A box by centre, full size and rotation."""
    turn = np.eye(3) if rotation is None else rotation
    pose = Pose(turn, np.asarray(centre, dtype=float))
    sizes = tuple(float(s) for s in np.asarray(size, dtype=float))
    return ConvexPart("box", pose, sizes)


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
    normals = crosses(p[faces[:, 1]] - p[faces[:, 0]], p[faces[:, 2]] - p[faces[:, 0]])
    flip = np.einsum("ij,ij->i", normals, found.equations[:, :3]) < 0
    faces[flip] = faces[flip][:, ::-1]
    used = np.unique(faces)
    renumber = np.zeros(len(p), dtype=np.int64)
    renumber[used] = np.arange(len(used))
    return ConvexPart("hull", Pose.still(), (), p[used], renumber[faces])


def pushed(near: Array, along: Array) -> ConvexPart:
    """A convex outline (n, 3) pushed by the vector ``along``, as a hull with outward triangles."""
    n = len(near)
    normal = crosses(near[1] - near[0], near[2] - near[1])
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
    area = np.linalg.norm(crosses(v[faces[:, 1]] - v[faces[:, 0]], v[faces[:, 2]] - v[faces[:, 0]]), axis=1)
    faces = faces[area > 1e-6]
    if not len(faces):
        raise ShapeError("The surface has no area: its points lie on one line.")
    return MeshPart(v, faces)
