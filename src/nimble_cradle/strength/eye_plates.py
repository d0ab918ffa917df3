"""The wall of a bush's eye where flat bars or a box are welded across it. N, mm, MPa, N mm.

The eye is a short piece of tube: the chord of a joint with a plate across it, or a rectangular brace.
"""

from __future__ import annotations

from nimble_cradle.calc import Q, calculation
from nimble_cradle.strength.eye import SHORT_RING, too_slender


def _base(eye_outside: float, wall: float, length: float, tall: float, yield_mpa: float) -> float:
    """N that one plate across it brings into the wall."""
    beta = min(tall / eye_outside, 1.0)
    ring = SHORT_RING if length < 2 * tall else 1.0
    return ring * yield_mpa * wall**2 * (4 + 20 * beta**2)


def eye_plates(
    eye_outside: float, wall: float, length: float, tall: float, wide: float, yield_mpa: float
) -> tuple[float, float, float]:
    """What the wall carries of a box ``tall`` round it and ``wide`` along it: N along the arm, N mm in the
    plane of arm and eye axis, N mm out of it. Of one plate: wide is its thickness."""
    n = _base(eye_outside, wall, length, tall, yield_mpa) * (1 + 0.25 * wide / eye_outside)
    return n, n * wide, 0.5 * n * tall


def _use(
    axial: float, in_plane: float, out_of_plane: float, **given: float
) -> tuple[float, float, float, float]:
    n, mi, mo = eye_plates(**given)
    use = abs(axial) / n + abs(in_plane) / mi + abs(out_of_plane) / mo
    return max(use, too_slender(given["eye_outside"], given["wall"])), n, mi, mo


EYE_PLATES = calculation(
    "eye-plates",
    "The wall of an eye under a flat bar or a box",
    inputs=(
        Q("eye_outside", "mm", "outside of the eye", above=0),
        Q("wall", "mm", "its wall", above=0),
        Q("length", "mm", "its length", above=0),
        Q("tall", "mm", "height of bar or box, round the eye", above=0),
        Q("wide", "mm", "thickness of the bar or width of the box, along the eye", above=0),
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
        "b = h/d0, e = w/d0;  N = fy t0^2 (4 + 20 b^2) (1 + 0.25 e);  Mi = w N;  Mo = 0.5 h N;  N/N + Mi/Mi +"
        " Mo/Mo <= 1;  short ring times 0.7;  d0/t0 <= 50"
    ),
    source=(
        "EN 1993-1-8:2005 tables 7.3 and 7.4, plates across and rectangular braces on round tube (from"
        " memory); the 0.7 is common practice, no source"
    ),
    leaves_out="what the rubber in the eye holds up, and punching of the wall",
)(_use)
