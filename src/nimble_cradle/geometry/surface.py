"""The nearest points of a surface."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.geometry.solids import Triangles


class Surface:
    """A surface that distances are measured to: its triangles, found by samples laid ``spacing`` mm apart
    over them.

    Distances are exact to the triangles looked at (those of the nearest samples), so they never come out
    too small.
    """

    LOOKED_AT = 6

    def __init__(self, vertices: Array, faces: Triangles, spacing: float) -> None:
        self.corners = np.ascontiguousarray(vertices[faces])
        self.spacing = spacing
        normal = crosses(self.corners[:, 1] - self.corners[:, 0], self.corners[:, 2] - self.corners[:, 0])
        self.areas = np.linalg.norm(normal, axis=1) / 2
        self.normals = normal / np.maximum(2 * self.areas, 1e-12)[:, None]

    @cached_property
    def _samples(self) -> tuple[Array, np.ndarray]:
        """Points (k, 3) on the triangles and the triangle of each: the middle, and for large ones a grid."""
        side = np.sqrt(np.maximum((np.diff(self.corners[:, [0, 1, 2, 0]], axis=1) ** 2).sum(2).max(1), 0.0))
        steps = np.clip(np.ceil(side / (3 * self.spacing)), 1, 200).astype(np.int64)
        points, owner = [self.corners.mean(1)], [np.arange(len(self.corners))]
        for n in np.unique(steps[steps > 1]):
            which = np.nonzero(steps == n)[0]
            i, j = (g.ravel() for g in np.meshgrid(np.arange(n + 1), np.arange(n + 1), indexing="ij"))
            inside = i + j <= n
            u, v = i[inside] / n, j[inside] / n
            c = self.corners[which]
            grid = (
                c[:, None, 0]
                + u[None, :, None] * (c[:, None, 1] - c[:, None, 0])
                + v[None, :, None] * (c[:, None, 2] - c[:, None, 0])
            )
            points.append(grid.reshape(-1, 3))
            owner.append(np.repeat(which, len(u)))
        return np.vstack(points), np.concatenate(owner)

    @cached_property
    def _tree(self) -> object:
        from scipy.spatial import cKDTree

        return cKDTree(self._samples[0])

    def nearest(
        self, points: Array, within: float = np.inf, looked_at: int = LOOKED_AT
    ) -> tuple[Array, Array, np.ndarray]:
        """Distance (n,), nearest point (n, 3) and triangle (n,) for points (n, 3); beyond ``within`` the
        distance is infinite."""
        reach = within + 3 * self.spacing if np.isfinite(within) else np.inf
        count = min(looked_at, len(self._samples[0]))
        _, index = self._tree.query(points, k=count, distance_upper_bound=reach, workers=2)  # type: ignore[attr-defined]
        index = index.reshape(len(points), count)
        best = np.full(len(points), np.inf)
        place = np.zeros((len(points), 3))
        triangle = np.zeros(len(points), dtype=np.int64)
        owner = self._samples[1]
        for k in range(count):
            rows = np.nonzero(index[:, k] < len(owner))[0]
            t = owner[index[rows, k]]
            on = closest_on_triangles(points[rows], self.corners[t])
            d = np.sqrt(((points[rows] - on) ** 2).sum(1))
            better = d < best[rows]
            rows, t = rows[better], t[better]
            best[rows], place[rows], triangle[rows] = d[better], on[better], t
        best[best > within] = np.inf
        return best, place, triangle

    def distances(self, points: Array) -> Array:
        """Distance (n,) of each point to the surface; the largest are looked at again with more triangles."""
        out = np.empty(len(points))
        for start in range(0, len(points), 200_000):
            out[start : start + 200_000] = self.nearest(points[start : start + 200_000])[0]
        far = np.nonzero(out >= np.quantile(out, 0.98))[0] if len(out) else np.zeros(0, dtype=np.int64)
        for start in range(0, len(far), 20_000):
            rows = far[start : start + 20_000]
            out[rows] = np.minimum(out[rows], self.nearest(points[rows], looked_at=60)[0])
        return out


def closest_on_triangles(p: Array, corners: Array) -> Array:
    """Closest point (n, 3) on triangle k of corners (n, 3, 3) to p[k] (Ericson, Real-Time Collision
    Detection, 2005, 5.1.5; from memory)."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    ab, ac, ap = b - a, c - a, p - a
    d1, d2 = (ab * ap).sum(1), (ac * ap).sum(1)
    bp, cp = p - b, p - c
    d3, d4, d5, d6 = (ab * bp).sum(1), (ac * bp).sum(1), (ab * cp).sum(1), (ac * cp).sum(1)
    va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
    with np.errstate(divide="ignore", invalid="ignore"):
        total = va + vb + vc
        out = a + ab * (vb / total)[:, None] + ac * (vc / total)[:, None]
        t = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        edge = (va <= 0) & (d4 - d3 >= 0) & (d5 - d6 >= 0)
        out[edge] = (b + (c - b) * t[:, None])[edge]
        t = d2 / (d2 - d6)
        edge = (vb <= 0) & (d2 >= 0) & (d6 <= 0)
        out[edge] = (a + ac * t[:, None])[edge]
        t = d1 / (d1 - d3)
        edge = (vc <= 0) & (d1 >= 0) & (d3 <= 0)
        out[edge] = (a + ab * t[:, None])[edge]
    for near, corner in (
        ((d6 >= 0) & (d5 <= d6), c),
        ((d3 >= 0) & (d4 <= d3), b),
        ((d1 <= 0) & (d2 <= 0), a),
    ):
        out[near] = corner[near]
    bad = ~np.isfinite(out).all(1)
    out[bad] = a[bad]
    return np.asarray(out)
