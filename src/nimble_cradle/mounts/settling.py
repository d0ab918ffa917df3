"""How a mount settles in time, and how much of its give is its bracket's."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.equilibrium import CaseResult, solve
from nimble_cradle.mounts.springs import Spring

DAY = 24 * 60
AGES = (("new", 1.0), ("in a month", 30.0 * DAY), ("in ten years", 3652.0 * DAY))
"""Ages that are told, in minutes."""
MOST_BRACKET = 0.2
"""A bracket that gives more than this share of what its rubber gives is part of the spring (common practice,
no source: five times as stiff; makers want ten)."""


def further(percent: float, minutes: float) -> float:
    """How many times as far as after one minute rubber has settled."""
    return 1 + percent / 100 * math.log10(max(minutes, 1.0))


CREEP = calculation(
    "rubber-creep",
    "How rubber settles in time",
    inputs=(
        Q("settled", "mm", "after the first minute", low=0),
        Q("percent", "%", "further for every tenfold of time: natural 2 to 4, hard or cast 5 to 8", low=0),
        Q("minutes", "min", "how long it has stood", low=1),
    ),
    outputs=(Q("then", "mm", "settled by then"), Q("times", "", "times as far")),
    formula="x = x1 (1 + c log10(t / 1 min))",
    source="Lindley, Engineering Design with Natural Rubber (from memory)",
    leaves_out="heat, oil, and rubber that tears",
)(lambda settled, percent, minutes: (settled * further(percent, minutes), further(percent, minutes)))


def settled_for_years(
    springs: Sequence[Spring], mounts: Sequence[Mount], rest: CaseResult, centre: Array, pose: Pose
) -> CaseResult:
    """Where the powertrain rests when every bush has settled further for ten years, each by its own rubber:
    springs that are so much softer than they are at rest."""
    softer = []
    creep = {mount.id: mount.bush.creep_percent for mount in mounts}
    for spring, load in zip(springs, rest.mounts, strict=True):
        if spring.mount not in creep:  # a strut: within its gap it carries nothing at rest
            softer.append(spring)
            continue
        times = further(creep[spring.mount], AGES[-1][1])
        along = unit(load.own) if float(np.linalg.norm(load.own)) > 1e-9 else spring.axis
        secant = float(load.force @ along) / max(float(load.own @ along), 1e-9)
        own_way = float(along @ spring.matrix @ along)
        share = secant / own_way if own_way > 0 and secant > 0 else 1.0
        softer.append(replace(spring, law=None, matrix=spring.matrix * share / times))
    case = replace(rest.case, id="aged", name="settled for ten years")
    return solve(softer, centre, pose, [case])[0]


def bracket_share(spring: Spring) -> float:
    """What a bush's bracket gives over what the bush gives, in the way where that is most."""
    return float(np.abs(np.linalg.eigvals(spring.give @ spring.matrix)).max())
