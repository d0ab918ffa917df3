"""Figures and stress of what a crossmember is made of: hollow, a flat bar, a channel folded from sheet.

y across, z up, mm, N, N mm, MPa; steel.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.polyline import rounded
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.cross_section import BarSection, CrossSection, FoldedSection
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.stock.steels import DENSITY_STEEL, E_STEEL, G_STEEL
from nimble_cradle.stock.tubes import SectionProperties, properties
from nimble_cradle.strength.section import Wall, thin_walled


class CrossFigures(NamedTuple):
    """own: about its middle. shear_up: its shear centre over the middle of its height, mm; axial_up: its
    centroid over the shear centre; warping mm6 and sector mm2 about the shear centre, nought where it is
    closed or solid. lopsided: how much a section that is not alike above and below twists by its own bending
    stress, mm (z_j of EN 1993-1-1's forerunner, annex F)."""

    own: SectionProperties
    shear_up: float = 0.0
    axial_up: float = 0.0
    warping: float = 0.0
    sector: float = 0.0
    lopsided: float = 0.0


@lru_cache(maxsize=512)
def figures_of(section: CrossSection) -> CrossFigures:
    """The figures of a section. Raises CalcError where it cannot be."""
    if isinstance(section, BarSection):
        return CrossFigures(flat_bar(section.height_mm, section.width_mm))
    if isinstance(section, FoldedSection):
        return _folded(section)
    return CrossFigures(properties(section))


def flat_bar(height: float, width: float) -> SectionProperties:
    """A rectangle of solid metal; torsion as Roark's table 10.1 has it, within 4 % of the exact series."""
    a, b = max(height, width) / 2, min(height, width) / 2
    r = b / a
    torsion = a * b**3 * (16 / 3 - 3.36 * r * (1 - r**4 / 12))
    modulus = 8 * a * b**2 / (3 * (1 + 0.6095 * r + 0.8865 * r**2 - 1.8023 * r**3 + 0.91 * r**4))
    area = height * width
    return SectionProperties(
        area,
        width * height**3 / 12,
        height * width**3 / 12,
        width * height**2 / 6,
        height * width**2 / 6,
        torsion,
        modulus,
        area * DENSITY_STEEL * 1000,
    )


def folded_walls(section: FoldedSection) -> list[Wall]:
    """Its walls from one free edge to the other, from the middle of its height and of its web; each bend as
    chords of its middle line."""
    t = section.wall_mm
    y, top = (section.width_mm - t) / 2, (section.height_mm - t) / 2
    low = -top if section.lip_mm else -section.height_mm / 2
    half = [(y, top, 0.0), (y, low, 0.0)]
    if section.lip_mm:
        half.append((y + section.lip_mm - t / 2, low, 0.0))
    corners = [(-u, v, w) for u, v, w in reversed(half)] + half
    line = [(u, v) for u, v, _ in rounded(corners, section.radius_mm + t / 2)]
    return [Wall(a, b, t) for a, b in zip(line, line[1:], strict=False)]


def _folded(section: FoldedSection) -> CrossFigures:
    walls, t = folded_walls(section), section.wall_mm
    s = thin_walled(walls)
    far_up = section.height_mm / 2 + abs(float(s.centroid[1]))
    own = SectionProperties(
        s.area,
        s.i_y,
        s.i_z,
        s.i_y / far_up,
        s.i_z / (section.over_mm / 2),
        s.torsion,
        s.torsion / t,
        s.area * DENSITY_STEEL * 1000,
    )
    up = float(s.shear_centre[1])
    return CrossFigures(
        own,
        up,
        float(s.centroid[1]) - up,
        s.warping,
        float(np.abs(s.sector).max()),
        up - float(s.centroid[1]) - _third(walls, s.centroid) / (2 * s.i_y),
    )


def _third(walls: Sequence[Wall], centroid: Array) -> float:
    """The sum of z (y2 + z2) over the metal about the centroid, mm5: Simpson's rule, exact for a cubic."""
    out = 0.0
    for wall in walls:
        ends = np.array([wall.start, wall.end]) - centroid
        three = np.array([ends[0], ends.mean(0), ends[1]])
        values = three[:, 1] * (three**2).sum(1)
        out += math.dist(wall.start, wall.end) * wall.thickness * float(values @ [1, 4, 1]) / 6
    return out


def bimoment_reach(figures: CrossFigures, along: Array, length: float, at: float) -> Array:
    """(n,) mm: bimoment N mm2 for each N mm of torsion, at stations ``along`` (n,) mm from the left end of a
    member ``length`` mm long whose ends do not turn but may warp, twisted ``at`` mm from that end. The closed
    form of a straight one (Vlasov; from memory)."""
    if figures.warping < 1e-6:
        return np.zeros(len(along))
    k = math.sqrt(G_STEEL * figures.own.torsion / (E_STEEL * figures.warping))
    a, b = at, length - at

    def share(x: Array, rest: float) -> Array:
        """sinh(k x) sinh(k rest) / sinh(k length), free of overflow."""
        up = np.exp(k * (x + rest - length)) / (-2 * np.expm1(-2 * k * length))
        return np.asarray(up * np.expm1(-2 * k * x) * np.expm1(-2 * k * rest))

    left = share(along, b) * length / (k * b)
    right = share(length - along, a) * length / (k * a)
    return np.where(along <= at, left, right)


def station_stresses(forces: Array, p: SectionProperties, section: HollowSection) -> Array:
    """Equivalent stress MPa of a hollow section at each station from (stations, 6) axial, shear up and across
    N, torsion, bending about the standing and the lying axis N mm."""
    n, v_up, v_across, t, m_standing, m_lying = np.abs(forces).T
    if section.shape == "round":
        sigma = n / p.area + np.hypot(m_standing, m_lying) / p.w_lying
        tau = t / p.torsion_modulus + 2 * np.hypot(v_up, v_across) / p.area
    else:
        height, width = section.height_mm, section.wide_mm
        sigma = n / p.area + m_standing / p.w_standing + m_lying / p.w_lying
        tau = (
            t / p.torsion_modulus
            + v_up / (2 * section.wall_mm * (height - 2 * section.wall_mm))
            + v_across / (2 * section.wall_mm * (width - 2 * section.wall_mm))
        )
    return np.asarray(np.sqrt(sigma**2 + 3 * tau**2))


def stresses_of(forces: Array, bimoment: Array, section: CrossSection) -> Array:
    """Equivalent stress MPa at each station, from (n, 6) axial, shear up and across N, torsion, bending about
    the standing and the lying axis N mm, about the shear centre, and bimoment (n,) N mm2. The greatest of
    each kind is taken to be at one place."""
    f = figures_of(section)
    if isinstance(section, HollowSection):
        return station_stresses(forces, f.own, section)
    n, v_up, v_across, twist, standing, lying = np.abs(forces).T
    p = f.own
    sigma = n / p.area + standing / p.w_standing + (lying + n * abs(f.axial_up)) / p.w_lying
    tau = twist / p.torsion_modulus
    if isinstance(section, FoldedSection):
        t = section.wall_mm
        sigma = sigma + np.abs(bimoment) * (f.sector / f.warping)
        web = (section.width_mm - 2 * t) * t
        legs = 2 * (section.height_mm - t) * t
        tau = tau + 1.5 * (v_across / web + v_up / legs)
    else:
        tau = tau + 1.5 * np.hypot(v_up, v_across) / p.area
    return np.asarray(np.sqrt(sigma**2 + 3 * tau**2))


class Tips(NamedTuple):
    """use: share; critical: moment N mm at which it tips over sideways; held: what it is let to carry, N
    mm."""

    use: float
    critical: float
    held: float


def _tips(
    moment: float,
    load_up: float,
    length: float,
    modulus: float,
    i_standing: float,
    torsion: float,
    warping: float,
    lopsided: float,
    yield_mpa: float,
    factor: float,
) -> Tips:
    straight = math.pi**2 * E_STEEL * i_standing / length**2
    off = LOAD_OVER * abs(load_up) + abs(lopsided)
    critical = straight * (math.sqrt(warping / i_standing + G_STEEL * torsion / straight + off**2) - off)
    slender = math.sqrt(modulus * yield_mpa / critical)
    phi = 0.5 * (1 + TIP_CURVE * (slender - 0.2) + slender**2)
    share = min(1.0, 1 / (phi + math.sqrt(phi**2 - slender**2))) if slender > 0.2 else 1.0
    held = share * modulus * yield_mpa
    return Tips(moment * factor / held, critical, held)


LOAD_OVER = 0.55
"""C2 for a load in the middle between hinges; C1 is taken as 1, an even moment, which is cautious (the
pre-standard ENV 1993-1-1, annex F, from memory)."""
TIP_CURVE = 0.76
"""Curve d of EN 1993-1-1:2005, table 6.3, the most cautious."""

CROSSMEMBER_TIPS = calculation(
    "crossmember-tips",
    "Whether a crossmember on edge tips over sideways",
    inputs=(
        Q("moment", "N mm", "greatest bending up or down", low=0),
        Q("load_up", "mm", "from its shear centre up or down to where the load acts"),
        Q("length", "mm", "from rail to rail", above=0),
        Q("modulus", "mm3", "elastic modulus, bent up and down", above=0),
        Q("i_standing", "mm4", "second moment, bent sideways", above=0),
        Q("torsion", "mm4", "torsion constant", above=0),
        Q("warping", "mm6", "warping constant", 0.0, low=0),
        Q("lopsided", "mm", "z_j of a section not alike above and below", 0.0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
        Q("factor", "", "kept in hand", 1.0, low=1),
    ),
    outputs=(
        Q("use", "", "share used"),
        Q("critical", "N mm", "moment at which it tips"),
        Q("held", "N mm", "moment it is let to carry"),
    ),
    formula=(
        "Mcr = N (sqrt(Iw/Iz + G It/N + d2) - d), N = pi2 E Iz/L2, d = 0.55 |z_g| + |z_j|;"
        "  l = sqrt(W fy/Mcr), x = 1/(p + sqrt(p2 - l2)), p = 0.5 (1 + 0.76 (l - 0.2) + l2);"
        "  use = M factor / (x W fy)"
    ),
    source="EN 1993-1-1:2005, 6.3.2.2, curve d; Mcr by ENV 1993-1-1:1992, annex F (from memory)",
    leaves_out="bends, which stiffen it; that the moment is less away from the mount",
)(_tips)
