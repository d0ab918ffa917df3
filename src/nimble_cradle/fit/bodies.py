"""The bay and the powertrain as measurable bodies, made once for each set of items or pieces."""

from __future__ import annotations

from nimble_cradle.geometry.build import Meshes, solid, used_meshes
from nimble_cradle.geometry.distance import Bodies
from nimble_cradle.geometry.solids import ShapeError, SolidPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.remember import remembered
from nimble_cradle.survey.made import placed_items


def solid_of(owner: Item | Piece, meshes: Meshes, where: str) -> tuple[SolidPart, ...]:
    """Solid parts of an item or piece in its own frame. Raises JobError that names it and its place."""
    try:
        return solid(owner.shapes, used_meshes(owner.shapes, meshes))
    except ShapeError as error:
        raise JobError(f"{owner.name}: {error}", f"{where}/{owner.id}/shapes") from None


@remembered("items", "survey")
def standing_items(job: Job) -> tuple[Item, ...]:
    """Items that are there when the engine goes in, with their shapes: all but those marked for removal and scans that are
    not placed. Raises JobError."""
    return tuple(i for i in placed_items(job) if i.fate != "remove" and i.placed)


def fitted_pieces(job: Job) -> tuple[Piece, ...]:
    """Pieces that are fitted."""
    return job.powertrain.present


@remembered("items", "survey", "meshes")
def bay_bodies(job: Job) -> Bodies:
    """The standing items, in the order of ``standing_items``. Raises JobError."""
    return Bodies([solid_of(i, job.meshes, "items") for i in standing_items(job)])


@remembered("powertrain", "meshes")
def powertrain_bodies(job: Job) -> Bodies:
    """The fitted pieces, in the order of ``fitted_pieces``. Raises JobError."""
    return Bodies([solid_of(p, job.meshes, "powertrain/pieces") for p in fitted_pieces(job)])
