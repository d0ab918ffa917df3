"""Whether a solid lies wholly inside another: where two surfaces are apart, every connected piece of one
is wholly inside the other or wholly outside it, so one point of each piece tells."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, SolidPart

NEAR = 2.5
"""A cell of a large mesh counts triangle by triangle within so many of its own radii, as one piece of area
beyond."""


def winding_number(point: Array, vertices: Array, faces: np.ndarray) -> float:
    """How often a mesh winds round a point: 1 inside a closed mesh that faces outwards, 0 outside (van
    Oosterom and Strackee, IEEE Trans. Biomed. Eng. 30 (1983) 125, solid angle of a triangle; from memory)."""
    p = vertices - point
    a, b, c = p[faces[:, 0]], p[faces[:, 1]], p[faces[:, 2]]
    la, lb, lc = (np.sqrt(np.einsum("ij,ij->i", x, x)) for x in (a, b, c))
    top = np.einsum("ij,ij->i", a, np.cross(b, c))
    bottom = (
        la * lb * lc
        + np.einsum("ij,ij->i", a, b) * lc
        + np.einsum("ij,ij->i", b, c) * la
        + np.einsum("ij,ij->i", c, a) * lb
    )
    return float(np.arctan2(top, bottom).sum() / (2 * np.pi))


@dataclass(frozen=True, eq=False)
class Whole:
    """A closed mesh that was cut into cells, whole again for one question: what is inside it. cells:
    vertices and faces of each, owner's frame."""

    cells: tuple[tuple[Array, np.ndarray], ...]

    @cached_property
    def box(self) -> tuple[Array, Array]:
        """Centre and half size of the box that holds it."""
        low = np.min([v.min(0) for v, _ in self.cells], axis=0)
        high = np.max([v.max(0) for v, _ in self.cells], axis=0)
        return (low + high) / 2, (high - low) / 2

    @cached_property
    def _far(self) -> tuple[Array, Array, Array]:
        """Of each cell: middle (c, 3), area as a vector (c, 3) and radius (c,)."""
        middles, areas, radii = [], [], []
        for v, f in self.cells:
            a, b, c = v[f[:, 0]], v[f[:, 1]], v[f[:, 2]]
            area = np.cross(b - a, c - a) / 2
            size = np.linalg.norm(area, axis=1)
            middle = (size[:, None] * (a + b + c)).sum(0) / max(3 * float(size.sum()), 1e-12)
            middles.append(middle)
            areas.append(area.sum(0))
            radii.append(float(np.linalg.norm(v - middle, axis=1).max()))
        return np.array(middles), np.array(areas), np.array(radii)

    def winding(self, point: Array) -> float:
        """How often it winds round a point; far cells as one piece of area each (a dipole)."""
        middles, areas, radii = self._far
        off = middles - point
        away = np.sqrt((off**2).sum(1))
        far = away > NEAR * radii
        total = float(((areas * off).sum(1)[far] / away[far] ** 3).sum() / (4 * np.pi))
        return total + sum(winding_number(point, *self.cells[k]) for k in np.nonzero(~far)[0].tolist())

    def placed(self, pose: Pose) -> Whole:
        """Moved with its owner's frame."""
        return Whole(tuple((pose.points(v), f) for v, f in self.cells))


def one_of_each(part: SolidPart) -> Array:
    """A point (k, 3) of each connected piece of a part's surface, owner's frame."""
    return part.piece_points if isinstance(part, MeshPart) else part.triangles[0][:1]


def inside(part: SolidPart, points: Array) -> bool:
    """Whether any of points (k, 3), owner's frame, lies inside a part; of an open surface nothing does."""
    if isinstance(part, ConvexPart):
        local = (points - part.pose.translation) @ part.pose.rotation
        if part.kind == "bar":
            radius, length = part.size
            return bool(
                ((np.hypot(local[:, 0], local[:, 1]) < radius) & (np.abs(local[:, 2]) < length / 2)).any()
            )
        if part.kind == "box":
            return bool((np.abs(local) < np.array(part.size) / 2).all(1).any())
        normals, offsets = part.sides
        return bool((local @ normals.T < offsets).all(1).any())
    answers = part.whole is not None and part.for_whole
    if not answers and (part.whole is not None or not part.closed):
        return False
    centre, half = part.whole.box if part.whole is not None else part.box
    near = points[(np.abs(points - centre) < half).all(1)]
    if part.whole is not None:
        return any(abs(part.whole.winding(p)) > 0.5 for p in near)
    return any(abs(winding_number(p, part.vertices, part.faces)) > 0.5 for p in near)


def swallowed(a: SolidPart, b: SolidPart, pose: Pose) -> bool:
    """Whether a connected piece of either part lies inside the other, where the surfaces of ``a``, at
    ``pose``, and ``b`` are apart and distance alone would call them clear."""
    return inside(b, pose.points(one_of_each(a))) or inside(a, pose.inverse().points(one_of_each(b)))
