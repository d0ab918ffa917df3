"""Reading triangle meshes from bytes (STL, OBJ, PLY, OFF), with limits and one clear sentence for what is not a mesh."""

from __future__ import annotations

import io
from functools import lru_cache

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ShapeError, Triangles

MOST_TRIANGLES = 2_000_000
KINDS = ("stl", "obj", "ply", "off")


@lru_cache(maxsize=64)
def read_mesh(name: str, data: bytes) -> tuple[Array, Triangles]:
    """Vertices (n, 3) and triangles (m, 3) of a mesh file, mm as written in it; equal points merged, empty triangles dropped.

    Raises ShapeError with a sentence for an unknown kind, a text that is no mesh, an empty or oversized one, or numbers that
    are not finite.
    """
    kind = name.rsplit(".", 1)[-1].lower()
    if kind not in KINDS:
        raise ShapeError(f"“{name}” is not a mesh this program reads; it reads {', '.join(k.upper() for k in KINDS)}.")
    if kind == "stl":
        _check_stl(name, data)
    import trimesh

    try:
        loaded = trimesh.load_mesh(io.BytesIO(data), file_type=kind, process=False)
        vertices = np.asarray(loaded.vertices, dtype=float)
        faces = np.asarray(loaded.faces, dtype=np.int64)
    except Exception:  # noqa: BLE001 - any reader's failure on a foreign file means the same to the user
        raise ShapeError(f"“{name}” could not be read as a {kind.upper()} mesh.") from None
    if vertices.ndim != 2 or faces.ndim != 2 or len(faces) == 0:
        raise ShapeError(f"“{name}” holds no triangles.")
    if len(faces) > MOST_TRIANGLES:
        raise ShapeError(f"“{name}” has {len(faces):,} triangles; at most {MOST_TRIANGLES:,} are read.")
    if not np.isfinite(vertices).all():
        raise ShapeError(f"“{name}” has points that are not numbers.")
    vertices, index = np.unique(vertices.round(6), axis=0, return_inverse=True)
    faces = index.reshape(-1)[faces]
    a, b, c = (vertices[faces[:, k]] for k in range(3))
    faces = faces[np.linalg.norm(np.cross(b - a, c - a), axis=1) > 1e-9]
    if len(faces) == 0:
        raise ShapeError(f"“{name}” holds only triangles without area.")
    return vertices, faces.astype(np.int64)


def _check_stl(name: str, data: bytes) -> None:
    """Tell a binary STL, a text STL and a text that is neither apart before a reader guesses."""
    if len(data) >= 84:
        count = int.from_bytes(data[80:84], "little")
        if len(data) == 84 + 50 * count and count:
            return
    head = data[:2000].lstrip().lower()
    if head.startswith(b"solid") and b"facet" in head:
        return
    raise ShapeError(f"“{name}” is not an STL mesh: it is neither whole binary STL nor text that begins with “solid”.")
