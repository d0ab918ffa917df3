"""The bay and the powertrain as measurable bodies, made once for each set of items or pieces."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.clip import clipped
from nimble_cradle.geometry.direction import WAY_VECTORS, Way
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.solids import ShapeError, SolidPart, placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.sides import Side
from nimble_cradle.survey.made import placed_items
from nimble_cradle.survey.shapes import Meshes, solid, used_meshes

_SIDES: dict[Side, Way] = {
    "front": "forward",
    "back": "back",
    "left": "left",
    "right": "right",
    "top": "up",
    "bottom": "down",
}
"""Which way each side of an item faces."""


def solid_of(owner: Item | Piece, meshes: Meshes, where: str) -> tuple[SolidPart, ...]:
    """Solid parts of an item or piece in its own frame, an item as cut and moved. Raises JobError that
    names it and its place."""
    try:
        parts = solid(owner.shapes, used_meshes(owner.shapes, meshes))
    except ShapeError as error:
        raise JobError(f"{owner.name}: {error}", f"{where}/{owner.id}/shapes") from None
    if isinstance(owner, Piece) or not (owner.cuts or any(owner.moved)):
        return parts
    return _as_cut(owner, parts, where)


@lru_cache(maxsize=256)
def _as_cut(item: Item, parts: tuple[SolidPart, ...], where: str) -> tuple[SolidPart, ...]:
    """The parts of an item with what was cut off it gone, and moved."""
    points = np.vstack([part.triangles[0] for part in parts])
    for cut in item.cuts:
        normal = np.array(WAY_VECTORS[_SIDES[cut.side]])
        offset = float((points @ normal).max()) - cut.depth_mm
        parts = tuple(left for part in parts if (left := clipped(part, normal, offset)) is not None)
        if not parts:
            raise JobError(
                f"{item.name}: {cut.depth_mm:g} mm off its {cut.side} leaves nothing of it; mark it as taken"
                " out instead.",
                f"{where}/{item.id}/cuts",
            )
    return (
        tuple(placed_part(part, Pose(np.eye(3), np.asarray(item.moved))) for part in parts)
        if any(item.moved)
        else parts
    )


@remembered("items", "survey")
def standing_items(job: Job) -> tuple[Item, ...]:
    """Items that are there when the engine goes in, with their shapes: all but those marked for removal
    and scans that are not placed. Raises JobError."""
    return tuple(item for item in placed_items(job) if item.fate != "remove" and item.placed)


def fitted_pieces(job: Job) -> tuple[Piece, ...]:
    """Pieces that are fitted."""
    return job.powertrain.present


@remembered("items", "survey", "meshes")
def bay_bodies(job: Job) -> Bodies:
    """The standing items, in the order of ``standing_items``. Raises JobError."""
    return Bodies([solid_of(item, job.meshes, "items") for item in standing_items(job)])


@remembered("powertrain", "meshes")
def powertrain_bodies(job: Job) -> Bodies:
    """The fitted pieces, in the order of ``fitted_pieces``. Raises JobError."""
    return Bodies([solid_of(piece, job.meshes, "powertrain/pieces") for piece in fitted_pieces(job)])
