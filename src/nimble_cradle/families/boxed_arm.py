"""A box of plates or of a hollow section as an arm: its parts, and checks of it, of its welds and of the
eye's wall."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.bar_arm import (
    BarRun,
    all_round,
    bar_weld,
    eye_finding,
    eye_throat,
    fits_eye,
    placed_back,
    root_throat,
    weld_life,
)
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.footprint import Footprint
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import SolidPart
from nimble_cradle.job.boxed_arm import BoxedArm
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import DENSITY_STEEL, STEELS
from nimble_cradle.strength.box_arm import BOX_ARM, Box
from nimble_cradle.strength.fatigue import ROOT

LOAD_PATH = (("arm", ("arm", "root-weld", "fatigue-root")),)
TRIM = 3.0
"""Added to its pieces at each end for fitting, mm (common practice, no source)."""


def _arm(mount: Mount) -> BoxedArm:
    assert isinstance(mount.arm, BoxedArm)
    return mount.arm


def _bar(mount: Mount, run: ArmRun) -> BarRun:
    fits_eye(mount, _arm(mount).wide_mm, "wide_mm")
    return BarRun.of(mount, run)


def throat_mm(arm: BoxedArm) -> float:
    """Throat of its weld on the plate, mm."""
    return arm.weld_throat_mm


def landing(mount: Mount, run: ArmRun, more: float) -> Footprint:
    """The rectangle round it on the plate, with ``more`` mm round it."""
    return _bar(mount, run).landing(_arm(mount).wide_mm, more)


def beyond_plate(mount: Mount, run: ArmRun) -> tuple[SolidPart, ...]:
    """The box from where it has left the plate, vehicle frame."""
    bar, wide = _bar(mount, run), _arm(mount).wide_mm
    return (bar.whole(wide, bar.clear_of_plate(wide) + 1.0),)


def flats(mount: Mount, run: ArmRun) -> tuple[tuple[str, Array], ...]:
    """Name and outline (n, 2) of each flat piece: the sides as they look from where the first is, the strips
    as they look from above."""
    bar, arm = _bar(mount, run), _arm(mount)
    side = (arm.wide_mm - arm.wall_mm) / 2
    rows = [(f"side {name}", bar.outline(s)) for name, s in (("A", -side), ("B", side))]
    return (
        *rows,
        *((f"{name} strip", strip(bar, arm, sign)) for name, sign in (("upper", 1), ("lower", -1))),
    )


def strip(bar: BarRun, arm: BoxedArm, sign: int) -> Array:
    """(4, 2) the strip between the sides along one edge, unrolled: along it, and along the eye. It lies flat
    against the taper, so it is longer than the arm."""
    half = arm.wide_mm / 2 - arm.wall_mm
    at_plate, at_eye = sign * arm.tall_mm / 2, sign * arm.tall_at_eye_mm / 2
    ends = []
    for s in (-half, half):
        x0, x1 = bar.plate_x(np.array([at_plate]), s)[0], bar.eye_x(np.array([at_eye]), s)[0]
        ends.append((float(x0), float(x1), s))
    slope = math.hypot(1.0, (at_eye - at_plate) / (sum(e[1] - e[0] for e in ends) / 2))
    (a0, a1, sa), (b0, b1, sb) = ends
    return np.array([(a0 * slope, sa), (b0 * slope, sb), (b1 * slope, sb), (a1 * slope, sa)])


def parts(mount: Mount, run: ArmRun, pose: Pose) -> tuple[MadePart, ...]:
    """The box. Raises JobError."""
    bar, arm = _bar(mount, run), _arm(mount)
    one = MadePart(
        Owner("mount", mount.id),
        "arm",
        f"{mount.name}: arm",
        (placed_back(bar.whole(arm.wide_mm), pose),),
        moves=True,
        stock=_section(bar, arm) if arm.made == "section" else _sides(bar, arm),
        joints=(Joint("welded to", "plate"), Joint("welded to", "eye")),
        templates=(f"arm-{mount.id}",),
    )
    if arm.made == "section":
        return (one,)
    strips = [strip(bar, arm, sign) for sign in (1, -1)]
    long = math.ceil(max(float(np.ptp(piece[:, 0])) for piece in strips) + 2 * TRIM)
    wide = math.ceil(arm.wide_mm - 2 * arm.wall_mm)
    stock = Stock(
        f"plate {arm.wall_mm:g}",
        arm.steel,
        f"{long} x {wide}",
        round(long * wide * arm.wall_mm * DENSITY_STEEL, 2),
        f"between the sides; template arm-{mount.id}",
        Form("sheet", (arm.wall_mm,)),
        2,
    )
    strips_part = MadePart(
        Owner("mount", mount.id),
        "arm-strips",
        f"{mount.name}: strips of its arm",
        moves=True,
        stock=stock,
        joints=(Joint("welded to", "arm"),),
    )
    return one, strips_part


def _long(bar: BarRun, arm: BoxedArm) -> int:
    return math.ceil(
        max(float(np.ptp(bar.outline(s)[:, 0])) for s in (-arm.wide_mm / 2, arm.wide_mm / 2)) + 2 * TRIM
    )


def _sides(bar: BarRun, arm: BoxedArm) -> Stock:
    long, deep = _long(bar, arm), math.ceil(max(arm.tall_mm, arm.tall_at_eye_mm))
    return Stock(
        f"plate {arm.wall_mm:g}",
        arm.steel,
        f"{long} x {deep}",
        round(long * deep * arm.wall_mm * DENSITY_STEEL, 2),
        f"its sides, cut round the eye; template arm-{bar.mount.id}",
        Form("sheet", (arm.wall_mm,)),
        2,
    )


def _section(bar: BarRun, arm: BoxedArm) -> Stock:
    long, deep = _long(bar, arm), max(arm.tall_mm, arm.tall_at_eye_mm)
    lost = abs(arm.tall_mm - arm.tall_at_eye_mm)
    taper = (
        f"cut a wedge {lost:g} mm wide out of both sides at its lower end, close it, weld it along; "
        if lost > 0.5
        else ""
    )
    return Stock(
        f"section {deep:g} x {arm.wide_mm:g} x {arm.wall_mm:g}",
        arm.steel,
        f"{long} long",
        round(long * Box(deep, arm.wide_mm, arm.wall_mm).area * DENSITY_STEEL, 2),
        f"{taper}template arm-{bar.mount.id}",
        Form("section", (deep, arm.wide_mm, arm.wall_mm), "rectangle"),
    )


def checks(mount: Mount, run: ArmRun, cases: Cases) -> list[Finding]:
    """Box, root weld, eye weld, eye wall."""
    bar, arm = _bar(mount, run), _arm(mount)
    root, end = bar.at_plate(cases.forces), bar.at_eye(cases.forces)
    cure = "a thicker weld (no thicker than the wall) or a larger box"
    at_plate = Check("root-weld", "weld of arm to plate", "line force", cure)
    at_eye = Check("eye-weld", "weld of arm to eye", "line force", cure)
    lines = (all_round(arm.wide_mm, tall) for tall in (arm.tall_mm, arm.tall_at_eye_mm))
    return [
        _box(bar, arm, cases),
        bar_weld(bar, cases, at_plate, root, next(lines), root_throat(bar, arm.wall_mm)),
        bar_weld(bar, cases, at_eye, end, next(lines), eye_throat(bar, arm.wall_mm)),
        eye_finding(bar, cases, arm.wide_mm, end.force[:, 2], end.moment[:, 1], end.moment[:, 0]),
    ]


def _box(bar: BarRun, arm: BoxedArm, cases: Cases) -> Finding:
    """The box where it is used most."""
    yield_mpa, rows = STEELS[arm.steel].yield_mpa, []
    for tall, at in bar.stations(cases.forces):
        box = Box(tall, arm.wide_mm, arm.wall_mm)
        stress = box.stress(*at.along_bar())
        rows.append((box.use(stress, yield_mpa), stress, box, at))
    use, stress, box, at = max(rows, key=lambda row: float(row[0].max()))
    return worst(
        bar.mount,
        Check("arm", "box of the arm", "stress", "a larger box, a thicker wall, or a shorter arm"),
        cases,
        use,
        stress,
        BOX_ARM,
        lambda k: {
            "tall": box.tall,
            "wide": box.wide,
            "wall": box.wall,
            "yield_mpa": yield_mpa,
            **at.named(k),
        },
        {"axial": "equilibrium", "bending_tall": "equilibrium"},
    )


def life_root(mount: Mount, run: ArmRun, forces: Array) -> list[tuple[Array, float]]:
    """Details of the weld at the plate: stress ranges (k,) under changes (k, 3) of the force, category."""
    bar, arm = _bar(mount, run), _arm(mount)
    at, box = bar.at_plate(forces), Box(arm.tall_mm, arm.wide_mm, arm.wall_mm)
    toe = box.stress(*at.along_bar())
    return weld_life(at, all_round(arm.wide_mm, arm.tall_mm), root_throat(bar, arm.wall_mm), [(toe, ROOT)])


def life_eye(mount: Mount, run: ArmRun, forces: Array) -> list[tuple[Array, float]]:
    """The same at the eye."""
    bar, arm = _bar(mount, run), _arm(mount)
    lines = all_round(arm.wide_mm, arm.tall_at_eye_mm)
    return weld_life(bar.at_eye(forces), lines, eye_throat(bar, arm.wall_mm))
