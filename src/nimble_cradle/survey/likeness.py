"""How like one another two hole patterns are."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array


@dataclass(frozen=True, eq=False)
class Likeness:
    """How well a second pattern matches: rms mm as it is and as its mirror image, and the better of the
    two placed on the first (n, 2)."""

    rms: float
    mirrored_rms: float
    placed: Array
    residuals: Array

    @property
    def mirrored(self) -> bool:
        """Whether the mirror image fits clearly better: one of the two was noted from the other side."""
        return self.mirrored_rms < 0.5 * self.rms and self.rms - self.mirrored_rms > 0.3


def likeness(first: Array, second: Array) -> Likeness:
    """Best fit in the plane of a second pattern (n, 2) on the first, hole by hole, as it is and mirrored."""
    best: dict[bool, tuple[float, Array]] = {}
    a = first - first.mean(0)
    for mirrored in (False, True):
        b = (second - second.mean(0)) * (-1.0 if mirrored else 1.0, 1.0)
        angle = math.atan2(float((b[:, 0] * a[:, 1] - b[:, 1] * a[:, 0]).sum()), float((b * a).sum()))
        c, s = math.cos(angle), math.sin(angle)
        placed = b @ np.array([[c, s], [-s, c]]) + first.mean(0)
        best[mirrored] = float(np.sqrt(((placed - first) ** 2).sum(1).mean())), placed
    pick = best[True][0] < best[False][0]
    placed = best[pick][1]
    return Likeness(best[False][0], best[True][0], placed, np.linalg.norm(placed - first, axis=1))
