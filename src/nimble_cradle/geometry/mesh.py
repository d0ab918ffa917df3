"""Triangle meshes from bytes (STL, OBJ, PLY, OFF, GLB, 3MF), with limits and one clear sentence for what is
not a mesh. What may take long is read in a process that can be stopped."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np

from nimble_cradle.files import printable
from nimble_cradle.geometry import mesh_limits
from nimble_cradle.geometry.mesh_limits import too_many
from nimble_cradle.geometry.mesh_readers import READERS
from nimble_cradle.geometry.mesh_stl import stl, stl_left_over
from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.geometry.scan import merged
from nimble_cradle.geometry.scan_ply import from_own_ply, own_counts
from nimble_cradle.geometry.solids import ShapeError, Triangles
from nimble_cradle.guarded import Refused, guarded

KINDS = tuple(READERS)
MOST_REACH = 1e6
"""No mesh of a job reaches further from its own nought, mm."""
MOST_HERE = 2_000_000
"""A text STL of no more bytes is read without a process of its own (which takes a third of a second to
begin)."""


def read_mesh(name: str, data: bytes) -> tuple[Array, Triangles]:
    """Vertices (n, 3) and triangles (m, 3) of a mesh file, mm as written in it; equal points merged, empty
    triangles dropped.

    Raises ShapeError with a sentence for an unknown kind, a text that is no mesh, an empty or oversized
    one, or numbers that are not finite.
    """
    found = _read(name, data)
    if isinstance(found, str):
        raise ShapeError(found)
    return found


@lru_cache(maxsize=64)
def _read(name: str, data: bytes) -> tuple[Array, Triangles] | str:
    """What ``read_mesh`` gives, or its refusal: that is remembered too, so that a bad mesh in a job costs its
    reading once and not at every edit."""
    try:
        return _read_anew(name, data)
    except ShapeError as error:
        return str(error)


def _read_anew(name: str, data: bytes) -> tuple[Array, Triangles]:
    shown = printable(name)
    own = own_counts(data) if name.lower().endswith(".ply") else None
    if own is not None and own[1] > mesh_limits.MOST_TRIANGLES:
        raise ShapeError(f"“{shown}” {too_many(own[1])}.")
    made = from_own_ply(data) if own is not None else None
    vertices, faces = (made.vertices, made.faces) if made is not None else raw_mesh(name, data)
    if not np.isfinite(vertices).all():
        raise ShapeError(f"“{shown}” has points that are not numbers.")
    if np.abs(vertices).max(initial=0) > MOST_REACH:
        raise ShapeError(f"“{shown}” reaches over {MOST_REACH / 1e6:g} km: its unit is another.")
    if made is not None:
        return vertices, faces
    vertices, number = merged(vertices, 1e-6)
    faces = number[faces]
    a, b, c = (vertices[faces[:, k]] for k in range(3))
    faces = faces[np.linalg.norm(crosses(b - a, c - a), axis=1) > 1e-9]
    if len(faces) == 0:
        raise ShapeError(f"“{shown}” holds only triangles without area.")
    return vertices, faces.astype(np.int64)


def raw_mesh(name: str, data: bytes, say: Callable[[str], None] = lambda _: None) -> tuple[Array, Triangles]:
    """Points and triangles of a mesh file as written, in the file's own unit, nothing put right. say: may
    raise to stop it. Raises ShapeError."""
    shown, kind = printable(name), name.rsplit(".", 1)[-1].lower()
    if kind not in KINDS:
        raise ShapeError(
            f"“{shown}” is not a mesh this program reads; it reads {', '.join(k.upper() for k in KINDS)}."
        )
    if not data:
        raise ShapeError(f"“{shown}” is empty.")
    own = from_own_ply(data) if kind == "ply" else None
    try:
        if own is not None:
            vertices, faces = own.vertices, own.faces
        elif kind == "stl" and (len(data) <= MOST_HERE or not data[:6].lower().startswith(b"solid")):
            vertices, faces = stl(data)
        else:
            _, (vertices, faces) = guarded(
                "nimble_cradle.geometry.mesh_readers:read_by_kind", [kind], data, say
            )
    except (ValueError, Refused) as error:
        raise ShapeError(f"“{shown}” {str(error).rstrip('.')}.") from None
    if (
        vertices.ndim != 2
        or faces.ndim != 2
        or len(faces) == 0
        or faces.shape[1] != 3
        or vertices.shape[1] != 3
    ):
        raise ShapeError(f"“{shown}” holds no triangles.")
    if len(faces) > mesh_limits.MOST_TRIANGLES:
        raise ShapeError(f"“{shown}” {too_many(len(faces))}.")
    if faces.min() < 0 or faces.max() >= len(vertices):
        raise ShapeError(f"“{shown}” has triangles whose corners are not there.")
    return vertices, faces


def left_out(name: str, data: bytes) -> tuple[str, ...]:
    """What a mesh file holds besides, in words."""
    over = stl_left_over(data) if name.lower().endswith(".stl") else 0
    return (f"{over:,} bytes behind its last triangle were left out",) if over else ()


def unit_said(name: str, data: bytes) -> str:
    """The unit a mesh file says it is in (3MF says, GLB is in metres by its standard), or empty: then it
    must be asked."""
    kind = name.rsplit(".", 1)[-1].lower()
    if kind == "glb":
        return "m"
    if kind == "ply" and b"\ncomment mm" in data[:200]:
        return "mm"
    if kind == "3mf":
        try:
            found, _ = guarded("nimble_cradle.geometry.mesh_3mf:three_mf_unit", [], data)
        except Refused:
            return ""
        return {"millimeter": "mm", "centimeter": "cm", "meter": "m", "inch": "inch", "foot": "foot"}.get(
            found, ""
        )
    return ""
