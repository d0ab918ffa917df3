"""Checks of a mount's arm, of the welds at both its ends, and of the eye's wall."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array, cross, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Arm, Mount
from nimble_cradle.strength.arms import ArmRun, eye_along, eye_spacing
from nimble_cradle.strength.eye import EYE_ON_PLATE, EYE_WALL, MOST_SLENDER, eye_on_plate, eye_wall
from nimble_cradle.strength.findings import Finding
from nimble_cradle.strength.sections import round_tube
from nimble_cradle.strength.threads import STEELS, Steel
from nimble_cradle.strength.tube import TUBE_USE
from nimble_cradle.strength.weld import LINE_WELD, TUBE_WELD, force_per_mm, slanted, two_lines, weld_capacity
from nimble_cradle.strength.worst import Cases, Check, worst

THICKER = "a thicker weld (no thicker than the wall) or a larger tube"


@dataclass(frozen=True, eq=False)
class _At:
    """Forces (k, 3) N and moments (k, 3) N mm at a place of the arm, along two ways square to it and along
    it."""

    force: Array
    moment: Array

    @property
    def shear(self) -> Array:
        """(k,) N square to the arm."""
        return np.asarray(np.hypot(self.force[:, 0], self.force[:, 1]))

    @property
    def bending(self) -> Array:
        """(k,) N mm."""
        return np.asarray(np.hypot(self.moment[:, 0], self.moment[:, 1]))


def _at(mount: Mount, run: ArmRun, forces: Array, place: Array, side: Array) -> _At:
    """What forces (k, 3) on the bush's centre do at a place of the arm. side: (3,) unit, square to the
    arm."""
    axes = np.column_stack([side, cross(run.way, side), run.way])
    return _At(forces @ axes, np.cross(np.asarray(mount.bush.centre) - place, forces) @ axes)


def lean_of(run: ArmRun) -> Array:
    """(3,) unit, square to the arm: the side that it leans to over its plate; any where it stands square."""
    normal = run.axes[:, 2]
    lean = (normal @ run.way) * run.way - normal
    return unit(lean) if float(np.linalg.norm(lean)) > 1e-9 else run.axes[:, 0]


def arm_checks(mount: Mount, run: ArmRun, cases: Cases) -> list[Finding]:
    """Tube, root weld, eye weld, eye wall of a mount with an arm."""
    arm, bush, pad = mount.arm, mount.bush, mount.pad
    assert arm is not None
    steel, plate = STEELS[arm.steel], STEELS[pad.steel]
    root = _at(mount, run, cases.forces, run.root, lean_of(run))
    p = round_tube(arm.outside_mm, arm.wall_mm)
    sigma = np.abs(root.force[:, 2]) / p.area + root.bending / p.w_lying
    tau = np.abs(root.moment[:, 2]) / p.torsion_modulus + 2 * root.shear / p.area
    stress = np.sqrt(sigma**2 + 3 * tau**2)
    found = [
        worst(
            mount,
            Check("arm", "arm tube at its root", "stress", "a larger tube, a thicker wall, or a shorter arm"),
            cases,
            stress / steel.yield_mpa,
            stress,
            TUBE_USE,
            lambda k: {
                "axial": float(root.force[k, 2]),
                "shear": float(root.shear[k]),
                "bending": float(root.bending[k]),
                "torsion": float(root.moment[k, 2]),
                "outside": arm.outside_mm,
                "wall": arm.wall_mm,
                "yield_mpa": steel.yield_mpa,
            },
            {"axial": "equilibrium", "bending": "equilibrium"},
        ),
        _tube_weld(
            mount,
            Check("root-weld", "weld of arm to plate", "line force", THICKER),
            cases,
            root,
            arm,
            min(arm.weld_throat_mm, arm.wall_mm, pad.plate_mm),
            run.plate_angle_deg,
            plate,
        ),
    ]
    # at the eye: one way along its axis as far as that is square to the arm, the other out of their plane
    axis = unit(bush.axis)
    along = unit(axis - (axis @ run.way) * run.way)
    end = _at(mount, run, cases.forces, run.aim - run.eye_radius * run.way, along)
    found.append(
        _tube_weld(
            mount,
            Check("eye-weld", "weld of arm to eye", "line force", THICKER),
            cases,
            end,
            arm,
            min(arm.weld_throat_mm, arm.wall_mm, bush.eye_wall_mm),
            0.0,
            plate,
        )
    )
    outside = 2 * run.eye_radius
    n, mi, mo = eye_wall(outside, bush.eye_wall_mm, bush.length_mm, arm.outside_mm, plate.yield_mpa)
    in_plane, out = end.moment[:, 1], end.moment[:, 0]
    use = np.abs(end.force[:, 2]) / n + (in_plane / mi) ** 2 + np.abs(out) / mo
    slender = outside / bush.eye_wall_mm / MOST_SLENDER
    use = np.maximum(use, slender if slender > 1 else 0.0)
    found.append(
        worst(
            mount,
            Check("eye-wall", "wall of the eye under the arm", "torque", "a thicker wall of the eye"),
            cases,
            use,
            end.bending / 1000,
            EYE_WALL,
            lambda k: {
                "eye_outside": outside,
                "wall": bush.eye_wall_mm,
                "length": bush.length_mm,
                "arm": arm.outside_mm,
                "yield_mpa": plate.yield_mpa,
                "axial": float(end.force[k, 2]),
                "in_plane": float(in_plane[k]),
                "out_of_plane": float(out[k]),
            },
            {"axial": "equilibrium", "in_plane": "equilibrium"},
        )
    )
    return found


def _tube_weld(
    mount: Mount, check: Check, cases: Cases, at: _At, arm: Arm, throat: float, slope: float, other: Steel
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


def eye_checks(mount: Mount, run: ArmRun, cases: Cases) -> list[Finding]:
    """A mount without an arm: the eye's two straight welds on the plate, along the bush's axis, and its
    wall. Raises JobError for an eye that stands square on its plate."""
    bush, steel = mount.bush, STEELS[mount.pad.steel]
    spacing = eye_spacing(mount)
    normal = run.axes[:, 2]
    along = eye_along(mount, run)
    if along is None:
        raise JobError(
            f"{mount.name}: an eye that stands square on its plate needs an arm; lay the bush's axis along"
            " the plate.",
            f"mounts/{mount.id}/bush/axis",
        )
    axes = np.column_stack([along, cross(normal, along), normal])
    f = cases.forces @ axes
    m = np.cross(np.asarray(bush.centre) - run.root, cases.forces) @ axes
    throat = min(mount.eye_weld_throat_mm, bush.eye_wall_mm, mount.pad.plate_mm)
    line = force_per_mm(two_lines(bush.length_mm, spacing), f, m)
    outside = bush.eye_bore_mm + 2 * bush.eye_wall_mm
    _, capacity = eye_on_plate(outside, bush.eye_wall_mm, bush.length_mm, steel.yield_mpa, 1.0, 0.0, spacing)
    load = np.abs(f[:, 2]) + 2 * np.abs(m[:, 0]) / spacing
    slender = outside / bush.eye_wall_mm / MOST_SLENDER
    return [
        worst(
            mount,
            Check("eye-weld", "weld of eye to plate", "line force", "a thicker weld or a longer eye"),
            cases,
            line / weld_capacity(throat, steel.tensile, steel.weld_beta),
            line,
            LINE_WELD,
            lambda k: {
                "axial": float(f[k, 2]),
                "along": float(f[k, 0]),
                "across": float(f[k, 1]),
                "moment_along": float(m[k, 0]),
                "moment_across": float(m[k, 1]),
                "moment_normal": float(m[k, 2]),
                "length": bush.length_mm,
                "spacing": spacing,
                "throat": throat,
                "tensile": steel.tensile,
                "beta": steel.weld_beta,
            },
            {"axial": "equilibrium"},
        ),
        worst(
            mount,
            Check("eye-wall", "wall of the eye over its welds", "force", "a thicker wall of the eye"),
            cases,
            np.maximum(load / capacity, slender if slender > 1 else 0.0),
            load,
            EYE_ON_PLATE,
            lambda k: {
                "eye_outside": outside,
                "wall": bush.eye_wall_mm,
                "length": bush.length_mm,
                "yield_mpa": steel.yield_mpa,
                "pull": float(f[k, 2]),
                "moment_along": float(m[k, 0]),
                "spacing": spacing,
            },
            {"pull": "equilibrium"},
        ),
    ]
