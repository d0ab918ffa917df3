"""Pairs of bodies of two sides, measured at rest into rows of the gap table."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.fit.gap import Gap, point_of
from nimble_cradle.fit.travel import MovingItem, least_through_travel
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import Nearest, nearest
from nimble_cradle.geometry.pose import Array, Pose


@dataclass(frozen=True, eq=False)
class Side:
    """Bodies of one side. doubt(k, near): give-or-take of body k's surface where it is nearest, mm. movers:
    those that move on their own, by column. stage: where a lack is put right."""

    ids: tuple[str, ...]
    names: tuple[str, ...]
    bodies: Bodies
    doubt: Callable[[int, Nearest], float]
    movers: Sequence[MovingItem] = ()
    stages: tuple[str, ...] = ()


def measured(moving: Side, pose: Pose, fixed: Side, required: Array, listed: Array) -> list[Gap]:
    """Rows of every pair that comes within ``listed`` (moving, fixed) mm at rest, or through the travel of
    what moves on the fixed side. required: (moving, fixed) mm; a pair whose ``listed`` is -inf is left
    out."""
    if not moving.bodies.count or not fixed.bodies.count or not np.isfinite(listed).any():
        return []
    reach = listed.copy()
    for mover in fixed.movers:
        reach[:, mover.column] += mover.farthest
    found = {(near.a, near.b): near for near in nearest(moving.bodies, pose, fixed.bodies, reach)}
    travel: dict[tuple[int, int], tuple[float, str]] = {}
    for mover in fixed.movers:
        if np.isfinite(listed[:, mover.column]).any():
            least = least_through_travel(moving.bodies, pose, mover, listed[:, mover.column])
            for a, (near, at) in least.items():
                travel[a, mover.column] = (near.distance, mover.words(at))
    rows = []
    for (a, b), near in found.items():
        if near.distance >= listed[a, b] and (a, b) not in travel:
            continue
        through, where = travel.get((a, b), (None, ""))
        rows.append(
            Gap(
                moving.ids[a],
                fixed.ids[b],
                moving.names[a],
                fixed.names[b],
                near.distance,
                float(required[a, b]),
                math.hypot(moving.doubt(a, near), fixed.doubt(b, near)),
                point_of(near.on_a),
                point_of(near.on_b),
                point_of(near.way),
                travel=through,
                travel_at=where,
                stage=moving.stages[a] if moving.stages else fixed.stages[b] if fixed.stages else "position",
            )
        )
    return rows
