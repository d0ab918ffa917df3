"""Signed distance from points to one solid part, and the points of a part that face a direction."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.reaches import BAR, BOX, HULL, Reaches
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.geometry.surface import closest_on_triangles


def from_parts(reaches: Reaches, which: np.ndarray, points: Array) -> tuple[Array, Array]:
    """Signed distance (n,) of each point (n, 3) to a convex part (n,) of its own (inside: negative, to the
    nearest face) and the unit direction (n, 3) in which it leaves that part. Points and directions in the
    set's own frame; exact for boxes, round bars and hulls."""
    d, way = np.zeros(len(points)), np.zeros((len(points), 3))
    kinds = reaches.kinds[which]
    turns, half = reaches.turns[which], reaches.spread[which]
    local = np.einsum("nx,nxj->nj", points - reaches.middles[which], turns)
    rows = np.nonzero(kinds == BOX)[0]
    if len(rows):
        d[rows], way[rows] = _from_box(local[rows], half[rows])
    rows = np.nonzero(kinds == BAR)[0]
    if len(rows):
        d[rows], way[rows] = _from_bar(local[rows], half[rows, 0], half[rows, 2])
    way = np.einsum("nxj,nj->nx", turns, way)
    rows = np.nonzero(kinds == HULL)[0]
    if len(rows):
        d[rows], way[rows] = _from_hulls(reaches, which[rows], points[rows])
    return d, way


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


def _from_bar(p: Array, radius: Array, half: Array) -> tuple[Array, Array]:
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


def _from_hulls(reaches: Reaches, which: np.ndarray, points: Array) -> tuple[Array, Array]:
    """The nearest point of a hull lies on a face that looks at the point: of those that lie outside, all of
    their faces are asked at once."""
    d, way = np.zeros(len(points)), np.zeros((len(points), 3))
    asked: list[tuple[np.ndarray, Array]] = []
    for k in np.unique(which).tolist():
        part = reaches.parts[k]
        assert isinstance(part, ConvexPart)
        rows = np.nonzero(which == k)[0]
        corners, normals, offsets = part.faces
        over = points[rows] @ normals.T - offsets
        face = over.argmax(1)
        d[rows], way[rows] = over[np.arange(len(rows)), face], normals[face]
        point, seen = np.nonzero((over > 0) & (d[rows] > 1e-9)[:, None])
        asked.append((rows[point], corners[seen]))
    of, corners = np.concatenate([rows for rows, _ in asked]), np.concatenate([c for _, c in asked])
    if len(of):
        off = points[of] - closest_on_triangles(points[of], corners)
        size = np.sqrt((off**2).sum(1))
        order = np.lexsort((size, of))
        first = order[np.append(True, of[order][1:] != of[order][:-1])]
        d[of[first]] = size[first]
        way[of[first]] = off[first] / np.maximum(size[first], 1e-12)[:, None]
    return d, way


MOST_CORNERS = 4
"""So many corners of a part are told at most."""
_SIGNS = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)], dtype=float)


def facing_corners(reaches: Reaches, which: np.ndarray, ways: Array, within: float) -> tuple[Array, Array]:
    """Corners (k, MOST_CORNERS, 3) of boxes and hulls (k,) that reach farthest along their direction
    (k, 3), within ``within`` mm of the farthest, and which there are (k, MOST_CORNERS); the set's own frame.
    A bar has none but those of an end that looks that way: four points of its rim."""
    out = np.zeros((len(which), MOST_CORNERS, 3))
    there = np.zeros((len(which), MOST_CORNERS), dtype=bool)
    local = np.einsum("kx,kxj->kj", ways, reaches.turns[which])
    half, kinds = reaches.spread[which], reaches.kinds[which]
    rows = np.nonzero(kinds == BAR)[0]
    flat = np.hypot(local[rows, 0], local[rows, 1])
    rows, flat = rows[flat <= 0.5], flat[flat <= 0.5]
    if len(rows):
        along = np.where(
            flat[:, None] > 1e-6, local[rows, :2] / np.maximum(flat, 1e-6)[:, None], np.array([1.0, 0.0])
        )
        across = np.column_stack([-along[:, 1], along[:, 0]])
        radius, end = half[rows, :1], np.copysign(half[rows, 2], local[rows, 2])
        for k, way in enumerate((along, -along, across, -across)):
            out[rows, k] = np.column_stack([radius * way, end])
        there[rows] = True
    rows = np.nonzero(kinds == BOX)[0]
    if len(rows):
        corners = _SIGNS * half[rows, None]
        reach = np.einsum("kcj,kj->kc", corners, local[rows])
        first = np.argsort(-reach, axis=1, kind="stable")[:, :MOST_CORNERS]
        out[rows] = np.take_along_axis(corners, first[:, :, None], axis=1)
        least = reach.max(1, keepdims=True) - within
        there[rows] = np.take_along_axis(reach, first, axis=1) > least
    out = reaches.middles[which][:, None] + np.einsum("kxj,kcj->kcx", reaches.turns[which], out)
    for k in np.nonzero(kinds == HULL)[0].tolist():
        found = reaches.parts[which[k]].triangles[0]
        along = found @ ways[k]
        first = np.argsort(-along, kind="stable")[:MOST_CORNERS]
        out[k, : len(first)] = found[first]
        there[k, : len(first)] = along[first] > along.max() - within
    return out, there


def slice_points(
    reaches: Reaches, which: np.ndarray, ways: Array, low: Array, high: Array
) -> tuple[Array, Array]:
    """Where a bar (k,) is beside something at both ends of the stretch low..high (k,) along its axis: points
    (k, 2, 3) of its surface that look along a direction (k, 3), and which there are (k, 2); the set's own
    frame. None where the bar's end looks that way."""
    turns, half, middles = reaches.turns[which], reaches.spread[which], reaches.middles[which]
    axis = turns[:, :, 2]
    at = np.einsum("kx,kx->k", middles, axis)
    stations = np.clip(np.column_stack([low - at, high - at]), -half[:, 2:], half[:, 2:])
    aside = ways - np.einsum("kx,kx->k", ways, axis)[:, None] * axis
    size = np.sqrt((aside**2).sum(1))
    surface = middles + half[:, :1] * aside / np.maximum(size, 1e-9)[:, None]
    there = np.column_stack([size > 0.5, (size > 0.5) & (stations[:, 1] - stations[:, 0] > 1.0)])
    return surface[:, None] + stations[:, :, None] * axis[:, None], there


def crossing_points(
    a: tuple[Array, np.ndarray], b: tuple[Array, np.ndarray], way: Array, within: float
) -> tuple[Array, Array]:
    """Where facing edges of two boxes or hulls cross, seen along ``way`` (from b to a): points (k, 3) on
    edges of ``a`` and the points (k, 3) on edges of b. a, b: vertices (n, 3) and their edges (e, 2); all in
    one frame."""
    va, vb = a[0], b[0]
    reach_a, reach_b = va @ way, vb @ way
    edges_a = a[1][(reach_a < reach_a.min() + within)[a[1]].all(1)]
    edges_b = b[1][(reach_b > reach_b.max() - within)[b[1]].all(1)]
    if not len(edges_a) or not len(edges_b):
        return np.zeros((0, 3)), np.zeros((0, 3))
    across = _flat(way)
    start_a, start_b = va[edges_a[:, 0]], vb[edges_b[:, 0]]
    along_a, along_b = va[edges_a[:, 1]] - start_a, vb[edges_b[:, 1]] - start_b
    px, py, rx, ry = (column[:, None] for v in (start_a, along_a) for column in (v @ across).T)
    ux, uy, sx, sy = (column for v in (start_b, along_b) for column in (v @ across).T)
    cross = rx * sy - ry * sx
    size = np.where(np.abs(cross) > 1e-9, cross, np.inf)
    t = ((ux - px) * sy - (uy - py) * sx) / size
    w = ((ux - px) * ry - (uy - py) * rx) / size
    i, j = np.nonzero((size < np.inf) & (t >= 0) & (t <= 1) & (w >= 0) & (w <= 1))
    return start_a[i] + t[i, j][:, None] * along_a[i], start_b[j] + w[i, j][:, None] * along_b[j]


def _flat(way: Array) -> Array:
    """Two directions (3, 2), in columns, square to a direction (3,) and to one another."""
    x, y, z = way.tolist()
    if abs(z) < 0.8:
        size = (x * x + y * y) ** 0.5
        u = (-y / size, x / size, 0.0)
    else:
        size = (y * y + z * z) ** 0.5
        u = (0.0, -z / size, y / size)
    return np.array([u, (y * u[2] - z * u[1], z * u[0] - x * u[2], x * u[1] - y * u[0])]).T


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
