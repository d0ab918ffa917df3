"""Whether the engine still stands on metal when the rubber of one mount is gone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.families.family import bush_family
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Check, alone
from nimble_cradle.geometry.pose import Array, Pose, frame
from nimble_cradle.job.base import JobError
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.equilibrium import large_rest
from nimble_cradle.mounts.springs import Spring
from nimble_cradle.units import G_STANDARD

HARD_G = 3.0
"""Each way, and what must be held then (common practice, no source)."""
LEFT_OF_RUBBER = 0.01
"""So much of its stiffness a torn bush keeps, so that the sum can be done."""
FAR, STEP = 100.0, 0.5
"""A bush that goes so many mm is out of its bracket; looked at in such steps."""


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


@lru_cache(maxsize=256)
def free_ways(mount: Mount, load: float) -> Array:
    """(6,) mm that the eye goes without its rubber before metal carries ``load`` N: along and against its
    three axes, the last along the bush. At most `FAR`, which is as good as out."""
    law = bush_family(mount.bush).bare_law(mount, LEFT_OF_RUBBER)
    ways = np.vstack([np.eye(3), -np.eye(3)])
    steps = np.arange(0.0, FAR + STEP, STEP)
    u = (ways[:, None] * steps[:, None]).reshape(-1, 3)
    force = np.einsum("wsi,wi->ws", law.answer(u).force.reshape(6, -1, 3), ways)
    out = np.array([float(np.interp(load, f, steps, right=FAR)) for f in np.maximum.accumulate(force, 1)])
    out.flags.writeable = False  # it is remembered
    return out


def free_down(mount: Mount, load: float) -> float:
    """mm that the eye goes straight down without its rubber before metal carries ``load`` N."""
    law = bush_family(mount.bush).bare_law(mount, LEFT_OF_RUBBER)
    down = frame(mount.bush.axis, (0.0, 0.0, 1.0)).T @ np.array([0.0, 0.0, -1.0])
    steps = np.arange(0.0, FAR + STEP, STEP)
    force = np.maximum.accumulate(law.answer(steps[:, None] * down).force @ down)
    return float(np.interp(load, force, steps, right=FAR))


def free_way_use(way: float, most: float) -> float:
    """Share of the way that is allowed."""
    return way / most


def road_use(drop: float, over: float) -> float:
    """Share of the way to the road."""
    return drop / over


CAPTURED = calculation(
    "captured",
    "How far an eye goes with its rubber gone until metal holds it",
    inputs=(
        Q("way", "mm", f"the longest of six ways, {HARD_G:g} g of the whole engine on it", low=0),
        Q("most", "mm", "the most that may be", above=0),
    ),
    outputs=(Q("use", "", "share of what may be"),),
    formula="way / most; a way of 100 mm or more is told as 100: nothing holds",
    source="common practice, no source",
    leaves_out="the other mounts, which hold too; whether the metal itself bears the blow",
)(free_way_use)


OFF_ROAD = calculation(
    "captured-road",
    "How far the engine comes down to the road with one rubber gone",
    inputs=(
        Q("drop", "mm", "its lowest point comes down", low=0),
        Q("over", "mm", "it stands over the road", above=0),
    ),
    outputs=(Q("use", "", "share of the way to the road"),),
    formula="drop / over; the engine turns about the line through the two other mounts",
    source="statics; common practice, no source",
    leaves_out="what the other mounts give, and the springs of the car pressed in",
)(road_use)


def capture_check(mount: Mount, mass_kg: float, allow: Allowables) -> Finding:
    """Whether metal holds the mount's eye with its rubber gone, each way."""
    way = float(free_ways(mount, HARD_G * G_STANDARD * mass_kg).max())
    return alone(
        mount,
        Check(
            "captured", "metal without its rubber", "length", "metal that stops it: a bolt, a washer, a strap"
        ),
        way,
        CAPTURED,
        {"way": "the bush's metal", "most": "the job"},
        "its rubber torn, any way",
        way=way,
        most=allow.bare_way_mm,
    )


def comes_down(mounts: Sequence[Mount], k: int, way: float, corners: Array) -> Array:
    """(n,) mm that corners (n, 3) of the powertrain rise when the eye of mount k goes down by ``way``: about
    the line through the two others, to first order; all alike where there are not three mounts."""
    others = [np.asarray(m.bush.centre, dtype=float) for m in (*mounts[:k], *mounts[k + 1 :])]
    straight = np.full(len(corners), -way)
    if len(others) != 2:
        return straight
    along = others[1] - others[0]
    flat = np.array([-along[1], along[0]])  # square to the line, level

    def lever(points: Array) -> Array:
        return np.asarray((points[:, :2] - others[0][:2]) @ flat)

    own = float(lever(np.asarray(mounts[k].bush.centre, dtype=float)[None])[0])
    if abs(own) < 1e-3 * float(flat @ flat):
        return straight
    return -way * lever(corners) / own


def road_check(mounts: Sequence[Mount], k: int, mass_kg: float, corners: Array, road_z: float) -> Finding:
    """Whether the engine stays off the road with the rubber of mount k gone. corners: (n, 3) of the
    powertrain, vehicle frame; road_z: height of the road there."""
    mount = mounts[k]
    way = float(free_down(mount, HARD_G * G_STANDARD * mass_kg))
    after = corners[:, 2] + comes_down(mounts, k, way, corners)
    drop = float(corners[:, 2].min() - after.min())
    over = float(corners[:, 2].min()) - road_z
    return alone(
        mount,
        Check("captured-road", "off the road without its rubber", "length", "a metal stop nearer to the eye"),
        max(drop, 0.0),
        OFF_ROAD,
        {"drop": "the bush's metal", "over": "the bay"},
        "its rubber torn",
        drop=max(drop, 0.0),
        over=max(over, 1.0),
    )


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
