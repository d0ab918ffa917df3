"""The rod of a torque strut, and its bracket on the chassis."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
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
