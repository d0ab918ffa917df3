"""Checks of what is added to a straight tube arm: gussets at its foot, a scallop."""

from __future__ import annotations

import numpy as np

from nimble_cradle.calc import CalcError
from nimble_cradle.families.arm_loads import ArmLoads, arm_loads, lean_of
from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.tube_extras import gusset_ways, scallop_ends, scallop_way
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, alone, worst
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.tube_arm import TubeArm
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.strength.cut_tube import GUSSET, GUSSETED, SCALLOP, cut_tube, gusset_use, gusseted_foot

GUSSET_SLOPE = 30.0
"""An arm with gussets leaves its plate at most so far off square, deg."""


def extra_checks(mount: Mount, run: ArmRun, arm: TubeArm, cases: Cases) -> list[Finding]:
    """Findings of gussets and scallop, where it has them. Raises JobError."""
    out: list[Finding] = []
    if arm.gussets:
        _stands_square(mount, run)
        out += _gussets(mount, run, arm, cases)
    if arm.scallop_deep_mm:
        out.append(_scallop(mount, run, arm, cases))
    return out


def _stands_square(mount: Mount, run: ArmRun) -> None:
    """Raises JobError where an arm with gussets leans too much for their welds to be told."""
    if run.plate_angle_deg > GUSSET_SLOPE:
        raise JobError(
            f"{mount.name}: its arm leaves the plate at {run.plate_angle_deg:.0f} deg from square; gussets"
            f" are worked out up to {GUSSET_SLOPE:g} deg.",
            f"mounts/{mount.id}/arm/gussets",
        )


def _gussets(mount: Mount, run: ArmRun, arm: TubeArm, cases: Cases) -> list[Finding]:
    """The foot with its gussets, and whether they are stout."""
    first = gusset_ways(run, arm.gussets)[0]
    at = arm_loads(mount, run, cases.forces, run.root, first)
    fy = STEELS[arm.steel].yield_mpa
    sizes = {
        "outside": arm.outside_mm,
        "wall": arm.wall_mm,
        "gussets": float(arm.gussets),
        "out": arm.gusset_out_mm,
        "thick": arm.gusset_mm,
    }

    def inputs(k: int) -> dict[str, float]:
        f, m = at.force[k], at.moment[k]
        loads = {
            "axial": f[2],
            "bending_in": m[1],
            "bending_out": m[0],
            "torsion": m[2],
            "shear": at.shear[k],
        }
        return sizes | {name: float(value) for name, value in loads.items()} | {"yield_mpa": fy}

    told = np.array([gusseted_foot(**inputs(k)) for k in range(len(at.force))])
    stout = gusset_use(arm.gusset_out_mm, arm.gusset_mm, fy)
    return [
        worst(
            mount,
            Check("gusset-foot", "foot of the arm with its gussets", "stress", "longer or thicker gussets"),
            cases,
            told[:, 0],
            told[:, 1],
            GUSSETED,
            inputs,
            {"axial": "equilibrium", "bending_in": "equilibrium"},
        ),
        alone(
            mount,
            Check("gusset", "gussets stout enough", "length", "thicker gussets, or a shorter leg"),
            stout[0] * stout[1],
            GUSSET,
            {"out": "mount"},
            "as drawn",
            out=arm.gusset_out_mm,
            thick=arm.gusset_mm,
            yield_mpa=fy,
        ),
    ]


def _scallop(mount: Mount, run: ArmRun, arm: TubeArm, cases: Cases) -> Finding:
    """The tube at the worse end of its scallop."""
    scallop_way(mount, run, arm)
    fy = STEELS[arm.steel].yield_mpa
    sizes = (arm.outside_mm, arm.wall_mm, arm.scallop_deep_mm, arm.cover_mm)
    names = ("outside", "wall", "deep", "cover", "axial", "bending", "torsion", "shear", "yield_mpa")

    def row(at: ArmLoads, k: int) -> tuple[float, ...]:
        f, m = at.force[k], at.moment[k]
        return (*sizes, float(f[2]), float(at.bending[k]), float(m[2]), float(at.shear[k]), fy)

    ends = [arm_loads(mount, run, cases.forces, end, lean_of(run)) for end in scallop_ends(mount, run, arm)]
    try:
        rows = [(np.array([cut_tube(*row(at, k)) for k in range(len(at.force))]), at) for at in ends]
    except CalcError as error:
        raise JobError(f"{mount.name}: {error}", f"mounts/{mount.id}/arm/scallop_deep_mm") from None
    told, there = max(rows, key=lambda found: float(found[0][:, 0].max()))
    return worst(
        mount,
        Check("scallop", "arm at its scallop", "stress", "a shallower scallop, or a thicker cover strip"),
        cases,
        told[:, 0],
        told[:, 1],
        SCALLOP,
        lambda k: dict(zip(names, row(there, k), strict=True)),
        {"axial": "equilibrium", "bending": "equilibrium"},
    )
