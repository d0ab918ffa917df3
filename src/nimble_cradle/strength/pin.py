"""The cross-bolt through the bush: double shear, bending between cheeks, bearing in the cheeks, and the
rubber's own limits."""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation
from nimble_cradle.stock.bolts import bolt_class
from nimble_cradle.stock.threads import SIZES, thread
from nimble_cradle.strength.bolts import CLASSES, FRICTION, GAMMA_M2, LOW_CLAMP

MOST_PLAY = 0.5
"""A bolt is at most so much thinner than its bore, mm (common practice, no source)."""
SLEEVE_YIELD = 355.0
"""Sleeves are cut from E355 tube, MPa."""


def cross_bolt(
    load: float, size: str, grade: str, cheek: float, gap: float, sleeve: float = 0.0, clamp: float = 0.0
) -> tuple[float, float, float, float]:
    """Use of a bolt in double shear and bending, and its shear N (both planes), bending N and elastic bending
    capacities as loads. sleeve: mm long; clamp: N of the tightened bolt (0: not tightened, or not said).

    Bending: the standard's M = F/8 (b + 4 c + 2 a) with b sleeve, c gap, a cheek. Where friction at both
    ends of the sleeve, by the low side of the clamp, carries the load, the sleeve bends in the bolt's
    place and b drops out.
    """
    t = thread(size)
    c = bolt_class(grade, t.diameter)
    shear = 2 * 0.6 * c.tensile * t.shank_area / GAMMA_M2
    held = 2 * FRICTION * LOW_CLAMP * clamp >= load
    arm = (2 * cheek + 4 * gap + (0.0 if held else sleeve)) / 8
    modulus = math.pi / 32 * t.diameter**3
    bending = 1.5 * modulus * c.proof / arm
    return math.hypot(load / shear, load / bending), shear, bending, load * arm


CROSS_BOLT = calculation(
    "cross-bolt",
    "A cross-bolt in double shear through a sleeve",
    inputs=(
        Q("load", "N", "load on the bush, with its factor", low=0),
        Q("size", "", "thread", choices=SIZES),
        Q("grade", "", "property class", "8.8", choices=CLASSES),
        Q("cheek", "mm", "thickness of each cheek", above=0),
        Q("gap", "mm", "gap between sleeve and cheek", 0.0, low=0),
        Q("sleeve", "mm", "length of the sleeve", 0.0, low=0),
        Q("clamp", "N", "clamp force of the tightened bolt; 0 where it is not said", 0.0, low=0),
    ),
    outputs=(
        Q("use", "", "share of its capacity used"),
        Q("shear_capacity", "N", "two shear planes in the plain shank"),
        Q("bending_capacity", "N", "by bending between sleeve and cheek"),
        Q("moment", "N mm", "bending moment"),
    ),
    formula=(
        "shear 2 * 0.6 fub A / 1.25;  M = F (b + 2 a + 4 c)/8, b = 0 where 2 mu 0.7 C >= F;  M_cap = 1.5 W"
        " fy;  (V/Vc)^2 + (M/Mc)^2 <= 1"
    ),
    source=(
        "EN 1993-1-8:2005 table 3.10 and 3.13.2, pin connections (from memory); friction 0.2, clamp's low"
        " side 0.7"
    ),
    leaves_out="wear of the hole, and a sleeve whose ends are not square",
)(cross_bolt)


def sleeve_pressure(
    clamp: float, outside: float, bore: float, yield_mpa: float
) -> tuple[float, float, float]:
    """Use, pressure MPa and area mm2 of a sleeve's end under the clamp of its bolt."""
    area = math.pi / 4 * (outside**2 - bore**2)
    return clamp / area / yield_mpa, clamp / area, area


SLEEVE = calculation(
    "sleeve-end",
    "Pressure on the ends of a clamped sleeve",
    inputs=(
        Q("clamp", "N", "clamp force of the bolt", low=0),
        Q("outside", "mm", "outside of the sleeve", above=0),
        Q("bore", "mm", "its bore", above=0),
        Q("yield_mpa", "MPa", "yield strength of the sleeve", SLEEVE_YIELD, above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("pressure", "MPa", "on its ends"), Q("area", "mm2", "of an end")),
    formula="C / (pi/4 (D^2 - d^2)) <= fy",
    source="definition; E355 tube, EN 10305-1 (from memory)",
    leaves_out="dishing of the cheeks",
)(sleeve_pressure)


def bolt_play(bore: float, diameter: float) -> tuple[float, float]:
    """Play over the most that is taken, and the play, mm."""
    return max(bore - diameter, 0.0) / MOST_PLAY, bore - diameter


PLAY = calculation(
    "bolt-play",
    "Play of a bolt in its bore",
    inputs=(Q("bore", "mm", "bore of the sleeve", above=0), Q("diameter", "mm", "bolt", above=0)),
    outputs=(Q("use", "", "play over 0.5 mm"), Q("play", "mm", "bore less bolt")),
    formula="bore - d <= 0.5 mm",
    source="common practice, no source",
    leaves_out="a worn or painted bore",
)(bolt_play)


def side_travel(movement: float, room: float) -> float:
    """Movement of the eye along the bolt over its room to the cheek."""
    return abs(movement) / room


TRAVEL = calculation(
    "eye-travel",
    "The eye's way to its cheek",
    inputs=(Q("movement", "mm", "along the bolt"), Q("room", "mm", "between eye and cheek", above=0)),
    outputs=(Q("use", "", "share used"),),
    formula="|u| <= room between eye and cheek",
    source="geometry",
    leaves_out="dirt, and an eye that is not in the middle",
)(side_travel)


def cheek_bearing(load: float, diameter: float, cheek: float, yield_mpa: float) -> tuple[float, float]:
    """Use and capacity N of two cheeks in bearing: 1.5 t d fy each."""
    capacity = 2 * 1.5 * cheek * diameter * yield_mpa
    return load / capacity, capacity


CHEEK = calculation(
    "cheek-bearing",
    "Bearing of the cross-bolt in its two cheeks",
    inputs=(
        Q("load", "N", "load, with its factor", low=0),
        Q("diameter", "mm", "bolt", above=0),
        Q("cheek", "mm", "each cheek", above=0),
        Q("yield_mpa", "MPa", "yield strength of the cheeks", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("capacity", "N", "of both cheeks")),
    formula="F = 2 * 1.5 t d fy",
    source="EN 1993-1-8:2005 table 3.10 (from memory)",
    leaves_out="tear-out: keep at least two bolt diameters from the hole to the edge of the cheek",
)(cheek_bearing)
