"""A crush sleeve in a hollow rail under the clamp of its bolt. N, mm, MPa."""

from __future__ import annotations

import math

from nimble_cradle.calc import CalcError, Q, calculation


def sleeve_use(clamp: float, outside: float, inside: float, yield_mpa: float) -> tuple[float, float]:
    """Use of a sleeve and what it carries, N. Raises CalcError where nothing is left of it."""
    area = math.pi / 4 * (outside**2 - inside**2)
    if area <= 0:
        raise CalcError(f"A sleeve of {outside:g} mm does not go over a bolt in {inside:g} mm.")
    return clamp / (area * yield_mpa), area * yield_mpa


CRUSH_SLEEVE = calculation(
    "crush-sleeve",
    "A sleeve in a hollow rail, clamped by its bolt",
    inputs=(
        Q("clamp", "N", "clamp of the bolt", low=0),
        Q("outside", "mm", "outside", above=0),
        Q("inside", "mm", "bore", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("carries", "N", "at its yield")),
    formula="clamp / (pi/4 (D^2 - d^2) fy)",
    source="Shigley, Mechanical Engineering Design, 8-5 (from memory)",
    leaves_out="how the sleeve's ends bed into paint; a sleeve longer than the rail is wide",
)(sleeve_use)
