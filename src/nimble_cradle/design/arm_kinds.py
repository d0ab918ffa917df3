"""Another family of arm between the same plate and eye, with sizes to begin from; out of the rack where that
has it."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.design.split_arm import with_split_arm
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.family import eye_of
from nimble_cradle.families.landing import footprint, weld_throat
from nimble_cradle.job.bar_arm import BarArm
from nimble_cradle.job.base import JobError
from nimble_cradle.job.boxed_arm import BoxedArm
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.flats_arm import FlatsArm
from nimble_cradle.job.job import Job
from nimble_cradle.job.kinked_arm import KinkedArm
from nimble_cradle.job.mounts import AnyArm, Mount
from nimble_cradle.job.tube_arm import Tube, TubeArm
from nimble_cradle.stock.rack import NOTHING, Rack
from nimble_cradle.stock.washers import washer_radius

ArmKind = Literal["tube", "kinked", "flats", "boxed"]
ARM_WORDS: dict[ArmKind | None, str] = {
    "tube": "a round tube",
    "kinked": "a tube in two legs, led round",
    "flats": "two flat bars on edge",
    "boxed": "a box of plates or a section",
    None: "none: the eye on the plate",
}


def with_arm_kind(job: Job, mount: Mount, kind: ArmKind | None, rack: Rack = NOTHING) -> Job:
    """The job with an arm of another family in a mount, about as wide as the one before. Raises JobError."""
    now = None if mount.arm is None else mount.arm.kind
    if now == kind:
        return job
    if kind != "kinked":
        return with_value(job, f"mounts/{mount.id}/arm", _lower(job, mount, _made(mount, kind, rack)))
    tube = with_arm_kind(job, mount, "tube", rack)
    after = with_split_arm(tube, next(m for m in tube.mounts if m.id == mount.id))
    if isinstance(next(m for m in after.mounts if m.id == mount.id).arm, KinkedArm):
        return after
    raise JobError(
        f"{mount.name}: a straight tube is clear, there is nothing to lead it round.",
        f"mounts/{mount.id}/arm",
    )


def _lower(job: Job, mount: Mount, arm: AnyArm | None) -> AnyArm | None:
    """An arm of bar made so low at the plate that its weld is clear of the bolts' washers, where that can
    be."""
    if not isinstance(arm, BarArm):
        return arm
    pad, tall = mount.pad, arm.tall_mm
    for share in (1.0, 0.9, 0.8, 0.7, 0.6, 0.5):
        low = arm.model_copy(
            update={"tall_mm": round(share * tall), "tall_at_eye_mm": min(arm.tall_at_eye_mm, share * tall)}
        )
        trial = mount.model_copy(update={"arm": low})
        try:
            run = arm_run(trial, pose_of(job.position))
            away = footprint(trial, run, weld_throat(trial) * math.sqrt(2)).away(np.array(pad.every_hole))
        except (JobError, ValueError):
            return arm
        if len(away) and (away >= [washer_radius(bolt.size) for bolt in pad.bolts]).all():
            return low
    return arm


def _made(mount: Mount, kind: ArmKind | None, rack: Rack) -> AnyArm | None:
    eye = eye_of(mount.bush)
    wide = mount.arm.outside_mm if isinstance(mount.arm, Tube) else 45.0
    at_eye = round(min(wide, 0.75 * eye.outside_mm))
    if kind is None:
        return None
    if kind == "tube":
        if isinstance(mount.arm, Tube):
            return TubeArm(**{name: getattr(mount.arm, name) for name in Tube.model_fields})
        return TubeArm(outside_mm=min(wide, round(0.9 * eye.outside_mm)), wall_mm=3.0)
    if kind == "flats":
        bar = first_flat(rack, 1.3 * wide)
        tall, thick = bar if bar is not None else (round(1.3 * wide), 5.0)
        apart = min(round(0.8 * wide), eye.length_mm - 2 * thick)
        if apart < thick:
            raise JobError(
                f"{mount.name}: an eye {eye.length_mm:g} mm long has no room for two bars.",
                f"mounts/{mount.id}/bush/length_mm",
            )
        return FlatsArm(tall_mm=tall, tall_at_eye_mm=min(at_eye, tall), thick_mm=thick, apart_mm=apart)
    across = min(round(wide), eye.length_mm)
    return BoxedArm(tall_mm=round(1.2 * wide), tall_at_eye_mm=at_eye, wide_mm=across, wall_mm=3.0)


def first_flat(rack: Rack, tall: float) -> tuple[float, float] | None:
    """Width and thickness of the flat bar at hand whose width is nearest to ``tall``, the thicker of two;
    None without one."""
    bars = [
        (bar.width_mm, bar.thickness_mm)
        for bar in rack.bars
        if bar.shape == "flat" and bar.thickness_mm is not None
    ]
    return min(bars, key=lambda bar: (abs(bar[0] - tall), -bar[1]), default=None)
