"""The cross-bolt through the bush: double shear, bending between cheeks, bearing in the cheeks, and the
rubber's own limits."""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation
from nimble_cradle.strength.bolts import CLASSES, GAMMA_M2
from nimble_cradle.strength.threads import SIZES, bolt_class, thread


def cross_bolt(
    load: float, size: str, grade: str, cheek: float, gap: float
) -> tuple[float, float, float, float]:
    """Use of a bolt in double shear and bending, and its shear N (both planes), bending N and elastic bending
    capacities as loads.

    Bending: the standard's M = F/8 (b + 4 c + 2 a) with b sleeve, c gap, a cheek, without its b: the
    tightened bolt clamps the sleeve, which then bends in its place.
    """
    t = thread(size)
    c = bolt_class(grade, t.diameter)
    shear = 2 * 0.6 * c.tensile * t.shank_area / GAMMA_M2
    arm = (2 * cheek + 4 * gap) / 8
    modulus = math.pi / 32 * t.diameter**3
    bending = 1.5 * modulus * c.proof / arm
    return math.hypot(load / shear, load / bending), shear, bending, load * arm


CROSS_BOLT = calculation(
    "cross-bolt",
    "A cross-bolt in double shear through a clamped sleeve",
    inputs=(
        Q("load", "N", "load on the bush, with its factor", low=0),
        Q("size", "", "thread", choices=SIZES),
        Q("grade", "", "property class", "8.8", choices=CLASSES),
        Q("cheek", "mm", "thickness of each cheek", above=0),
        Q("gap", "mm", "gap between sleeve and cheek", 0.0, low=0),
    ),
    outputs=(
        Q("use", "", "share of its capacity used"),
        Q("shear_capacity", "N", "two shear planes in the plain shank"),
        Q("bending_capacity", "N", "by bending between sleeve and cheek"),
        Q("moment", "N mm", "bending moment"),
    ),
    formula=(
        "shear 2 * 0.6 fub A / 1.25;  M = F (2 a + 4 c)/8 with the sleeve clamped;  M_cap = 1.5 W fy; "
        " (V/Vc)^2 + (M/Mc)^2 <= 1"
    ),
    source="EN 1993-1-8:2005 table 3.10 and 3.13.2, pin connections (from memory)",
    leaves_out=(
        "a sleeve that is not clamped by the tightened bolt: then the whole sleeve length bends the bolt"
    ),
)(cross_bolt)


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


def bush_pressure(load: float, sleeve: float, length: float) -> float:
    """Mean pressure MPa of a radial load on the sleeve's projected area."""
    return load / (sleeve * length)


PRESSURE = calculation(
    "bush-pressure",
    "Pressure on the rubber of a bush",
    inputs=(
        Q("load", "N", "radial load", low=0),
        Q("sleeve", "mm", "sleeve outside diameter", above=0),
        Q("length", "mm", "rubber length", above=0),
    ),
    outputs=(Q("pressure", "MPa", "mean pressure on the projected area"),),
    formula="p = F / (d L)",
    source="definition; the limit is common practice, no source",
    leaves_out="edge peaks and tilt of the sleeve",
)(bush_pressure)


def bush_strain(movement: float, sleeve: float, eye_bore: float) -> float:
    """Radial movement as a share of the rubber's wall."""
    return movement / ((eye_bore - sleeve) / 2)


STRAIN = calculation(
    "bush-strain",
    "How far the rubber wall is used up",
    inputs=(
        Q("movement", "mm", "radial movement of the sleeve", low=0),
        Q("sleeve", "mm", "sleeve outside diameter", above=0),
        Q("eye_bore", "mm", "bore of the eye", above=0),
    ),
    outputs=(Q("strain", "", "movement / wall"),),
    formula="movement / ((D - d)/2)",
    source="definition; the limit is common practice, no source",
    leaves_out="stiffening, which holds the sleeve back at large strain",
)(bush_strain)
