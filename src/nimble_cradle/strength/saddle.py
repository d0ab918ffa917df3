"""The side walls of a rail that a saddle is welded to. N, mm, MPa."""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation


def side_wall_use(line: float, wall: float, yield_mpa: float) -> tuple[float, float]:
    """Use of a wall in shear beside a weld of ``line`` N/mm, and what it carries, N/mm."""
    capacity = wall * yield_mpa / math.sqrt(3)
    return line / capacity, capacity


SIDE_WALL = calculation(
    "rail-side-wall",
    "The side wall of a rail beside a saddle's weld",
    inputs=(
        Q("line", "N/mm", "greatest force on a mm of the saddle's welds", low=0),
        Q("wall", "mm", "thickness of the wall", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("capacity", "N/mm", "what a mm of wall carries in shear")),
    formula="q <= t fy / sqrt(3)",
    source="von Mises; EN 1993-1-1:2005, 6.2.6 (from memory)",
    leaves_out="the wall pushed or pulled square to itself, which the saddle's other leg takes",
)(side_wall_use)
