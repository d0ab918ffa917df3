"""Where a flat sheet comes too near to a solid: for a convex part that region is convex, so its border is
found exactly, ray by ray from within."""

from __future__ import annotations

import numpy as np
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from nimble_cradle.geometry.clip import clipped
from nimble_cradle.geometry.point_distance import point_distances
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ConvexPart, SolidPart

RAYS = 48
"""Rays that are shot first; more are shot where the border is round."""
CLOSE = 0.02
"""A border's chord lies within so many mm of it."""
LAYER = 1.5
"""The sheet is looked at in layers so many mm apart at most."""
FAR = 4000.0
"""No border is farther from within than so many mm."""


def layers(thick: float) -> Array:
    """Heights of the layers of a sheet about its middle, mm."""
    return np.linspace(-thick / 2, thick / 2, max(2, int(np.ceil(thick / LAYER)) + 1))


def near_region(part: SolidPart, thick: float, within: float) -> BaseGeometry | None:
    """Where a sheet in the plane z = 0 (its middle; thick mm) is nearer than ``within`` mm to a part, in x
    and y; None where nowhere. The part stands in the sheet's frame. A mesh gives the regions of its
    triangles."""
    if isinstance(part, ConvexPart):
        return _convex(part, thick, within)
    from shapely import union_all

    v, t = part.triangles
    corners = v[t]
    near = (np.abs(corners[:, :, 2]).min(1) < within + thick / 2) | (
        (corners[:, :, 2].min(1) < 0) & (corners[:, :, 2].max(1) > 0)
    )
    found = [_convex(_Triangle(c), thick, within) for c in corners[near]]
    rows = [region for region in found if region is not None]
    return union_all(rows) if rows else None


class _Triangle:
    """A triangle as something that distances are measured to."""

    def __init__(self, corners: Array) -> None:
        self.triangles = corners, np.array([[0, 1, 2]])


def _convex(part: ConvexPart | _Triangle, thick: float, within: float) -> Polygon | None:
    v = part.triangles[0]
    z = layers(thick)
    if v[:, 2].min() >= thick / 2:  # all of it on one side: the sheet's near face is nearest everywhere
        z = z[-1:]
    elif v[:, 2].max() <= -thick / 2:
        z = z[:1]

    def far(xy: Array) -> Array:
        """How far beyond ``within`` the sheet is there, mm."""
        points = np.column_stack([np.repeat(xy, len(z), axis=0), np.tile(z, len(xy))])
        return np.asarray(point_distances(part, points).reshape(-1, len(z)).min(1) - within)  # type: ignore[arg-type]

    if v[:, 2].min() > within + thick / 2 or v[:, 2].max() < -within - thick / 2:
        return None
    start = _within(part, thick, far)
    if start is None:
        return None
    angles = np.linspace(0.0, 2 * np.pi, RAYS, endpoint=False)
    reach = _shot(far, start, angles)
    for _ in range(6):
        points = start + reach[:, None] * np.column_stack([np.cos(angles), np.sin(angles)])
        after = np.roll(points, -1, axis=0)
        off = far((points + after) / 2) < -CLOSE
        if not off.any() or len(angles) > 2000:
            break
        nexts = np.roll(angles, -1)
        nexts[-1] += 2 * np.pi
        more = (angles[off] + nexts[off]) / 2
        angles = np.concatenate([angles, more])
        reach = np.concatenate([reach, _shot(far, start, more)])
        order = np.argsort(angles)
        angles, reach = angles[order], reach[order]
    points = start + reach[:, None] * np.column_stack([np.cos(angles), np.sin(angles)])
    region = Polygon(points)
    return region if region.is_valid and region.area > 1e-6 else None


def _within(part: ConvexPart | _Triangle, thick: float, far: object) -> Array | None:
    """A place where the sheet is too near; None where there is none."""
    assert callable(far)
    v = part.triangles[0]
    tries = [v[:, :2].mean(0), *v[np.argsort(np.abs(v[:, 2]))[:8], :2]]
    if isinstance(part, ConvexPart):
        inside: SolidPart | None = part
        for sign in (1.0, -1.0):
            inside = None if inside is None else clipped(inside, np.array([0.0, 0.0, sign]), thick / 2)
        if inside is not None:
            tries.insert(0, inside.triangles[0][:, :2].mean(0))
    best = np.asarray(tries)[int(np.argmin(far(np.asarray(tries))))]
    step = 0.5 * float(np.ptp(v[:, :2], axis=0).max()) + 1.0
    ways = np.array([[1, 0], [-1, 0], [0, 1], [0, -1], [0.7, 0.7], [-0.7, 0.7], [0.7, -0.7], [-0.7, -0.7]])
    low = float(far(best[None])[0])
    # downhill on a convex function: from the deepest of some places, by ever shorter steps
    while step > 0.01:
        around = best + step * ways
        values = far(around)
        k = int(np.argmin(values))
        if values[k] < low - 1e-9:
            best, low = around[k], float(values[k])
        else:
            step /= 2
    return best if low < -1e-6 else None


def _shot(far: object, start: Array, angles: Array) -> Array:
    """How far along rays the region's border is, mm: false position with its dead end halved (Illinois),
    which a convex function suits."""
    assert callable(far)
    way = np.column_stack([np.cos(angles), np.sin(angles)])

    def at(r: Array) -> Array:
        return np.asarray(far(start + r[:, None] * way))

    low, high = np.zeros(len(angles)), np.ones(len(angles))
    f_low = np.full(len(angles), float(at(low[:1])[0]))
    f_high = at(high)
    for _ in range(14):
        if (f_high > 0).all():
            break
        inside = f_high <= 0
        low, f_low = np.where(inside, high, low), np.where(inside, f_high, f_low)
        high = np.where(inside, np.minimum(4 * high, FAR), high)
        f_high = at(high)
    kept = np.zeros(len(angles))
    middle = high
    for _ in range(60):
        slope = np.maximum(f_high - f_low, 1e-12)
        middle = np.clip(high - f_high * (high - low) / slope, low, high)
        f = at(middle)
        out = f > 0
        f_low = np.where(out, np.where(kept > 0, f_low / 2, f_low), f)
        f_high = np.where(out, f, np.where(kept < 0, f_high / 2, f_high))
        low, high = np.where(out, low, middle), np.where(out, middle, high)
        kept = np.where(out, 1.0, -1.0)
        if float(np.minimum(np.abs(f), high - low).max()) < 1e-4:
            break
    return middle
