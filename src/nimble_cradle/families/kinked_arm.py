"""A tube arm in two legs: its parts, and checks of it, of its kink, its welds and the eye's wall."""

from __future__ import annotations

import math
from contextlib import suppress
from dataclasses import replace

import numpy as np

from nimble_cradle.families import tube_arm
from nimble_cradle.families.arm_cut import arm_cut, plate_cut
from nimble_cradle.families.arm_loads import arm_loads
from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, alone, worst
from nimble_cradle.geometry.footprint import Footprint
from nimble_cradle.geometry.pose import Array, Pose, cross, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import SolidPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.kinked_arm import KinkedArm
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.tubes import round_tube
from nimble_cradle.strength.kink import KINK_TURN
from nimble_cradle.strength.tube import TUBE_USE

LOAD_PATH = (("arm", ("arm", "root-weld", "fatigue-root")), ("kink of the arm", ("kink", "kink-turn")))


def _arm(mount: Mount) -> KinkedArm:
    assert isinstance(mount.arm, KinkedArm)
    return mount.arm


def throat_mm(arm: KinkedArm) -> float:
    """Throat of its weld on the plate, mm."""
    return arm.weld_throat_mm


def landing(mount: Mount, run: ArmRun, more: float) -> Footprint:
    """The oval in which it meets the plate, with ``more`` mm round it."""
    return tube_arm.landing(mount, run, more)


def _last_leg(mount: Mount, run: ArmRun) -> SolidPart:
    """The leg at the eye, vehicle frame."""
    last = run.at_eye
    return bar(last.root, last.aim - 0.9 * last.eye_radius * last.way, _arm(mount).outside_mm)


def beyond_plate(mount: Mount, run: ArmRun) -> tuple[SolidPart, ...]:
    """Both legs from where the first has wholly left the plate, vehicle frame."""
    radius = _arm(mount).outside_mm / 2
    start = run.root + radius * math.tan(math.radians(run.plate_angle_deg)) * run.way
    first = (bar(start, run.aim, 2 * radius),) if (run.aim - start) @ run.way > 1.0 else ()
    return (*first, _last_leg(mount, run))


def parts(mount: Mount, run: ArmRun, pose: Pose) -> tuple[MadePart, ...]:
    """Both legs. Raises JobError."""
    arm, back = _arm(mount), pose.inverse()
    first = bar(back.points(run.root), back.points(run.aim), arm.outside_mm)
    second = _last_leg(mount, run).placed(back)  # type: ignore[union-attr]
    part = MadePart(
        Owner("mount", mount.id),
        "arm",
        f"{mount.name}: arm",
        (first, second),
        moves=True,
        joints=(Joint("welded to", "plate"), Joint("welded to", "eye")),
        templates=(f"cope-{mount.id}", f"foot-{mount.id}", f"kink-{mount.id}", f"kinkeye-{mount.id}"),
    )
    with suppress(JobError):  # it is drawn though it cannot be cut
        part = replace(part, stock=_stock(mount, pose, run))
    return (part,)


def _stock(mount: Mount, pose: Pose, run: ArmRun) -> Stock:
    arm = _arm(mount)
    cuts = plate_cut(mount, pose), arm_cut(mount, pose)
    legs = [math.ceil(cut.long_mm + 2 * tube_arm.TRIM) for cut in cuts]
    tube = round_tube(arm.outside_mm, arm.wall_mm)
    return Stock(
        f"tube {arm.outside_mm:g} x {arm.wall_mm:g}",
        arm.steel,
        f"{legs[0]} and {legs[1]} long",
        round(sum(legs) / 1000 * tube.kg_per_m, 2),
        f"mitred {run.kink_deg / 2:.1f} deg each at the kink, welded right through;"
        f" {tube_arm.TRIM:g} mm to trim at each end",
        Form("tube", (arm.outside_mm, arm.wall_mm)),
    )


def checks(mount: Mount, run: ArmRun, cases: Cases) -> list[Finding]:
    """All of a tube arm, and its kink."""
    return [*tube_arm.checks(mount, run, cases), _kink(mount, run, cases), _turn(mount, run)]


def _kink(mount: Mount, run: ArmRun, cases: Cases) -> Finding:
    """The tube on both sides of the kink; the weld right through it runs on a larger ellipse."""
    arm = _arm(mount)
    p, fy = round_tube(arm.outside_mm, arm.wall_mm), STEELS[arm.steel].yield_mpa
    rows = []
    for leg in (run, run.at_eye):
        side = _square_to(leg.way)
        at = arm_loads(mount, replace(leg, last=None), cases.forces, run.at_eye.root, side)
        sigma = np.abs(at.force[:, 2]) / p.area + at.bending / p.w_lying
        tau = np.abs(at.moment[:, 2]) / p.torsion_modulus + 2 * at.shear / p.area
        rows.append((np.sqrt(sigma**2 + 3 * tau**2), at))
    stress, at = max(rows, key=lambda row: float(row[0].max()))
    return worst(
        mount,
        Check("kink", "arm at its kink", "stress", "a larger tube, or a kink nearer to the eye"),
        cases,
        stress / fy,
        stress,
        TUBE_USE,
        lambda k: {
            "axial": float(at.force[k, 2]),
            "shear": float(at.shear[k]),
            "bending": float(at.bending[k]),
            "torsion": float(at.moment[k, 2]),
            "outside": arm.outside_mm,
            "wall": arm.wall_mm,
            "yield_mpa": fy,
        },
        {"axial": "equilibrium", "bending": "equilibrium"},
    )


def _square_to(way: Array) -> Array:
    """(3,) unit, any way square to one."""
    other = np.eye(3)[int(np.abs(way).argmin())]
    return unit(cross(way, other))


def _turn(mount: Mount, run: ArmRun) -> Finding:
    """How far it turns without a plate inside."""
    return alone(
        mount,
        Check("kink-turn", "turn of the arm at its kink", "angle", "a kink that turns less"),
        run.kink_deg,
        KINK_TURN,
        {"turn": "the kink"},
        "as drawn",
        turn=run.kink_deg,
    )


life_root, life_eye = tube_arm.life_root, tube_arm.life_eye
"""Of its two ends, which are those of a tube."""
