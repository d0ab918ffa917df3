"""The bonded bush: its law, its eye, its parts, its checks."""

from __future__ import annotations

import numpy as np

from nimble_cradle.families import round_eye
from nimble_cradle.families.bonded_stiffness import stiffness as stiffness
from nimble_cradle.families.bush_use import movement, pressure, shares
from nimble_cradle.families.family import Eye
from nimble_cradle.families.law import AxialStop, Law, Linear, RadialStop
from nimble_cradle.families.part import MadePart, Stock
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.bonded_bush import BondedBush
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.bushes import BushSize
from nimble_cradle.stock.form import Form
from nimble_cradle.strength.rubber import AXIAL, STRAIN_USE

LOAD_PATH = (("eye", ("eye-wall",)), ("rubber", ("pressure", "strain", "axial", "side-travel")))
SOLID_AT = 0.55
"""Share of its wall that rubber gives until it is as good as solid (common practice, no source)."""


def eye(bush: BondedBush) -> Eye:
    """The tube that the rubber is bonded into."""
    return Eye(bush.eye_bore_mm + 2 * bush.eye_wall_mm, bush.eye_wall_mm, bush.length_mm)


def bolt_hole_mm(bush: BondedBush) -> float:
    """Bore of the sleeve, mm."""
    return bush.sleeve_bore_mm


def sleeve_outside_mm(bush: BondedBush) -> float:
    """Outside of the sleeve, mm."""
    return bush.sleeve_mm


def hardness(bush: BondedBush) -> float | None:
    """Shore A where its stiffness across follows from that, None where it was measured."""
    return None if bush.stiffness_radial else bush.hardness_shore_a


def sleeve_mm(mount: Mount) -> float:
    """Length of the sleeve as it is cut, mm: past the eye by the gap to each cheek before tightening."""
    bush = mount.bush
    assert isinstance(bush, BondedBush)
    return bush.length_mm + 2 * mount.cross_bolt.gap_mm


def between_cheeks_mm(mount: Mount) -> float:
    """The eye and its room on both sides, mm."""
    bush = mount.bush
    assert isinstance(bush, BondedBush)
    return bush.length_mm + 2 * mount.cross_bolt.eye_gap_mm


def law(mount: Mount) -> Law:
    """Linear until it is as good as solid across, or its eye meets a cheek."""
    bush = mount.bush
    assert isinstance(bush, BondedBush)
    k = stiffness(bush)
    solid = SOLID_AT * (bush.eye_bore_mm - bush.sleeve_mm) / 2
    gap = mount.cross_bolt.eye_gap_mm
    return Law((Linear(k.radial, k.axial), RadialStop(solid), AxialStop(gap, gap)), (solid, gap))


def bare_law(mount: Mount, left: float) -> Law:
    """Sleeve in eye, eye between cheeks."""
    bush = mount.bush
    assert isinstance(bush, BondedBush)
    k, gap = stiffness(bush), mount.cross_bolt.eye_gap_mm
    wall = (bush.eye_bore_mm - bush.sleeve_mm) / 2
    return Law((Linear(left * k.radial, left * k.axial), RadialStop(wall), AxialStop(gap, gap)), (wall, gap))


def side_room_mm(mount: Mount) -> float:
    """The eye to a cheek, mm."""
    return mount.cross_bolt.eye_gap_mm


def parts(mount: Mount, pose: Pose) -> tuple[MadePart, ...]:
    """Eye, sleeve and rubber, for the powertrain at ``pose``."""
    bush = mount.bush
    assert isinstance(bush, BondedBush)
    stock = Stock(
        f"rubber, {bush.hardness_shore_a:g} Shore A",
        "rubber",
        f"{bush.eye_bore_mm:g} x {bush.sleeve_mm:g} x {bush.length_mm:g}",
        0.0,
        "bonded, or bought to this size",
        Form("bush", tuple(getattr(bush, name) for name in BushSize._fields)),
    )
    return (
        round_eye.eye_part(mount, pose, bush.eye_wall_mm),
        round_eye.sleeve_part(mount, bush.sleeve_mm, bush.sleeve_bore_mm, sleeve_mm(mount)),
        round_eye.filling_part(mount, stock),
    )


def checks(mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
    """Pressure, movement across and along; loads as they are, the limits are the rubber's own."""
    bush = mount.bush
    assert isinstance(bush, BondedBush)
    most = shares(cases, allow)
    across = np.array([case.radial_mm for case in cases.rows])
    along = np.abs([case.axial_mm for case in cases.rows])
    sizes = bush.sleeve_mm, bush.eye_bore_mm
    turned = "the bush turned across what pushes it, or a harder one"
    return [
        pressure(mount, cases, allow.bush_pressure_mpa, bush.sleeve_mm, bush.length_mm),
        movement(
            mount,
            Check("strain", "rubber used up sideways", "length", "a harder bush or a thicker wall"),
            STRAIN_USE,
            cases,
            across,
            most,
            *sizes,
        ),
        movement(
            mount,
            Check("axial", "rubber pushed endways", "length", turned),
            AXIAL,
            cases,
            along,
            most,
            *sizes,
        ),
    ]
