"""A large surface cut into cells, so that what is far from a piece costs nothing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import MeshPart, Triangles
from nimble_cradle.geometry.winding import Whole

WHOLE = 4000
"""A surface of no more triangles stays in one piece."""
CELL = 140.0
"""Size of a cell, mm."""
MOST_CELLS = 5000
"""Cells at most; a mesh that needs more is cut more coarsely."""


@dataclass(frozen=True, eq=False)
class Cells:
    """A surface cut up, in the mesh's own frame, mm. vertices (n, 3) and faces (m, 3) stand cell by cell;
    corners are counted within their cell; ends (c, 2): where the vertices and the faces of each cell end.
    closed: whether the mesh was, before it was cut."""

    vertices: Array
    faces: np.ndarray
    ends: np.ndarray
    closed: bool = False

    def parts(self, rotation: Array, at: Array) -> list[MeshPart]:
        """Every cell as a part, the mesh's frame turned by ``rotation`` and standing at ``at`` (3,)."""
        placed = self.vertices @ rotation.T + at
        faces = self.faces.astype(np.int64)
        spans = zip([(0, 0), *self.ends[:-1].tolist()], self.ends.tolist(), strict=True)
        cells = tuple((placed[a:c], faces[b:d]) for (a, b), (c, d) in spans)
        whole = Whole(cells) if self.closed else None
        return [MeshPart(v, f, whole, whole is not None and k == 0) for k, (v, f) in enumerate(cells)]

    @property
    def sound(self) -> bool:
        """Whether it is a surface cut up at all."""
        v, f, e = self.vertices, self.faces, self.ends
        if not (
            v.ndim == f.ndim == e.ndim == 2
            and v.shape[1] == f.shape[1] == 3
            and e.shape[1] == 2
            and len(e)
            and v.dtype.kind == "f"
            and f.dtype.kind == e.dtype.kind == "i"
        ):
            return False
        sizes = np.diff(e, axis=0, prepend=np.zeros((1, 2), dtype=e.dtype))
        if (sizes <= 0).any() or tuple(e[-1]) != (len(v), len(f)) or not np.isfinite(v).all():
            return False
        return bool((f >= 0).all() and (f.max(1) < np.repeat(sizes[:, 0], sizes[:, 1])).all())


def cut(vertices: Array, faces: Triangles) -> Cells:
    """A surface cut into cells of CELL mm, or larger ones where it is so scattered that they would be too
    many."""
    middle = vertices[faces].mean(1)
    size = max(CELL, float(np.ptp(middle, axis=0).max()) / 2**19)
    while True:
        cell = np.floor((middle - middle.min(0)) / size).astype(np.int64)
        used_, number = np.unique((cell[:, 0] << 40) | (cell[:, 1] << 20) | cell[:, 2], return_inverse=True)
        if len(used_) <= MOST_CELLS:
            break
        size *= 2
    order = np.argsort(number, kind="stable")
    number = number[order]
    used, corner = np.unique(number[:, None] * len(vertices) + faces[order], return_inverse=True)
    counts = np.arange(1, number[-1] + 2)
    ends = np.column_stack([np.searchsorted(used, counts * len(vertices)), np.searchsorted(number, counts)])
    first = np.concatenate([[0], ends[:-1, 0]])
    return Cells(
        vertices[used % len(vertices)],
        (corner.reshape(-1, 3) - first[number][:, None]).astype(np.int32),
        ends,
        MeshPart(vertices, faces).closed,
    )


def agree(found: Cells, vertices: Array, faces: Triangles) -> bool:
    """Whether cells hold the triangles of a mesh: all of them by their number and the sum of their corners,
    some by each corner."""
    if len(found.faces) != len(faces) or found.closed != MeshPart(vertices, faces).closed:
        return False
    first = np.concatenate([[0], found.ends[:-1, 0]])
    sizes = np.diff(found.ends[:, 1], prepend=0)
    corners = found.vertices[found.faces + np.repeat(first, sizes)[:, None]]
    own = vertices[faces]
    near = 1e-5 * max(1.0, float(np.abs(own).max()))
    weights = np.array([1.0, np.pi, np.e])
    mine, theirs = np.sort(own.sum(1) @ weights), np.sort(corners.sum(1) @ weights)
    return bool(np.abs(mine - theirs).max() <= 20 * near)
