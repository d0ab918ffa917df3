"""How much of the life of a mount's welds its load changes take."""

from __future__ import annotations

import numpy as np

from nimble_cradle.families.arm_run import ArmRun
from nimble_cradle.families.cheeks import OnFoot
from nimble_cradle.families.eye import eye_along, eye_spacing
from nimble_cradle.families.family import arm_family, eye_of
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, alone
from nimble_cradle.geometry.pose import Array, cross, crosses
from nimble_cradle.job.loads import Loads
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.cases import own_id
from nimble_cradle.strength.fatigue import FATIGUE, ROOT, damage
from nimble_cradle.strength.weld import effective_throat, force_per_mm, two_lines

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
    own = ((own_id(case), "weight", case.times) for case in loads.own_cases if case.times > 0)
    there = [(at[a] - at[b], n) for a, b, n in (*pairs, *own) if a in at and b in at]
    return np.array([change for change, _ in there]).reshape(-1, 3), [n for _, n in there]


def fatigue_checks(mount: Mount, run: ArmRun, cases: Cases, loads: Loads) -> list[Finding]:
    """The weld at the plate and the one at the eye, whichever detail of it is used more; none where no case
    is known by its name."""
    force, counts = _changes(cases, loads)
    if not counts:
        return []
    if mount.arm is not None:
        family = arm_family(mount.arm)
        root, eye = family.life_root(mount, run, force), family.life_eye(mount, run, force)
        return [
            _told(mount, "fatigue-root", "weld of arm to plate, in its life", root, counts),
            _told(mount, "fatigue-eye", "weld of arm to eye, in its life", eye, counts),
        ]
    return [_on_plate(mount, run, force, counts)]


def foot_fatigue(mount: Mount, on: OnFoot | None, cases: Cases, loads: Loads) -> list[Finding]:
    """The welds of the cheeks at their foot; none where there are no cheeks of ours."""
    force, counts = _changes(cases, loads)
    if on is None or not counts:
        return []
    details = on.life(force)
    return [_told(mount, "foot-life", "welds of cheeks to foot, in their life", details, counts)]


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


def _on_plate(mount: Mount, run: ArmRun, force: Array, counts: list[float]) -> Finding:
    """Root of the two fillets of an eye that stands on its plate."""
    along = eye_along(mount, run)
    assert along is not None
    normal, eye = run.axes[:, 2], eye_of(mount.bush)
    axes = np.column_stack([along, cross(normal, along), normal])
    f = force @ axes
    m = crosses(np.asarray(mount.bush.centre) - run.root, force) @ axes
    throat = effective_throat(mount.eye_weld_throat_mm, eye.wall_mm, mount.pad.plate_mm)
    root = np.asarray(force_per_mm(two_lines(eye.length_mm, eye_spacing(mount)), f, m) / throat)
    return _told(mount, "fatigue-eye", "weld of eye to plate, in its life", [(root, ROOT)], counts)
