"""Outlines cut into convex ones."""

from __future__ import annotations

import heapq
from typing import Any

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import Corner, ShapeError


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


def _ring(part: Any) -> dict[Corner, tuple[Corner, Corner]]:
    """Each corner of a polygon with those before and after it, anticlockwise."""
    ring = list(part.exterior.coords)[:-1]
    if not part.exterior.is_ccw:
        ring.reverse()
    return {p: (ring[k - 1], ring[(k + 1) % len(ring)]) for k, p in enumerate(ring)}


def _bent_in(one: dict[Corner, tuple[Corner, Corner]], two: dict[Corner, tuple[Corner, Corner]]) -> float:
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
