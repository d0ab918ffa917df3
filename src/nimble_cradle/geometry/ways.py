"""The ways out of an overlap: how far one body travels straight along each axis until it is clear of another.

Two convex parts overlap over one stretch of such a travel, found from their separating axes (exact for
boxes and hulls; a round bar is seen as a prism of 40 sides that holds it). A point of a surface is in a
convex part over one stretch too. The travel ends where the stretches do; where there is a surface it is
then looked at whether the two are clear there, and gone on from there if not (triangles may be in the way
between their corners).
"""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import clearance
from nimble_cradle.geometry.overlap import SIX, candidate_axes
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart, MeshPart

FINE = 0.02
"""How closely a way out of an overlap is found, mm."""
_TINY = 1e-9
"""A slower approach than this, mm a mm, is none."""
_Stretch = tuple[Array, Array]
"""Where n things begin and cease to overlap on a travel, mm (n,) each."""


def ways_out(moving: Bodies, pose: Pose, fixed: Bodies, a: int, b: int, most: float = 200.0) -> Array:
    """(6,) mm: how far body ``a`` of the moving set, standing at ``pose``, travels along each of SIX until
    it is clear of body ``b``; nought where it is clear already, inf where ``most`` is not enough."""
    ca, ha = moving.boxes(pose)
    cb, hb = fixed.boxes(Pose.still())
    stretches: list[list[_Stretch]] = [[] for _ in range(6)]
    surfaces_too = False
    for i in np.nonzero(moving.owner == a)[0].tolist():
        p, surfaces = moving.parts[i], []
        for j in np.nonzero(fixed.owner == b)[0].tolist():
            q = fixed.parts[j]
            if not any(_in_the_way(cb[j] - ca[i], ha[i] + hb[j], way, most) for way in SIX):
                continue
            if isinstance(p, ConvexPart) and isinstance(q, ConvexPart):
                normals, depth = candidate_axes(p, q, pose)
                _add(stretches, [_slab(depth[None], normals, way) for way in SIX])
            elif isinstance(p, ConvexPart) and isinstance(q, MeshPart) and not q.closed:
                surfaces.append(q.vertices)
            elif isinstance(q, ConvexPart) and isinstance(p, MeshPart) and not p.closed:
                _add(stretches, _through(q, pose.points(p.vertices), Pose.still(), -SIX, most))
            else:
                surfaces_too = True
        surfaces_too |= bool(surfaces) or isinstance(p, MeshPart)
        if surfaces and isinstance(p, ConvexPart):
            _add(stretches, _through(p, np.vstack(surfaces), pose, SIX, most))
    found = np.array([_end(known) for known in stretches])
    if surfaces_too:
        touches = _Touches(moving, pose, fixed, a, b)
        found = np.array(
            [touches.clear_from(t, way, most) if t <= most else t for t, way in zip(found, SIX, strict=True)]
        )
    return np.where(found > most, np.inf, found)


def _add(stretches: list[list[_Stretch]], some: list[_Stretch]) -> None:
    for known, one in zip(stretches, some, strict=True):
        known.append(one)


def _end(stretches: list[_Stretch]) -> float:
    """Where the first run of stretches that join, from nought on, ends."""
    if not stretches:
        return 0.0
    enter, leave = (np.concatenate([s[side] for s in stretches]) for side in (0, 1))
    order = np.argsort(enter)
    reached = np.maximum.accumulate(np.concatenate([[0.0], leave[order]]))
    breaks = np.nonzero(enter[order] > reached[:-1] + FINE)[0]
    return float(reached[breaks[0]] if len(breaks) else reached[-1])


class _Touches:
    """Whether two bodies touch where surfaces alone can tell."""

    def __init__(self, moving: Bodies, pose: Pose, fixed: Bodies, a: int, b: int) -> None:
        self.one = Bodies([[part for part, o in zip(moving.parts, moving.owner, strict=True) if o == a]])
        self.other = Bodies([[part for part, o in zip(fixed.parts, fixed.owner, strict=True) if o == b]])
        self.pose = pose

    def at(self, way: Array, t: float) -> bool:
        """Whether they touch after a travel."""
        return (
            clearance(self.one, Pose(self.pose.rotation, self.pose.translation + t * way), self.other, 0.001)[
                0
            ]
            <= 1e-6
        )

    def clear_from(self, t: float, way: Array, most: float) -> float:
        """``t`` where they are clear there, to FINE; else the first travel from there on, found by
        doubling, at which they are."""
        if not self.at(way, t + FINE):
            return t
        low, step = t, 2 * FINE
        while self.at(way, t + step):
            low, step = t + step, 2 * step
            if low > most:
                return np.inf
        high = t + step
        while high - low > FINE:
            middle = (low + high) / 2
            low, high = (middle, high) if self.at(way, middle) else (low, middle)
        return high


def _in_the_way(off: Array, reach: Array, way: Array, most: float) -> bool:
    """Whether a box ``off`` away meets one that travels ``most`` along an axis; reach: their half sizes
    together."""
    axis = int(np.abs(way).argmax())
    ahead = off[axis] * way[axis]
    return bool(
        -reach[axis] < ahead < reach[axis] + most
        and all(abs(off[i]) < reach[i] for i in range(3) if i != axis)
    )


def _through(part: ConvexPart, points: Array, pose: Pose, ways: Array, most: float) -> list[_Stretch]:
    """Where on the part's travel along each of ``ways`` points of a surface are in it."""
    at = pose @ part.pose
    normals, offsets = part.sides
    turned = normals @ at.rotation.T
    centre, half = at.points(part.box[0]), np.abs(at.rotation) @ part.box[1]
    points = points[(np.abs(points - centre) < half + most).all(1)]
    off = points - centre
    beside = np.abs(off) < half
    found = []
    for way in ways:
        axis = int(np.abs(way).argmax())
        ahead = off[:, axis] * way[axis]
        near = (
            beside[:, (axis + 1) % 3]
            & beside[:, (axis + 2) % 3]
            & (ahead > -half[axis])
            & (ahead < half[axis] + most)
        )
        found.append(_slab(offsets - (points[near] - at.translation) @ turned.T, turned, -way))
    return found


def _slab(depth: Array, normals: Array, way: Array) -> _Stretch:
    """depth (n, k): how far n things are inside k half-spaces; a travel t along ``way`` changes it by -t
    (way . normal). Where all are over nought and t >= 0."""
    rate = normals @ way
    with np.errstate(divide="ignore", invalid="ignore"):
        t = depth / rate
    leave = np.where(rate > _TINY, t, np.inf).min(1)
    enter = np.where(rate < -_TINY, t, -np.inf).max(1)
    keep = (leave > np.maximum(enter, 0.0)) & ~((np.abs(rate) <= _TINY) & (depth <= 0)).any(1)
    return enter[keep], leave[keep]
