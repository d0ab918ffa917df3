"""A solid part with everything beyond a plane taken off."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solid_makers import hull
from nimble_cradle.geometry.solids import MeshPart, ShapeError, SolidPart


def clipped(part: SolidPart, normal: Array, offset: float) -> SolidPart | None:
    """What is left of a part where normal @ p <= offset (owner's frame); None where nothing is. A round
    bar that is cut becomes a prism of its 40 sides."""
    vertices, triangles = part.triangles
    height = vertices @ normal - offset
    if (height <= 1e-9).all():
        return part
    if (height >= -1e-9).all():
        return None
    if isinstance(part, MeshPart):
        return _clipped_mesh(vertices, triangles, height)
    edges = np.unique(
        np.sort(np.vstack([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1), axis=0
    )
    ha, hb = height[edges[:, 0]], height[edges[:, 1]]
    across = ha * hb < 0
    t = (ha[across] / (ha[across] - hb[across]))[:, None]
    a, b = vertices[edges[across, 0]], vertices[edges[across, 1]]
    try:
        return hull(np.vstack([vertices[height <= 0], a + t * (b - a)]))
    except ShapeError:
        return None


def _clipped_mesh(vertices: Array, triangles: np.ndarray, height: Array) -> MeshPart | None:
    """A surface cut along a plane: triangles that cross it are cut too."""
    inside = height <= 0
    count = inside[triangles].sum(1)
    points, faces = [vertices], [triangles[count == 3]]
    n = len(vertices)
    for k in np.nonzero((count > 0) & (count < 3))[0]:
        ring = []
        for p, q in ((0, 1), (1, 2), (2, 0)):
            i, j = triangles[k, p], triangles[k, q]
            if inside[i]:
                ring.append(vertices[i])
            if inside[i] != inside[j]:
                t = height[i] / (height[i] - height[j])
                ring.append(vertices[i] + t * (vertices[j] - vertices[i]))
        points.append(np.array(ring))
        faces.append(
            n + np.array([[0, m, m + 1] for m in range(1, len(ring) - 1)], dtype=np.int64).reshape(-1, 3)
        )
        n += len(ring)
    all_faces = np.vstack(faces)
    if not len(all_faces):
        return None
    used, number = np.unique(all_faces, return_inverse=True)
    return MeshPart(np.vstack(points)[used], number.reshape(-1, 3).astype(np.int64))
