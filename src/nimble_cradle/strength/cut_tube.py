"""A round tube with a flat cut out of its side, closed by a cover strip; and gussets at the foot of a tube.
N, mm, MPa, N mm."""

from __future__ import annotations

import math
from functools import lru_cache

from nimble_cradle.calc import CalcError, Q, calculation
from nimble_cradle.strength.section import Section, Wall, thin_walled

ROUND = 48
"""Straight walls that the whole round is made of."""
OUTSTAND = 14.0
"""Free width of a plate over its thickness up to which all of it counts, times eps (EN 1993-1-1 table 5.2,
class 3, from memory)."""


@lru_cache(maxsize=64)
def cut_section(outside: float, wall: float, deep: float, cover: float) -> tuple[Section, float]:
    """The section where the cut is deepest, its flat side up (z), and the area inside its middle lines, mm2.
    Raises CalcError where nothing of it would be left."""
    radius = (outside - wall) / 2
    # middle of the strip over the axis; one that only scratches the tube lies on its top
    flat = min(outside / 2 - deep + cover / 2, 0.97 * radius)
    if flat <= -0.5 * radius:
        raise CalcError(f"A scallop of {deep:g} mm cannot be cut out of a {outside:g} mm tube.")
    half = math.acos(flat / radius)
    n = max(int(ROUND * (1 - half / math.pi)), 8)
    angles = [half + (2 * math.pi - 2 * half) * k / n for k in range(n + 1)]
    points = [(radius * math.sin(a), radius * math.cos(a)) for a in angles]
    walls = [Wall(a, b, wall) for a, b in zip(points, points[1:], strict=False)]
    walls.append(Wall(points[-1], points[0], cover))
    inside = 0.5 * abs(
        sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, [*points[1:], points[0]], strict=True))
    )
    return thin_walled(walls), inside


def cut_tube(
    outside: float,
    wall: float,
    deep: float,
    cover: float,
    axial: float,
    bending: float,
    torsion: float,
    shear: float,
    yield_mpa: float,
) -> tuple[float, float]:
    """Share used and stress. However the bending lies it is taken over the weaker way, and the axial force
    with its own bending, since the middle of what is left lies off the tube's axis."""
    section, inside = cut_section(outside, wall, deep, cover)
    second, far = min(section.i_y, section.i_z), outside / 2
    reach = far + abs(float(section.centroid[1]))
    off = abs(axial) * abs(float(section.centroid[1]))
    sigma = abs(axial) / section.area + (abs(bending) + off) * reach / second
    tau = abs(torsion) / (2 * inside * min(wall, cover)) + 2 * abs(shear) / section.area
    stress = math.sqrt(sigma**2 + 3 * tau**2)
    return stress / yield_mpa, stress


SCALLOP = calculation(
    "scallop",
    "A tube with a scallop and its cover strip",
    inputs=(
        Q("outside", "mm", "outside of the tube", above=0),
        Q("wall", "mm", "its wall", above=0),
        Q("deep", "mm", "depth of the scallop", above=0),
        Q("cover", "mm", "cover strip", above=0),
        Q("axial", "N", "along it, with its factor", 0.0),
        Q("bending", "N mm", "bending there", 0.0),
        Q("torsion", "N mm", "torsion", 0.0),
        Q("shear", "N", "shear", 0.0),
        Q("yield_mpa", "MPa", "yield strength", 235.0, above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("stress", "MPa", "equivalent stress")),
    formula=(
        "N/A + (M + N e) c/I, I the smaller;  T/(2 Am t) + 2 V/A;  sqrt(sigma^2 + 3 tau^2) <= fy;  e: from"
        " the tube's axis to the middle of what is left"
    ),
    source="thin-walled section of the cut tube and its strip; Bredt; von Mises",
    leaves_out="the ends of the strip, where the force goes round them, and its welds' life",
)(cut_tube)


def gusset_use(out: float, thick: float, yield_mpa: float) -> tuple[float, float]:
    """Share of the width that a gusset's free side may have, and that width, mm."""
    most = OUTSTAND * math.sqrt(235 / yield_mpa) * thick
    return out / most, most


GUSSET = calculation(
    "gusset",
    "A gusset stout enough not to buckle",
    inputs=(
        Q("out", "mm", "its leg on the plate", above=0),
        Q("thick", "mm", "its thickness", above=0),
        Q("yield_mpa", "MPa", "yield strength", 235.0, above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("most", "mm", "widest that is stout")),
    formula="out / (14 sqrt(235/fy) t)",
    source="EN 1993-1-1:2005 table 5.2, outstand, class 3 (from memory)",
    leaves_out="a gusset that lands on a plate where nothing is behind it",
)(gusset_use)


def gusseted_foot(
    outside: float,
    wall: float,
    gussets: float,
    out: float,
    thick: float,
    axial: float,
    bending_in: float,
    bending_out: float,
    torsion: float,
    shear: float,
    yield_mpa: float,
) -> tuple[float, float]:
    """Share used and stress where a tube with gussets stands on its plate. bending_in: in the plane of the
    first gusset; bending_out: square to it. Of one gusset alone the neutral line moves towards it."""
    from nimble_cradle.stock.tubes import round_tube

    p, radius, count = round_tube(outside, wall), outside / 2, round(gussets)
    one = thick * out**3 / 12 + thick * out * (radius + out / 2) ** 2
    weak = out * thick**3 / 12
    in_plane, square = {1: (1, 0), 2: (2, 0), 4: (2, 2)}.get(count, (0, 0))
    i_in = p.i_lying + in_plane * one + square * weak
    i_out = p.i_lying + square * one + in_plane * weak
    tip_in, tip_out = (radius + out if n else radius for n in (in_plane, square))
    area = p.area + count * out * thick
    off = out * thick * (radius + out / 2) / area if count == 1 else 0.0
    i_in, tip_in, far_in = i_in - area * off**2, tip_in - off, radius + off
    n = abs(axial) / area + abs(axial) * off * max(tip_in, far_in) / i_in
    at_tip = n + max(
        abs(bending_in) * tip_in / i_in + abs(bending_out) * thick / 2 / i_out,
        abs(bending_out) * tip_out / i_out + abs(bending_in) * thick / 2 / i_in,
    )
    at_tube = n + abs(bending_in) * far_in / i_in + abs(bending_out) * radius / i_out
    tau = abs(torsion) / p.torsion_modulus + 2 * abs(shear) / p.area
    stress = max(at_tip, math.sqrt(at_tube**2 + 3 * tau**2))
    return stress / yield_mpa, stress


GUSSETED = calculation(
    "gusseted-foot",
    "The foot of a tube with gussets",
    inputs=(
        Q("outside", "mm", "outside of the tube", above=0),
        Q("wall", "mm", "its wall", above=0),
        Q("gussets", "", "how many: 1, 2 or 4", low=1, high=4),
        Q("out", "mm", "their leg on the plate", above=0),
        Q("thick", "mm", "their thickness", above=0),
        Q("axial", "N", "along the tube, with its factor", 0.0),
        Q("bending_in", "N mm", "bending in the plane of the first", 0.0),
        Q("bending_out", "N mm", "bending square to it", 0.0),
        Q("torsion", "N mm", "torsion", 0.0),
        Q("shear", "N", "shear", 0.0),
        Q("yield_mpa", "MPa", "yield strength", 235.0, above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("stress", "MPa", "greatest, at a gusset's tip or on the tube")),
    formula="I = tube + t h^3/12 + t h (R + h/2)^2 in its plane, about its neutral line;  N/A + M c/I",
    source="elastic beam theory",
    leaves_out="how the force runs into a gusset, and bending of the plate under its tip",
)(gusseted_foot)
