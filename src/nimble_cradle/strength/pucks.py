"""Rubber pucks squeezed and sheared between flat faces. N, mm, MPa.

Gent and Lindley, Proc. Inst. Mech. Engrs 173 (1959) 111; figures by hardness: Lindley, Engineering Design
with Natural Rubber, table 3 (both from memory). E0 of that table and Gent's E by hardness are not the same.
"""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.calc import Q, calculation

TABLE = (
    (40.0, 1.50, 0.85, 0.45),
    (45.0, 1.80, 0.80, 0.54),
    (50.0, 2.20, 0.73, 0.64),
    (55.0, 3.25, 0.64, 0.81),
    (60.0, 4.45, 0.57, 1.06),
    (65.0, 5.85, 0.54, 1.37),
    (70.0, 7.35, 0.53, 1.73),
    (75.0, 9.40, 0.52, 2.22),
)
"""IRHD, E0 MPa, phi, G MPa."""
BULK = 1200.0
"""MPa: the bulk modulus that the table goes with."""


def rubber_by_irhd(irhd: float) -> tuple[float, float, float]:
    """E0 MPa, phi and G MPa of rubber of a hardness between 40 and 75 IRHD."""
    rows = np.array(TABLE)
    return tuple(float(np.interp(irhd, rows[:, 0], rows[:, i])) for i in (1, 2, 3))  # type: ignore[return-value]


def puck_stiffness(
    outside: float, hole: float, thickness: float, irhd: float
) -> tuple[float, float, float, float]:
    """Stiffness N/mm when squeezed a little and when sheared, the modulus of squeezing MPa, and the shape
    factor."""
    e0, phi, g = rubber_by_irhd(irhd)
    shape = (outside - hole) / (4 * thickness)
    area = math.pi / 4 * (outside**2 - hole**2)
    squeezed = 1 / (1 / (e0 * (1 + 2 * phi * shape**2)) + 1 / BULK)
    return squeezed * area / thickness, g * area / thickness, squeezed, shape


def puck_force(squeeze: float, outside: float, hole: float, thickness: float, irhd: float) -> float:
    """Force N that squeezes a puck by ``squeeze`` mm: E_c A (lambda^-2 - lambda) / 3."""
    _, _, modulus, _ = puck_stiffness(outside, hole, thickness, irhd)
    left = 1 - squeeze / thickness
    return modulus * math.pi / 4 * (outside**2 - hole**2) * (left**-2 - left) / 3


def _worked(
    outside: float, hole: float, thickness: float, irhd: float, squeeze: float = 0.0
) -> tuple[float, float, float, float, float]:
    if hole >= outside:
        raise ValueError("the hole must be smaller than the puck")
    if squeeze >= thickness:
        raise ValueError("a puck cannot be squeezed to nothing")
    k, sheared, modulus, shape = puck_stiffness(outside, hole, thickness, irhd)
    return puck_force(squeeze, outside, hole, thickness, irhd), k, sheared, modulus, shape


PUCK = calculation(
    "puck-stiffness",
    "A rubber puck squeezed and sheared",
    inputs=(
        Q("outside", "mm", "outside", above=0),
        Q("hole", "mm", "hole", low=0),
        Q("thickness", "mm", "thick", above=0),
        Q("irhd", "IRHD", "hardness", low=40, high=75),
        Q("squeeze", "mm", "how far it is squeezed", 0.0, low=0),
    ),
    outputs=(
        Q("force", "N", "that squeezes it so far"),
        Q("squeezed", "N/mm", "stiffness when squeezed a little"),
        Q("sheared", "N/mm", "stiffness when sheared"),
        Q("modulus", "MPa", "modulus of squeezing"),
        Q("shape", "", "shape factor"),
    ),
    formula=(
        "S = (D - d)/(4 t), E_c = E0 (1 + 2 phi S^2), 1/E_c' = 1/E_c + 1/1200;  F = E_c' A (l^-2 - l)/3,"
        " l = 1 - x/t;  shear G A/t"
    ),
    source="Gent and Lindley (1959); Lindley, Engineering Design with Natural Rubber, table 3 (from memory)",
    leaves_out="faces that are not bonded and slip, creep, heat",
)(_worked)


def squeeze_use(squeeze: float, thickness: float, most: float) -> tuple[float, float]:
    """Use and share of its thickness that a puck is squeezed or sheared."""
    share = abs(squeeze) / thickness
    return share / most, share


SQUEEZE = calculation(
    "puck-use",
    "How far a puck is squeezed or sheared",
    inputs=(
        Q("squeeze", "mm", "squeezed, or sheared"),
        Q("thickness", "mm", "thick", above=0),
        Q("most", "", "share of its thickness that is taken", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("share", "", "squeezed / thickness")),
    formula="x / t / most;  squeezed 0.15 at rest, 0.30 every day;  sheared 0.25 at rest, 0.50 every day",
    source="Lindley; Freakley and Payne, Theory and Practice of Engineering with Rubber (from memory)",
)(squeeze_use)
