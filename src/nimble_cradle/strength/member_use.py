"""How much a member of thin walls is used where it is pulled, bent and twisted at once. N, mm, N mm, MPa."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array

OPEN = 3.0
"""A section whose torsion constant is under so many times that of its walls unrolled is open."""


def is_open(area: float, torsion_constant: float, wall: float) -> bool:
    """Whether a section of one wall thickness has no closed cell: of an open one J is A t^2 / 3."""
    return torsion_constant < OPEN * area * wall**2 / 3


def member_stresses(
    axial: ArrayLike,
    bending_up: ArrayLike,
    bending_aside: ArrayLike,
    torsion: ArrayLike,
    bimoment: ArrayLike,
    area: float,
    w_up: float,
    w_aside: float,
    torsion_constant: float,
    w_warp: float,
    wall: float,
) -> tuple[Array, Array]:
    """Stress along the member and shear (k,) MPa for loads (k,). A closed section carries torsion by shear
    round its cells (Bredt), an open one by warping: its bimoment, N mm2, over w_warp, mm4."""
    along = np.abs(axial) / area + np.abs(bending_up) / w_up + np.abs(bending_aside) / w_aside
    if is_open(area, torsion_constant, wall):
        return np.asarray(along + np.abs(bimoment) / w_warp), np.zeros_like(along)
    return np.asarray(along), np.asarray(np.abs(torsion) / math.sqrt(torsion_constant * area))


def member_use(
    axial: float,
    bending_up: float,
    bending_aside: float,
    torsion: float,
    bimoment: float,
    area: float,
    w_up: float,
    w_aside: float,
    torsion_constant: float,
    w_warp: float,
    wall: float,
    works: float,
    yield_mpa: float,
) -> tuple[float, float, float]:
    """Use, stress along the member and shear MPa."""
    loads = axial, bending_up, bending_aside, torsion, bimoment
    along, shear = member_stresses(*loads, area, w_up, w_aside, torsion_constant, w_warp, wall)
    use = math.sqrt((float(along) / works) ** 2 + 3 * float(shear) ** 2) / yield_mpa
    return use, float(along), float(shear)


MEMBER_USE = calculation(
    "member-use",
    "A thin-walled member pulled, bent and twisted",
    inputs=(
        Q("axial", "N", "along it, with its factor", 0.0),
        Q("bending_up", "N mm", "up and down", 0.0),
        Q("bending_aside", "N mm", "sideways", 0.0),
        Q("torsion", "N mm", "about its own axis", 0.0),
        Q("bimoment", "N mm2", "of an open section: the torsion summed along it from where it is tied", 0.0),
        Q("area", "mm2", "of its walls", above=0),
        Q("w_up", "mm3", "elastic modulus up and down", above=0),
        Q("w_aside", "mm3", "sideways", above=0),
        Q("torsion_constant", "mm4", "Saint-Venant's", above=0),
        Q("w_warp", "mm4", "warping constant over the farthest sector", above=0),
        Q("wall", "mm", "thickness", above=0),
        Q("works", "", "share of its metal that works when pressed", 1.0, above=0, high=1),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("along", "MPa", "stress along it"), Q("shear", "MPa", "shear")),
    formula=(
        "s = N/A + M1/W1 + M2/W2 (open: + B/Ww);  closed: tau = T / (2 Am t) = T / sqrt(J A);"
        "  sqrt((s/works)^2 + 3 tau^2) / fy"
    ),
    source=(
        "elastic check of EN 1993-1-1, 6.2.1(5); Bredt; Vlasov's bimoment, all of the torsion of an open"
        " section taken for warping (cautious); slender walls EN 1993-1-5, 4.4 (all from memory)"
    ),
    leaves_out="holes, welds, dents, rust, and what the body does",
)(member_use)
