"""Whether the engine still stands on metal when the rubber of one mount is gone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.families.family import bush_family
from nimble_cradle.geometry.pose import Array, Pose, frame
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.equilibrium import large_rest
from nimble_cradle.mounts.springs import Spring
from nimble_cradle.units import G_STANDARD

HARD_G = 3.0
"""Each way, and what must be held then (common practice, no source)."""
LEFT_OF_RUBBER = 0.01
"""So much of its stiffness a torn bush keeps, so that the sum can be done."""


@dataclass(frozen=True)
class Captured:
    """One mount without its rubber. dropped: mm that its eye goes down under the weight; held: whether metal
    holds it then, 3 g each way; lowest: z of the lowest point of the powertrain, vehicle frame."""

    mount: str
    name: str
    held: bool
    dropped: float
    lowest: float


def without_rubber(mounts: Sequence[Mount], springs: Sequence[Spring], k: int) -> tuple[Spring, ...]:
    """The springs with the rubber of mount k gone and its metal still there."""
    mount, spring = mounts[k], springs[k]
    law = bush_family(mount.bush).bare_law(mount, LEFT_OF_RUBBER)
    r = frame(spring.axis, (0.0, 0.0, 1.0))
    torn = replace(spring, law=law, matrix=np.asarray(r @ law.tangent() @ r.T))
    return (*springs[:k], torn, *springs[k + 1 :])


def captured(
    mounts: Sequence[Mount],
    springs: Sequence[Spring],
    centre: Array,
    mass_kg: float,
    pose: Pose,
    corners: Array,
) -> tuple[Captured, ...]:
    """For every mount. corners: (n, 3) points of the powertrain at rest, vehicle frame."""
    weight = mass_kg * G_STANDARD
    ways = np.vstack([np.eye(3), -np.eye(3)]) * HARD_G * weight
    load = np.zeros((7, 6))
    load[0, 2] = -weight
    load[1:, :3] = ways
    load[1:, 2] += np.where(ways[:, 2] == 0, -weight, 0.0)
    out = []
    for k, mount in enumerate(mounts):
        torn = without_rubber(mounts, springs, k)
        try:
            rest = large_rest(torn, centre, load, np.zeros((7, 3)), np.zeros((7, 3)))
        except (JobError, np.linalg.LinAlgError):
            out.append(Captured(mount.id, mount.name, False, float("inf"), -float("inf")))
            continue
        down = pose.moved(rest.move[0], rest.turn[0], centre) @ pose.inverse()
        out.append(
            Captured(
                mount.id,
                mount.name,
                True,
                -float(rest.moved[k, 0, 2]),
                float(down.points(corners)[:, 2].min()),
            )
        )
    return tuple(out)
