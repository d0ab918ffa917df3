"""Reading triangle meshes from bytes (STL, OBJ, PLY, OFF, GLB, 3MF), with limits and one clear sentence
for what is not a mesh."""

from __future__ import annotations

import contextlib
import io
import zipfile
from functools import lru_cache
from xml.etree import ElementTree

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.scan import from_own_ply, merged
from nimble_cradle.geometry.solids import ShapeError, Triangles

MOST_TRIANGLES = 2_000_000
MOST_MODEL = 400_000_000
KINDS = ("stl", "obj", "ply", "off", "glb", "3mf")


@lru_cache(maxsize=64)
def read_mesh(name: str, data: bytes) -> tuple[Array, Triangles]:
    """Vertices (n, 3) and triangles (m, 3) of a mesh file, mm as written in it; equal points merged, empty
    triangles dropped.

    Raises ShapeError with a sentence for an unknown kind, a text that is no mesh, an empty or oversized
    one, or numbers that are not finite.
    """
    own = from_own_ply(data) if name.lower().endswith(".ply") else None
    if own is not None:
        return own.vertices, own.faces
    vertices, faces = raw_mesh(name, data)
    if not np.isfinite(vertices).all():
        raise ShapeError(f"“{name}” has points that are not numbers.")
    vertices, number = merged(vertices, 1e-6)
    faces = number[faces]
    a, b, c = (vertices[faces[:, k]] for k in range(3))
    faces = faces[np.linalg.norm(np.cross(b - a, c - a), axis=1) > 1e-9]
    if len(faces) == 0:
        raise ShapeError(f"“{name}” holds only triangles without area.")
    return vertices, faces.astype(np.int64)


def raw_mesh(name: str, data: bytes) -> tuple[Array, Triangles]:
    """Points and triangles of a mesh file as written, in the file's own unit, nothing put right. Raises
    ShapeError."""
    kind = name.rsplit(".", 1)[-1].lower()
    if kind not in KINDS:
        raise ShapeError(
            f"“{name}” is not a mesh this program reads; it reads {', '.join(k.upper() for k in KINDS)}."
        )
    if not data:
        raise ShapeError(f"“{name}” is empty.")
    reader = {"stl": _stl, "3mf": _three_mf}.get(kind)
    vertices, faces = reader(name, data) if reader is not None else _by_library(name, kind, data)
    if vertices.ndim != 2 or faces.ndim != 2 or len(faces) == 0:
        raise ShapeError(f"“{name}” holds no triangles.")
    if len(faces) > MOST_TRIANGLES:
        raise ShapeError(
            f"“{name}” has {len(faces):,} triangles; at most {MOST_TRIANGLES:,} are read. Thin it out in the"
            " program that made it, or crop it."
        )
    if faces.min() < 0 or faces.max() >= len(vertices):
        raise ShapeError(f"“{name}” has triangles whose corners are not there.")
    return vertices, faces


def unit_said(name: str, data: bytes) -> str:
    """The unit a mesh file says it is in (3MF says, GLB is in metres by its standard), or empty: then it
    must be asked."""
    kind = name.rsplit(".", 1)[-1].lower()
    if kind == "glb":
        return "m"
    if kind == "ply" and b"\ncomment mm" in data[:200]:
        return "mm"
    if kind == "3mf":
        with contextlib.suppress(ShapeError):
            found = _model(name, data).get("unit", "millimeter")
            return {"millimeter": "mm", "centimeter": "cm", "meter": "m", "inch": "inch", "foot": "foot"}.get(
                found, ""
            )
    return ""


def _model(name: str, data: bytes) -> ElementTree.Element:
    """The model part of a 3MF archive. Raises ShapeError."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            part = next(i for i in archive.infolist() if i.filename.lower().endswith(".model"))
            if part.file_size > MOST_MODEL:
                raise ShapeError(
                    f"“{name}” unpacks to {part.file_size / 1e6:.0f} MB; that is more than is read."
                )
            with archive.open(part) as stream:
                text = stream.read(part.file_size + 1)
        if b"<!ENTITY" in text[:4000]:
            raise ShapeError(f"“{name}” could not be read as 3MF.")
        return ElementTree.fromstring(text)
    except (
        zipfile.BadZipFile,
        StopIteration,
        ElementTree.ParseError,
        OSError,
        ValueError,
        NotImplementedError,
        RuntimeError,
    ) as error:
        if isinstance(error, ShapeError):
            raise
        raise ShapeError(f"“{name}” could not be read as 3MF.") from None


def _three_mf(name: str, data: bytes) -> tuple[Array, Triangles]:
    """All mesh objects of a 3MF as they are built, with their placements (3MF Core Specification 1.3, from
    memory; components are left out)."""
    root = _model(name, data)
    space = "{http://schemas.microsoft.com/3dmanufacturing/core/2015/02}"
    meshes: dict[str, tuple[Array, Triangles]] = {}
    try:
        for thing in root.iter(f"{space}object"):
            v = [[float(p.get(k, "nan")) for k in ("x", "y", "z")] for p in thing.iter(f"{space}vertex")]
            t = [[int(p.get(k, "-1")) for k in ("v1", "v2", "v3")] for p in thing.iter(f"{space}triangle")]
            if v and t:
                meshes[thing.get("id", "")] = np.array(v, dtype=float), np.array(t, dtype=np.int64)
        vertices, faces, base = [], [], 0
        for build in root.iter(f"{space}item"):
            if build.get("objectid", "") in meshes:
                v_, t_ = meshes[build.get("objectid", "")]
                m = np.array(
                    [float(n) for n in build.get("transform", "1 0 0 0 1 0 0 0 1 0 0 0").split()]
                ).reshape(4, 3)
                vertices.append(v_ @ m[:3] + m[3])
                faces.append(t_ + base)
                base += len(v_)
    except ValueError:
        raise ShapeError(f"“{name}” could not be read as 3MF.") from None
    if not vertices:
        return np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)
    return np.vstack(vertices), np.vstack(faces)


def _by_library(name: str, kind: str, data: bytes) -> tuple[Array, Triangles]:
    import trimesh

    try:
        loaded = trimesh.load_mesh(io.BytesIO(data), file_type=kind, process=False)
        if not hasattr(loaded, "faces"):
            return np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)
        return np.asarray(loaded.vertices, dtype=float), np.asarray(loaded.faces, dtype=np.int64)
    except Exception:  # any reader's failure on a foreign file means the same to the user
        raise ShapeError(f"“{name}” could not be read as a {kind.upper()} mesh.") from None


def _stl(name: str, data: bytes) -> tuple[Array, Triangles]:
    """Corner points (3 n, 3) and triangles of a binary or text STL; read here since the library takes 0.4
    s to import."""
    count = int.from_bytes(data[80:84], "little") if len(data) >= 84 else 0
    if count and len(data) == 84 + 50 * count:
        rows = np.frombuffer(data, dtype=np.uint8, offset=84).reshape(count, 50)[:, 12:48]
        points = np.ascontiguousarray(rows).view("<f4").reshape(-1, 3).astype(float)
        return points, np.arange(3 * count, dtype=np.int64).reshape(-1, 3)
    head = data[:2000].lstrip().lower()
    if not (head.startswith(b"solid") and b"facet" in head):
        raise ShapeError(
            f"“{name}” is not an STL mesh: it is neither whole binary STL nor text that begins with “solid”."
        )
    words = data.split()
    at = [k for k, w in enumerate(words) if w.lower() == b"vertex"]
    try:
        points = np.array(
            [[float(words[k + 1]), float(words[k + 2]), float(words[k + 3])] for k in at], dtype=float
        ).reshape(-1, 3)
    except (ValueError, IndexError):
        raise ShapeError(f"“{name}” is a text STL with a corner that is not three numbers.") from None
    if len(points) % 3:
        raise ShapeError(f"“{name}” is a text STL that stops inside a triangle.")
    return points, np.arange(len(points), dtype=np.int64).reshape(-1, 3)
