"""Where straight lines first meet solids."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.geometry.solids import SolidPart

GRAZE = 1e-9
"""A triangle whose normal is as square to a line as this is not met by it."""


class Hits(NamedTuple):
    """How far along each line solids are met first and left last, mm; inf and -inf where they are not."""

    first: Array
    last: Array


def hits(parts: Sequence[SolidPart], starts: Array, way: Array) -> Hits:
    """Where parallel lines from ``starts`` (n, 3) along the unit vector ``way`` (3,) meet the surfaces of
    solids, ahead of their starts. Watertight by the crossing test of the projected triangle."""
    first, last = np.full(len(starts), np.inf), np.full(len(starts), -np.inf)
    axes = _across(way)
    flat = starts @ axes
    low, high = flat.min(0) - 1e-6, flat.max(0) + 1e-6
    for part in parts:
        vertices, triangles = part.triangles
        corners = (vertices @ axes)[triangles]
        near = ((corners.max(1) >= low) & (corners.min(1) <= high)).all(1)
        if not near.any():
            continue
        corners, deep = corners[near], (vertices @ way)[triangles[near]]
        far = _depth(corners, deep, flat) - (starts @ way)[:, None]
        far = np.where(far >= 0, far, np.nan)
        with np.errstate(invalid="ignore"):
            first = np.fmin(first, np.where(np.isnan(far), np.inf, far).min(1))
            last = np.fmax(last, np.where(np.isnan(far), -np.inf, far).max(1))
    return Hits(first, last)


def _across(way: Array) -> Array:
    """(3, 2) two unit vectors square to a way and to one another."""
    other = np.eye(3)[int(np.abs(way).argmin())]
    u = crosses(way, other)
    u /= np.linalg.norm(u)
    return np.column_stack([u, crosses(way, u)])


def _depth(corners: Array, deep: Array, points: Array) -> Array:
    """(n, m) depth of triangles (m, 3, 2) with depths (m, 3) under points (n, 2); nan where a point is not on
    one."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    whole = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    size = np.abs(corners).max() ** 2 + 1.0
    flat = np.abs(whole) < GRAZE * size
    whole = np.where(flat, 1.0, whole)
    p = points[:, None, :]

    def share(q: Array, r: Array) -> Array:
        part = (r[:, 0] - q[:, 0]) * (p[..., 1] - q[:, 1]) - (r[:, 1] - q[:, 1]) * (p[..., 0] - q[:, 0])
        return np.asarray(part / whole)

    wa, wb, wc = share(b, c), share(c, a), share(a, b)
    within = (np.minimum(np.minimum(wa, wb), wc) >= -1e-9) & ~flat
    return np.where(within, wa * deep[:, 0] + wb * deep[:, 1] + wc * deep[:, 2], np.nan)
