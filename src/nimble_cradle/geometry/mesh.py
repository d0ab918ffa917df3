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
    vertices, faces = _stl(name, data) if kind == "stl" else _by_library(name, kind, data)
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


def _by_library(name: str, kind: str, data: bytes) -> tuple[Array, Triangles]:
    import trimesh

    try:
        loaded = trimesh.load_mesh(io.BytesIO(data), file_type=kind, process=False)
        return np.asarray(loaded.vertices, dtype=float), np.asarray(loaded.faces, dtype=np.int64)
    except Exception:  # any reader's failure on a foreign file means the same to the user
        raise ShapeError(f"“{name}” could not be read as a {kind.upper()} mesh.") from None


def _stl(name: str, data: bytes) -> tuple[Array, Triangles]:
    """Corner points (3 n, 3) and triangles of a binary or text STL; read here since the library takes 0.4 s to import."""
    count = int.from_bytes(data[80:84], "little") if len(data) >= 84 else 0
    if count and len(data) == 84 + 50 * count:
        rows = np.frombuffer(data, dtype=np.uint8, offset=84).reshape(count, 50)[:, 12:48]
        points = np.ascontiguousarray(rows).view("<f4").reshape(-1, 3).astype(float)
        return points, np.arange(3 * count, dtype=np.int64).reshape(-1, 3)
    head = data[:2000].lstrip().lower()
    if not (head.startswith(b"solid") and b"facet" in head):
        raise ShapeError(f"“{name}” is not an STL mesh: it is neither whole binary STL nor text that begins with “solid”.")
    words = data.split()
    at = [k for k, w in enumerate(words) if w.lower() == b"vertex"]
    try:
        points = np.array([[float(words[k + 1]), float(words[k + 2]), float(words[k + 3])] for k in at], dtype=float).reshape(-1, 3)
    except (ValueError, IndexError):
        raise ShapeError(f"“{name}” is a text STL with a corner that is not three numbers.") from None
    if len(points) % 3:
        raise ShapeError(f"“{name}” is a text STL that stops inside a triangle.")
    return points, np.arange(len(points), dtype=np.int64).reshape(-1, 3)
