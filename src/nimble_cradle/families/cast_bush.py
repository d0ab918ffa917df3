"""Polyurethane halves cast in moulds of one's own: a pressed polyurethane bush, and how it is poured, pressed
in and moulded."""

from __future__ import annotations

from dataclasses import replace

from nimble_cradle.families import greased_bush
from nimble_cradle.families.greased_bush import (
    bare_law,
    between_cheeks_mm,
    bolt_hole_mm,
    eye,
    law,
    side_room_mm,
    sleeve_outside_mm,
    stiffness,
)
from nimble_cradle.families.part import MadePart, Stock
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, alone
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.cast_bush import CastBush
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.strength.cast import CAST_FIT, DENSITY, cast_fit, cast_pour

__all__ = [
    "bare_law",
    "between_cheeks_mm",
    "bolt_hole_mm",
    "eye",
    "law",
    "side_room_mm",
    "sleeve_outside_mm",
    "stiffness",
]
LOAD_PATH = (*greased_bush.LOAD_PATH, ("cast halves", ("cast-fit",)))


def _bush(mount: Mount) -> CastBush:
    assert isinstance(mount.bush, CastBush)
    return mount.bush


def hardness(bush: CastBush) -> float | None:
    """Shore A where its stiffness follows from that."""
    return None if bush.modulus_mpa or bush.tested else bush.hardness_shore_a


def poured(bush: CastBush) -> tuple[float, float, float, float]:
    """Both halves and the pour, ml; A and B of it, g."""
    return cast_pour(
        bush.body_mm,
        bush.hole_mm,
        bush.half_long_mm,
        bush.flange_mm,
        bush.flange_outside_mm,
        bush.waste_percent,
        bush.parts_a,
        bush.parts_b,
    )


def mould_scale(bush: CastBush) -> float:
    """A mould is so many times as large as what comes out of it."""
    return 1 + bush.shrink_percent / 100


def parts(mount: Mount, pose: Pose) -> tuple[MadePart, ...]:
    """Eye, sleeve, and the two halves with what they are poured of."""
    bush = _bush(mount)
    made = greased_bush.parts(mount, pose)
    halves, pour, a, b = poured(bush)
    share = (
        f"{a:.0f} g of A and {b:.0f} g of B"
        if bush.mixed_by == "weight"
        else f"A to B {bush.parts_a:g} : {bush.parts_b:g} by volume"
    )
    stock = Stock(
        "two-part polyurethane",
        f"{bush.hardness_shore_a:g} Shore A",
        f"{pour:.0f} ml: {share}",
        round(halves * DENSITY, 2),  # ml by g/mm3: kg
        f"two halves, cured {bush.cure_hours:g} h, pressed in from both ends; grease the sleeve; template"
        f" mould-{mount.id}",
        Form("bush", (pour,)),
    )
    filling = next(part for part in made if part.role == "rubber")
    cast = replace(filling, stock=stock, templates=(f"mould-{mount.id}",))
    return tuple(cast if part is filling else part for part in made)


def checks(mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
    """Of a pressed bush, and whether the halves go in and their flanges come to the eye."""
    bush = _bush(mount)
    given = {
        "body": bush.body_mm,
        "hole": bush.hole_mm,
        "eye_bore": bush.eye_bore_mm,
        "sleeve": bush.sleeve_mm,
        "half_long": bush.half_long_mm,
        "length": bush.length_mm,
    }
    fit = alone(
        mount,
        Check("cast-fit", "cast halves in their eye", "length", "a smaller body, shorter halves"),
        cast_fit(**given)[2],
        CAST_FIT,
        {"body": "bush", "half_long": "bush"},
        "pressed in",
        **given,
    )
    return [*greased_bush.checks(mount, cases, allow), fit]
