"""Whether what holds the powertrain still holds it in a crash: every rubber gone, the metal on its stops,
each part at what it bears once. The mounts share as equally stiff ones: where metal yields before it breaks
any share that is in equilibrium and nowhere too much is on the safe side (lower bound theorem of
plasticity)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import MountCase
from nimble_cradle.geometry.pose import Array, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.loads import Allowables, Loads
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.captured import FAR, free_ways
from nimble_cradle.mounts.cases import STILL, Case
from nimble_cradle.mounts.equilibrium import LEVER
from nimble_cradle.mounts.springs import cross_matrix, motion_at
from nimble_cradle.units import G_STANDARD

TENSILE_OVER_YIELD = 1.3
"""A steel breaks at so many times its yield at least: 470/355 of S355, the least of EN 10025-2 and EN 10305
in `stock.steels`, rounded down."""
PLASTIC_PLATE = 1.5
"""A plate that yields through its whole thickness bears so many times what it does when its skin yields
(w t^2/4 over w t^2/6)."""
YIELDS = dict.fromkeys(
    ("plate", "plate-line", "arm", "kink", "eye-wall", "gusset", "scallop", "cheeks")
    + (
        "foot-cheek-end",
        "foot-overhang",
        "foot-plate-line",
        "foot-top",
        "cradle-stress",
        "crossmember-stress",
    ),
    TENSILE_OVER_YIELD,
) | {"foot-cheeks": PLASTIC_PLATE * TENSILE_OVER_YIELD}
"""Checks of made steel against its yield, and how many times that it bears once; bolts and welds are checked
against what they break at as it is, and a rail's wall is left at its yield, since its steel is often a
guess."""
NOT_IN_A_CRASH = frozenset(
    ("slip", "pressure", "strain", "axial", "side-travel", "foot-slip", "foot-room", "cradle-move")
    + ("crossmember-sag",)
)
"""Rubber, play, and what is held by clamping alone: of no account once."""
CAUGHT_N = 10_000.0
"""A load that tells a metal stop from what is left of rubber, N."""
LEAST_SPREAD = 1e-3
"""Mounts on one line leave it free to turn about that line."""
NO_REST = (
    "Too few mounts stop the powertrain in metal: in a crash only rubber would keep it from turning over."
)


def once_use(own: float, times: float) -> float:
    """Share used of what a part bears once."""
    return own / times


CRASH = calculation(
    "held-in-a-crash",
    "What a part bears once against what it bears every day",
    inputs=(
        Q("own", "", "share used by the part's own check, nothing kept in hand", low=0),
        Q("times", "", "so many times its yield it bears once", 1.0, above=0),
    ),
    outputs=(Q("use", "", "share used"),),
    formula=(
        "own / times; times = 1.3 made steel (tensile over yield), 1.95 a plate bent (fully yielded too), 1"
        " bolts, welds and rails.  Loads: the powertrain's mass x the job's g (8 ahead, 6 aside, 4 back"
        " if not changed) and its weight, shared by the mounts that metal stops, equally stiff"
    ),
    source=(
        "EN 10025-2, EN 10305 (strengths); lower bound theorem of plasticity; g: common practice, no source"
    ),
    leaves_out="what the car itself does in a crash: crumpled rails, torn spot welds, other loads at once",
)(once_use)


def crash_cases(loads: Loads, mass_kg: float) -> tuple[Case, ...]:
    """The powertrain thrown ahead, to each side and back, its weight in it; vehicle frame."""
    weight = mass_kg * G_STANDARD
    ways = (
        ("ahead", loads.crash_ahead_g, (1.0, 0.0)),
        ("left", loads.crash_side_g, (0.0, 1.0)),
        ("right", loads.crash_side_g, (0.0, -1.0)),
        ("back", loads.crash_back_g, (-1.0, 0.0)),
    )
    return tuple(
        Case(
            f"crash-{way}",
            f"thrown {'to the ' if way in ('left', 'right') else ''}{way} at {g:g} g",
            np.array([x * g * weight, y * g * weight, -weight]),
            STILL,
            "rare",
        )
        for way, g, (x, y) in ways
    )


def metal_holds(mount: Mount) -> bool:
    """Whether metal stops a mount's eye every way when its rubber is gone."""
    return bool(free_ways(mount, CAUGHT_N).max() < FAR)


def shares(at: Array, centre: Array, force: Array) -> Array:
    """(n, k, 3) N: what each of n places (n, 3) mm bears of forces (k, 3) N at ``centre``, all places equally
    stiff every way. Raises JobError where they leave the body free to turn."""
    arms = at - centre
    spread = np.einsum("ni,ni->", arms, arms) * np.eye(3) - np.einsum("ni,nj->ij", arms, arms)
    middle = arms.mean(axis=0)
    n = len(at)
    whole = np.block([[n * np.eye(3), -n * cross_matrix(middle)], [n * cross_matrix(middle), spread]])
    scale = np.array([1.0, 1.0, 1.0, LEVER, LEVER, LEVER])
    if np.linalg.eigvalsh(whole / np.outer(scale, scale))[0] < LEAST_SPREAD:
        raise JobError(NO_REST[:-1], "mounts")
    moved = np.linalg.solve(whole, np.vstack([force.T, np.zeros((3, len(force)))]))
    return np.array([(motion_at(arm) @ moved).T for arm in arms])


def thrown(
    mounts: Sequence[Mount], centre: Array, loads: Loads, mass_kg: float
) -> dict[str, list[MountCase]]:
    """What each mount that metal stops meets in a crash, by id; vehicle frame. Raises JobError where the
    metal leaves the powertrain free."""
    held = [mount for mount in mounts if metal_holds(mount)]
    cases = crash_cases(loads, mass_kg)
    if not held:
        raise JobError(NO_REST[:-1], "mounts")
    at = np.array([mount.bush.centre for mount in held], dtype=float)
    force = shares(at, centre, np.array([case.force for case in cases]))
    out: dict[str, list[MountCase]] = {}
    for mount, own in zip(held, force, strict=True):
        axis = unit(mount.bush.axis)
        across = own - np.outer(own @ axis, axis)
        out[mount.id] = [
            MountCase(case.name, "rare", -f, float(np.linalg.norm(r)), 0.0, 0.0, id=case.id)
            for case, f, r in zip(cases, own, across, strict=True)
        ]
    return out


def once(allow: Allowables) -> Allowables:
    """The factors of what happens once: none."""
    return allow.model_copy(update={"rare_factor": 1.0})


def _broken(finding: Finding) -> Finding:
    """A finding against what the part bears once, its load without a factor."""
    times = YIELDS.get(finding.code, 1.0)
    origins = {"own": f"{finding.what}: {finding.worked.calculation.title.lower()}", "times": "its steel"}
    worked = CRASH.work(origins, own=finding.use, times=times)
    capacity = finding.capacity * times
    return replace(finding, use=float(worked.value("use")), capacity=capacity, worked=worked)


def borne_once(cases: Sequence[MountCase], found: Iterable[Finding]) -> list[Finding]:
    """Of the findings in the crash cases, without factors, those that count then, against what each part
    bears once."""
    names = {case.name for case in cases}
    return [_broken(f) for f in found if f.case in names and f.code not in NOT_IN_A_CRASH]


def weakest(code: str, borne: Sequence[Finding]) -> list[Finding]:
    """The one that comes nearest to breaking, as the finding ``code``; none of none."""
    if not borne:
        return []
    weak = max(borne, key=lambda f: f.use)
    return [replace(weak, code=code, what=f"held in a crash: {weak.what}")]
