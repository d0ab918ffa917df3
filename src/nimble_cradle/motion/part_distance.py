"""Signed distance from points to one solid part, and the points of a part that face a direction."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.geometry.surface import closest_on_triangles


def from_part(part: ConvexPart, points: Array) -> tuple[Array, Array]:
    """Signed distance (n,) of points (n, 3) to a convex part (inside: negative, to the nearest face) and
    the unit direction (n, 3) in which each leaves the part. Points and directions in the owner's frame;
    exact for boxes, round bars and hulls.
    """
    local = (points - part.pose.translation) @ part.pose.rotation
    if part.kind == "box":
        d, way = _from_box(local, np.array(part.size) / 2)
    elif part.kind == "bar":
        d, way = _from_bar(local, part.size[0], part.size[1] / 2)
    else:
        d, way = _from_hull(local, part)
    return d, way @ part.pose.rotation.T


def _from_box(p: Array, half: Array) -> tuple[Array, Array]:
    over = np.abs(p) - half
    sign = np.where(p < 0, -1.0, 1.0)
    outside = np.maximum(over, 0.0)
    away = np.sqrt((outside**2).sum(1))
    face = over.argmax(1)
    rows = np.arange(len(p))
    way = np.zeros_like(p)
    way[rows, face] = sign[rows, face]
    out = away > 1e-9
    way[out] = (outside * sign)[out] / away[out, None]
    return np.where(out, away, over[rows, face]), way


def _from_bar(p: Array, radius: float, half: float) -> tuple[Array, Array]:
    r = np.hypot(p[:, 0], p[:, 1])
    round_way = np.column_stack([p[:, 0], p[:, 1], np.zeros(len(p))]) / np.maximum(r, 1e-12)[:, None]
    round_way[r < 1e-12] = (1.0, 0.0, 0.0)
    end_way = np.zeros_like(p)
    end_way[:, 2] = np.where(p[:, 2] < 0, -1.0, 1.0)
    a, b = r - radius, np.abs(p[:, 2]) - half
    ua, ub = np.maximum(a, 0.0), np.maximum(b, 0.0)
    away = np.hypot(ua, ub)
    out = away > 1e-9
    way = np.where((a > b)[:, None], round_way, end_way)
    way[out] = (ua[:, None] * round_way + ub[:, None] * end_way)[out] / away[out, None]
    return np.where(out, away, np.maximum(a, b)), way


def _from_hull(p: Array, part: ConvexPart) -> tuple[Array, Array]:
    corners, normals, offsets = part.planes
    over = p @ normals.T - offsets
    face = over.argmax(1)
    d = over[np.arange(len(p)), face]
    way = normals[face]
    out = np.nonzero(d > 1e-9)[0]
    if len(out):
        n, m = len(out), len(corners)
        on = closest_on_triangles(np.repeat(p[out], m, axis=0), np.tile(corners, (n, 1, 1))).reshape(n, m, 3)
        off = p[out][:, None] - on
        size = np.sqrt((off**2).sum(2))
        k = size.argmin(1)
        d[out] = size[np.arange(n), k]
        way[out] = off[np.arange(n), k] / np.maximum(d[out], 1e-12)[:, None]
    return d, way


def facing_corners(part: ConvexPart, way: Array, within: float, most: int = 4) -> Array:
    """Corners (k, 3) of a box or hull that reach farthest along ``way`` (3,), within ``within`` mm of the
    farthest; owner's frame. A bar has none but those of an end that looks that way: four points of its
    rim."""
    local = way @ part.pose.rotation
    if part.kind == "bar":
        size = float(np.hypot(local[0], local[1]))
        if size > 0.5:
            return np.zeros((0, 3))
        along = np.array([local[0], local[1], 0.0]) / size if size > 1e-6 else np.array([1.0, 0.0, 0.0])
        other = np.array([-along[1], along[0], 0.0])
        end = np.array([0, 0, part.size[1] / 2 if local[2] > 0 else -part.size[1] / 2])
        return part.pose.points(end + part.size[0] * np.array([along, -along, other, -other]))
    found = part.local[0]
    reach = found @ local
    order = np.argsort(-reach)[:most]
    found = found[order[reach[order] > reach.max() - within]]
    return part.pose.points(found)


def crossing_points(
    a: ConvexPart, b: ConvexPart, pose: Pose, way: Array, within: float
) -> tuple[Array, Array]:
    """Where facing edges of two boxes or hulls cross, seen along ``way`` (from b to a): points (k, 3) on
    edges of ``a``, which stands at ``pose``, and the points (k, 3) on edges of b; outer frame."""
    va, vb = pose.points(a.triangles[0]), b.triangles[0]
    reach_a, reach_b = va @ way, vb @ way
    edges_a = a.ridges[(reach_a < reach_a.min() + within)[a.ridges].all(1)]
    edges_b = b.ridges[(reach_b > reach_b.max() - within)[b.ridges].all(1)]
    if not len(edges_a) or not len(edges_b):
        return np.zeros((0, 3)), np.zeros((0, 3))
    start_a, start_b = va[edges_a[:, 0]], vb[edges_b[:, 0]]
    along_a, along_b = va[edges_a[:, 1]] - start_a, vb[edges_b[:, 1]] - start_b
    (px, py), (rx, ry) = _flat(start_a, way), _flat(along_a, way)
    (ux, uy), (sx, sy) = _flat(start_b, way), _flat(along_b, way)
    px, py, rx, ry = px[:, None], py[:, None], rx[:, None], ry[:, None]
    cross = rx * sy - ry * sx
    size = np.where(np.abs(cross) > 1e-9, cross, np.inf)
    t = ((ux - px) * sy - (uy - py) * sx) / size
    w = ((ux - px) * ry - (uy - py) * rx) / size
    i, j = np.nonzero((size < np.inf) & (t >= 0) & (t <= 1) & (w >= 0) & (w <= 1))
    return start_a[i] + t[i, j][:, None] * along_a[i], start_b[j] + w[i, j][:, None] * along_b[j]


def _flat(v: Array, way: Array) -> tuple[Array, Array]:
    """Vectors (n, 3) seen along a direction (3,): two coordinates (n,) each."""
    x, y, z = way.tolist()
    if abs(z) < 0.8:
        size = (x * x + y * y) ** 0.5
        u = (-y / size, x / size, 0.0)
    else:
        size = (y * y + z * z) ** 0.5
        u = (0.0, -z / size, y / size)
    return v @ np.array(u), v @ np.array((y * u[2] - z * u[1], z * u[0] - x * u[2], x * u[1] - y * u[0]))


def surface_points(part: ConvexPart, spacing: float) -> Array:
    """Points (n, 3) spread over a convex part's surface about ``spacing`` mm apart, corners included;
    owner's frame."""
    v, t = part.triangles
    c = v[t]
    out = [v]
    longest = np.sqrt(((c - np.roll(c, 1, axis=1)) ** 2).sum(2).max(1))
    for k in np.unique(np.clip(np.ceil(longest / spacing), 1, 60).astype(int)):
        rows = c[np.clip(np.ceil(longest / spacing), 1, 60).astype(int) == k]
        if k == 1:
            continue
        i, j = (g.ravel() for g in np.meshgrid(np.arange(k + 1), np.arange(k + 1), indexing="ij"))
        keep = i + j <= k
        a, b = i[keep] / k, j[keep] / k
        out.append(
            (
                rows[:, None, 0]
                + a[None, :, None] * (rows[:, 1] - rows[:, 0])[:, None]
                + b[None, :, None] * (rows[:, 2] - rows[:, 0])[:, None]
            ).reshape(-1, 3)
        )
    points = np.vstack(out)
    cells = np.unique(np.round(points / (spacing * 0.7)).astype(np.int64), axis=0, return_index=True)[1]
    return points[np.sort(cells)]
