"""From the shapes of a job file to solids that can be measured, drawn and weighed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache

import numpy as np

from nimble_cradle.geometry.mesh import read_mesh
from nimble_cradle.geometry.pose import Array, rotation_xyz
from nimble_cradle.geometry.solids import MeshPart, ShapeError, SolidPart, Triangles, bar, box, prism, skin, slab
from nimble_cradle.job.job import MeshFile
from nimble_cradle.job.shapes import Bar, Box, Mesh, Prism, Shape, Skin, Slab

Meshes = tuple[MeshFile, ...]


@lru_cache(maxsize=4096)
def _plain(shape: Box | Bar | Slab | Prism | Skin) -> tuple[SolidPart, ...]:
    if isinstance(shape, Box):
        return (box(shape.centre, shape.size, rotation_xyz(*shape.turn)),)
    if isinstance(shape, Bar):
        return (bar(shape.start, shape.end, shape.diameter),)
    if isinstance(shape, Slab):
        return tuple(slab(shape.corners, shape.thickness))
    if isinstance(shape, Skin):
        return (skin(shape.rows),)
    return tuple(prism(shape.origin, shape.along, shape.up, shape.outline, shape.length))


@lru_cache(maxsize=256)
def _placed_mesh(shape: Mesh, file: MeshFile) -> tuple[SolidPart, ...]:
    vertices, faces = read_mesh(file.name, file.data)
    placed = vertices @ rotation_xyz(*shape.turn).T + np.asarray(shape.at)
    if len(faces) <= WHOLE:
        return (MeshPart(placed, faces),)
    return tuple(chunks(placed, faces))


WHOLE = 4000
CHUNK = 140.0


def chunks(vertices: Array, faces: Triangles) -> list[MeshPart]:
    """A large surface cut into cells of CHUNK mm, so that what is far from a piece costs nothing. (Containment in it is no longer seen.)"""
    middle = vertices[faces].mean(1)
    cells = np.floor((middle - middle.min(0)) / CHUNK).astype(np.int64)
    key = (cells[:, 0] << 40) | (cells[:, 1] << 20) | cells[:, 2]
    order = np.argsort(key, kind="stable")
    out = []
    for rows in np.split(order, np.nonzero(np.diff(key[order]))[0] + 1):
        used, number = np.unique(faces[rows], return_inverse=True)
        out.append(MeshPart(vertices[used], number.reshape(-1, 3).astype(np.int64)))
    return out


def parts_of(shape: Shape, meshes: Mapping[str, MeshFile]) -> tuple[SolidPart, ...]:
    """The solid parts of one shape, in its owner's frame. Raises ShapeError."""
    if isinstance(shape, Mesh):
        if shape.file not in meshes:
            raise ShapeError(f"The mesh “{shape.file}” is not in the job.")
        return _placed_mesh(shape, meshes[shape.file])
    return _plain(shape)


@lru_cache(maxsize=1024)
def solid(shapes: tuple[Shape, ...], meshes: Meshes) -> tuple[SolidPart, ...]:
    """All solid parts of a body. Raises ShapeError."""
    known = {m.name: m for m in meshes}
    return tuple(part for shape in shapes for part in parts_of(shape, known))


def used_meshes(shapes: Sequence[Shape], meshes: Meshes) -> Meshes:
    """Only the mesh files that these shapes name, so that caches do not depend on the others."""
    named = {s.file for s in shapes if isinstance(s, Mesh)}
    return tuple(m for m in meshes if m.name in named) if named else ()
