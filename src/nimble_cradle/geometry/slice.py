"""Outlines of solids where a plane cuts them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, SolidPart


@dataclass(frozen=True, eq=False)
class Plane:
    """A plane through ``origin`` (3,) with columns u, v, n of ``axes`` (3, 3): u to the right and v up on
    paper, n towards the eye."""

    origin: Array
    axes: Array

    def flat(self, points: Array) -> Array:
        """Points (n, 3) as (n, 2) on paper."""
        return np.asarray((points - self.origin) @ self.axes[:, :2])

    def height(self, points: Array) -> Array:
        """Distance (n,) of points over the plane, towards the eye."""
        return np.asarray((points - self.origin) @ self.axes[:, 2])


@dataclass(frozen=True, eq=False)
class Outline:
    """A line on paper, (n, 2) mm. closed: a solid's outline."""

    points: Array
    closed: bool


def cut(part: SolidPart, pose: Pose, plane: Plane) -> list[Outline]:
    """Outlines of a part, standing at ``pose``, in a plane. A convex part gives one closed outline or
    none; a mesh the lines where its triangles meet the plane, joined."""
    if isinstance(part, ConvexPart) and part.kind == "bar":
        return _of_bar(part, pose, plane)
    vertices, triangles = part.triangles
    at = pose.points(vertices)
    h = plane.height(at)
    if isinstance(part, MeshPart):
        return _of_mesh(at, triangles, h, plane)
    if h.min() >= 0 or h.max() <= 0:
        return []
    edges = np.unique(
        np.sort(np.vstack([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1), axis=0
    )
    return _hulled(_crossings(at, h, edges), plane)


def _crossings(at: Array, h: Array, edges: np.ndarray) -> Array:
    """Where edges (k, 2) meet the plane, (m, 3)."""
    a, b = edges[:, 0], edges[:, 1]
    across = (h[a] < 0) != (h[b] < 0)
    a, b = a[across], b[across]
    t = h[a] / (h[a] - h[b])
    return np.asarray(at[a] + t[:, None] * (at[b] - at[a]))


def _hulled(points: Array, plane: Plane) -> list[Outline]:
    from scipy.spatial import ConvexHull, QhullError

    flat = plane.flat(points)
    if len(flat) < 3:
        return []
    try:
        return [Outline(flat[ConvexHull(flat).vertices], True)]
    except QhullError:
        return []


def _of_bar(part: ConvexPart, pose: Pose, plane: Plane, sides: int = 180) -> list[Outline]:
    """The outline of a true cylinder: its straight lines met by the plane, and its end discs' chords."""
    radius, length = part.size[0], part.size[1]
    at = pose @ part.pose
    angle = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    ring = radius * np.column_stack([np.cos(angle), np.sin(angle), np.zeros(sides)])
    ends = [at.points(ring + (0, 0, z)) for z in (-length / 2, length / 2)]
    points = np.vstack(ends)
    h = plane.height(points)
    if h.min() >= 0 or h.max() <= 0:
        return []
    k = np.arange(sides)
    edges = np.vstack(
        [
            np.column_stack([k, k + sides]),
            np.column_stack([k, (k + 1) % sides]),
            np.column_stack([k + sides, (k + 1) % sides + sides]),
        ]
    )
    return _hulled(_crossings(points, h, edges), plane)


def _of_mesh(at: Array, triangles: np.ndarray, h: Array, plane: Plane) -> list[Outline]:
    """Segments of crossed triangles joined end to end by the mesh's own edges."""
    over = h >= 0
    crossed = triangles[(over[triangles].any(1)) & ~(over[triangles].all(1))]
    ends: dict[tuple[int, int], list[tuple[int, int]]] = {}
    where: dict[tuple[int, int], Array] = {}
    for tri in crossed.tolist():
        pair = []
        for i, j in ((tri[0], tri[1]), (tri[1], tri[2]), (tri[2], tri[0])):
            if over[i] != over[j]:
                key = (i, j) if i < j else (j, i)
                pair.append(key)
                if key not in where:
                    t = h[key[0]] / (h[key[0]] - h[key[1]])
                    where[key] = at[key[0]] + t * (at[key[1]] - at[key[0]])
        ends.setdefault(pair[0], []).append(pair[1])
        ends.setdefault(pair[1], []).append(pair[0])
    out = []
    left = set(ends)
    while left:
        start = next((k for k in left if len(ends[k]) == 1), None)
        closed = start is None
        here = start if start is not None else next(iter(left))
        chain = [here]
        left.discard(here)
        while True:
            step = next((k for k in ends[here] if k in left), None)
            if step is None:
                break
            chain.append(step)
            left.discard(step)
            here = step
        if len(chain) > 1:
            out.append(Outline(plane.flat(np.array([where[k] for k in chain])), closed))
    return out
