"""A tube as an arm, welded to plate and eye: its parts, and checks of it, of both welds and of the eye's
wall."""

from __future__ import annotations

import math
from contextlib import suppress
from dataclasses import replace

import numpy as np

from nimble_cradle.families.arm_cut import arm_cut
from nimble_cradle.families.arm_loads import ArmLoads, arm_loads, lean_of, line_weld_finding
from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.family import eye_of
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.families.tube_extra_checks import extra_checks
from nimble_cradle.families.tube_extras import (
    extra_parts,
    gusset_lines,
    gusset_solids,
    round_lines,
    tube_solids,
)
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.clip import clipped
from nimble_cradle.geometry.footprint import Footprint, oval_footprint
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import SolidPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.tube_arm import Tube, TubeArm
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import STEELS, Steel
from nimble_cradle.stock.tubes import round_tube
from nimble_cradle.strength.eye import EYE_WALL, MOST_SLENDER, eye_wall
from nimble_cradle.strength.fatigue import ROOT, TOE
from nimble_cradle.strength.tube import TUBE_USE
from nimble_cradle.strength.weld import (
    TUBE_WELD,
    effective_throat,
    force_per_mm,
    segments,
    slanted,
    weld_capacity,
)

LOAD_PATH = (("arm", ("arm", "root-weld", "fatigue-root")),)
TRIM = 5.0
"""Added to a tube's length for trimming at each end, mm (common practice, no source)."""
GUSSET_END = 56.0
"""Category of a tube where a gusset ends on it: the lowest of EN 1993-1-9 table 8.4, whatever its length
(from memory)."""
THICKER = "a thicker weld (no thicker than the wall) or a larger tube"


def throat_mm(arm: Tube) -> float:
    """Throat of its weld on the plate, mm."""
    return arm.weld_throat_mm


def landing(mount: Mount, run: ArmRun, more: float) -> Footprint:
    """The oval in which it meets the plate, with ``more`` mm round it."""
    at = np.asarray(mount.pad.arm_at, dtype=float)
    way = run.axes[:, :2].T @ run.way
    return oval_footprint(at, way, _arm(mount).outside_mm / 2, run.plate_angle_deg, more)


def beyond_plate(mount: Mount, run: ArmRun) -> tuple[SolidPart, ...]:
    """The tube from where its whole round has left the plate, with which it is cut flush; vehicle frame."""
    arm = _arm(mount)
    radius = arm.outside_mm / 2
    start = run.root + radius * math.tan(math.radians(run.plate_angle_deg)) * run.way
    end = run.aim - 0.9 * run.eye_radius * run.way
    if (end - start) @ run.way <= 1.0:
        return ()
    if not isinstance(arm, TubeArm):
        return (bar(start, end, 2 * radius),)
    normal = run.axes[:, 2]
    feet = (clipped(s, -normal, -float(run.root @ normal) - 1.0) for s in gusset_solids(run, arm))
    return *tube_solids(mount, run, arm, start), *(left for left in feet if left is not None)


def parts(mount: Mount, run: ArmRun, pose: Pose) -> tuple[MadePart, ...]:
    """The tube, coped at the eye and mitred at the plate. Raises JobError."""
    arm, back = _arm(mount), pose.inverse()
    plain = (bar(run.root, run.aim - 0.9 * run.eye_radius * run.way, arm.outside_mm),)
    solids = tube_solids(mount, run, arm, run.root) if isinstance(arm, TubeArm) else plain
    part = MadePart(
        Owner("mount", mount.id),
        "arm",
        f"{mount.name}: arm",
        tuple(solid.placed(back) for solid in solids),
        moves=True,
        joints=(Joint("welded to", "plate"), Joint("welded to", "eye")),
        templates=(f"cope-{mount.id}", f"foot-{mount.id}"),
    )
    with suppress(JobError):  # it is drawn though it cannot be cut
        part = replace(part, stock=_stock(mount, pose))
    return (part, *extra_parts(mount, run, arm, pose)) if isinstance(arm, TubeArm) else (part,)


def _stock(mount: Mount, pose: Pose) -> Stock:
    arm = _arm(mount)
    length = math.ceil(arm_cut(mount, pose).long_mm + 2 * TRIM)
    tube = round_tube(arm.outside_mm, arm.wall_mm)
    return Stock(
        f"tube {arm.outside_mm:g} x {arm.wall_mm:g}",
        arm.steel,
        f"{length} long",
        round(length / 1000 * tube.kg_per_m, 2),
        f"{TRIM:g} mm to trim at each end; templates cope-{mount.id}, foot-{mount.id}",
        Form("tube", (arm.outside_mm, arm.wall_mm)),
    )


def checks(mount: Mount, run: ArmRun, cases: Cases) -> list[Finding]:
    """Tube, root weld, eye weld, eye wall of a mount with an arm; scallop and gussets where it has them."""
    arm, root = _arm(mount), arm_loads(mount, run, cases.forces, run.root, lean_of(run))
    end = _at_eye(mount, run, cases.forces)
    more = extra_checks(mount, run, arm, cases) if isinstance(arm, TubeArm) else []
    foot = root
    if isinstance(arm, TubeArm) and arm.gussets:
        place = run.root + arm.gusset_along_mm * run.way
        foot = arm_loads(mount, run, cases.forces, place, lean_of(run))
    return [
        max((_tube(mount, cases, at) for at in (foot, end)), key=lambda found: found.use),
        _root_weld(mount, run, cases, root),
        _eye_weld(mount, cases, end),
        _eye_wall(mount, cases, end),
        *more,
    ]


def _at_eye(mount: Mount, run: ArmRun, forces: Array) -> ArmLoads:
    """At the eye: one way along its axis as far as that is square to the arm, the other out of both."""
    run = run.at_eye
    axis = unit(mount.bush.axis)
    along = unit(axis - (axis @ run.way) * run.way)
    return arm_loads(mount, run, forces, run.aim - run.eye_radius * run.way, along)


def life_root(mount: Mount, run: ArmRun, forces: Array) -> list[tuple[Array, float]]:
    """Details of the weld at the plate, its toe on the tube and its root: stress ranges (k,) under changes
    (k, 3) of the force, and category."""
    arm = _arm(mount)
    at = arm_loads(mount, run, forces, run.root, lean_of(run))
    tube = round_tube(arm.outside_mm, arm.wall_mm)
    throat = effective_throat(arm.weld_throat_mm, arm.wall_mm, mount.pad.plate_mm)
    if isinstance(arm, TubeArm) and arm.gussets:
        top = arm_loads(mount, run, forces, run.root + arm.gusset_along_mm * run.way, lean_of(run))
        ends = np.abs(top.force[:, 2]) / tube.area + top.bending / tube.w_lying
        lines = [*round_lines(arm.outside_mm / 2), *gusset_lines(run, arm, lean_of(run))]
        line = force_per_mm(segments(lines), at.force, at.moment)
        return [(ends, GUSSET_END), (np.asarray(line) / throat, ROOT)]
    toe = np.abs(at.force[:, 2]) / tube.area + at.bending / tube.w_lying
    line = force_per_mm(slanted(arm.outside_mm / 2, run.plate_angle_deg), at.force, at.moment)
    return [(toe, TOE), (np.asarray(line) / throat, ROOT)]


def life_eye(mount: Mount, run: ArmRun, forces: Array) -> list[tuple[Array, float]]:
    """The same of the root of the weld at the eye."""
    arm, at = _arm(mount), _at_eye(mount, run, forces)
    throat = effective_throat(arm.weld_throat_mm, arm.wall_mm, eye_of(mount.bush).wall_mm)
    line = force_per_mm(slanted(arm.outside_mm / 2, 0.0), at.force, at.moment)
    return [(np.asarray(line) / throat, ROOT)]


def _tube(mount: Mount, cases: Cases, root: ArmLoads) -> Finding:
    """The tube at one of its ends: between them its bending is less than at one of both."""
    arm = _arm(mount)
    p, yield_mpa = round_tube(arm.outside_mm, arm.wall_mm), STEELS[arm.steel].yield_mpa
    sigma = np.abs(root.force[:, 2]) / p.area + root.bending / p.w_lying
    tau = np.abs(root.moment[:, 2]) / p.torsion_modulus + 2 * root.shear / p.area
    stress = np.sqrt(sigma**2 + 3 * tau**2)
    return worst(
        mount,
        Check("arm", "arm tube at its root", "stress", "a larger tube, a thicker wall, or a shorter arm"),
        cases,
        stress / yield_mpa,
        stress,
        TUBE_USE,
        lambda k: {
            "axial": float(root.force[k, 2]),
            "shear": float(root.shear[k]),
            "bending": float(root.bending[k]),
            "torsion": float(root.moment[k, 2]),
            "outside": arm.outside_mm,
            "wall": arm.wall_mm,
            "yield_mpa": yield_mpa,
        },
        {"axial": "equilibrium", "bending": "equilibrium"},
    )


def _arm(mount: Mount) -> Tube:
    assert isinstance(mount.arm, Tube)
    return mount.arm


def _root_weld(mount: Mount, run: ArmRun, cases: Cases, root: ArmLoads) -> Finding:
    arm, pad = _arm(mount), mount.pad
    # a fillet is no better than the thinnest metal that it joins
    throat = effective_throat(arm.weld_throat_mm, arm.wall_mm, pad.plate_mm)
    check = Check("root-weld", "weld of arm to plate", "line force", THICKER)
    if isinstance(arm, TubeArm) and arm.gussets:
        lines = [*round_lines(arm.outside_mm / 2), *gusset_lines(run, arm, lean_of(run))]
        return line_weld_finding(
            mount, cases, check, root, lines, throat, STEELS[arm.steel], STEELS[pad.steel]
        )
    return _tube_weld(mount, check, cases, root, arm, throat, run.plate_angle_deg, STEELS[pad.steel])


def _eye_weld(mount: Mount, cases: Cases, end: ArmLoads) -> Finding:
    arm = _arm(mount)
    throat = effective_throat(arm.weld_throat_mm, arm.wall_mm, eye_of(mount.bush).wall_mm)
    check = Check("eye-weld", "weld of arm to eye", "line force", THICKER)
    return _tube_weld(mount, check, cases, end, arm, throat, 0.0, STEELS[mount.pad.steel])


def _eye_wall(mount: Mount, cases: Cases, end: ArmLoads) -> Finding:
    """The wall of the eye under the arm."""
    eye = eye_of(mount.bush)
    given = {
        "eye_outside": eye.outside_mm,
        "wall": eye.wall_mm,
        "length": eye.length_mm,
        "arm": _arm(mount).outside_mm,
        "yield_mpa": STEELS[mount.pad.steel].yield_mpa,
    }
    n, mi, mo = eye_wall(*given.values())
    in_plane, out = end.moment[:, 1], end.moment[:, 0]
    use = np.abs(end.force[:, 2]) / n + (in_plane / mi) ** 2 + np.abs(out) / mo
    slender = eye.outside_mm / eye.wall_mm / MOST_SLENDER
    return worst(
        mount,
        Check("eye-wall", "wall of the eye under the arm", "torque", "a thicker wall of the eye"),
        cases,
        np.maximum(use, slender if slender > 1 else 0.0),
        end.bending / 1000,
        EYE_WALL,
        lambda k: {
            **given,
            "axial": float(end.force[k, 2]),
            "in_plane": float(in_plane[k]),
            "out_of_plane": float(out[k]),
        },
        {"axial": "equilibrium", "in_plane": "equilibrium"},
    )


def _tube_weld(
    mount: Mount,
    check: Check,
    cases: Cases,
    at: ArmLoads,
    arm: Tube,
    throat: float,
    slope: float,
    other: Steel,
) -> Finding:
    """The weld round the arm at one of its ends. other: the steel that it is welded to."""
    weaker = min((STEELS[arm.steel], other), key=lambda s: s.tensile / s.weld_beta)
    line = force_per_mm(slanted(arm.outside_mm / 2, slope), at.force, at.moment)
    use = line / weld_capacity(throat, weaker.tensile, weaker.weld_beta)
    square = slope <= 30

    def inputs(k: int) -> dict[str, float]:
        f, m = at.force[k], at.moment[k]
        sideways = {} if square else {"shear_side": float(f[1]), "bending_side": float(m[0])}
        return {
            "axial": float(f[2]),
            "shear": float(at.shear[k] if square else f[0]),
            "bending": float(at.bending[k] if square else m[1]),
            "torsion": float(m[2]),
            "outside": arm.outside_mm,
            "throat": throat,
            "tensile": weaker.tensile,
            "beta": weaker.weld_beta,
            "slope_deg": slope,
            **sideways,
        }

    return worst(
        mount, check, cases, use, line, TUBE_WELD, inputs, {"axial": "equilibrium", "bending": "equilibrium"}
    )
