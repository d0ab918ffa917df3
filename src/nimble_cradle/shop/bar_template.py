"""The template of an arm of flat bar or of plate: its flat pieces at 1:1."""

from __future__ import annotations

import numpy as np

from nimble_cradle.bay.position import facing_words, pose_of
from nimble_cradle.families import boxed_arm, flats_arm
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.bar_arm import BarRun
from nimble_cradle.job.base import JobError
from nimble_cradle.job.boxed_arm import BoxedArm
from nimble_cradle.job.flats_arm import FlatsArm
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.shop.page import Drawing, Mark, Text, path
from nimble_cradle.units import show

BETWEEN = 14.0
"""Between two pieces on the sheet, mm."""


def bars_drawing(mount: Mount, job: Job) -> Drawing:
    """The flat pieces of a mount's arm, one over the other: its bars or sides as one sees them with the
    bush's axis pointing away from one, plate to the left; strips as seen from over the arm.
    Raises JobError."""
    arm, run = mount.arm, arm_run(mount, pose_of(job.position))
    if isinstance(arm, FlatsArm):
        pieces, sheet = flats_arm.flats(mount, run), arm.thick_mm
    elif isinstance(arm, BoxedArm):
        pieces, sheet = boxed_arm.flats(mount, run), arm.wall_mm
    else:
        raise JobError(f"{mount.name}: its arm is not cut from flat.", f"mounts/{mount.id}/arm")
    bar = BarRun.of(mount, run)
    if isinstance(arm, BoxedArm) and arm.made == "section":
        pieces = pieces[:2]  # its sides are marked on the section
    marks: list[Mark] = []
    base = 0.0
    for name, outline in pieces:
        low, high = outline.min(0), outline.max(0)
        moved = outline + np.array([-low[0], base - low[1]])
        marks.append(path(moved, closed=True))
        marks.append(Text((2.0, base + (high[1] - low[1]) / 2), name, 3.2))
        base += float(high[1] - low[1]) + BETWEEN
    marks.append(Text((0.0, -7.0), f"{mount.name}: arm, {sheet:g} mm {arm.steel}", 3.5))
    display = job.show.display
    notes = (
        "Sides and bars: seen with the bush's axis pointing away from you, plate to the left; that face looks"
        f" {facing_words(-bar.axes[:, 0])}, the upper edge {facing_words(bar.axes[:, 1])}, with the engine in"
        " its place. A is the one nearer to you.",
        "Drawn at the middle of their thickness: grind the ends to plate and eye. The axis is"
        f" {show(run.length - run.eye_radius, 'length', display)} from plate to eye and leaves the plate"
        f" {run.plate_angle_deg:.1f} deg from square; eye {2 * run.eye_radius:g} mm outside, met at"
        f" {run.eye_angle_deg:.1f} deg.",
        *_more(mount),
    )
    return Drawing(f"arm-{mount.id}", f"{mount.name}: arm, its flat pieces", tuple(marks), notes)


def _more(mount: Mount) -> tuple[str, ...]:
    """What there is to say of one kind."""
    arm = mount.arm
    if isinstance(arm, FlatsArm):
        tied = f"; {arm.battens} on edge between them, at equal distances" if arm.battens else ""
        return (
            f"The bars stand {arm.apart_mm:g} mm apart, half of that each side of the eye's middle{tied}.",
        )
    assert isinstance(arm, BoxedArm)
    if arm.made == "section":
        return ("Mark both sides of the section with it.",)
    return (
        f"The strips lie between the sides and are {arm.wide_mm - 2 * arm.wall_mm:g} mm wide; they are drawn"
        " as seen from the arm's upper edge.",
    )
