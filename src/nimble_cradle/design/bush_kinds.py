"""Another family of bush in the same place, with sizes to begin from."""

from __future__ import annotations

import math
from typing import Any, Literal

from nimble_cradle.families.family import bush_family, eye_of
from nimble_cradle.job.bonded_bush import BondedBush
from nimble_cradle.job.cast_bush import CastBush
from nimble_cradle.job.donor_bush import DonorBush
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.greased_bush import GreasedBush
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import AnyBush, Mount
from nimble_cradle.job.puck_bush import PuckBush
from nimble_cradle.job.solid_bush import SolidBush

BushKind = Literal["bonded", "greased", "cast", "puck", "donor", "solid"]
BUSH_WORDS: dict[BushKind, str] = {
    "bonded": "rubber bonded in an eye",
    "greased": "pressed polyurethane, greased sleeve",
    "cast": "polyurethane halves, cast by you",
    "puck": "pucks on a bolt",
    "donor": "the donor's own rubber",
    "solid": "solid, no rubber",
}


def with_bush_kind(job: Job, mount: Mount, kind: BushKind) -> Job:
    """The job with a bush of another family in a mount, for the same bolt and about as large. Raises
    JobError."""
    if mount.bush.kind == kind:
        return job
    return with_value(job, f"mounts/{mount.id}/bush", _made(mount, kind))


def _made(mount: Mount, kind: BushKind) -> AnyBush:
    old = mount.bush
    outside, family = eye_of(old).outside_mm, bush_family(old)
    bore = family.bolt_hole_mm(old)
    kept: dict[str, Any] = {
        "centre": old.centre,
        "axis": old.axis,
        "loss_factor": old.loss_factor,
        "dynamic_ratio": old.dynamic_ratio,
    }
    wall = 4.0
    inside = max(round(outside - 2 * wall), round(bore) + 20.0)
    sleeve = round(bore + 9.8, 1)
    length = max(eye_of(old).length_mm, 40.0)
    hard = family.hardness(old)
    if kind == "puck":
        long = 20.0 + 6.0 + 15.0 - 3.0
        return PuckBush(
            **kept,
            outside_mm=max(inside - 4.0, sleeve + 25.0),
            hole_mm=sleeve + 1.0,
            thickness_mm=20.0,
            rebound_mm=15.0,
            sleeve_mm=sleeve,
            sleeve_bore_mm=bore,
            sleeve_long_mm=long,
            hardness_irhd=min(max(hard or 55.0, 40.0), 75.0),
        )
    if kind == "donor":
        return DonorBush(
            **kept,
            outside_mm=inside,
            height_free_mm=length,
            height_loaded_mm=length - 5.0,
            loaded_kg=60.0,
            stud_mm=bore,
        )
    if kind == "solid":
        return SolidBush(**kept, sleeve_bore_mm=bore, eye_bore_mm=inside, eye_wall_mm=wall, length_mm=length)
    sizes = {
        "sleeve_mm": sleeve,
        "sleeve_bore_mm": bore,
        "eye_bore_mm": inside,
        "eye_wall_mm": wall,
        "length_mm": length,
    }
    if kind == "greased":
        return GreasedBush(**kept, **sizes)
    if kind == "cast":
        hole = round(sleeve - 1.0, 1)
        body, flange = round(inside + 1.0, 1), round(inside + 14.0)
        larger = (body**2 - hole**2) / (inside**2 - sleeve**2)
        half = math.floor(10 * 0.98 * length / 2 / larger) / 10
        return CastBush(
            **kept, **sizes, body_mm=body, hole_mm=hole, half_long_mm=half, flange_outside_mm=flange
        )
    return BondedBush(**kept, **sizes, hardness_shore_a=hard or 50.0)
