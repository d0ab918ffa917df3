"""From the shapes of a job file to solids that can be measured, drawn and weighed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache, partial

import numpy as np

from nimble_cradle.geometry.cells import WHOLE
from nimble_cradle.geometry.mesh import read_mesh
from nimble_cradle.geometry.pose import rotation_xyz
from nimble_cradle.geometry.scan_ply import own_counts
from nimble_cradle.geometry.solid_makers import bar, box, prism, skin, slab
from nimble_cradle.geometry.solids import MeshPart, ShapeError, SolidPart
from nimble_cradle.job.job import MeshFile
from nimble_cradle.job.shapes import Bar, Box, Mesh, Prism, Shape, Skin, Slab
from nimble_cradle.survey.kept_cells import cells_of

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
    rotation, at = rotation_xyz(*shape.turn), np.asarray(shape.at)
    read = partial(read_mesh, file.name, file.data)
    if is_large(file):
        return tuple(cells_of(file.sha256, read).parts(rotation, at))
    vertices, faces = read()
    return (MeshPart(vertices @ rotation.T + at, faces),)


@lru_cache(maxsize=64)
def is_large(file: MeshFile) -> bool:
    """Whether a mesh is cut into cells to be measured against. Raises ShapeError."""
    own = own_counts(file.data)
    return (own[1] if own is not None else len(read_mesh(file.name, file.data)[1])) > WHOLE


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
    known = {mesh.name: mesh for mesh in meshes}
    return tuple(part for shape in shapes for part in parts_of(shape, known))


def used_meshes(shapes: Sequence[Shape], meshes: Meshes) -> Meshes:
    """Only the mesh files that these shapes name, so that caches do not depend on the others."""
    named = {shape.file for shape in shapes if isinstance(shape, Mesh)}
    return tuple(mesh for mesh in meshes if mesh.name in named) if named else ()
