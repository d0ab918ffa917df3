"""A pair of flat bars as an arm: its parts, and checks of it, of its welds and of the eye's wall."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.bar_arm import (
    BarRun,
    bar_weld,
    beside,
    eye_finding,
    eye_throat,
    fits_eye,
    on_edge,
    placed_back,
    root_throat,
    weld_life,
)
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.families.tube_extras import Line
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.footprint import Footprint
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solid_makers import hull
from nimble_cradle.geometry.solids import ConvexPart, SolidPart
from nimble_cradle.job.flats_arm import FlatsArm
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import DENSITY_STEEL, STEELS
from nimble_cradle.strength.fatigue import TEE
from nimble_cradle.strength.flat_pair import FLAT_PAIR, FlatPair, flat_pair

LOAD_PATH = (("arm", ("arm", "root-weld", "fatigue-root")),)
TRIM = 3.0
"""Added to a bar at each end for fitting, mm (common practice, no source)."""


def _arm(mount: Mount) -> FlatsArm:
    assert isinstance(mount.arm, FlatsArm)
    return mount.arm


def _wide(arm: FlatsArm) -> float:
    """Over both bars, mm."""
    return arm.apart_mm + 2 * arm.thick_mm


def _bar(mount: Mount, run: ArmRun) -> BarRun:
    fits_eye(mount, _wide(_arm(mount)), "apart_mm")
    return BarRun.of(mount, run)


def throat_mm(arm: FlatsArm) -> float:
    """Throat of its welds on the plate, mm."""
    return arm.weld_throat_mm


def landing(mount: Mount, run: ArmRun, more: float) -> Footprint:
    """The rectangle round both bars on the plate, with ``more`` mm round it."""
    return _bar(mount, run).landing(_wide(_arm(mount)), more)


def sides(mount: Mount) -> tuple[float, float]:
    """Where the middles of both bars lie along the eye, from its arm's axis, mm."""
    arm = _arm(mount)
    half = (arm.apart_mm + arm.thick_mm) / 2
    return -half, half


def flats(mount: Mount, run: ArmRun) -> tuple[tuple[str, Array], ...]:
    """Name and outline (n, 2) of each bar, flat, as it looks from the side that the first lies on."""
    bar = _bar(mount, run)
    return tuple((name, bar.outline(s)) for name, s in zip(("bar A", "bar B"), sides(mount), strict=True))


def beyond_plate(mount: Mount, run: ArmRun) -> tuple[SolidPart, ...]:
    """Both bars from where they have left the plate, vehicle frame."""
    bar, arm = _bar(mount, run), _arm(mount)
    start = bar.clear_of_plate(_wide(arm)) + 1.0
    return tuple(bar.plank(s, arm.thick_mm, start) for s in sides(mount))


def parts(mount: Mount, run: ArmRun, pose: Pose) -> tuple[MadePart, ...]:
    """Both bars, and their battens. Raises JobError."""
    bar, arm = _bar(mount, run), _arm(mount)
    long = max(float(np.ptp(outline[:, 0])) for _, outline in flats(mount, run))
    cut = math.ceil(long + 2 * TRIM)
    deep = max(arm.tall_mm, arm.tall_at_eye_mm)
    stock = Stock(
        f"flat {deep:g} x {arm.thick_mm:g}",
        arm.steel,
        f"{cut} long",
        round(cut * deep * arm.thick_mm * DENSITY_STEEL, 2),
        f"{TRIM:g} mm to trim at each end; template arm-{mount.id}",
        Form("flat", (deep, arm.thick_mm)),
        2,
    )
    out = [
        MadePart(
            Owner("mount", mount.id),
            "arm",
            f"{mount.name}: arm",
            tuple(placed_back(bar.plank(s, arm.thick_mm), pose) for s in sides(mount)),
            moves=True,
            stock=stock,
            joints=(Joint("welded to", "plate"), Joint("welded to", "eye")),
            templates=(f"arm-{mount.id}",),
        )
    ]
    if arm.battens:
        out.append(_battens(bar, arm, pose))
    return tuple(out)


def _battens(bar: BarRun, arm: FlatsArm, pose: Pose) -> MadePart:
    """What ties the bars to one another between plate and eye."""
    mount, deep = bar.mount, 0.6 * min(arm.tall_mm, arm.tall_at_eye_mm)
    end = bar.run.length - bar.run.eye_radius
    solids = tuple(
        placed_back(_batten(bar, arm, end * (k + 1) / (arm.battens + 1), deep), pose)
        for k in range(arm.battens)
    )
    stock = Stock(
        f"flat {math.ceil(deep)} x {arm.thick_mm:g}",
        arm.steel,
        f"{arm.apart_mm:g} long",
        round(arm.apart_mm * deep * arm.thick_mm * DENSITY_STEEL, 2),
        "on edge between the bars, at equal distances; weld it to both",
        Form("flat", (float(math.ceil(deep)), arm.thick_mm)),
        int(arm.battens),
    )
    return MadePart(
        Owner("mount", mount.id),
        "battens",
        f"{mount.name}: battens of its arm",
        solids,
        moves=True,
        stock=stock,
        joints=(Joint("welded to", "arm"),),
    )


def _batten(bar: BarRun, arm: FlatsArm, x: float, deep: float) -> ConvexPart:
    corners = [
        (s, y, x + d)
        for s in (-arm.apart_mm / 2, arm.apart_mm / 2)
        for y in (-deep / 2, deep / 2)
        for d in (-arm.thick_mm / 2, arm.thick_mm / 2)
    ]
    return hull(bar.run.root + np.array(corners) @ bar.axes.T)


def _pair(bar: BarRun, arm: FlatsArm, tall: float) -> FlatPair:
    long = bar.run.length - bar.run.eye_radius
    free = long / (arm.battens + 1)
    return FlatPair(arm.thick_mm, tall, arm.apart_mm, free, long, STEELS[arm.steel].yield_mpa)


def _welds(arm: FlatsArm, mount: Mount, tall: float) -> list[Line]:
    """Both sides of both bars."""
    return [line for s in sides(mount) for line in beside(on_edge(arm.thick_mm, tall), s)]


def checks(mount: Mount, run: ArmRun, cases: Cases) -> list[Finding]:
    """Bars, root welds, eye welds, eye wall."""
    bar, arm = _bar(mount, run), _arm(mount)
    root, end = bar.at_plate(cases.forces), bar.at_eye(cases.forces)
    cure = "a thicker weld (no thicker than the bar) or higher bars"
    at_plate = Check("root-weld", "weld of arm to plate", "line force", cure)
    at_eye = Check("eye-weld", "weld of arm to eye", "line force", cure)
    lines = _welds(arm, mount, arm.tall_mm), _welds(arm, mount, arm.tall_at_eye_mm)
    spacing = arm.apart_mm + arm.thick_mm
    return [
        _bars(bar, arm, cases),
        bar_weld(bar, cases, at_plate, root, lines[0], root_throat(bar, arm.thick_mm)),
        bar_weld(bar, cases, at_eye, end, lines[1], eye_throat(bar, arm.thick_mm)),
        eye_finding(
            bar,
            cases,
            arm.thick_mm,
            np.abs(end.force[:, 2]) / 2 + np.abs(end.moment[:, 1]) / spacing,
            np.zeros(len(end.force)),
            end.moment[:, 0] / 2,
        ),
    ]


def _bars(bar: BarRun, arm: FlatsArm, cases: Cases) -> Finding:
    """The bars where they are used most."""
    rows = []
    for tall, at in bar.stations(cases.forces):
        pair = _pair(bar, arm, tall)
        rows.append((flat_pair(pair, *at.along_bar()), pair, at))
    found, pair, at = max(rows, key=lambda row: float(row[0].use.max()))
    return worst(
        bar.mount,
        Check("arm", "bars of the arm", "stress", "thicker or higher bars, one more batten, a shorter arm"),
        cases,
        found.use,
        found.stress,
        FLAT_PAIR,
        lambda k: {
            "thick": pair.thick,
            "tall": pair.tall,
            "apart": pair.apart,
            "free": pair.free,
            "length": pair.length,
            "yield_mpa": pair.yield_mpa,
            **at.named(k),
        },
        {"axial": "equilibrium", "bending_tall": "equilibrium"},
    )


def life_root(mount: Mount, run: ArmRun, forces: Array) -> list[tuple[Array, float]]:
    """Details of the weld at the plate: stress ranges (k,) under changes (k, 3) of the force, category."""
    bar, arm = _bar(mount, run), _arm(mount)
    at = bar.at_plate(forces)
    toe = flat_pair(_pair(bar, arm, arm.tall_mm), *at.along_bar()).stress
    return weld_life(at, _welds(arm, mount, arm.tall_mm), root_throat(bar, arm.thick_mm), [(toe, TEE)])


def life_eye(mount: Mount, run: ArmRun, forces: Array) -> list[tuple[Array, float]]:
    """The same at the eye."""
    bar, arm = _bar(mount, run), _arm(mount)
    lines = _welds(arm, mount, arm.tall_at_eye_mm)
    return weld_life(bar.at_eye(forces), lines, eye_throat(bar, arm.thick_mm))
