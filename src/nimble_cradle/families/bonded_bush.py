"""The bonded bush: its law, its eye, its parts, its checks."""

from __future__ import annotations

import numpy as np

from nimble_cradle.calc import Calculation
from nimble_cradle.families.bonded_stiffness import stiffness as stiffness
from nimble_cradle.families.eye import eye_solid
from nimble_cradle.families.family import Eye
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.bonded_bush import BondedBush
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.bushes import BushSize
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.tubes import round_tube
from nimble_cradle.strength.rubber import AXIAL, PRESSURE_USE, STRAIN_USE

LOAD_PATH = (("eye", ("eye-wall",)), ("rubber", ("pressure", "strain", "axial", "side-travel")))


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
    return mount.bush.length_mm + 2 * mount.cross_bolt.gap_mm


def parts(mount: Mount, pose: Pose) -> tuple[MadePart, ...]:
    """Eye, sleeve and rubber, for the powertrain at ``pose``."""
    return _eye(mount, pose), _sleeve(mount), _rubber(mount)


def _eye(mount: Mount, pose: Pose) -> MadePart:
    bush, round_it = mount.bush, eye(mount.bush)
    tube = round_tube(round_it.outside_mm, bush.eye_wall_mm)
    stock = Stock(
        f"tube {round_it.outside_mm:g} x {bush.eye_wall_mm:g}",
        mount.pad.steel,
        f"{bush.length_mm:g} long",
        round(bush.length_mm / 1000 * tube.kg_per_m, 2),
        "weld before the bush goes in",
        Form("tube", (round_it.outside_mm, bush.eye_wall_mm)),
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


def _sleeve(mount: Mount) -> MadePart:
    bush, long = mount.bush, sleeve_mm(mount)
    tube = round_tube(bush.sleeve_mm, (bush.sleeve_mm - bush.sleeve_bore_mm) / 2)
    stock = Stock(
        f"tube {bush.sleeve_mm:g} outside, {bush.sleeve_bore_mm:g} bore",
        "E355",
        f"{long:g} long",
        round(long / 1000 * tube.kg_per_m, 2),
        "ends square: the cross-bolt clamps it",
        Form("tube", (bush.sleeve_mm, (bush.sleeve_mm - bush.sleeve_bore_mm) / 2)),
    )
    return MadePart(
        Owner("mount", mount.id),
        "sleeve",
        f"{mount.name}: sleeve",
        (_sleeve_solid(mount, long),),
        stock=stock,
        joints=(Joint("bolted to", "cheeks"),),
    )


def _sleeve_solid(mount: Mount, long: float) -> ConvexPart:
    """It stays where the chassis holds it while the powertrain moves; vehicle frame."""
    centre, half = np.asarray(mount.bush.centre, dtype=float), unit(mount.bush.axis) * long / 2
    return bar(centre - half, centre + half, mount.bush.sleeve_mm)


def _rubber(mount: Mount) -> MadePart:
    bush = mount.bush
    stock = Stock(
        f"rubber, {bush.hardness_shore_a:g} Shore A",
        "rubber",
        f"{bush.eye_bore_mm:g} x {bush.sleeve_mm:g} x {bush.length_mm:g}",
        0.0,
        "bonded, or bought to this size",
        Form("bush", tuple(getattr(bush, name) for name in BushSize._fields)),
    )
    return MadePart(
        Owner("mount", mount.id),
        "rubber",
        f"{mount.name}: bush",
        stock=stock,
        joints=(Joint("stands on", "sleeve"), Joint("stands on", "eye")),
    )


def checks(mount: Mount, cases: Cases, allow: Allowables) -> list[Finding]:
    """Pressure, movement across and along; loads as they are, the limits are the rubber's own."""
    shares = {"rest": allow.bush_strain_rest, "everyday": allow.bush_strain, "rare": allow.bush_strain_rare}
    most = np.array([shares[case.kind] for case in cases.rows])
    across = np.array([case.radial_mm for case in cases.rows])
    along = np.abs([case.axial_mm for case in cases.rows])
    turned = "the bush turned across what pushes it, or a harder one"
    return [
        _pressure(mount, cases, allow.bush_pressure_mpa),
        _movement(
            mount,
            Check("strain", "rubber used up sideways", "length", "a harder bush or a thicker wall"),
            STRAIN_USE,
            cases,
            across,
            most,
        ),
        _movement(
            mount, Check("axial", "rubber pushed endways", "length", turned), AXIAL, cases, along, most
        ),
    ]


def _pressure(mount: Mount, cases: Cases, most_mpa: float) -> Finding:
    """Force across the bush on the sleeve's shadow."""
    bush, force = mount.bush, np.array([case.radial_force for case in cases.rows])
    pressure = force / (bush.sleeve_mm * bush.length_mm)
    return worst(
        mount,
        Check("pressure", "pressure on the rubber", "stress", "a longer bush or a larger sleeve"),
        cases,
        pressure / most_mpa,
        pressure,
        PRESSURE_USE,
        lambda k: {
            "load": float(force[k]),
            "sleeve": bush.sleeve_mm,
            "length": bush.length_mm,
            "most": most_mpa,
        },
        {"load": "bush", "most": "job"},
        factored=False,
    )


def _movement(
    mount: Mount, check: Check, law: Calculation, cases: Cases, moved: Array, most: Array
) -> Finding:
    """Movement (k,) mm against shares (k,) of the rubber's wall."""
    bush = mount.bush
    wall = (bush.eye_bore_mm - bush.sleeve_mm) / 2
    return worst(
        mount,
        check,
        cases,
        moved / wall / most,
        moved,
        law,
        lambda k: {
            "movement": float(moved[k]),
            "sleeve": bush.sleeve_mm,
            "eye_bore": bush.eye_bore_mm,
            "most": float(most[k]),
        },
        {"movement": "bush", "most": "job"},
        factored=False,
    )
