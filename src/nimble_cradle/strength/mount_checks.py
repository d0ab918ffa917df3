"""Every check of one mount: bolts, joint, plate, arm, welds, cross-bolt, cheeks, bush. The worst case of
each is kept."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from nimble_cradle.calc import Worked
from nimble_cradle.geometry.pose import Array, Pose, cross
from nimble_cradle.job.base import JobError
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.strength.arms import ArmRun, arm_run
from nimble_cradle.strength.bolts import (
    BOLT,
    FRICTION,
    PRELOAD,
    SLIP,
    bolt_use,
    group_shear,
    group_tension,
    preload,
    slip_use,
)
from nimble_cradle.strength.findings import Finding
from nimble_cradle.strength.pin import (
    CHEEK,
    CROSS_BOLT,
    PRESSURE,
    STRAIN,
    bush_pressure,
    bush_strain,
    cheek_bearing,
    cross_bolt,
)
from nimble_cradle.strength.plate import PLATE, plate_capacity
from nimble_cradle.strength.threads import STEELS, bolt_class, thread
from nimble_cradle.strength.tube import TUBE, tube_stress
from nimble_cradle.strength.weld import LINE_WELD, TUBE_WELD, line_weld, tube_weld
from nimble_cradle.units import Kind


@dataclass(frozen=True, eq=False)
class MountCase:
    """What a mount meets in one case: the force (3,) N of the bush on the engine side, vehicle frame, and
    the bush's own figures."""

    name: str
    everyday: bool
    force: Array
    radial_force: float
    radial_mm: float


@dataclass(frozen=True)
class _At:
    """One evaluated case of a check: use, load, capacity and what its working needs."""

    use: float
    load: float
    capacity: float
    inputs: dict[str, Any]


def factor_of(case: MountCase, allow: Allowables) -> float:
    """Factor kept in hand for a case."""
    return allow.everyday_factor if case.everyday else allow.rare_factor


def _worst(
    mount: Mount,
    code: str,
    what: str,
    kind: Kind,
    cases: Sequence[MountCase],
    allow: Allowables,
    evaluate: Callable[[MountCase, float], _At],
    work: Callable[[dict[str, Any]], Worked],
    cure: str,
    factored: bool = True,
) -> Finding:
    best: tuple[_At, MountCase, float] | None = None
    for case in cases:
        factor = factor_of(case, allow) if factored else 1.0
        at = evaluate(case, factor)
        if best is None or at.use > best[0].use:
            best = at, case, factor
    assert best is not None
    at, case, factor = best
    return Finding(
        code,
        mount.id,
        mount.name,
        what,
        at.load,
        at.capacity,
        kind,
        at.use,
        case.name,
        factor,
        work(at.inputs),
        cure,
    )


def check_mount(
    mount: Mount, pose: Pose, cases: Sequence[MountCase], allow: Allowables
) -> tuple[Finding, ...]:
    """All findings of one mount for the powertrain at ``pose``. Raises JobError where it cannot be judged
    as a whole."""
    pad = mount.pad
    if not pad.holes:
        raise JobError(
            f"{mount.name}: it has no bolts yet; give its plate the holes of the block.",
            f"mounts/{mount.id}/pad/holes",
        )
    t = thread(pad.bolt)
    if pad.hole_mm < t.diameter:
        raise JobError(
            f"{mount.name}: a {pad.bolt} bolt does not go into a {pad.hole_mm:g} mm hole.",
            f"mounts/{mount.id}/pad/hole_mm",
        )
    through = thread(mount.cross_bolt.bolt)
    if through.diameter > mount.bush.sleeve_bore_mm + 0.01:
        raise JobError(
            f"{mount.name}: the {mount.cross_bolt.bolt} cross-bolt does not go through a"
            f" {mount.bush.sleeve_bore_mm:g} mm sleeve bore.",
            f"mounts/{mount.id}/cross_bolt/bolt",
        )
    run = arm_run(mount, pose)
    found = [
        *_pad_checks(mount, run, cases, allow),
        *(_arm_checks(mount, run, cases, allow) if mount.arm else _eye_checks(mount, run, cases, allow)),
        *_bush_checks(mount, cases, allow),
    ]
    return tuple(found)


def _pad_loads(run: ArmRun, mount: Mount, force: Array) -> tuple[Array, Array]:
    """Force (3,) and moment (3,) along u, v, normal at the pattern's centroid, for a force on the bush
    centre."""
    holes = np.asarray(mount.pad.holes)
    centroid = run.pad_centre + run.axes[:, :2] @ holes.mean(0)
    moment = cross(np.asarray(mount.bush.centre) - centroid, force)
    return run.axes.T @ force, run.axes.T @ moment


def _bolt_loads(run: ArmRun, mount: Mount, force: Array) -> tuple[Array, Array, Array]:
    """Tension (n,), shear (n,) on each bolt and the force (3,) on the pad along u, v, normal."""
    f, m = _pad_loads(run, mount, force)
    holes = np.asarray(mount.pad.holes)
    tension = group_tension(holes, float(f[2]), float(m[0]), float(m[1]), mount.pad.edge_mm)
    shear = np.linalg.norm(group_shear(holes, f[:2], float(m[2]), holes.mean(0)), axis=1)
    return tension, shear, f


def _pad_checks(mount: Mount, run: ArmRun, cases: Sequence[MountCase], allow: Allowables) -> list[Finding]:
    pad = mount.pad
    steel = STEELS[pad.steel]
    t = thread(pad.bolt)
    clamp = preload(pad.tightening_nm, t.diameter, allow.nut_factor)
    holes = np.asarray(pad.holes)
    toe = mount.arm.outside_mm / 2 if mount.arm else mount.bush.eye_bore_mm / 4
    throat = mount.arm.weld_throat_mm if mount.arm else mount.eye_weld_throat_mm
    levers = np.maximum(
        np.linalg.norm(holes - np.asarray(pad.arm_at), axis=1) - toe - 0.8 * throat * np.sqrt(2), 5.0
    )

    def bolts(case: MountCase, factor: float) -> _At:
        tension, shear, _ = _bolt_loads(run, mount, case.force * factor)
        uses = [
            bolt_use(float(a), float(b), pad.bolt, pad.bolt_class)
            for a, b in zip(tension, shear, strict=True)
        ]
        k = int(np.argmax([u[0] for u in uses]))
        load = float(np.hypot(tension[k], shear[k]))
        return _At(
            uses[k][0],
            load,
            load / max(uses[k][0], 1e-9),
            {"tension": float(tension[k]), "shear": float(shear[k])},
        )

    def slip(case: MountCase, factor: float) -> _At:
        _, _, f = _bolt_loads(run, mount, case.force * factor)
        shear = float(np.hypot(f[0], f[1]))
        use, holds = slip_use(shear, float(f[2]), len(holes), clamp, FRICTION)
        return _At(use, shear, holds, {"shear": shear, "tension": float(f[2])})

    def plate(case: MountCase, factor: float) -> _At:
        tension, _, _ = _bolt_loads(run, mount, case.force * factor)
        caps = [plate_capacity(pad.plate_mm, float(m), pad.edge_mm, steel.yield_mpa)[0] for m in levers]
        k = int(np.argmax(tension / caps))
        return _At(float(tension[k] / caps[k]), float(tension[k]), caps[k], {"lever": float(levers[k])})

    grade = bolt_class(pad.bolt_class, t.diameter)
    proof = grade.proof * t.stress_area
    tight = PRELOAD.work(
        {"torque_nm": "mount", "nut_factor": "job"},
        torque_nm=pad.tightening_nm,
        diameter=t.diameter,
        nut_factor=allow.nut_factor,
    )
    return [
        _worst(
            mount,
            "bolts",
            "bolts to the block",
            "force",
            cases,
            allow,
            bolts,
            lambda i: BOLT.work(
                {"tension": "elastic bolt group", "shear": "elastic bolt group"},
                size=pad.bolt,
                grade=pad.bolt_class,
                **i,
            ),
            "a larger bolt, a higher class, or bolts farther apart",
        ),
        _worst(
            mount,
            "slip",
            "plate held by friction",
            "force",
            cases,
            allow,
            slip,
            lambda i: SLIP.work(
                {"clamp": "from the tightening torque"}, bolts=len(holes), clamp=clamp, friction=FRICTION, **i
            ),
            "more torque, more bolts or a larger size",
        ),
        Finding(
            "tightening",
            mount.id,
            mount.name,
            "tightening of the bolts",
            clamp,
            0.9 * proof,
            "force",
            clamp / (0.9 * proof),
            "when tightened",
            1.0,
            tight,
            "less torque, or a higher class",
        ),
        _worst(
            mount,
            "plate",
            "plate at the arm's root",
            "force",
            cases,
            allow,
            plate,
            lambda i: PLATE.work(
                {"lever": "bolt to the weld's toe"},
                thickness=pad.plate_mm,
                edge=pad.edge_mm,
                yield_mpa=steel.yield_mpa,
                **i,
            ),
            "a thicker plate, or bolts nearer the arm",
        ),
    ]


def _arm_parts(run: ArmRun, force: Array, at: Array) -> tuple[float, float, float, float]:
    """Axial, shear N, bending and torsion N mm at the point ``at`` of the arm for a force on the bush
    centre."""
    axial = float(force @ run.way)
    shear = float(np.linalg.norm(force - axial * run.way))
    moment = cross(run.aim - at, force)
    torsion = float(moment @ run.way)
    return axial, shear, float(np.linalg.norm(moment - torsion * run.way)), torsion


def _arm_checks(mount: Mount, run: ArmRun, cases: Sequence[MountCase], allow: Allowables) -> list[Finding]:
    arm = mount.arm
    assert arm is not None
    steel, plate = STEELS[arm.steel], STEELS[mount.pad.steel]
    weaker = min((steel, plate), key=lambda s: s.tensile / s.weld_beta)
    eye = run.aim - run.eye_radius * run.way

    def torsion_offset(force: Array) -> float:
        return float(cross(np.asarray(mount.bush.centre) - run.aim, force) @ run.way)

    def tube(case: MountCase, factor: float) -> _At:
        axial, shear, bending, torsion = _arm_parts(run, case.force * factor, run.root)
        torsion += torsion_offset(case.force * factor)
        stress = tube_stress(arm.outside_mm, arm.wall_mm, axial, bending, torsion, shear)[0]
        return _At(
            stress / steel.yield_mpa,
            stress,
            steel.yield_mpa,
            {"axial": axial, "shear": shear, "bending": bending, "torsion": torsion},
        )

    def weld_at(place: Array) -> Callable[[MountCase, float], _At]:
        def weld(case: MountCase, factor: float) -> _At:
            axial, shear, bending, torsion = _arm_parts(run, case.force * factor, place)
            torsion += torsion_offset(case.force * factor)
            use, f, c = tube_weld(
                arm.outside_mm,
                arm.weld_throat_mm,
                axial,
                shear,
                bending,
                torsion,
                weaker.tensile,
                weaker.weld_beta,
            )
            return _At(use, f, c, {"axial": axial, "shear": shear, "bending": bending, "torsion": torsion})

        return weld

    def work_weld(i: dict[str, Any]) -> Worked:
        return TUBE_WELD.work(
            {"axial": "equilibrium", "bending": "equilibrium"},
            outside=arm.outside_mm,
            throat=arm.weld_throat_mm,
            tensile=weaker.tensile,
            beta=weaker.weld_beta,
            **i,
        )

    return [
        _worst(
            mount,
            "arm",
            "arm tube at its root",
            "stress",
            cases,
            allow,
            tube,
            lambda i: TUBE.work(
                {"axial": "equilibrium", "bending": "equilibrium"},
                outside=arm.outside_mm,
                wall=arm.wall_mm,
                **i,
            ),
            "a larger tube, a thicker wall, or a shorter arm",
        ),
        _worst(
            mount,
            "root-weld",
            "weld of arm to plate",
            "line force",
            cases,
            allow,
            weld_at(run.root),
            work_weld,
            "a thicker weld or a larger tube",
        ),
        _worst(
            mount,
            "eye-weld",
            "weld of arm to eye",
            "line force",
            cases,
            allow,
            weld_at(eye),
            work_weld,
            "a thicker weld or a larger tube",
        ),
    ]


def _eye_checks(mount: Mount, run: ArmRun, cases: Sequence[MountCase], allow: Allowables) -> list[Finding]:
    """A mount without an arm: the eye's two straight welds on the plate, along the bush's axis."""
    bush, steel = mount.bush, STEELS[mount.pad.steel]
    spacing = (bush.eye_bore_mm + 2 * bush.eye_wall_mm) / 2
    normal = run.axes[:, 2]
    along = np.asarray(bush.axis) - np.asarray(bush.axis) @ normal * normal
    if np.linalg.norm(along) < 1e-6:
        raise JobError(
            f"{mount.name}: an eye that stands square on its plate needs an arm; lay the bush's axis along"
            " the plate.",
            f"mounts/{mount.id}/bush/axis",
        )
    along = along / np.linalg.norm(along)
    across = cross(normal, along)
    lever = np.asarray(bush.centre) - run.root

    def weld(case: MountCase, factor: float) -> _At:
        force = case.force * factor
        moment = cross(lever, force)
        inputs = {
            "axial": float(force @ normal),
            "along": float(force @ along),
            "across": float(force @ across),
            "moment_along": float(moment @ along),
            "moment_across": float(moment @ across),
            "moment_normal": float(moment @ normal),
        }
        use, f, c = line_weld(
            bush.length_mm,
            spacing,
            mount.eye_weld_throat_mm,
            tensile=steel.tensile,
            beta=steel.weld_beta,
            **inputs,
        )
        return _At(use, f, c, inputs)

    return [
        _worst(
            mount,
            "eye-weld",
            "weld of eye to plate",
            "line force",
            cases,
            allow,
            weld,
            lambda i: LINE_WELD.work(
                {"axial": "equilibrium"},
                length=bush.length_mm,
                spacing=spacing,
                throat=mount.eye_weld_throat_mm,
                tensile=steel.tensile,
                beta=steel.weld_beta,
                **i,
            ),
            "a thicker weld or a longer eye",
        )
    ]


def _bush_checks(mount: Mount, cases: Sequence[MountCase], allow: Allowables) -> list[Finding]:
    bush, cross = mount.bush, mount.cross_bolt
    size = thread(cross.bolt)
    cheek = STEELS[cross.cheek_steel]

    def bolt(case: MountCase, factor: float) -> _At:
        load = float(np.linalg.norm(case.force)) * factor
        use = cross_bolt(load, cross.bolt, cross.bolt_class, cross.cheek_mm, cross.gap_mm)[0]
        return _At(use, load, load / max(use, 1e-9), {"load": load})

    def bearing(case: MountCase, factor: float) -> _At:
        load = float(np.linalg.norm(case.force)) * factor
        use, capacity = cheek_bearing(load, size.diameter, cross.cheek_mm, cheek.yield_mpa)
        return _At(use, load, capacity, {"load": load})

    def pressure(case: MountCase, _: float) -> _At:
        p = bush_pressure(case.radial_force, bush.sleeve_mm, bush.length_mm)
        return _At(p / allow.bush_pressure_mpa, p, allow.bush_pressure_mpa, {"load": case.radial_force})

    def strain(case: MountCase, _: float) -> _At:
        e = bush_strain(case.radial_mm, bush.sleeve_mm, bush.eye_bore_mm)
        wall = (bush.eye_bore_mm - bush.sleeve_mm) / 2
        return _At(
            e / allow.bush_strain, case.radial_mm, allow.bush_strain * wall, {"movement": case.radial_mm}
        )

    return [
        _worst(
            mount,
            "cross-bolt",
            "cross-bolt in double shear",
            "force",
            cases,
            allow,
            bolt,
            lambda i: CROSS_BOLT.work(
                {"load": "bush"},
                size=cross.bolt,
                grade=cross.bolt_class,
                cheek=cross.cheek_mm,
                gap=cross.gap_mm,
                **i,
            ),
            "a larger bolt or less gap at the cheeks",
        ),
        _worst(
            mount,
            "cheeks",
            "cheeks under the cross-bolt",
            "force",
            cases,
            allow,
            bearing,
            lambda i: CHEEK.work(
                {"load": "bush"}, diameter=size.diameter, cheek=cross.cheek_mm, yield_mpa=cheek.yield_mpa, **i
            ),
            "thicker cheeks",
        ),
        _worst(
            mount,
            "pressure",
            "pressure on the rubber",
            "stress",
            cases,
            allow,
            pressure,
            lambda i: PRESSURE.work({"load": "bush"}, sleeve=bush.sleeve_mm, length=bush.length_mm, **i),
            "a longer bush or a larger sleeve",
            factored=False,
        ),
        _worst(
            mount,
            "strain",
            "rubber used up sideways",
            "length",
            cases,
            allow,
            strain,
            lambda i: STRAIN.work(
                {"movement": "bush"}, sleeve=bush.sleeve_mm, eye_bore=bush.eye_bore_mm, **i
            ),
            "a harder bush or a thicker wall",
            factored=False,
        ),
    ]
