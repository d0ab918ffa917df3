"""A round tube arm under bending, axial force, shear and torsion together."""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation
from nimble_cradle.stock.tubes import round_tube


def tube_stress(
    outside: float, wall: float, axial: float, bending: float, torsion: float, shear: float
) -> tuple[float, float, float]:
    """Equivalent stress MPa, and its direct and shear parts. axial, shear N; bending, torsion N mm.

    sigma = N/A + M/W; tau = T/Wt + 2 V/A (the two peaks are taken together, cautious); sqrt(sigma^2 + 3
    tau^2).
    """
    p = round_tube(outside, wall)
    sigma = abs(axial) / p.area + abs(bending) / p.w_lying
    tau = abs(torsion) / p.torsion_modulus + 2 * abs(shear) / p.area
    return math.sqrt(sigma**2 + 3 * tau**2), sigma, tau


TUBE = calculation(
    "tube-stress",
    "A round tube in bending, tension, shear and torsion",
    inputs=(
        Q("outside", "mm", "outside diameter", above=0),
        Q("wall", "mm", "wall", above=0),
        Q("axial", "N", "axial force", 0.0),
        Q("bending", "N mm", "bending moment", 0.0),
        Q("torsion", "N mm", "torsion", 0.0),
        Q("shear", "N", "shear force", 0.0),
    ),
    outputs=(
        Q("stress", "MPa", "equivalent stress"),
        Q("direct", "MPa", "direct stress"),
        Q("shear_stress", "MPa", "shear stress"),
    ),
    formula="sigma = N/A + M/W;  tau = T/Wt + 2 V/A;  sqrt(sigma^2 + 3 tau^2)",
    source=(
        "beam theory with the von Mises criterion: Shigley, Mechanical Engineering Design, ch. 3 and 5 (from"
        " memory)"
    ),
    leaves_out="denting of a thin wall where the tube meets the eye, and fatigue at the weld",
)(tube_stress)


def _tube_use(
    outside: float, wall: float, axial: float, bending: float, torsion: float, shear: float, yield_mpa: float
) -> tuple[float, float]:
    stress = tube_stress(outside, wall, axial, bending, torsion, shear)[0]
    return stress / yield_mpa, stress


TUBE_USE = calculation(
    "tube-use",
    "A round tube against its steel",
    inputs=(*TUBE.inputs, Q("yield_mpa", "MPa", "yield strength", above=0)),
    outputs=(Q("use", "", "share used"), Q("stress", "MPa", "equivalent stress")),
    formula=f"{TUBE.formula} <= fy",
    source=TUBE.source,
    leaves_out=TUBE.leaves_out,
)(_tube_use)
