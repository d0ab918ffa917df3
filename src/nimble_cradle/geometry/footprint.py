"""Where an arm or an eye stands on a plate, with the toe of its weld."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array, unit


@dataclass(frozen=True, eq=False)
class Footprint:
    """Where an arm or an eye stands on a plate, with the toe of its weld: an oval or a rectangle about
    ``at`` (2,), its half sizes along ``way`` (2,) and across it, mm."""

    at: Array
    way: Array
    along: float
    across: float
    oval: bool = True

    def reach(self, directions: Array) -> Array:
        """(n,) how far it reaches along unit directions (n, 2)."""
        side = np.array([-self.way[1], self.way[0]])
        a = np.abs(directions @ self.way) * self.along
        b = np.abs(directions @ side) * self.across
        grown = np.hypot(a, b) if self.oval else a + b
        return np.asarray(directions @ self.at + grown)

    def away(self, points: Array) -> Array:
        """(n,) how far points (n, 2) stand off its edge, mm; below nought within it. An oval as one of 192
        sides."""
        from shapely import Point, Polygon

        shape = Polygon(self.outline(192))
        spots = [Point(p) for p in np.asarray(points)]
        return np.array(
            [-shape.exterior.distance(p) if shape.covers(p) else shape.distance(p) for p in spots]
        )

    def outline(self, points: int = 48) -> Array:
        """Points (n, 2) round it."""
        side = np.array([-self.way[1], self.way[0]])
        if not self.oval:
            signs = np.array([[1, 1], [-1, 1], [-1, -1], [1, -1]])
        else:
            t = np.arange(points) * 2 * np.pi / points
            signs = np.column_stack([np.cos(t), np.sin(t)])
        return np.asarray(self.at + signs[:, :1] * self.along * self.way + signs[:, 1:] * self.across * side)


def oval_footprint(at: Array, lean: Array, radius: float, slope_deg: float, toe: float) -> Footprint:
    """Of a round tube that leaves the plate slope_deg off square: r / cos long along its ``lean`` (2,)."""
    way = unit(lean) if float(np.linalg.norm(lean)) > 1e-9 else np.array([1.0, 0.0])
    return Footprint(at, way, radius / math.cos(math.radians(slope_deg)) + toe, radius + toe)
