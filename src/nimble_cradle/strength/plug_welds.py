"""Plug welds in a row: what each holds, and how far apart they may be for what flows along the row."""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation

BETA, GAMMA_M2 = 0.8, 1.25
"""EN 1993-1-8:2005 table 4.1 for S235, and 2.2 (from memory)."""
TENSILE = 360.0
"""Of the weakest steel that is welded, MPa: S235, EN 10025-2 (from memory)."""
KEPT = 2.5
"""So many times what flows is held (as the other welds of the chassis)."""


def plug_holds(diameter: float, tensile: float = TENSILE) -> float:
    """Shear of one plug weld, N."""
    return math.pi / 4 * diameter**2 * tensile / (math.sqrt(3) * BETA * GAMMA_M2)


def plug_pitch(
    twist: float, enclosed: float, shear: float, first_moment: float, second_moment: float, diameter: float
) -> tuple[float, float, float]:
    """Shear flow along the row, N/mm, what one plug holds, N, and how far they may be apart, mm. twist: N mm;
    enclosed: area within the closed section, mm2; shear: N; moments of the plate and of the section, mm3 and
    mm4."""
    flow = twist / (2 * enclosed) + shear * first_moment / second_moment
    holds = plug_holds(diameter)
    return flow, holds, holds / max(KEPT * flow, 1e-9)


PLUG_PITCH = calculation(
    "plug-pitch",
    "How far apart plug welds of a closing plate may be",
    inputs=(
        Q("twist", "N mm", "twist of the member", low=0),
        Q("enclosed", "mm2", "area within the closed section", above=0),
        Q("shear", "N", "load across the member", low=0),
        Q("first_moment", "mm3", "area of the plate by its distance from the section's middle", low=0),
        Q("second_moment", "mm4", "of the section", above=0),
        Q("diameter", "mm", "of a plug", above=0),
    ),
    outputs=(
        Q("flow", "N/mm", "along the row"),
        Q("holds", "N", "one plug"),
        Q("pitch", "mm", "apart at most"),
    ),
    formula="q = T/(2 A) + V S/I;  plug pi d^2/4 fu/(sqrt 3 x 0.8 x 1.25), fu 360 MPa;  pitch = plug/(2.5 q)",
    source="Bredt, Jourawski (any book on strength); EN 1993-1-8:2005, 4.5.3.3 (from memory); 2.5: common"
    " practice, no source",
    leaves_out="pitch so wide that the sheet buckles between; both rows share V, which is not counted",
)(plug_pitch)
