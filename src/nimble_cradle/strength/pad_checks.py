"""Checks of a mount's plate and of its bolts into the block."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.strength.arms import ArmRun, footprint, plate_of
from nimble_cradle.strength.bolts import (
    BEARING,
    BOLT,
    EDGE,
    FRICTION,
    LOW_CLAMP,
    PITCH,
    PRELOAD_USE,
    SLIP,
    bolt_capacity,
    group_tension,
    hole_bearing,
    preload,
)
from nimble_cradle.strength.findings import Finding
from nimble_cradle.strength.plate import PLATE, PLATE_LINE, plate_capacity, plate_lines
from nimble_cradle.strength.threads import STEELS, bolt_class, thread
from nimble_cradle.strength.worst import Cases, Check, alone, worst


def pad_loads(mount: Mount, run: ArmRun, forces: Array) -> tuple[Array, Array]:
    """Forces (k, 3) and moments (k, 3) N mm along u, v, normal at the pad's own centre, on the block's
    face, for forces (k, 3) on the bush's centre, vehicle frame."""
    lever = np.asarray(mount.bush.centre) - run.pad_centre
    return forces @ run.axes, np.cross(lever, forces) @ run.axes


def bolt_loads(mount: Mount, run: ArmRun, forces: Array) -> tuple[Array, Array, Array, Array]:
    """Tension (k, n) and shear (k, n) on each bolt, and forces and moments (k, 3) at the pad's centre
    along u, v, normal. Raises JobError where the bolts cannot hold the plate."""
    pad = mount.pad
    holes = np.asarray(pad.holes)
    f, m = pad_loads(mount, run, forces)
    middle = holes.mean(0)
    # moved to the middle of the bolts: M' = M - middle x F
    about_u = m[:, 0] - middle[1] * f[:, 2]
    about_v = m[:, 1] + middle[0] * f[:, 2]
    about_n = m[:, 2] - (middle[0] * f[:, 1] - middle[1] * f[:, 0])
    try:
        tension = group_tension(holes, f[:, 2], about_u, about_v, pad.edge_mm, pad.rests == "bosses")
    except ValueError as error:
        raise JobError(
            f"{mount.name}: {error}; spread them, or add one.", f"mounts/{mount.id}/pad/holes"
        ) from None
    r = holes - middle
    polar = float((r**2).sum())
    turned = (about_n / polar)[:, None, None] * np.column_stack([-r[:, 1], r[:, 0]])
    shear = np.linalg.norm(f[:, None, :2] / len(holes) + turned, axis=2)
    return tension, shear, f, m


def pad_checks(mount: Mount, run: ArmRun, cases: Cases, allow: Allowables) -> list[Finding]:
    """Bolts, slip, tightening, plate, holes. Raises JobError."""
    pad = mount.pad
    steel, t = STEELS[pad.steel], thread(pad.bolt)
    grade = bolt_class(pad.bolt_class, t.diameter)
    clamp = preload(pad.tightening_nm, t.diameter, allow.nut_factor)
    holes = np.asarray(pad.holes)
    n = len(holes)
    signed, shear, f, m = bolt_loads(mount, run, cases.forces)
    tension = np.maximum(signed, 0.0)
    ft, fv, proof = bolt_capacity(pad.bolt, pad.bolt_class)
    rows = np.arange(len(cases.rows))

    each = np.maximum(shear / fv + tension / (1.4 * ft), tension / ft)
    hard = each.argmax(1)

    def bolt_inputs(k: int) -> Mapping[str, Any]:
        return {
            "tension": float(tension[k, hard[k]]),
            "shear": float(shear[k, hard[k]]),
            "size": pad.bolt,
            "grade": pad.bolt_class,
        }

    most = shear.max(1)
    pull = np.maximum(f[:, 2], 0.0)
    holds = np.maximum(FRICTION * (LOW_CLAMP * clamp - pull / n), 1e-9)
    found = [
        worst(
            mount,
            Check(
                "bolts",
                "bolts to the block",
                "force",
                "a larger bolt, a higher class, or bolts farther apart",
            ),
            cases,
            each.max(1),
            np.hypot(tension, shear)[rows, hard],
            BOLT,
            bolt_inputs,
            {"tension": "elastic bolt group", "shear": "elastic bolt group"},
        ),
        worst(
            mount,
            Check("slip", "plate held by friction", "force", "more torque, more bolts or a larger size"),
            cases,
            most / holds,
            most,
            SLIP,
            lambda k: {
                "shear": float(most[k]),
                "tension": float(pull[k]),
                "bolts": n,
                "clamp": clamp,
                "friction": FRICTION,
            },
            {"clamp": "from the tightening torque"},
        ),
        alone(
            mount,
            Check("tightening", "tightening of the bolts", "force", "less torque, or a higher class"),
            clamp,
            PRELOAD_USE,
            {"torque_nm": "mount", "nut_factor": "job"},
            "when tightened",
            torque_nm=pad.tightening_nm,
            diameter=t.diameter,
            nut_factor=allow.nut_factor,
            proof=proof,
        ),
    ]
    foot = footprint(mount, run)
    levers = np.maximum(foot.away(holes), 5.0)
    caps = np.array([plate_capacity(pad.plate_mm, float(x), pad.edge_mm, steel.yield_mpa)[0] for x in levers])
    bent = tension / caps
    at = bent.argmax(1)
    line = plate_lines(
        plate_of(mount, run).outline,
        holes,
        pad.hole_mm,
        foot,
        signed if pad.rests == "bosses" else tension,
        m[:, :2],
        f[:, 2],
        pad.plate_mm,
        steel.yield_mpa,
    )
    edge = pad.edge_mm
    bearing = np.array(
        hole_bearing(1.0, t.diameter, pad.hole_mm, edge, pad.plate_mm, steel.tensile, grade.tensile)[1]
    )
    found += [
        worst(
            mount,
            Check("plate", "plate at the arm's root", "force", "a thicker plate, or bolts nearer the arm"),
            cases,
            bent.max(1),
            tension[rows, at],
            PLATE,
            lambda k: {
                "lever": float(levers[at[k]]),
                "thickness": pad.plate_mm,
                "edge": edge,
                "yield_mpa": steel.yield_mpa,
            },
            {"lever": "bolt to the weld's toe"},
        ),
        worst(
            mount,
            Check(
                "plate-line",
                "plate bent right across",
                "torque",
                "a thicker plate, or the arm among its bolts",
            ),
            cases,
            line.use,
            line.moment / 1000,
            PLATE_LINE,
            lambda k: {
                "moment": float(line.moment[k]),
                "chord": float(max(line.chord[k], 1e-6)),
                "thickness": pad.plate_mm,
                "yield_mpa": steel.yield_mpa,
            },
            {"moment": "bolts beyond the line", "chord": "outline less holes"},
        ),
        worst(
            mount,
            Check(
                "bearing",
                "bolts in the plate's holes",
                "force",
                "more edge round the holes, or a thicker plate",
            ),
            cases,
            most / bearing,
            most,
            BEARING,
            lambda k: {
                "shear": float(most[k]),
                "diameter": t.diameter,
                "hole": pad.hole_mm,
                "edge": edge,
                "thickness": pad.plate_mm,
                "tensile": steel.tensile,
                "bolt_tensile": grade.tensile,
            },
            {"shear": "elastic bolt group"},
        ),
        alone(
            mount,
            Check("edge", "edge round the plate's holes", "length", "more edge, or smaller holes"),
            edge,
            EDGE,
            {"edge": "mount"},
            "as drawn",
            edge=edge,
            hole=pad.hole_mm,
        ),
    ]
    apart = min(math.dist(a, b) for i, a in enumerate(pad.holes) for b in pad.holes[:i])
    found.append(
        alone(
            mount,
            Check("pitch", "holes beside one another", "length", "holes farther apart, or smaller ones"),
            apart,
            PITCH,
            {"apart": "mount"},
            "as drawn",
            apart=apart,
            hole=pad.hole_mm,
        )
    )
    return found
