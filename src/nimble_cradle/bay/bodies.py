"""The bay and the powertrain as measurable bodies, made once for each set of items or pieces."""

from __future__ import annotations

from contextlib import suppress

import numpy as np

from nimble_cradle.bay.cut_solids import solid_of as solid_of
from nimble_cradle.bay.member import member_of, whole_items
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Cut, Item
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Opening
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.remember import remembered


@remembered("items", "survey", "openings", "meshes")
def standing_items(job: Job) -> tuple[Item, ...]:
    """Items that are there when the engine goes in, with their shapes: all but those marked for removal
    and scans that are not placed; with the cuts that are made in the chassis. Raises JobError."""
    return tuple(opened_item(job, item) for item in whole_items(job))


def opened_item(job: Job, item: Item) -> Item:
    """An item with its openings as cuts between two places; as it is where one cannot be laid (that is said
    in its own stage), and at a hole, round which it stays."""
    cuts = []
    for opening in job.openings:
        if opening.item == item.id and not opening.is_hole:
            with suppress(JobError):
                cuts.append(cut_of(job, item, opening))
    return item.model_copy(update={"cuts": (*item.cuts, *cuts)}) if cuts else item


def cut_of(job: Job, item: Item, opening: Opening, keeps: bool = False) -> Cut:
    """What an opening takes from its item, or all but that. Raises JobError where the item is no member, or
    the opening goes in from an end of it."""
    member = member_of(job, item)
    member.way(opening.side)
    way = (member.end - member.start) / member.length
    ends = (member.start + at * way for at in (opening.at_mm, opening.at_mm + opening.long_mm))
    a, b = ((float(p[0]), float(p[1]), float(p[2])) for p in (e - np.asarray(item.moved) for e in ends))
    return Cut(side=opening.side, depth_mm=opening.deep_mm, between=(a, b), keeps=keeps)


def fitted_pieces(job: Job) -> tuple[Piece, ...]:
    """Pieces that are fitted."""
    return job.powertrain.present


@remembered("items", "survey", "meshes", "openings")
def bay_bodies(job: Job) -> Bodies:
    """The standing items, in the order of ``standing_items``. Raises JobError."""
    return Bodies([solid_of(item, job.meshes, "items") for item in standing_items(job)])


@remembered("powertrain", "meshes")
def powertrain_bodies(job: Job) -> Bodies:
    """The fitted pieces, in the order of ``fitted_pieces``. Raises JobError."""
    return Bodies([solid_of(piece, job.meshes, "powertrain/pieces") for piece in fitted_pieces(job)])
