"""A round bar as triangles."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_cradle.geometry.pose import Array

Triangles = NDArray[np.int64]
"""Corners of triangles by their numbers, (n, 3)."""
BAR_SIDES = 40
"""Sides of a drawn bar: to the eye it is round."""


def once_each(directions: Array) -> Array:
    """Unit directions (n, 3) without repeats, opposite ones counted as the same."""
    size = np.linalg.norm(directions, axis=1)
    d = directions[size > 1e-9] / size[size > 1e-9, None]
    first = np.argmax(np.abs(d) > 1e-6, axis=1)
    d = d * np.sign(d[np.arange(len(d)), first])[:, None]
    return np.asarray(np.unique(d.round(7), axis=0))


def cylinder(radius: float, length: float, sides: int = BAR_SIDES) -> tuple[Array, Triangles]:
    """A prism with its corners on a round bar, axis along z, centred: vertices and outward triangles."""
    n = sides
    a = np.arange(n) * 2 * np.pi / n
    ring = np.column_stack([radius * np.cos(a), radius * np.sin(a)])
    vertices = np.vstack(
        [
            np.column_stack([ring, np.full(n, -length / 2)]),
            np.column_stack([ring, np.full(n, length / 2)]),
            [[0, 0, -length / 2], [0, 0, length / 2]],
        ]
    )
    i, j = np.arange(n), (np.arange(n) + 1) % n
    side = np.vstack([np.column_stack([i, j, j + n]), np.column_stack([i, j + n, i + n])])
    caps = np.vstack(
        [np.column_stack([j, i, np.full(n, 2 * n)]), np.column_stack([i + n, j + n, np.full(n, 2 * n + 1)])]
    )
    return vertices, np.vstack([side, caps]).astype(np.int64)
