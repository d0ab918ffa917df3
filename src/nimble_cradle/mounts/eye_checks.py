"""Checks of a mount without an arm: the eye welded straight to its plate."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.eye import eye_along, eye_spacing
from nimble_cradle.families.family import eye_of
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, worst
from nimble_cradle.geometry.pose import Array, cross, crosses
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.strength.eye import EYE_ON_PLATE, MOST_SLENDER, eye_on_plate
from nimble_cradle.strength.weld import LINE_WELD, effective_throat, force_per_mm, two_lines, weld_capacity


@dataclass(frozen=True, eq=False)
class _OnPlate:
    """Forces (k, 3) N and moments (k, 3) N mm on an eye's welds: along them, across them, off the plate."""

    force: Array
    moment: Array


def eye_checks(mount: Mount, run: ArmRun, cases: Cases) -> list[Finding]:
    """A mount without an arm: the eye's two straight welds on the plate, along the bush's axis, and its
    wall. Raises JobError for an eye that stands square on its plate."""
    along = eye_along(mount, run)
    if along is None:
        raise JobError(
            f"{mount.name}: an eye that stands square on its plate needs an arm; lay the bush's axis along"
            " the plate.",
            f"mounts/{mount.id}/bush/axis",
        )
    normal = run.axes[:, 2]
    axes = np.column_stack([along, cross(normal, along), normal])
    lever = np.asarray(mount.bush.centre) - run.root
    loads = _OnPlate(cases.forces @ axes, crosses(lever, cases.forces) @ axes)
    return [_weld(mount, cases, loads), _wall(mount, cases, loads)]


def _weld(mount: Mount, cases: Cases, loads: _OnPlate) -> Finding:
    """The two welds; no thicker than the thinnest metal that they join."""
    eye, steel, f, m = eye_of(mount.bush), STEELS[mount.pad.steel], loads.force, loads.moment
    throat = effective_throat(mount.eye_weld_throat_mm, eye.wall_mm, mount.pad.plate_mm)
    line = force_per_mm(two_lines(eye.length_mm, eye_spacing(mount)), f, m)
    return worst(
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
            "length": eye.length_mm,
            "spacing": eye_spacing(mount),
            "throat": throat,
            "tensile": steel.tensile,
            "beta": steel.weld_beta,
        },
        {"axial": "equilibrium"},
    )


def _wall(mount: Mount, cases: Cases, loads: _OnPlate) -> Finding:
    """The wall of the eye over its welds."""
    eye, f, m, spacing = eye_of(mount.bush), loads.force, loads.moment, eye_spacing(mount)
    yield_mpa = STEELS[mount.pad.steel].yield_mpa
    _, capacity = eye_on_plate(eye.outside_mm, eye.wall_mm, eye.length_mm, yield_mpa, 1.0, 0.0, spacing)
    load = np.abs(f[:, 2]) + 2 * np.abs(m[:, 0]) / spacing
    slender = eye.outside_mm / eye.wall_mm / MOST_SLENDER
    return worst(
        mount,
        Check("eye-wall", "wall of the eye over its welds", "force", "a thicker wall of the eye"),
        cases,
        np.maximum(load / capacity, slender if slender > 1 else 0.0),
        load,
        EYE_ON_PLATE,
        lambda k: {
            "eye_outside": eye.outside_mm,
            "wall": eye.wall_mm,
            "length": eye.length_mm,
            "yield_mpa": yield_mpa,
            "pull": float(f[k, 2]),
            "moment_along": float(m[k, 0]),
            "spacing": spacing,
        },
        {"pull": "equilibrium"},
    )
