"""The pressed polyurethane bush on a greased sleeve: its law, its parts, its checks."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.families import round_eye
from nimble_cradle.families.bonded_stiffness import radial_beta_short, youngs_modulus
from nimble_cradle.families.bush_use import movement, pressure, shares
from nimble_cradle.families.family import BushStiffness, Eye
from nimble_cradle.families.law import METAL_STOP, AxialStop, Law, Linear, RadialStop
from nimble_cradle.families.part import MadePart, Stock
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.cast_bush import CastBush
from nimble_cradle.job.greased_bush import GreasedBush
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.strength.cast import squeeze_modulus
from nimble_cradle.strength.rubber import STRAIN_USE

LOAD_PATH = (("eye", ("eye-wall",)), ("polyurethane", ("pressure", "strain", "side-travel")))
SOLID_AT = 0.4
"""Share of its wall that unbonded polyurethane gives until it is as good as solid (common practice, no
source)."""
FLANGE_LEAD = 0.5
"""Over so many mm a flange comes to bear."""
POLYURETHANE = 1.1e-6
"""kg/mm3 (common practice, no source)."""


def greased_stiffness(
    sleeve: float, eye_bore: float, length: float, flange: float, modulus: float
) -> tuple[float, float]:
    """Stiffness N/mm across, and of a flange once it bears. modulus: Young's, MPa."""
    g, a, b = modulus / 3, sleeve / 2, eye_bore / 2
    ring = math.pi * ((1.2 * b) ** 2 - b**2)
    return radial_beta_short(a, b) * g * length, modulus * ring / flange


STIFFNESS = calculation(
    "greased-bush-stiffness",
    "Stiffness of a pressed polyurethane bush on a greased sleeve",
    inputs=(
        Q("sleeve", "mm", "sleeve outside", above=0),
        Q("eye_bore", "mm", "bore of the eye", above=0),
        Q("length", "mm", "length in the eye", above=0),
        Q("flange", "mm", "each flange, thick", above=0),
        Q("modulus", "MPa", "Young's modulus", above=0),
    ),
    outputs=(Q("radial", "N/mm", "across"), Q("flange_stiffness", "N/mm", "along, once a flange bears")),
    formula="across: a short bonded bush's beta G L, G = E/3;  flange: E A/t of a ring 0.1 D wide",
    source="Adkins and Gent (1954), the limit of free ends (from memory); the ring: definition",
    leaves_out=(
        "that it is pressed in tight, which makes it harder, and slips on its sleeve, which makes it"
        " softer: a maker's figure or a squeeze test is better"
    ),
)(greased_stiffness)


def modulus_of(bush: GreasedBush) -> float:
    """Young's modulus, MPa: as measured, else by a squeeze test, else by hardness."""
    if bush.modulus_mpa:
        return bush.modulus_mpa
    if isinstance(bush, CastBush) and bush.squeeze_n is not None and bush.squeeze_mm is not None:
        return squeeze_modulus(bush.test_outside_mm, bush.test_high_mm, bush.squeeze_n, bush.squeeze_mm)
    return youngs_modulus(bush.hardness_shore_a)


def modulus_from(bush: GreasedBush) -> str:
    """Where its modulus comes from."""
    if bush.modulus_mpa:
        return "bush"
    return "squeeze test" if isinstance(bush, CastBush) and bush.tested else "its hardness"


def eye(bush: GreasedBush) -> Eye:
    """The tube that it is pressed into."""
    return Eye(bush.eye_bore_mm + 2 * bush.eye_wall_mm, bush.eye_wall_mm, bush.length_mm)


def bolt_hole_mm(bush: GreasedBush) -> float:
    """Bore of the sleeve, mm."""
    return bush.sleeve_bore_mm


def sleeve_outside_mm(bush: GreasedBush) -> float:
    """Outside of the sleeve, mm."""
    return bush.sleeve_mm


def hardness(bush: GreasedBush) -> float | None:
    """Shore A where its stiffness follows from that."""
    return None if bush.modulus_mpa else bush.hardness_shore_a


def stiffness(bush: GreasedBush) -> BushStiffness:
    """Across by formula; along nothing until a flange bears."""
    worked = STIFFNESS.work(
        {"sleeve": "bush", "modulus": modulus_from(bush)},
        sleeve=bush.sleeve_mm,
        eye_bore=bush.eye_bore_mm,
        length=bush.length_mm,
        flange=bush.flange_mm,
        modulus=modulus_of(bush),
    )
    return BushStiffness(worked.value("radial"), FREE_ALONG, worked)


FREE_ALONG = 1.0
"""N/mm along until a flange bears: grease holds next to nothing."""


def law(mount: Mount) -> Law:
    """Linear across to where it is solid; along free until a flange bears."""
    bush = mount.bush
    assert isinstance(bush, GreasedBush)
    k = stiffness(bush)
    solid = SOLID_AT * (bush.eye_bore_mm - bush.sleeve_mm) / 2
    gap = bush.flange_gap_mm
    bears = min(k.worked.value("flange_stiffness"), METAL_STOP)
    return Law(
        (
            Linear(k.radial, FREE_ALONG),
            RadialStop(solid),
            AxialStop(gap, gap, bears, FLANGE_LEAD),
            AxialStop(gap + bush.flange_mm * SOLID_AT, gap + bush.flange_mm * SOLID_AT),
        ),
        (solid, gap),
    )


def between_cheeks_mm(mount: Mount) -> float:
    """Eye, both flanges and their gaps."""
    bush = mount.bush
    assert isinstance(bush, GreasedBush)
    return bush.length_mm + 2 * (bush.flange_mm + bush.flange_gap_mm)


def bare_law(mount: Mount, left: float) -> Law:
    """Sleeve in eye, eye between cheeks."""
    bush = mount.bush
    assert isinstance(bush, GreasedBush)
    wall = (bush.eye_bore_mm - bush.sleeve_mm) / 2
    gap = bush.flange_gap_mm + bush.flange_mm
    terms = Linear(left * stiffness(bush).radial, FREE_ALONG), RadialStop(wall), AxialStop(gap, gap)
    return Law(terms, (wall, gap))


def side_room_mm(mount: Mount) -> float:
    """From where it stands to where a flange is as good as solid, mm."""
    bush = mount.bush
    assert isinstance(bush, GreasedBush)
    return bush.flange_gap_mm + SOLID_AT * bush.flange_mm


def parts(mount: Mount, pose: Pose) -> tuple[MadePart, ...]:
    """Eye, sleeve and the two halves."""
    bush = mount.bush
    assert isinstance(bush, GreasedBush)
    volume = math.pi / 4 * (bush.eye_bore_mm**2 - bush.sleeve_mm**2) * bush.length_mm
    sizes = (
        bush.sleeve_mm,
        bush.sleeve_bore_mm,
        bush.eye_bore_mm,
        bush.eye_wall_mm,
        bush.length_mm,
        bush.hardness_shore_a,
    )
    stock = Stock(
        f"polyurethane, {bush.hardness_shore_a:g} Shore A",
        "polyurethane",
        f"{bush.eye_bore_mm:g} x {bush.sleeve_mm:g} x {bush.length_mm:g}, flanges {bush.flange_mm:g}",
        round(volume * POLYURETHANE, 2),
        "two halves, pressed in; grease the sleeve",
        Form("bush", sizes),
    )
    return (
        round_eye.eye_part(mount, pose, bush.eye_wall_mm),
        round_eye.sleeve_part(mount, bush.sleeve_mm, bush.sleeve_bore_mm, between_cheeks_mm(mount)),
        round_eye.filling_part(mount, stock),
    )


def checks(mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
    """Pressure and movement across."""
    bush = mount.bush
    assert isinstance(bush, GreasedBush)
    across = np.array([case.radial_mm for case in cases.rows])
    return [
        pressure(mount, cases, allow.bush_pressure_mpa, bush.sleeve_mm, bush.length_mm),
        movement(
            mount,
            Check("strain", "polyurethane used up sideways", "length", "a harder bush or a thicker wall"),
            STRAIN_USE,
            cases,
            across,
            shares(cases, allow),
            bush.sleeve_mm,
            bush.eye_bore_mm,
        ),
    ]
