"""The rod of a torque strut, its bracket on the chassis, and its ears on the engine."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.family import bracket_family
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.families.plate import block_bolts, plate_part, spacer_part
from nimble_cradle.families.strut_ears import ears_on_plate, told_of_ears
from nimble_cradle.families.strut_stand import on_chassis, told_of
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.job.base import JobError
from nimble_cradle.job.remember import of_same
from nimble_cradle.job.strut import Strut
from nimble_cradle.made.mount import held_parts
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.tubes import round_tube


def strut_part(strut: Strut, pose: Pose) -> MadePart:
    """The rod between its eyes, vehicle frame; without a solid where both are in one place."""
    engine, chassis = pose.points(strut.engine_at), np.asarray(strut.chassis_at, dtype=float)
    long = float(np.linalg.norm(engine - chassis))
    tube = round_tube(strut.rod_outside_mm, strut.rod_wall_mm)
    return MadePart(
        Owner("strut", strut.id),
        "rod",
        f"{strut.name}: rod",
        (bar(engine, chassis, strut.rod_outside_mm),) if long > 1.0 else (),
        stock=Stock(
            f"tube {strut.rod_outside_mm:g} x {strut.rod_wall_mm:g}",
            strut.steel,
            f"{math.ceil(long)} from eye to eye, less both eyes",
            round(long / 1000 * tube.kg_per_m, 2),
            "an eye with its rubber at each end",
            Form("tube", (strut.rod_outside_mm, strut.rod_wall_mm)),
        ),
        joints=(Joint("bolted to", "block"), Joint("bolted to", "chassis")),
        version=(strut, pose),
    )


@of_same()
def bracket_parts(strut: Strut, seat: FootSeat) -> tuple[MadePart, ...]:
    """What holds a strut on the chassis: bolt, cheeks, foot. Raises JobError where that cannot be made."""
    owner = Owner("strut", strut.id)
    try:
        parts = held_parts(on_chassis(strut), seat)
    except JobError as error:
        raise told_of(strut, error) from None
    return tuple(replace(part, owner=owner, version=(strut, seat)) for part in parts)


@of_same()
def ears_parts(strut: Strut) -> tuple[MadePart, ...]:
    """What holds a strut on the engine: plate, bolts, ears and the bolt through its eye; powertrain frame.
    Nothing where it has none. Raises JobError where they cannot be made."""
    if strut.ears is None:
        return ()
    try:
        mount, ears = ears_on_plate(strut)
        run = arm_run(mount, Pose.still())
        spacers, through = spacer_part(mount), bracket_family(mount.cross_bolt).parts(mount)[0]
        two = ears.part("plate")
        assert two.stock is not None
        parts = [
            replace(plate_part(mount, run), name=f"{strut.name}: plate on the engine"),
            *([] if spacers is None else [replace(spacers, name=f"{strut.name}: spacers on the engine")]),
            replace(
                two,
                role="ears",
                name=f"{strut.name}: ears on the engine",
                stock=replace(two.stock, note=f"template ear-{strut.id}"),
                templates=(f"ear-{strut.id}",),
            ),
            *block_bolts(mount),
            replace(through, role="eye-bolt", name=f"{strut.name}: bolt through its eye on the engine"),
        ]
    except JobError as error:
        raise told_of_ears(strut, error) from None
    owner = Owner("strut", strut.id)
    return tuple(replace(part, owner=owner, moves=True, version=(strut,)) for part in parts)
