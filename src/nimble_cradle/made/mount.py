"""The parts of a mount: plate, arm, eye, sleeve, rubber, bolts, packing piece, and what holds it on the
chassis."""

from __future__ import annotations

import math

from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.eye import eye_spacing, packing_heights
from nimble_cradle.families.family import arm_family, bracket_family, bush_family, eye_of, foot_family
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.families.plate import block_bolts, plate_part, spacer_part
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import DENSITY_STEEL


def mount_parts(
    mount: Mount, pose: Pose, seat: FootSeat | None = None, held: tuple[MadePart, ...] | None = None
) -> tuple[MadePart, ...]:
    """All parts of a mount for the powertrain at ``pose``, in the order of the cut list. seat: of its chassis
    side, where that is known. held: what holds its bush on the chassis, where that is made already. Raises
    JobError where its plate, arm or foot cannot be made."""
    run = arm_run(mount, pose)
    arm = arm_family(mount.arm).parts(mount, run, pose) if mount.arm is not None else ()
    packing, spacers = packing_part(mount, pose), spacer_part(mount)
    return (
        plate_part(mount, run),
        *([spacers] if spacers is not None else []),
        *arm,
        *bush_family(mount.bush).parts(mount, pose),
        *block_bolts(mount),
        *(held_parts(mount, seat) if held is None else held),
        *([packing] if packing is not None else []),
    )


def bush_parts(mount: Mount, pose: Pose, held: tuple[MadePart, ...]) -> tuple[MadePart, ...]:
    """What there is of a mount whose plate or arm cannot be made: its bush, and what holds that on the
    chassis, or stands in for it."""
    return (*bush_family(mount.bush).parts(mount, pose), *held)


def held_parts(mount: Mount, seat: FootSeat | None) -> tuple[MadePart, ...]:
    """The cross-bolt and the chassis side; cheeks that stand in for it where that is not described. They know
    nothing of where the powertrain stands. Raises JobError."""
    held = bracket_family(mount.cross_bolt).parts(mount)
    if seat is None or mount.foot is None:
        return held
    return (*(part for part in held if not part.stands_in), *foot_family(mount.foot).parts(mount, seat))


def packing_part(mount: Mount, pose: Pose) -> MadePart | None:
    """The packing piece under an eye without an arm; None where there is none. It is listed, not drawn: it
    lies within the outline of eye and plate. Raises JobError."""
    heights = packing_heights(mount, pose)
    if heights is None:
        return None
    deep, wide, length = max(heights), eye_spacing(mount), eye_of(mount.bush).length_mm
    even = f"{heights[0]:.1f}" == f"{heights[1]:.1f}"
    tall = f"{heights[0]:.1f} high"
    if not even:
        tall += f" at one end, {heights[1]:.1f} at the other"
    stock = Stock(
        f"flat {math.ceil(wide)} x {math.ceil(deep - 1e-6)}",
        mount.pad.steel,
        f"{length:g} long, {tall}",
        round(sum(heights) / 2 * wide * length * DENSITY_STEEL, 2),
        "under the eye, low end where the eye is nearest the plate; weld it to the plate all round",
        Form("flat", (float(math.ceil(wide)), float(math.ceil(deep - 1e-6)))),
    )
    return MadePart(
        Owner("mount", mount.id),
        "packing",
        f"{mount.name}: packing piece",
        moves=True,
        stock=stock,
        joints=(Joint("welded to", "plate"), Joint("welded to", "eye")),
    )
