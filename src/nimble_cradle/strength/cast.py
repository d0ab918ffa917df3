"""Polyurethane halves cast in moulds of one's own: what is poured, where what is squeezed goes, how stiff.
N, mm, MPa, g."""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation

DENSITY = 1.1e-3
"""g/mm3 of cast polyurethane (common practice, no source)."""
MOST_SQUEEZED = 0.08
"""Of its section, pressed in (common practice, no source): 57 in 56 on 17 for 16 is 0.051."""


def cast_fit(
    body: float, hole: float, eye_bore: float, sleeve: float, half_long: float, length: float
) -> tuple[float, float, float, float]:
    """Share used, how much larger its section is than the room for it, both halves' length in the eye mm, and
    that over the eye's. Polyurethane does not give in volume: what is squeezed goes along the eye."""
    larger = (body**2 - hole**2) / (eye_bore**2 - sleeve**2)
    together = 2 * half_long * larger
    squeezed = larger - 1
    return max(squeezed / MOST_SQUEEZED, together / length), squeezed, together, together / length


CAST_FIT = calculation(
    "cast-fit",
    "Cast halves pressed into their eye",
    inputs=(
        Q("body", "mm", "outside of the body, as cast", above=0),
        Q("hole", "mm", "its hole, as cast", above=0),
        Q("eye_bore", "mm", "bore of the eye", above=0),
        Q("sleeve", "mm", "outside of the sleeve", above=0),
        Q("half_long", "mm", "body of each half, as cast", above=0),
        Q("length", "mm", "length of the eye", above=0),
    ),
    outputs=(
        Q("use", "", "share used: of the squeeze, or of the eye's length"),
        Q("squeezed", "", "of its section"),
        Q("fitted", "mm", "both halves long, in the eye"),
        Q("filled", "", "of the eye's length"),
    ),
    formula="squeezed = (D^2 - d^2)/(B^2 - s^2) - 1, at most 0.08;  fitted = 2 l (1 + squeezed) <= L",
    source="constant volume; the 0.08 is common practice, no source",
    leaves_out="what the flanges take up",
)(cast_fit)


def cast_pour(
    body: float,
    hole: float,
    half_long: float,
    flange: float,
    flange_outside: float,
    waste_percent: float,
    parts_a: float,
    parts_b: float,
) -> tuple[float, float, float, float]:
    """Both halves, ml, what is poured for them, ml, and A and B of that, g."""
    ring = math.pi / 4 * (body**2 - hole**2) * half_long
    two = 2 * (ring + math.pi / 4 * (flange_outside**2 - hole**2) * flange) / 1000
    pour = two / (1 - min(waste_percent, 90.0) / 100)
    mass = pour * 1000 * DENSITY
    return two, pour, mass * parts_a / (parts_a + parts_b), mass * parts_b / (parts_a + parts_b)


CAST_POUR = calculation(
    "cast-pour",
    "What is mixed and poured for two cast halves",
    inputs=(
        Q("body", "mm", "outside of the body", above=0),
        Q("hole", "mm", "its hole", above=0),
        Q("half_long", "mm", "body of each half", above=0),
        Q("flange", "mm", "each flange, thick", above=0),
        Q("flange_outside", "mm", "outside of the flange", above=0),
        Q("waste_percent", "%", "of the pour, left in the cup", 15.0, low=0, high=90),
        Q("parts_a", "", "parts of A", 1.0, above=0),
        Q("parts_b", "", "parts of B", 1.0, above=0),
    ),
    outputs=(
        Q("halves", "ml", "both halves"),
        Q("pour", "ml", "what is mixed"),
        Q("a", "g", "of A"),
        Q("b", "g", "of B"),
    ),
    formula="V = pi/4 (D^2 - d^2) l + pi/4 (Df^2 - d^2) t, twice;  pour = V/(1 - waste);  1.1 g/ml",
    source="geometry; density common practice, no source",
    leaves_out="mixed by volume A and B may differ in density: then measure by volume, half and half",
)(cast_pour)


def squeeze_modulus(outside: float, high: float, force: float, squeezed: float) -> float:
    """Young's modulus MPa of a cylinder between greased plates: F = E A (1/lambda^2 - lambda)/3."""
    left = 1 - squeezed / high
    return 3 * force / (math.pi / 4 * outside**2 * (1 / left**2 - left))


SQUEEZE_TEST = calculation(
    "squeeze-test",
    "Modulus of polyurethane or rubber by squeezing a test piece",
    inputs=(
        Q("outside", "mm", "of the plain cylinder", above=0),
        Q("high", "mm", "its height", above=0),
        Q("force", "N", "on it", above=0),
        Q("squeezed", "mm", "by how much it was squeezed", above=0),
    ),
    outputs=(Q("modulus", "MPa", "Young's modulus"),),
    formula="E = 3 F/(A (1/l^2 - l)), l = 1 - squeezed/height",
    source="neo-Hookean solid in compression: Treloar, The Physics of Rubber Elasticity (from memory)",
    leaves_out="plates that are not greased, which make it read too stiff; warm-up: the third squeeze counts",
)(squeeze_modulus)
