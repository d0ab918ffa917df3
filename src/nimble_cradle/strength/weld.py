"""Fillet weld groups treated as lines: unit properties of the line times the throat. N, mm, MPa."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.calc import Q, calculation, places
from nimble_cradle.geometry.pose import Array

GAMMA_M2 = 1.25
"""Partial factor of welds (EN 1993-1-8, 2.2)."""


@dataclass(frozen=True, eq=False)
class WeldLine:
    """A weld as a line in its plane: points (n, 2) mm where stress is looked at, length mm, centroid (2,),
    second moments of the line mm3 about u, v and their product."""

    points: Array
    length: float
    centroid: Array
    i_u: float
    i_v: float
    i_uv: float


def circle(radius: float, points: int = 24) -> WeldLine:
    """A weld all round a tube: length 2 pi r, I = pi r^3 each way."""
    a = np.arange(points) * 2 * np.pi / points
    i = math.pi * radius**3
    return WeldLine(
        radius * np.column_stack([np.cos(a), np.sin(a)]), 2 * math.pi * radius, np.zeros(2), i, i, 0.0
    )


def segments(lines: Sequence[tuple[tuple[float, float], tuple[float, float]]]) -> WeldLine:
    """Straight welds, each from one point to another (u, v) mm; exact."""
    ends = np.asarray(lines, dtype=float)
    lengths = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    total = float(lengths.sum())
    if total <= 0:
        raise ValueError("the weld has no length")
    middle = ends.mean(1)
    centroid = (lengths[:, None] * middle).sum(0) / total
    half = (ends[:, 1] - ends[:, 0]) / 2
    r = middle - centroid
    second = np.einsum("n,ni,nj->ij", lengths, r, r) + np.einsum("n,ni,nj->ij", lengths / 3, half, half)
    return WeldLine(
        ends.reshape(-1, 2), total, centroid, float(second[1, 1]), float(second[0, 0]), float(second[0, 1])
    )


def force_per_mm(weld: WeldLine, force: Array, moment: Array) -> Array:
    """Greatest resultant force per mm of weld, N/mm: one number, or (k,) for k loads. force (3,) or (k, 3) N
    and moment N mm along u, v and the normal, at the centroid.

    Each component is shared over the line elastically and the three are added as vectors (no sharing by
    direction).
    """
    f, m = np.atleast_2d(force), np.atleast_2d(moment)
    r = weld.points - weld.centroid
    polar = weld.i_u + weld.i_v
    in_plane = f[:, None, :2] / weld.length + (m[:, 2] / polar)[:, None, None] * np.column_stack(
        [-r[:, 1], r[:, 0]]
    )
    second = np.array([[weld.i_v, weld.i_uv], [weld.i_uv, weld.i_u]])
    slope = np.linalg.lstsq(second, np.column_stack([-m[:, 1], m[:, 0]]).T, rcond=None)[0]
    normal = (f[:, 2] / weld.length)[:, None] + (r @ slope).T
    worst = np.sqrt((in_plane**2).sum(2) + normal**2).max(1)
    return np.asarray(worst if np.ndim(force) > 1 else worst[0])


FUSED_LEAST, FUSED_MOST = 60.0, 120.0
"""A fillet counts where its two faces meet at 60 to 120 deg (EN 1993-1-8:2005, 4.3.2.1, from memory)."""


def slanted(radius: float, slope_deg: float, points: int = 360) -> WeldLine:
    """The weld round a tube that leaves a plate ``slope_deg`` off square, in the tube's own section: u
    towards the side it leans to. Beyond 30 deg only those parts count whose faces meet at 60 to 120 deg:
    dihedral = 90 - asin(sin slope cos phi), phi from the side it leans to."""
    if slope_deg <= 90 - FUSED_LEAST:
        return circle(radius)
    a = (np.arange(points) + 0.5) * 2 * np.pi / points
    corner = 90 - np.degrees(np.arcsin(np.sin(math.radians(slope_deg)) * np.cos(a)))
    a = a[(corner >= FUSED_LEAST) & (corner <= FUSED_MOST)]
    ds = radius * 2 * math.pi / points
    p = radius * np.column_stack([np.cos(a), np.sin(a)])
    return WeldLine(
        p, len(a) * ds, np.zeros(2), float((p[:, 1] ** 2).sum() * ds), float((p[:, 0] ** 2).sum() * ds), 0.0
    )


def effective_throat(throat: float, *walls: float) -> float:
    """Throat that may be counted, mm: at most the thinnest of the walls it joins (common practice, no
    source)."""
    return min(throat, *walls)


def weld_capacity(throat: float, tensile: float, beta: float) -> float:
    """Design force per mm of fillet weld, N/mm: fu / (sqrt 3 beta gamma) a."""
    return tensile / (math.sqrt(3) * beta * GAMMA_M2) * throat


def tube_weld(
    outside: float,
    throat: float,
    axial: float,
    shear: float,
    bending: float,
    torsion: float,
    tensile: float,
    beta: float,
    slope_deg: float = 0.0,
    shear_side: float = 0.0,
    bending_side: float = 0.0,
) -> tuple[float, float, float]:
    """Use, force per mm and capacity per mm (N/mm) of a fillet weld round a tube. shear and bending_side
    act in the plane that the tube leans in, shear_side and bending across it; how they lie matters only
    beyond 30 deg of slope.
    """
    w = slanted(outside / 2, slope_deg)
    f = float(
        force_per_mm(w, np.array([shear, shear_side, axial]), np.array([bending_side, bending, torsion]))
    )
    c = weld_capacity(throat, tensile, beta)
    return f / c, f, c


TUBE_WELD = calculation(
    "tube-weld",
    "A fillet weld all round a tube",
    inputs=(
        Q("outside", "mm", "outside diameter of the tube", above=0),
        Q("throat", "mm", "throat of the weld, at most the thinner wall", above=0),
        Q("axial", "N", "axial force, with its factor", 0.0),
        Q("shear", "N", "shear force in the plane it leans in, likewise", 0.0),
        Q("bending", "N mm", "bending moment about the axis across that plane, likewise", 0.0),
        Q("torsion", "N mm", "torsion, likewise", 0.0),
        Q("tensile", "MPa", "tensile strength of the weaker part", 360.0, above=0),
        Q("beta", "", "correlation factor", 0.8, above=0, high=1),
        Q("slope_deg", "deg", "how far off square the tube meets the plate", 0.0, low=0, high=60),
        Q("shear_side", "N", "shear force across that plane", 0.0),
        Q("bending_side", "N mm", "bending moment about the axis in that plane", 0.0),
    ),
    outputs=(
        Q("use", "", "share of its capacity used"),
        Q("force", "N/mm", "greatest force per mm"),
        Q("capacity", "N/mm", "capacity per mm"),
    ),
    formula=(
        "length 2 pi r, I = pi r^3, J = 2 pi r^3;  capacity a fu / (sqrt 3 beta 1.25);  beyond 30 deg of"
        " slope only where the faces meet at 60 to 120 deg"
    ),
    source=(
        "weld as a line: Blodgett, Design of Welded Structures, 7.4; EN 1993-1-8:2005, 4.3.2.1 and 4.5.3.3"
        " (all from memory)"
    ),
    leaves_out="undercut, poor penetration, starts and stops, and fatigue: the everyday factor stands for it",
)(tube_weld)


def two_lines(length: float, spacing: float) -> WeldLine:
    """Two equal straight welds along u, ``spacing`` mm apart."""
    h, s = length / 2, spacing / 2
    return segments([((-h, -s), (h, -s)), ((-h, s), (h, s))])


def line_weld(
    length: float,
    spacing: float,
    throat: float,
    axial: float,
    along: float,
    across: float,
    moment_along: float,
    moment_across: float,
    moment_normal: float,
    tensile: float,
    beta: float,
) -> tuple[float, float, float]:
    """Use, force per mm and capacity per mm (N/mm) of two equal straight fillet welds side by side."""
    force = np.array([along, across, axial])
    f = float(
        force_per_mm(
            two_lines(length, spacing), force, np.array([moment_along, moment_across, moment_normal])
        )
    )
    c = weld_capacity(throat, tensile, beta)
    return f / c, f, c


LINE_WELD = calculation(
    "line-weld",
    "Two straight fillet welds side by side",
    inputs=(
        Q("length", "mm", "length of each", above=0),
        Q("spacing", "mm", "between them", above=0),
        Q("throat", "mm", "throat", above=0),
        Q("axial", "N", "pull, with its factor", 0.0),
        Q("along", "N", "force along the welds, likewise", 0.0),
        Q("across", "N", "force across them, likewise", 0.0),
        Q("moment_along", "N mm", "moment about the welds' direction", 0.0),
        Q("moment_across", "N mm", "moment about the direction across", 0.0),
        Q("moment_normal", "N mm", "moment in the plane", 0.0),
        Q("tensile", "MPa", "tensile strength of the weaker part", 360.0, above=0),
        Q("beta", "", "correlation factor", 0.8, above=0, high=1),
    ),
    outputs=(
        Q("use", "", "share of its capacity used"),
        Q("force", "N/mm", "greatest force per mm"),
        Q("capacity", "N/mm", "capacity per mm"),
    ),
    formula="two lines: A = 2 d, I = d s^2 / 2 and d^3 / 6;  capacity a fu / (sqrt 3 beta 1.25)",
    source=(
        "weld as a line: Blodgett, Design of Welded Structures, 7.4; EN 1993-1-8:2005, 4.5.3.3 (both from"
        " memory)"
    ),
    leaves_out=(
        "as for the weld round a tube; the spacing of the two welds under a round eye is taken as half its"
        " diameter"
    ),
)(line_weld)


def _worked_segments(
    lines: str,
    throat: float,
    force_u: float,
    force_v: float,
    force_n: float,
    moment_u: float,
    moment_v: float,
    moment_n: float,
    tensile: float,
    beta: float,
) -> tuple[float, float, float]:
    ends = places(lines, 4)
    weld = segments([((a, b), (c, d)) for a, b, c, d in ends])
    force = float(
        force_per_mm(weld, np.array([force_u, force_v, force_n]), np.array([moment_u, moment_v, moment_n]))
    )
    capacity = weld_capacity(throat, tensile, beta)
    return force / capacity, force, capacity


WELD_GROUP = calculation(
    "weld-group",
    "Straight fillet welds in one plane, loaded together",
    inputs=(
        Q("lines", "mm", "each weld from one end to the other: u,v,u,v; u to the right, v up", many=True),
        Q("throat", "mm", "throat of the fillets", above=0),
        Q("force_u", "N", "force along u, at the welds' centroid", 0.0),
        Q("force_v", "N", "force along v, at the welds' centroid", 0.0),
        Q("force_n", "N", "force off the plane, at the welds' centroid", 0.0),
        Q("moment_u", "N mm", "moment about u through the centroid, right-handed", 0.0),
        Q("moment_v", "N mm", "moment about v through the centroid, right-handed", 0.0),
        Q("moment_n", "N mm", "moment in the plane, right-handed about the way off it", 0.0),
        Q("tensile", "MPa", "tensile strength of the weaker steel", 360.0, above=0),
        Q("beta", "", "correlation factor of that steel", 0.8, above=0, high=1),
    ),
    outputs=(
        Q("use", "", "use of capacity"),
        Q("force", "N/mm", "greatest force on a mm of weld"),
        Q("capacity", "N/mm", "what a mm of weld holds"),
    ),
    formula="f = F/L + M x r / I, all three ways added as vectors; capacity = a fu / (sqrt(3) beta 1.25)",
    source=(
        "elastic weld lines: Blodgett, Design of Welded Structures, 7.4; EN 1993-1-8:2005, 4.5.3.3"
        " (both from memory)"
    ),
    leaves_out="starts and ends of the welds, and their toes",
)(_worked_segments)
