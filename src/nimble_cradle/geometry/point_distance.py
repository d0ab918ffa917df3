"""How far points are from a solid part: exact for boxes, bars and hulls (negative inside), and from the
surface of a mesh."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.geometry.solids import ConvexPart, SolidPart


def point_distances(part: SolidPart, points: Array) -> Array:
    """(n,) mm from points (n, 3), owner's frame."""
    if not isinstance(part, ConvexPart):
        v, t = part.triangles
        return to_triangles(v[t], points)
    own = (points - part.pose.translation) @ part.pose.rotation
    if part.kind == "box":
        q = np.abs(own) - np.array(part.size) / 2
    elif part.kind == "bar":
        radius, long = part.size
        q = np.column_stack([np.hypot(own[:, 0], own[:, 1]) - radius, np.abs(own[:, 2]) - long / 2])
    else:
        corners, normals, offsets = part.planes
        deep = (own @ normals.T - offsets).max(1)
        out = deep > 0
        if out.any():
            deep[out] = to_triangles(corners, own[out])
        return np.asarray(deep)
    return np.asarray(np.linalg.norm(np.maximum(q, 0.0), axis=1) + np.minimum(q.max(1), 0.0))


def to_triangles(corners: Array, points: Array) -> Array:
    """(n,) mm from points (n, 3) to the nearest of triangles (m, 3, 3)."""
    best = np.full(len(points), np.inf)
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    normal = crosses(b - a, c - a)
    size = np.linalg.norm(normal, axis=1)
    fine = size > 1e-12
    unit = normal / np.where(fine, size, 1.0)[:, None]
    for start in range(0, len(points), 512):
        p = points[start : start + 512, None, :]
        high = ((p - a) * unit).sum(2)
        within = np.broadcast_to(fine, high.shape).copy()
        edge = np.full(high.shape, np.inf)
        for one, two in ((a, b), (b, c), (c, a)):
            along, by = two - one, p - one
            within &= (crosses(along, by) * unit).sum(2) >= 0
            t = np.clip((by * along).sum(2) / np.maximum((along**2).sum(1), 1e-18), 0.0, 1.0)
            edge = np.minimum(edge, np.linalg.norm(by - t[..., None] * along, axis=2))
        best[start : start + 512] = np.where(within, np.abs(high), edge).min(1)
    return best
