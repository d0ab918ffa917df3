"""How often a closed surface winds round a point: whether it is inside."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose, crosses

NEAR = 2.5
"""A cell of a large mesh counts triangle by triangle within so many of its own radii, as one piece of area
beyond."""


def winding_number(point: Array, vertices: Array, faces: np.ndarray) -> float:
    """How often a mesh winds round a point: 1 inside a closed mesh that faces outwards, 0 outside (van
    Oosterom and Strackee, IEEE Trans. Biomed. Eng. 30 (1983) 125, solid angle of a triangle; from memory)."""
    p = vertices - point
    a, b, c = p[faces[:, 0]], p[faces[:, 1]], p[faces[:, 2]]
    la, lb, lc = (np.sqrt(np.einsum("ij,ij->i", x, x)) for x in (a, b, c))
    top = np.einsum("ij,ij->i", a, crosses(b, c))
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
            area = crosses(b - a, c - a) / 2
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
