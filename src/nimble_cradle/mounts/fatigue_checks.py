"""How much of the life of a mount's welds its load changes take."""

from __future__ import annotations

import numpy as np

from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.eye import eye_along, eye_spacing
from nimble_cradle.families.family import eye_of
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, alone
from nimble_cradle.geometry.pose import Array, cross, unit
from nimble_cradle.job.loads import Loads
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.tubes import round_tube
from nimble_cradle.strength.fatigue import FATIGUE, ROOT, TOE, damage
from nimble_cradle.strength.weld import effective_throat, force_per_mm, slanted, two_lines

CURE = "a thicker weld on thicker metal, a larger tube, or a shorter arm"


def _changes(cases: Cases, loads: Loads) -> tuple[Array, list[float]]:
    """(k, 3) changes of the force on the bush, N, without factors, and how often each comes."""
    at = {row.id: row.force for row in cases.rows}
    pairs = (
        ("first-gear", "overrun", loads.first_overrun_times),
        ("first-gear", "reverse", loads.first_reverse_times),
        ("left-bend", "right-bend", loads.bends_times),
        ("weight-down", "weight-up", loads.rough_times),
        ("bump", "rebound", loads.bumps_times),
    )
    there = [(at[a] - at[b], n) for a, b, n in pairs if a in at and b in at]
    return np.array([change for change, _ in there]).reshape(-1, 3), [n for _, n in there]


def fatigue_checks(mount: Mount, run: ArmRun, cases: Cases, loads: Loads) -> list[Finding]:
    """The weld at the plate and the one at the eye, whichever detail of it is used more; none where no case
    is known by its name."""
    force, counts = _changes(cases, loads)
    if not counts:
        return []
    if mount.arm is not None:
        return [_root(mount, run, force, counts), _eye(mount, run, force, counts)]
    return [_on_plate(mount, run, force, counts)]


def _told(
    mount: Mount, code: str, what: str, details: list[tuple[Array, float]], counts: list[float]
) -> Finding:
    """The detail of a weld, by its stress ranges (k,) and category, that is used more."""
    ranges, category = max(details, key=lambda d: damage(d[0].tolist(), counts, d[1]))
    return alone(
        mount,
        Check(code, what, "stress", CURE),
        float(ranges.max()),
        FATIGUE,
        {"ranges": "equilibrium, from case to case", "counts": "job"},
        "in the life of the car",
        ranges="; ".join(f"{r:.4f}" for r in ranges),
        counts="; ".join(f"{n:g}" for n in counts),
        category=category,
    )


def _axes_at(mount: Mount, run: ArmRun, place: Array, side: Array, force: Array) -> tuple[Array, Array]:
    """Forces and moments (k, 3) at a place of the arm, along two ways square to it and along it."""
    axes = np.column_stack([side, cross(run.way, side), run.way])
    lever = np.asarray(mount.bush.centre) - place
    return force @ axes, np.cross(lever, force) @ axes


def _root(mount: Mount, run: ArmRun, force: Array, counts: list[float]) -> Finding:
    """Toe on the tube and root of the fillet at the plate."""
    from nimble_cradle.families.tube_arm import lean_of

    arm = mount.arm
    assert arm is not None
    f, m = _axes_at(mount, run, run.root, lean_of(run), force)
    tube = round_tube(arm.outside_mm, arm.wall_mm)
    toe = np.abs(f[:, 2]) / tube.area + np.hypot(m[:, 0], m[:, 1]) / tube.w_lying
    throat = effective_throat(arm.weld_throat_mm, arm.wall_mm, mount.pad.plate_mm)
    root = force_per_mm(slanted(arm.outside_mm / 2, run.plate_angle_deg), f, m) / throat
    details = [(toe, TOE), (np.asarray(root), ROOT)]
    return _told(mount, "fatigue-root", "weld of arm to plate, in its life", details, counts)


def _eye(mount: Mount, run: ArmRun, force: Array, counts: list[float]) -> Finding:
    """Root of the fillet at the eye."""
    arm, run = mount.arm, run.at_eye
    assert arm is not None
    axis = unit(mount.bush.axis)
    along = unit(axis - (axis @ run.way) * run.way)
    f, m = _axes_at(mount, run, run.aim - run.eye_radius * run.way, along, force)
    throat = effective_throat(arm.weld_throat_mm, arm.wall_mm, eye_of(mount.bush).wall_mm)
    root = np.asarray(force_per_mm(slanted(arm.outside_mm / 2, 0.0), f, m) / throat)
    return _told(mount, "fatigue-eye", "weld of arm to eye, in its life", [(root, ROOT)], counts)


def _on_plate(mount: Mount, run: ArmRun, force: Array, counts: list[float]) -> Finding:
    """Root of the two fillets of an eye that stands on its plate."""
    along = eye_along(mount, run)
    assert along is not None
    normal, eye = run.axes[:, 2], eye_of(mount.bush)
    axes = np.column_stack([along, cross(normal, along), normal])
    f = force @ axes
    m = np.cross(np.asarray(mount.bush.centre) - run.root, force) @ axes
    throat = effective_throat(mount.eye_weld_throat_mm, eye.wall_mm, mount.pad.plate_mm)
    root = np.asarray(force_per_mm(two_lines(eye.length_mm, eye_spacing(mount)), f, m) / throat)
    return _told(mount, "fatigue-eye", "weld of eye to plate, in its life", [(root, ROOT)], counts)
