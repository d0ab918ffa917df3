"""Readers of mesh files, each a function of bytes that may take much; ``mesh`` calls them where they can be
stopped. What a file would cost is known, and limited, before anything of it is expanded.

Each gives points (n, 3) and triangles (m, 3) as written in the file, and raises ValueError with what is wrong
in words that follow the file's name.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from nimble_cradle.geometry.mesh_3mf import three_mf
from nimble_cradle.geometry.mesh_glb import glb
from nimble_cradle.geometry.mesh_limits import Read
from nimble_cradle.geometry.mesh_stl import stl
from nimble_cradle.geometry.mesh_text import obj, off, ply

READERS: dict[str, Callable[[bytes], Read]] = {
    "stl": stl,
    "obj": obj,
    "ply": ply,
    "off": off,
    "glb": glb,
    "3mf": three_mf,
}


def read_by_kind(words: Sequence[str], data: bytes) -> tuple[Any, list[np.ndarray]]:
    """words: (kind). For ``guarded``: nothing to tell, and (points, triangles)."""
    points, faces = READERS[words[0]](data)
    return None, [np.asarray(points, dtype=float), np.asarray(faces, dtype=np.int64)]
