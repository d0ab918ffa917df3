"""The wall of a bush's eye where an arm or a plate is welded to it. N, mm, MPa, N mm.

The eye is a short piece of tube: the chord of a joint between round hollow sections.
"""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation

SHORT_RING = 0.7
"""What a ring no longer than two arm diameters carries of the standard's long chord (common practice, no
source)."""
MOST_SLENDER = 50.0
"""Diameter over wall up to which the standard's formulas hold (EN 1993-1-8 table 7.1, from memory)."""


def eye_wall(
    eye_outside: float, wall: float, length: float, arm: float, yield_mpa: float
) -> tuple[float, float, float]:
    """What the wall carries of an arm: N along it, and moments N mm in the plane of arm and eye axis, and
    out of it."""
    beta, gamma = min(arm / eye_outside, 1.0), eye_outside / (2 * wall)
    ring = SHORT_RING if length < 2 * arm else 1.0
    base = ring * yield_mpa * wall**2
    axial = gamma**0.2 * base * (2.8 + 14.2 * beta**2)
    in_plane = 4.85 * base * arm * math.sqrt(gamma) * beta
    out_of_plane = base * arm * 2.7 / (1 - 0.81 * beta)
    if arm > eye_outside - 2 * wall:
        return axial, in_plane, out_of_plane
    through = ring * yield_mpa * wall / math.sqrt(3)
    return (
        min(axial, through * math.pi * arm),
        min(in_plane, through * arm**2),
        min(out_of_plane, through * arm**2),
    )


def too_slender(eye_outside: float, wall: float) -> float:
    """Share by which an eye is thinner than the formulas reach; nought where it is not."""
    slender = eye_outside / wall / MOST_SLENDER
    return slender if slender > 1 else 0.0


def _eye_use(
    eye_outside: float,
    wall: float,
    length: float,
    arm: float,
    yield_mpa: float,
    axial: float,
    in_plane: float,
    out_of_plane: float,
) -> tuple[float, float, float, float]:
    n, mi, mo = eye_wall(eye_outside, wall, length, arm, yield_mpa)
    use = abs(axial) / n + (in_plane / mi) ** 2 + abs(out_of_plane) / mo
    return max(use, too_slender(eye_outside, wall)), n, mi, mo


EYE_WALL = calculation(
    "eye-wall",
    "The wall of an eye under its arm",
    inputs=(
        Q("eye_outside", "mm", "outside of the eye", above=0),
        Q("wall", "mm", "its wall", above=0),
        Q("length", "mm", "its length", above=0),
        Q("arm", "mm", "outside of the arm's tube", above=0),
        Q("yield_mpa", "MPa", "yield strength of the eye", above=0),
        Q("axial", "N", "along the arm, with its factor", 0.0),
        Q("in_plane", "N mm", "bending in the plane of arm and eye axis", 0.0),
        Q("out_of_plane", "N mm", "bending out of that plane", 0.0),
    ),
    outputs=(
        Q("use", "", "share used"),
        Q("axial_capacity", "N", "along the arm alone"),
        Q("in_plane_capacity", "N mm", "in the plane alone"),
        Q("out_of_plane_capacity", "N mm", "out of the plane alone"),
    ),
    formula=(
        "g = d0/(2 t0), b = d1/d0;  N = g^0.2 fy t0^2 (2.8 + 14.2 b^2);  Mi = 4.85 fy t0^2 d1 sqrt(g) b;  Mo"
        " = fy t0^2 d1 2.7/(1 - 0.81 b);  each no more than punching, t0 fy/sqrt3 times pi d1 or d1^2;  N/N +"
        " (Mi/Mi)^2 + Mo/Mo <= 1;  short ring times 0.7;  d0/t0 <= 50"
    ),
    source=(
        "EN 1993-1-8:2005 tables 7.1, 7.2 and 7.5, chord face and punching (from memory); the 0.7 is common"
        " practice, no source"
    ),
    leaves_out="what the rubber in the eye holds up",
)(_eye_use)


def eye_on_plate(
    eye_outside: float,
    wall: float,
    length: float,
    yield_mpa: float,
    pull: float,
    moment_along: float,
    spacing: float,
) -> tuple[float, float]:
    """Use and capacity N of the wall of an eye that stands on a plate by two welds along it: a chord with
    a plate along it, each weld with half the pull and its share of the moment that would roll the eye."""
    capacity = SHORT_RING * 5 * yield_mpa * wall**2 * (1 + 0.25 * length / eye_outside)
    load = abs(pull) + 2 * abs(moment_along) / spacing
    slender = eye_outside / wall
    return max(load / capacity, slender / MOST_SLENDER if slender > MOST_SLENDER else 0.0), capacity


EYE_ON_PLATE = calculation(
    "eye-on-plate",
    "The wall of an eye that is welded straight to its plate",
    inputs=(
        Q("eye_outside", "mm", "outside of the eye", above=0),
        Q("wall", "mm", "its wall", above=0),
        Q("length", "mm", "its length", above=0),
        Q("yield_mpa", "MPa", "yield strength of the eye", above=0),
        Q("pull", "N", "square to the plate, with its factor", 0.0),
        Q("moment_along", "N mm", "about the eye's axis", 0.0),
        Q("spacing", "mm", "between the two welds", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("capacity", "N", "square to the plate")),
    formula="N = 0.7 * 5 fy t0^2 (1 + 0.25 h1/d0);  (F + 2 M/s)/N <= 1;  d0/t0 <= 50",
    source=(
        "EN 1993-1-8:2005 table 7.3, longitudinal plate on a chord (from memory); short ring 0.7: common"
        " practice, no source"
    ),
    leaves_out="what the rubber in the eye holds up; two welds carry more than the one plate of the table",
)(eye_on_plate)
