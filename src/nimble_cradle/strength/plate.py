"""The bolted plate at the root of an arm: bending between a pulled bolt and the toe of the weld."""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation


def plate_capacity(thickness: float, lever: float, edge: float, yield_mpa: float) -> tuple[float, float]:
    """Tension N that the plate can pass from one bolt to the arm, and the width mm of plate that works.

    One plastic hinge at the weld's toe, single curvature, so without prying. lever: bolt centre to toe;
    edge: bolt to plate edge.
    """
    width = min(2 * math.pi * lever, 4 * lever + 1.25 * edge)
    return width * thickness**2 * yield_mpa / (4 * lever), width


PLATE = calculation(
    "plate-at-bolt",
    "Bending of a plate between a bolt and the arm's weld",
    inputs=(
        Q("thickness", "mm", "plate", above=0),
        Q("lever", "mm", "bolt centre to the toe of the weld", above=0),
        Q("edge", "mm", "bolt centre to the edge of the plate", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(
        Q("capacity", "N", "tension that one bolt may bring in"),
        Q("width", "mm", "width of plate that works"),
    ),
    formula="width = min(2 pi m, 4 m + 1.25 e);  F = (width t^2 fy / 4) / m",
    source=(
        "EN 1993-1-8:2005 table 6.4, effective lengths of one bolt row (from memory); hinge in single"
        " curvature, cautious"
    ),
    leaves_out="prying, and the stiffness of the block's boss under the plate",
)(plate_capacity)
