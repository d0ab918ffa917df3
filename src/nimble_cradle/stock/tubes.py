"""Hollow sections: properties from sizes with the corner radii of cold-formed tube, and the sizes one can
buy.

Corner radii as EN 10219-2:2006 tabulates them: outside 2 t, inside t for walls up to 6 mm. Round tube: EN
10305 and EN 10219.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from nimble_cradle.calc import CalcError, Q, calculation
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.stock.steels import DENSITY_STEEL


@dataclass(frozen=True)
class SectionProperties:
    """Area mm2; second moments mm4 about the lying (vertical bending) and the standing axis; elastic
    moduli mm3; torsion constant mm4 and modulus mm3; mass per metre kg of steel."""

    area: float
    i_lying: float
    i_standing: float
    w_lying: float
    w_standing: float
    torsion: float
    torsion_modulus: float
    kg_per_m: float


def round_tube(outside: float, wall: float) -> SectionProperties:
    """Properties of a round tube, exact."""
    inner = outside - 2 * wall
    if wall <= 0 or inner <= 0:
        raise CalcError(f"A {outside:g} mm tube cannot have a {wall:g} mm wall.")
    area = math.pi / 4 * (outside**2 - inner**2)
    i = math.pi / 64 * (outside**4 - inner**4)
    return SectionProperties(
        area, i, i, 2 * i / outside, 2 * i / outside, 2 * i, 4 * i / outside, area * DENSITY_STEEL * 1000
    )


def rectangular_tube(height: float, width: float, wall: float) -> SectionProperties:
    """Properties of a cold-formed rectangular tube with rounded corners (outside 2 t, inside t), as EN
    10219-2 annex B defines them.

    Second moments are exact for circular corners; torsion by the annex: It = h t^3/3 + 2 K Ah, Ct = It /
    (t + K/t).
    """
    ro, ri = 2 * wall, wall
    if 2 * ro > min(height, width):
        raise CalcError(
            f"A section {height:g} x {width:g} mm with a {wall:g} mm wall has no room for its corners."
        )

    def solid(h: float, b: float, r: float) -> tuple[float, float]:
        """Area and second moment about the lying axis of a rounded rectangle."""
        corner = (1 - math.pi / 4) * r * r
        to_centroid = r * (10 - 3 * math.pi) / (12 - 3 * math.pi)
        own = (1 / 3 - math.pi / 16 - 1 / (9 * (4 - math.pi))) * r**4
        return b * h - 4 * corner, b * h**3 / 12 - 4 * (own + corner * (h / 2 - to_centroid) ** 2)

    hi, bi = height - 2 * wall, width - 2 * wall
    (area_o, lying_o), (area_i, lying_i) = solid(height, width, ro), solid(hi, bi, ri)
    (_, standing_o), (_, standing_i) = solid(width, height, ro), solid(bi, hi, ri)
    area, lying, standing = area_o - area_i, lying_o - lying_i, standing_o - standing_i
    rc = (ro + ri) / 2
    line = 2 * ((width - wall) + (height - wall)) - 2 * rc * (4 - math.pi)
    enclosed = (width - wall) * (height - wall) - rc * rc * (4 - math.pi)
    k = 2 * enclosed * wall / line
    torsion = wall**3 * line / 3 + 2 * k * enclosed
    return SectionProperties(
        area,
        lying,
        standing,
        2 * lying / height,
        2 * standing / width,
        torsion,
        torsion / (wall + k / wall),
        area * DENSITY_STEEL * 1000,
    )


def properties(section: HollowSection) -> SectionProperties:
    """Properties of a job's section. Raises CalcError."""
    if section.shape == "round":
        return round_tube(section.height_mm, section.wall_mm)
    width = section.height_mm if section.shape == "square" else section.width_mm
    return rectangular_tube(section.height_mm, width, section.wall_mm)


def _as_tuple(shape: str, height: float, width: float, wall: float) -> tuple[float, ...]:
    p = (
        round_tube(height, wall)
        if shape == "round"
        else rectangular_tube(height, height if shape == "square" else width, wall)
    )
    return p.area, p.i_lying, p.w_lying, p.i_standing, p.w_standing, p.torsion, p.torsion_modulus, p.kg_per_m


HOLLOW = calculation(
    "hollow-section",
    "Properties of a hollow section",
    inputs=(
        Q("shape", "", "shape", "square", choices=("square", "rectangle", "round")),
        Q("height", "mm", "height, or outside of a round; corner radii as EN 10219", above=0),
        Q("width", "mm", "width (rectangle)", 50.0, above=0),
        Q("wall", "mm", "wall", above=0),
    ),
    outputs=(
        Q("area", "mm2", "area"),
        Q("I", "mm4", "second moment, vertical bending"),
        Q("W", "mm3", "elastic modulus, vertical bending"),
        Q("I_side", "mm4", "second moment, sideways bending"),
        Q("W_side", "mm3", "elastic modulus, sideways bending"),
        Q("It", "mm4", "torsion constant"),
        Q("Ct", "mm3", "torsion modulus"),
        Q("mass", "kg/m", "mass per metre"),
    ),
    formula="rounded rectangle outside less inside; It = h t^3/3 + 2 K Ah, K = 2 Ah t / h",
    source="EN 10219-2:2006, annex B (from memory)",
    leaves_out="rolling tolerances: wall 10 %, sides 1 %; corners hot-finished or drawn to other radii",
)(_as_tuple)

_SQUARE = (
    (30, 2),
    (30, 3),
    (40, 2),
    (40, 3),
    (40, 4),
    (50, 2),
    (50, 3),
    (50, 4),
    (60, 3),
    (60, 4),
    (60, 5),
    (70, 3),
    (70, 4),
    (80, 3),
    (80, 4),
)
_RECTANGLE = (
    (40, 20, 2),
    (50, 30, 2),
    (50, 30, 3),
    (60, 30, 3),
    (60, 40, 3),
    (60, 40, 4),
    (80, 40, 3),
    (80, 40, 4),
)
_ROUND = (
    (26.9, 2.6),
    (33.7, 2.6),
    (33.7, 3.2),
    (42.4, 2.6),
    (42.4, 3.2),
    (48.3, 2.6),
    (48.3, 3.2),
    (48.3, 4),
    (60.3, 3.2),
    (60.3, 4),
)
_PRECISION = ((25, 2), (30, 2), (35, 2.5), (38, 3), (40, 3), (42, 3), (45, 3), (50, 3), (50, 4), (60, 4))


def stock() -> dict[str, HollowSection]:
    """Sections one can buy, by designation: EN 10219 square, rectangular and round, EN 10305 precision
    round tube."""
    rows: dict[str, HollowSection] = {}
    for a, t in _SQUARE:
        rows[f"square {a}x{a}x{t}"] = HollowSection(
            stock=f"square {a}x{a}x{t}", shape="square", height_mm=a, width_mm=a, wall_mm=t
        )
    for h, b, t in _RECTANGLE:
        name = f"rectangle {h}x{b}x{t}"
        rows[name] = HollowSection(stock=name, shape="rectangle", height_mm=h, width_mm=b, wall_mm=t)
        flat = f"rectangle {b}x{h}x{t} lying"
        rows[flat] = HollowSection(stock=flat, shape="rectangle", height_mm=b, width_mm=h, wall_mm=t)
    for d, wall in (*_ROUND, *_PRECISION):
        name = f"round {d:g}x{wall:g}"
        rows[name] = HollowSection(stock=name, shape="round", height_mm=d, width_mm=d, wall_mm=wall)
    return rows
