"""A bush with a sleeve in a round eye, of whatever stuff: its eye, sleeve and filling as parts."""

from __future__ import annotations

import numpy as np

from nimble_cradle.families.eye import eye_solid
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.geometry.pose import Pose, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.tubes import round_tube


def eye_part(mount: Mount, pose: Pose, wall_mm: float) -> MadePart:
    """The ring that arm or plate is welded to."""
    from nimble_cradle.families.family import eye_of

    eye = eye_of(mount.bush)
    tube = round_tube(eye.outside_mm, wall_mm)
    stock = Stock(
        f"tube {eye.outside_mm:g} x {wall_mm:g}",
        mount.pad.steel,
        f"{eye.length_mm:g} long",
        round(eye.length_mm / 1000 * tube.kg_per_m, 2),
        "weld before the bush goes in",
        Form("tube", (eye.outside_mm, wall_mm)),
    )
    return MadePart(
        Owner("mount", mount.id),
        "eye",
        f"{mount.name}: bush eye",
        (eye_solid(mount).placed(pose.inverse()),),
        moves=True,
        stock=stock,
        joints=(Joint("welded to", "arm" if mount.arm is not None else "plate"),),
        templates=(f"eye-{mount.id}",) if mount.arm is not None else (),
    )


def sleeve_part(mount: Mount, outside: float, bore: float, long: float) -> MadePart:
    """The sleeve that the cross-bolt clamps; it stays where the chassis holds it."""
    tube = round_tube(outside, (outside - bore) / 2)
    stock = Stock(
        f"tube {outside:g} outside, {bore:g} bore",
        "E355",
        f"{long:g} long",
        round(long / 1000 * tube.kg_per_m, 2),
        "ends square: the cross-bolt clamps it",
        Form("tube", (outside, (outside - bore) / 2)),
    )
    return MadePart(
        Owner("mount", mount.id),
        "sleeve",
        f"{mount.name}: sleeve",
        (_sleeve_solid(mount, outside, long),),
        stock=stock,
        joints=(Joint("bolted to", "cheeks"),),
    )


def _sleeve_solid(mount: Mount, outside: float, long: float) -> ConvexPart:
    centre, half = np.asarray(mount.bush.centre, dtype=float), unit(mount.bush.axis) * long / 2
    return bar(centre - half, centre + half, outside)


def filling_part(mount: Mount, stock: Stock) -> MadePart:
    """What is between sleeve and eye; it is listed, not drawn."""
    return MadePart(
        Owner("mount", mount.id),
        "rubber",
        f"{mount.name}: bush",
        stock=stock,
        joints=(Joint("stands on", "sleeve"), Joint("stands on", "eye")),
    )
