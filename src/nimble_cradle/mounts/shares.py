"""How the weight is shared where more mounts bear it than have to: by how stiff they are, so what each bears
is only as sure as their stiffness. Vehicle frame; mm, N."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.mounts.equilibrium import CaseResult, linear_rest
from nimble_cradle.mounts.springs import Spring

HARDER = 0.2
"""Five points of hardness are a fifth of a bush's stiffness (common practice, no source)."""
SURE = 3
"""So many mounts are borne on whatever their stiffness; from one more on they share by it."""


@dataclass(frozen=True)
class RestShare:
    """What one mount bears of the weight at rest, N upwards: as said, and least and most with one bush of all
    HARDER harder or softer than said."""

    mount: str
    now: float
    least: float
    most: float


def rest_shares(
    springs: Sequence[Spring], mounts: Sequence[str], centre: Array, rest: CaseResult
) -> tuple[RestShare, ...]:
    """What each of ``mounts`` (ids) bears at rest; none where no more are there than have to be. springs: as
    they answer about where the engine rests. Raises JobError where they leave it free."""
    if len(mounts) <= SURE:
        return ()
    load = np.concatenate([rest.case.force, rest.case.moment])[None]
    plain = [replace(spring, law=None) for spring in springs]
    said = linear_rest(plain, centre, load).force[:, 0, 2]
    moved = []
    for i, spring in enumerate(plain):
        for share in (1 + HARDER, 1 - HARDER):
            other = [*plain[:i], replace(spring, matrix=spring.matrix * share), *plain[i + 1 :]]
            moved.append(linear_rest(other, centre, load).force[:, 0, 2] - said)
    low, high = np.min(moved, axis=0), np.max(moved, axis=0)
    out = []
    for i, (spring, borne) in enumerate(zip(springs, rest.mounts, strict=True)):
        if spring.mount in mounts:
            now = -float(borne.force[2])
            out.append(RestShare(spring.mount, now, now - float(high[i]), now - float(low[i])))
    return tuple(out)
