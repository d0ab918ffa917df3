"""What hangs on the powertrain besides its pieces: plates, arms and eyes, and the room that fittings need."""

from __future__ import annotations

from nimble_cradle.fit.gaps import Fitting, Fittings, piece_rooms
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.made.parts import made_mounts


@remembered("mounts", "position", "powertrain", "items", "survey", "meshes", "crossmember", "cradles")
def fittings(job: Job) -> Fittings:
    """Plate, arm and eye of every mount that can be made, as they hang on the powertrain (ids with
    ``.arm``), and the room that fittings need to be screwed in (ids with ``.room``)."""
    names = {mount.id: mount.name for mount in job.mounts}
    out = [
        Fitting(
            f"{owner.id}.arm",
            f"{names[owner.id]}, arm and eye",
            tuple(s for part in parts if part.moves for s in part.solids),
        )
        for owner, parts in made_mounts(job).whole("mount")
    ]
    return Fittings([*out, *piece_rooms(job)])
