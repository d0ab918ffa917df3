"""Checks of a mount's plate and of its bolts into the block."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.landing import footprint
from nimble_cradle.families.plate import plate_of
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, alone, worst
from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.job.base import JobError
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount, PadBolt
from nimble_cradle.stock.bolts import bolt_class
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.threads import thread
from nimble_cradle.strength.bolts import (
    BEARING,
    BOLT,
    EDGE,
    FRICTION,
    LOW_CLAMP,
    PITCH,
    PRELOAD_USE,
    SLIP,
    GroupLoads,
    bolt_capacity,
    group_loads,
    hole_bearing,
    preload,
)
from nimble_cradle.strength.head_bearing import HEAD_BEARING
from nimble_cradle.strength.plate import PLATE, PLATE_LINE, plate_capacity, plate_lines
from nimble_cradle.strength.spacer import SPACER
from nimble_cradle.strength.thread_hold import THREAD_HOLD

LEAST_LEVER = 5.0
"""A bolt nearer to the weld's toe bends the plate as one so many mm away (common practice, no source)."""


def pad_loads(mount: Mount, run: ArmRun, forces: Array) -> tuple[Array, Array]:
    """Forces (k, 3) and moments (k, 3) N mm along u, v, normal at the pad's own centre, on the block's
    face, for forces (k, 3) on the bush's centre, vehicle frame."""
    lever = np.asarray(mount.bush.centre) - run.pad_centre
    return forces @ run.axes, crosses(lever, forces) @ run.axes


@dataclass(frozen=True, eq=False)
class BoltLoads(GroupLoads):
    """What forces on a bush do to a plate in k cases. force, moment (k, 3): at the pad's centre along u, v,
    normal, N and N mm."""

    force: Array
    moment: Array


def bolt_loads(mount: Mount, run: ArmRun, forces: Array) -> BoltLoads:
    """The loads on a mount's plate for forces (k, 3) on its bush's centre. Raises JobError where the bolts
    cannot hold the plate."""
    pad = mount.pad
    f, m = pad_loads(mount, run, forces)
    areas = [thread(bolt.size).stress_area for bolt in pad.bolts]
    try:
        group = group_loads(pad.every_hole, pad.edge_there_mm, pad.on_bosses, f, m, areas)
    except ValueError as error:
        raise JobError(
            f"{mount.name}: {error}; spread them, or add one.", f"mounts/{mount.id}/pad/holes"
        ) from None
    return BoltLoads(group.signed, group.shear, f, m)


def plate_checks(mount: Mount, run: ArmRun, cases: Cases, allow: Allowables) -> list[Finding]:
    """Bolts, slip, tightening, plate, holes. Raises JobError."""
    loads = bolt_loads(mount, run, cases.forces)
    return [
        _bolts(mount, cases, loads),
        _slip(mount, cases, loads, allow),
        _hardest(mount, lambda bolt: _tightening(mount, bolt, allow)),
        _hardest(mount, lambda bolt: _head(mount, bolt, allow)),
        _plate(mount, run, cases, loads),
        _plate_line(mount, run, cases, loads),
        _bearing(mount, cases, loads),
        _edge(mount),
        _pitch(mount),
        *_thread(mount),
        *_spacer(mount),
    ]


def _bolts(mount: Mount, cases: Cases, loads: BoltLoads) -> Finding:
    """Shear and tension together on the hardest-used bolt."""
    bolts, tension, shear = mount.pad.bolts, loads.tension, loads.shear
    ft, fv, _ = np.array([bolt_capacity(bolt.size, bolt.grade) for bolt in bolts]).T
    each = np.maximum(shear / fv + tension / (1.4 * ft), tension / ft)
    hard = each.argmax(1)

    def inputs(k: int) -> Mapping[str, Any]:
        return {
            "tension": float(tension[k, hard[k]]),
            "shear": float(shear[k, hard[k]]),
            "size": bolts[hard[k]].size,
            "grade": bolts[hard[k]].grade,
        }

    return worst(
        mount,
        Check(
            "bolts", "bolts to the block", "force", "a larger bolt, a higher class, or bolts farther apart"
        ),
        cases,
        each.max(1),
        np.hypot(tension, shear)[np.arange(len(each)), hard],
        BOLT,
        inputs,
        {"tension": "elastic bolt group", "shear": "elastic bolt group"},
    )


def _clamp(bolt: PadBolt, allow: Allowables) -> float:
    """What one bolt of the plate clamps with, N."""
    return preload(bolt.tightening_nm, thread(bolt.size).diameter, allow.nut_factor)


def _slip(mount: Mount, cases: Cases, loads: BoltLoads, allow: Allowables) -> Finding:
    """Friction under every bolt against its own shear; the pull is shared as the bolts share it."""
    bolts = mount.pad.bolts
    n = len(bolts)
    area = np.array([thread(bolt.size).stress_area for bolt in bolts])
    clamp = np.array([_clamp(bolt, allow) for bolt in bolts])
    pull = np.maximum(loads.force[:, 2], 0.0)[:, None] * (area / area.mean())
    holds = np.maximum(FRICTION * (LOW_CLAMP * clamp - pull / n), 1e-9)
    use = loads.shear / holds
    hard = use.argmax(1)
    rows = np.arange(len(use))
    return worst(
        mount,
        Check("slip", "plate held by friction", "force", "more torque, more bolts or a larger size"),
        cases,
        use.max(1),
        loads.shear[rows, hard],
        SLIP,
        lambda k: {
            "shear": float(loads.shear[k, hard[k]]),
            "tension": float(pull[k, hard[k]]),
            "bolts": n,
            "clamp": float(clamp[hard[k]]),
            "friction": FRICTION,
        },
        {"clamp": "from the tightening torque"},
    )


def _hardest(mount: Mount, of: Callable[[PadBolt], Finding]) -> Finding:
    """The sort of bolt that a check uses most."""
    return max((of(bolt) for bolt, _ in mount.pad.sorts), key=lambda found: found.use)


def _tightening(mount: Mount, bolt: PadBolt, allow: Allowables) -> Finding:
    """The clamp against the bolt's proof load."""
    return alone(
        mount,
        Check("tightening", "tightening of the bolts", "force", "less torque, or a higher class"),
        _clamp(bolt, allow),
        PRELOAD_USE,
        {"torque_nm": "mount", "nut_factor": "job"},
        "when tightened",
        torque_nm=bolt.tightening_nm,
        diameter=thread(bolt.size).diameter,
        nut_factor=allow.nut_factor,
        proof=bolt_capacity(bolt.size, bolt.grade)[2],
    )


def _head(mount: Mount, bolt: PadBolt, allow: Allowables) -> Finding:
    """The bolt's head pressed into the plate when it is tightened."""
    clamp = _clamp(bolt, allow)
    return alone(
        mount,
        Check("head", "plate under the bolts' heads", "force", "wide washers, smaller holes, less torque"),
        clamp,
        HEAD_BEARING,
        {"clamp": "from the tightening torque"},
        "when tightened",
        clamp=clamp,
        size=bolt.size,
        hole=bolt.hole_mm,
        tensile=STEELS[mount.pad.steel].tensile,
    )


def _plate(mount: Mount, run: ArmRun, cases: Cases, loads: BoltLoads) -> Finding:
    """Bending between the bolt that is pulled hardest and the weld."""
    pad, tension, yield_mpa = mount.pad, loads.tension, STEELS[mount.pad.steel].yield_mpa
    levers = np.maximum(footprint(mount, run).away(np.asarray(pad.every_hole)), LEAST_LEVER)
    caps = np.array([plate_capacity(pad.plate_mm, float(x), pad.edge_there_mm, yield_mpa)[0] for x in levers])
    bent = tension / caps
    at = bent.argmax(1)
    return worst(
        mount,
        Check("plate", "plate at the arm's root", "force", "a thicker plate, or bolts nearer the arm"),
        cases,
        bent.max(1),
        tension[np.arange(len(bent)), at],
        PLATE,
        lambda k: {
            "lever": float(levers[at[k]]),
            "thickness": pad.plate_mm,
            "edge": pad.edge_there_mm,
            "yield_mpa": yield_mpa,
        },
        {"lever": "bolt to the weld's toe"},
    )


def _plate_line(mount: Mount, run: ArmRun, cases: Cases, loads: BoltLoads) -> Finding:
    """Bending along the worst straight line right across the plate."""
    pad, yield_mpa = mount.pad, STEELS[mount.pad.steel].yield_mpa
    line = plate_lines(
        plate_of(mount, run).outline,
        np.asarray(pad.every_hole),
        [bolt.hole_mm for bolt in pad.bolts],
        footprint(mount, run),
        loads.signed if pad.on_bosses else loads.tension,
        loads.moment[:, :2],
        loads.force[:, 2],
        pad.plate_mm,
        yield_mpa,
    )
    return worst(
        mount,
        Check(
            "plate-line", "plate bent right across", "torque", "a thicker plate, or the arm among its bolts"
        ),
        cases,
        line.use,
        line.moment / 1000,
        PLATE_LINE,
        lambda k: {
            "moment": float(line.moment[k]),
            "chord": float(max(line.chord[k], 1e-6)),
            "thickness": pad.plate_mm,
            "yield_mpa": yield_mpa,
        },
        {"moment": "bolts beyond the line", "chord": "outline less holes"},
    )


def _bearing(mount: Mount, cases: Cases, loads: BoltLoads) -> Finding:
    """Bolts in the plate's holes."""
    pad = mount.pad
    given = [
        {
            "diameter": thread(bolt.size).diameter,
            "hole": bolt.hole_mm,
            "edge": pad.edge_there_mm,
            "thickness": pad.plate_mm,
            "tensile": STEELS[pad.steel].tensile,
            "bolt_tensile": bolt_class(bolt.grade, thread(bolt.size).diameter).tensile,
        }
        for bolt in pad.bolts
    ]
    use = loads.shear / np.array([hole_bearing(1.0, **row)[1] for row in given])
    hard = use.argmax(1)
    most = loads.shear[np.arange(len(use)), hard]
    return worst(
        mount,
        Check(
            "bearing", "bolts in the plate's holes", "force", "more edge round the holes, or a thicker plate"
        ),
        cases,
        use.max(1),
        most,
        BEARING,
        lambda k: {"shear": float(most[k]), **given[hard[k]]},
        {"shear": "elastic bolt group"},
    )


def _edge(mount: Mount) -> Finding:
    """Metal beside the holes."""
    return alone(
        mount,
        Check("edge", "edge round the plate's holes", "length", "more edge, or smaller holes"),
        mount.pad.edge_there_mm,
        EDGE,
        {"edge": "mount"},
        "as drawn",
        edge=mount.pad.edge_there_mm,
        hole=max(bolt.hole_mm for bolt, _ in mount.pad.sorts),
    )


def _thread(mount: Mount) -> list[Finding]:
    """The thread in the block against the bolt; nothing where it is not said."""
    into, deep = mount.pad.thread_in, mount.pad.thread_deep_mm
    if into == "unsaid" or deep is None:
        return []

    def of(bolt: PadBolt) -> Finding:
        return alone(
            mount,
            Check("thread", "thread in the block", "force", "bolts screwed in deeper, or an insert"),
            bolt_capacity(bolt.size, bolt.grade)[2],
            THREAD_HOLD,
            {"into": "mount", "deep": "mount"},
            "when tightened",
            size=bolt.size,
            grade=bolt.grade,
            into=into,
            deep=deep,
        )

    return [_hardest(mount, of)]


def _spacer(mount: Mount) -> list[Finding]:
    """A spacer under the plate; nothing where there is none."""
    pad = mount.pad
    if not pad.spacer_mm:
        return []
    return [
        alone(
            mount,
            Check("spacer", "spacers under its plate", "length", "a thicker plate, or one sleeve"),
            pad.spacer_mm,
            SPACER,
            {"high": "mount"},
            "as drawn",
            high=pad.spacer_mm,
            diameter=min(thread(bolt.size).diameter for bolt, _ in pad.sorts),
        )
    ]


def _pitch(mount: Mount) -> Finding:
    """Metal between two holes that are near one another: those with the least for their size."""
    holes, bolts = mount.pad.every_hole, mount.pad.bolts
    apart, hole = min(
        (
            (math.dist(holes[i], holes[k]), max(bolts[i].hole_mm, bolts[k].hole_mm))
            for i in range(len(holes))
            for k in range(i)
        ),
        key=lambda pair: pair[0] / pair[1],
    )
    return alone(
        mount,
        Check("pitch", "holes beside one another", "length", "holes farther apart, or smaller ones"),
        apart,
        PITCH,
        {"apart": "mount"},
        "as drawn",
        apart=apart,
        hole=hole,
    )
