"""Signed distance from points to one solid part, and the points of a part that face a direction."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose, frame
from nimble_cradle.geometry.scan import closest_on_triangles
from nimble_cradle.geometry.solids import ConvexPart


def from_part(part: ConvexPart, points: Array) -> tuple[Array, Array]:
    """Signed distance (n,) of points (n, 3) to a convex part (inside: negative, to the nearest face) and the unit direction (n, 3) in
    which each leaves the part. Points and directions in the owner's frame; exact for boxes, round bars and hulls."""
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
    v, t = part.local
    corners = v[t]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.sqrt((normals**2).sum(1))[:, None]
    over = p @ normals.T - (normals * corners[:, 0]).sum(1)
    face = over.argmax(1)
    d = over[np.arange(len(p)), face]
    way = normals[face]
    out = np.nonzero(d > 1e-9)[0]
    if len(out):
        n, m = len(out), len(t)
        on = closest_on_triangles(np.repeat(p[out], m, axis=0), np.tile(corners, (n, 1, 1))).reshape(n, m, 3)
        off = p[out][:, None] - on
        size = np.sqrt((off**2).sum(2))
        k = size.argmin(1)
        d[out] = size[np.arange(n), k]
        way[out] = off[np.arange(n), k] / np.maximum(d[out], 1e-12)[:, None]
    return d, way


def facing_corners(part: ConvexPart, way: Array, within: float, most: int = 4) -> Array:
    """Corners (k, 3) of a box or hull that reach farthest along ``way`` (3,), within ``within`` mm of the farthest; owner's frame. A bar has
    none but those of an end that looks that way: four points of its rim."""
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


def crossing_points(a: ConvexPart, b: ConvexPart, pose: Pose, way: Array, within: float) -> tuple[Array, Array]:
    """Where facing edges of two boxes or hulls cross, seen along ``way`` (from b to a): points (k, 3) on edges of ``a``, which stands at
    ``pose``, and points (m, 3) on edges of b; outer frame."""
    va, vb = pose.points(a.triangles[0]), b.triangles[0]
    faces_a, faces_b = va @ way < (va @ way).min() + within, vb @ way > (vb @ way).max() - within
    plane = frame(way, (0.31, 0.87, 0.39))[:, :2]
    ring_a, ring_b = _ring(va[faces_a] @ plane), _ring(vb[faces_b] @ plane)
    return _crossed_edges(va, a.ridges[faces_a[a.ridges].all(1)], plane, ring_b), _crossed_edges(vb, b.ridges[faces_b[b.ridges].all(1)], plane, ring_a)


def _ring(p: Array) -> Array:
    """Convex hull (k, 2) of points in a plane, in order (two points: a line there and back)."""
    points = sorted({(round(float(x), 6), round(float(y), 6)) for x, y in p})

    def chain(rows: list[tuple[float, float]]) -> list[tuple[float, float]]:
        out: list[tuple[float, float]] = []
        for q in rows:
            while len(out) > 1 and (out[-1][0] - out[-2][0]) * (q[1] - out[-2][1]) - (out[-1][1] - out[-2][1]) * (q[0] - out[-2][0]) <= 0:
                out.pop()
            out.append(q)
        return out[:-1]

    return np.array(chain(points) + chain(points[::-1])).reshape(-1, 2)


def _crossed_edges(vertices: Array, edges: np.ndarray, plane: Array, ring: Array) -> Array:
    """Points (k, 3) on edges where they cross a ring (r, 2), both seen in a plane."""
    if not len(edges) or len(ring) < 2:
        return np.zeros((0, 3))
    start, end = vertices[edges[:, 0]], vertices[edges[:, 1]]
    p, r = (start @ plane)[:, None], ((end - start) @ plane)[:, None]
    u, s = ring[None], (np.roll(ring, -1, axis=0) - ring)[None]
    cross = r[..., 0] * s[..., 1] - r[..., 1] * s[..., 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = ((u - p)[..., 0] * s[..., 1] - (u - p)[..., 1] * s[..., 0]) / cross
        w = ((u - p)[..., 0] * r[..., 1] - (u - p)[..., 1] * r[..., 0]) / cross
        edge, _ = hit = np.nonzero((np.abs(cross) > 1e-9) & (t >= 0) & (t <= 1) & (w >= 0) & (w <= 1))
    return np.asarray(start[edge] + t[hit][:, None] * (end - start)[edge])


def surface_points(part: ConvexPart, spacing: float) -> Array:
    """Points (n, 3) spread over a convex part's surface about ``spacing`` mm apart, corners included; owner's frame."""
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
        out.append((rows[:, None, 0] + a[None, :, None] * (rows[:, 1] - rows[:, 0])[:, None] + b[None, :, None] * (rows[:, 2] - rows[:, 0])[:, None]).reshape(-1, 3))
    points = np.vstack(out)
    cells = np.unique(np.round(points / (spacing * 0.7)).astype(np.int64), axis=0, return_index=True)[1]
    return points[np.sort(cells)]
