"""How much a member of thin walls is used where it is pulled, bent, twisted and pushed across at once. N, mm,
N mm, MPa."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array

OPEN = 3.0
"""A section whose torsion constant is under so many times that of its walls unrolled is open."""


def is_open(area: float, torsion_constant: float, wall: float) -> bool:
    """Whether a section of one wall thickness has no closed cell: of an open one J is A t^2 / 3."""
    return torsion_constant < OPEN * area * wall**2 / 3


NEGLECTED = 0.5
"""A push across that uses less than so much of what the walls carry in shear takes nothing off what they
carry along (EN 1993-1-1, 6.2.8(2), from memory)."""


class Stresses(NamedTuple):
    """MPa, (k,) each: along the member, shear of torsion round its cells, shear of a push across in the walls
    that run that way."""

    along: Array
    twist: Array
    push: Array

    def use(self, works: float, yield_mpa: float, sheared: float = 1.0) -> Array:
        """(k,) share used: along and twist together; twist and push together; all where the push is much.
        works, sheared: share of its metal, and of its walls' shear, that it bears before they buckle."""
        pressed = self.along / works
        twist, push = (math.sqrt(3) / sheared * tau for tau in (self.twist, self.push))
        shear = twist + push
        much = push > NEGLECTED * yield_mpa
        with_push = np.where(much, np.hypot(pressed, shear), shear)
        return np.asarray(np.maximum(np.hypot(pressed, twist), with_push) / yield_mpa)


def member_stresses(
    axial: ArrayLike,
    bending_up: ArrayLike,
    bending_aside: ArrayLike,
    torsion: ArrayLike,
    bimoment: ArrayLike,
    push_up: ArrayLike,
    push_aside: ArrayLike,
    area: float,
    w_up: float,
    w_aside: float,
    torsion_constant: float,
    w_warp: float,
    wall: float,
    web_up: float,
    web_aside: float,
) -> Stresses:
    """Stresses for loads (k,). A closed section carries torsion by shear round its cells (Bredt), an open one
    by warping: its bimoment, N mm2, over w_warp, mm4. A push across, N, is carried by the walls that run that
    way, web_up and web_aside mm2 of them."""
    push = np.maximum(np.abs(push_up) / web_up, np.abs(push_aside) / web_aside)
    along = np.abs(axial) / area + np.abs(bending_up) / w_up + np.abs(bending_aside) / w_aside
    if is_open(area, torsion_constant, wall):
        along, twist = along + np.abs(bimoment) / w_warp, np.zeros_like(along)
    else:
        twist = np.abs(torsion) / math.sqrt(torsion_constant * area)
    return Stresses(np.asarray(along), np.asarray(twist), np.asarray(push))


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
    push_up: float = 0.0,
    push_aside: float = 0.0,
    web_up: float = 1e9,
    web_aside: float = 1e9,
    sheared: float = 1.0,
) -> tuple[float, float, float, float]:
    """Use, stress along the member, shear of its torsion and of a push across, MPa."""
    loads = axial, bending_up, bending_aside, torsion, bimoment, push_up, push_aside
    metal = area, w_up, w_aside, torsion_constant, w_warp, wall, web_up, web_aside
    found = member_stresses(*loads, *metal)
    use = float(found.use(works, yield_mpa, sheared))
    return use, float(found.along), float(found.twist), float(found.push)


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
        Q("push_up", "N", "across it, up and down", 0.0),
        Q("push_aside", "N", "across it, sideways", 0.0),
        Q("web_up", "mm2", "of its walls as they run up and down", 1e9, above=0),
        Q("web_aside", "mm2", "as they run sideways", 1e9, above=0),
        Q("sheared", "", "share of their shear that its walls bear before they buckle", 1.0, above=0, high=1),
    ),
    outputs=(
        Q("use", "", "share used"),
        Q("along", "MPa", "stress along it"),
        Q("shear", "MPa", "shear of torsion"),
        Q("push", "MPa", "shear of the push"),
    ),
    formula=(
        "s = N/A + M1/W1 + M2/W2 (open: + B/Ww);  closed: tau = T / (2 Am t) = T / sqrt(J A);"
        "  tv = V/Aw, the greater of both ways;"
        "  both tau over sheared: 0.83 / l, at most 1, l = b / (86.4 t sqrt(235/fy));"
        "  the greater of sqrt((s/works)^2 + 3 tau^2) / fy and sqrt(3) (tau + tv) / fy, both together where"
        " sqrt(3) tv is over fy / 2"
    ),
    source=(
        "elastic check of EN 1993-1-1, 6.2.1(5), push across 6.2.6 and 6.2.8; Bredt; Vlasov's bimoment, all"
        " of the torsion of an open section taken for warping (cautious); slender walls EN 1993-1-5, 4.4 and"
        " 5.3 (all from memory)"
    ),
    leaves_out="welds, dents, rust, and what the body does",
)(member_use)
