"""What of the bay stands nearest to a point."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, standing_items
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solid_makers import box
from nimble_cradle.job.bay import Item
from nimble_cradle.job.job import Job


def _point(at: Array) -> Bodies:
    """A point that can be measured from: a cube of a tenth of a mm."""
    return Bodies([[box(at, (0.1, 0.1, 0.1))]])


def nearest_item(job: Job, at: Array, items: Sequence[Item], reach: float) -> tuple[Item, float] | None:
    """The nearest of some items to a point of the vehicle frame, and how far, mm; below nought inside it."""
    every = standing_items(job)
    wanted = {item.id for item in items}
    if not wanted:
        return None
    limit = np.full((1, len(every)), -np.inf)
    limit[0, [k for k, i in enumerate(every) if i.id in wanted]] = reach
    found = nearest(_point(at), Pose.still(), bay_bodies(job), limit)
    best = min(found, key=lambda n: n.distance, default=None)
    return None if best is None else (every[best.b], best.distance)
