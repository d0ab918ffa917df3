"""Lengths and bends of lines through points."""

from __future__ import annotations

import math
from collections.abc import Sequence


def axis_length(points: Sequence[Sequence[float]]) -> float:
    """Length mm of an axis through points."""
    return sum(math.dist(a, b) for a, b in zip(points, points[1:], strict=False))
