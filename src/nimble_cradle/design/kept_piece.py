"""What is cut out of a member, kept as a thing of its own: to be moved, made shorter and welded in elsewhere,
or only to be measured against until it is out."""

from __future__ import annotations

from nimble_cradle.bay.bodies import cut_of
from nimble_cradle.bay.cut_solids import solid_of
from nimble_cradle.bay.member import whole_items
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import added, free_id
from nimble_cradle.job.job import Job


def with_piece_kept(job: Job, opening_id: str) -> tuple[Job, Item]:
    """The job with the piece that an opening takes from its member as an item where it was, and that item. It
    is what it was of, and no part of the chassis until somebody says so. Raises JobError."""
    opening = next((o for o in job.openings if o.id == opening_id), None)
    if opening is None:
        raise JobError("That cut is not in the job.", "openings")
    place = f"openings/{opening.id}"
    if opening.is_hole:
        raise JobError(f"{opening.name} is a hole; what comes out of it is scrap.", f"{place}/form")
    whole = next((item for item in whole_items(job) if item.id == opening.item), None)
    if whole is None:
        raise JobError(f"{opening.name}: what it is cut out of is not there any more.", f"{place}/item")
    stored = next(item for item in job.items if item.id == whole.id)
    cut = cut_of(job, whole, opening, keeps=True)
    piece = stored.model_copy(
        update={
            "id": free_id(f"{stored.id}-piece"[:36], {item.id for item in job.items}),
            "name": f"{opening.name}: piece cut out"[:80],
            "cuts": (*stored.cuts, cut),
            "chassis": False,
            "motion": None,
            "fate": "open",
            "note": f"Cut out of {stored.name}.",
        }
    )
    solid_of(whole.model_copy(update={"cuts": piece.cuts}), job.meshes, "items")  # raises if nothing is left
    return added(job, "items", piece), piece
