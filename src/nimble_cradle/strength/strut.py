"""A torque strut: its rod in compression, its bolts, its lever. N, mm, MPa."""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation
from nimble_cradle.stock.threads import SIZES
from nimble_cradle.strength.bolts import CLASSES, bolt_capacity

E_STEEL = 210_000.0
LEAST_LEVER = 50.0
"""A strut whose line passes nearer than so many mm to the axis the engine rocks about does nothing (common
practice, no source)."""


def rod_use(
    load: float, length: float, outside: float, wall: float, yield_mpa: float
) -> tuple[float, float, float]:
    """Use of a hinged rod in compression, what it carries, and its slenderness: Euler beyond sqrt(2 pi^2
    E/fy), Johnson's parabola below."""
    inside = outside - 2 * wall
    area = math.pi / 4 * (outside**2 - inside**2)
    radius = math.sqrt(outside**2 + inside**2) / 4
    slender = length / radius
    edge = math.sqrt(2 * math.pi**2 * E_STEEL / yield_mpa)
    stress = (
        math.pi**2 * E_STEEL / slender**2
        if slender > edge
        else yield_mpa * (1 - yield_mpa * slender**2 / (4 * math.pi**2 * E_STEEL))
    )
    return load / (stress * area), stress * area, slender


STRUT_ROD = calculation(
    "strut-rod",
    "The rod of a torque strut in compression",
    inputs=(
        Q("load", "N", "along the rod, with its factor", low=0),
        Q("length", "mm", "between its eyes", above=0),
        Q("outside", "mm", "outside", above=0),
        Q("wall", "mm", "wall", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(
        Q("use", "", "share used"),
        Q("carries", "N", "load at which it buckles or yields"),
        Q("slender", "", "length over radius of gyration"),
    ),
    formula="Euler pi^2 E/l^2 beyond l = sqrt(2 pi^2 E/fy), Johnson fy (1 - fy l^2/(4 pi^2 E)) below",
    source="Shigley, Mechanical Engineering Design, 4-12 and 4-13 (from memory)",
    leaves_out="a rod that is bent, or loaded beside its axis",
)(rod_use)


def strut_bolt(load: float, size: str, grade: str) -> tuple[float, float]:
    """Use of a bolt in double shear, and what it carries."""
    carries = 2 * bolt_capacity(size, grade)[1]
    return load / carries, carries


STRUT_BOLT = calculation(
    "strut-bolt",
    "The bolt through an eye of a torque strut",
    inputs=(
        Q("load", "N", "on the eye, with its factor", low=0),
        Q("size", "", "thread", choices=SIZES),
        Q("grade", "", "property class", "8.8", choices=CLASSES),
    ),
    outputs=(Q("use", "", "share used"), Q("carries", "N", "in two planes of the thread")),
    formula="F <= 2 Fv, Fv = 0.6 fub As / 1.25",
    source="EN 1993-1-8:2005, table 3.4 (from memory)",
    leaves_out="bending of the bolt where its sleeve is loose",
)(strut_bolt)


def lever_use(lever: float, least: float = LEAST_LEVER) -> float:
    """Share of the least lever that is there, turned over: over 1 there is too little."""
    return least / max(lever, 1e-6)


STRUT_LEVER = calculation(
    "strut-lever",
    "Lever of a torque strut about the axis that the engine rocks about",
    inputs=(
        Q("lever", "mm", "from the axis to the strut's line", low=0),
        Q("least", "mm", "the least that is of use", LEAST_LEVER, above=0),
    ),
    outputs=(Q("use", "", "least / there"),),
    formula="least / lever",
    source="common practice, no source",
    leaves_out="that the mounts decide the axis; the way of the crank through the mass is taken",
)(lever_use)


MOST_OFF_SQUARE = 10.0
"""A rubber eye turns aside on its bolt by so many degrees at most (common practice, no source)."""


def square_use(off_deg: float, most: float = MOST_OFF_SQUARE) -> float:
    """Share used of what the eyes of a rod may stand off square to their bolt."""
    return off_deg / most


STRUT_SQUARE = calculation(
    "strut-square",
    "How far a strut's rod stands off square to its bolt",
    inputs=(
        Q("off_deg", "deg", "off square", low=0, high=90),
        Q("most", "deg", "the most that a rubber eye takes", MOST_OFF_SQUARE, above=0),
    ),
    outputs=(Q("use", "", "share used"),),
    formula="off / most",
    source="common practice, no source",
    leaves_out="how the rod leans when the engine rocks",
)(square_use)
