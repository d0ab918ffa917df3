"""Bolt groups: the load on every bolt of a pattern, and what a bolt can take. N, mm, MPa, N mm.

The pattern turns about its own centroid in its plane, and pivots about its centroid out of plane: right for a
tightened joint that stays closed. Bolts of several sizes share by their stress areas. Where the bolts have
little spread a flat plate pivots on its edge.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.calc import Q, calculation, places
from nimble_cradle.geometry.pose import Array
from nimble_cradle.stock.bolts import bolt_class
from nimble_cradle.stock.threads import SIZES, thread

GAMMA_M2 = 1.25
"""Partial factor of bolts, welds and plates in bearing (EN 1993-1-8, 2.2)."""
FRICTION = 0.2
"""Clean steel on cast metal, untreated: the least slip class of EN 1993-1-8 table 3.7 (from memory)."""
LOW_CLAMP = 0.7
"""Share of the clamp by torque that is believed where clamp is wanted: it scatters by 30 % either way."""
MOST_PROOF = 0.9
"""A bolt is tightened to at most this share of its proof load (common practice, no source)."""
LEAST_EDGE, LEAST_PITCH = 1.2, 2.2
"""Least distances in hole diameters, from a hole to the edge and to the next (EN 1993-1-8 table 3.3, from
memory)."""
CLASSES = ("8.8", "10.9", "12.9", "grade 5", "grade 8")


def group_shear(holes: ArrayLike, force: ArrayLike, moment: float, at: ArrayLike) -> Array:
    """Shear on each bolt (n, 2) N. holes: (n, 2) mm. force: (2,) N at the point ``at`` (2,) mm; moment: N
    mm, anticlockwise."""
    p = np.asarray(holes, dtype=float)
    f = np.asarray(force, dtype=float)
    centre = p.mean(0)
    r = p - centre
    lever = np.asarray(at, dtype=float) - centre
    total = moment + lever[0] * f[1] - lever[1] * f[0]
    polar = float((r**2).sum())
    out = np.tile(f / len(p), (len(p), 1))
    if polar > 1e-9:
        out = out + total / polar * np.column_stack([-r[:, 1], r[:, 0]])
    return np.asarray(out)


def group_tension(
    holes: ArrayLike,
    normal: ArrayLike,
    moment_u: ArrayLike,
    moment_v: ArrayLike,
    edge: float,
    bosses: bool = False,
    sizes: ArrayLike | None = None,
) -> Array:
    """Tension on each bolt, N, compression as nought: (n,), or (k, n) for k loads. normal: N pulling;
    moment_u, moment_v: N mm about u and v through the centroid. sizes: (n,) areas of the bolts, any unit,
    where they are not all alike: they share by them, and the centroid is theirs.

    Elastic, pivot at the centroid: T = N/n + (plane through the bolts). A flat plate may also pivot on its
    edge, ``edge`` mm from the outermost bolt, and does so where that asks less of the bolts: where they
    have little or no spread across an axis. bosses: the plate rests at its bolts alone, so they hold it
    both ways and compression is given as less than nought. Raises ValueError where bolts on bosses have no
    spread to hold a moment.
    """
    p = np.asarray(holes, dtype=float)
    n, weight = len(p), _weights(len(p), sizes)
    r = p - weight @ p / n
    values, axes = np.linalg.eigh((r.T * weight) @ r)
    m = np.stack(
        np.broadcast_arrays(-np.asarray(moment_v, dtype=float), np.asarray(moment_u, dtype=float)), -1
    )
    tension = np.asarray(normal, dtype=float)[..., None] / n * weight
    for value, axis in zip(values, axes.T, strict=True):
        about = (m @ axis)[..., None]
        arm = r @ axis
        reach = float((weight * np.abs(arm)).max() / weight.max())
        if bosses:
            if value < 1.0 and np.abs(about).max() > 0:
                raise ValueError(
                    "bolts in one line, on bosses, do not hold the plate against turning over them"
                )
            tension = tension + (about / value * arm * weight if value >= 1.0 else 0.0)
        elif value > 1e-9 and reach * n * edge <= value:
            tension = tension + about / value * arm * weight
        else:
            tension = tension + np.abs(about) / (n * edge) * weight
    return np.asarray(tension if bosses else np.maximum(tension, 0.0))


def _weights(count: int, sizes: ArrayLike | None) -> Array:
    """(n,) shares of the bolts, one in the mean."""
    if sizes is None:
        return np.ones(count)
    area = np.asarray(sizes, dtype=float)
    return np.asarray(area / area.mean())


@dataclass(frozen=True, eq=False)
class GroupLoads:
    """What a plate's bolts meet in k cases. signed: (k, n) N tension, below nought pressed; shear: (k, n)
    N."""

    signed: Array
    shear: Array

    @property
    def tension(self) -> Array:
        """(k, n) N, none where a bolt is pressed."""
        return np.maximum(self.signed, 0.0)

    @property
    def most_shear(self) -> Array:
        """(k,) N on the bolt that is sheared most."""
        return np.asarray(self.shear.max(1))


def group_loads(
    holes: ArrayLike, edge: float, bosses: bool, force: Array, moment: Array, sizes: ArrayLike | None = None
) -> GroupLoads:
    """The loads on bolts (n, 2) mm for forces (k, 3) N and moments (k, 3) N mm at the pattern's own nought,
    along u, v and the normal off what the plate rests on; sizes: as for ``group_tension``. Raises ValueError
    where they cannot hold it."""
    p = np.asarray(holes, dtype=float)
    weight = _weights(len(p), sizes)
    middle = weight @ p / len(p)
    # moved to the middle of the bolts: M' = M - middle x F
    about_u = moment[:, 0] - middle[1] * force[:, 2]
    about_v = moment[:, 1] + middle[0] * force[:, 2]
    about_n = moment[:, 2] - (middle[0] * force[:, 1] - middle[1] * force[:, 0])
    signed = group_tension(p, force[:, 2], about_u, about_v, edge, bosses, sizes)
    r = p - middle
    polar = max(float((weight[:, None] * r**2).sum()), 1e-9)
    turned = (about_n / polar)[:, None, None] * np.column_stack([-r[:, 1], r[:, 0]])
    shear = weight[:, None] * (force[:, None, :2] / len(p) + turned)
    return GroupLoads(signed, np.linalg.norm(shear, axis=2))


def _worked_group(
    holes: str, force_u: float, force_v: float, at_u: float, at_v: float, moment: float
) -> tuple[float, float]:
    p = places(holes)
    shear = np.linalg.norm(group_shear(p, [force_u, force_v], moment, [at_u, at_v]), axis=1)
    return float(shear.max()), float(shear.min())


GROUP = calculation(
    "bolt-group-shear",
    "Shear on the bolts of a pattern under an eccentric force",
    inputs=(
        Q("holes", "mm", "places of the bolts: u to the right, v up, as one faces the plate", many=True),
        Q("force_u", "N", "force along u, to the right", 0.0),
        Q("force_v", "N", "force along v, up", 0.0),
        Q("at_u", "mm", "where the force acts, from the same nought as the bolts", 0.0),
        Q("at_v", "mm", "where the force acts, likewise", 0.0),
        Q("moment", "N mm", "moment in the plane, anticlockwise as one faces it", 0.0),
    ),
    outputs=(
        Q("most", "N", "shear on the hardest-used bolt"),
        Q("least", "N", "shear on the least-used bolt"),
    ),
    formula="F_i = F/n + M x r_i / sum r^2, about the centroid",
    source="elastic bolt group: Shigley, Mechanical Engineering Design, 8-12 (from memory)",
    leaves_out="clearance in the holes and friction, which usually share the load more evenly",
)(_worked_group)


def _worked_tension(
    holes: str, normal: float, moment_u: float, moment_v: float, edge: float, rests: str
) -> tuple[float, float]:
    tension = group_tension(places(holes), normal, moment_u, moment_v, edge, rests == "bosses")
    return float(tension.max()), float(tension.min())


GROUP_TENSION = calculation(
    "bolt-group-tension",
    "Tension on the bolts of a plate that is pulled and tipped",
    inputs=(
        Q("holes", "mm", "places of the bolts: u to the right, v up, as one faces the plate", many=True),
        Q("normal", "N", "force pulling the plate off, through the bolts' centroid", 0.0),
        Q("moment_u", "N mm", "moment about u (right-handed): plus pulls the upper bolts", 0.0),
        Q("moment_v", "N mm", "moment about v (right-handed): plus pulls the left bolts", 0.0),
        Q("edge", "mm", "from the outermost bolt to the plate's edge, where a flat plate pivots", above=0),
        Q("rests", "", "what the plate rests on", "flat", choices=("flat", "bosses")),
    ),
    outputs=(
        Q("most", "N", "tension on the hardest-pulled bolt"),
        Q("least", "N", "tension on the least-pulled bolt (below nought: a boss is pressed)"),
    ),
    formula="T_i = N/n + M r_i / sum r^2 about the centroid; flat: no more than M / (n edge) asks for",
    source="elastic bolt group: Shigley, Mechanical Engineering Design, 8-12 (from memory)",
    leaves_out="prying of a thin plate and preload",
)(_worked_tension)


def bolt_capacity(size: str, grade: str) -> tuple[float, float, float]:
    """Design tension and shear (in the thread, one plane) in N by EN 1993-1-8, and the proof load in N."""
    t = thread(size)
    c = bolt_class(grade, t.diameter)
    return (
        0.9 * c.tensile * t.stress_area / GAMMA_M2,
        c.shear_share * c.tensile * t.stress_area / GAMMA_M2,
        c.proof * t.stress_area,
    )


def bolt_use(tension: float, shear: float, size: str, grade: str) -> tuple[float, float, float, float]:
    """Use of a bolt in tension and shear together, and its tension, shear and proof capacities in N."""
    ft, fv, proof = bolt_capacity(size, grade)
    return max(shear / fv + tension / (1.4 * ft), tension / ft), ft, fv, proof


BOLT = calculation(
    "bolt-capacity",
    "A bolt in tension and shear together",
    inputs=(
        Q("tension", "N", "tension on the bolt, with its factor", 0.0, low=0),
        Q("shear", "N", "shear, with its factor", 0.0, low=0),
        Q("size", "", "thread", choices=SIZES),
        Q("grade", "", "property class", "8.8", choices=CLASSES),
    ),
    outputs=(
        Q("use", "", "share of its capacity used"),
        Q("tension_capacity", "N", "in tension alone"),
        Q("shear_capacity", "N", "in shear alone, thread in the plane"),
        Q("proof", "N", "proof load"),
    ),
    formula=(
        "Ft = 0.9 fub As / 1.25;  Fv = 0.6 (10.9 and up: 0.5) fub As / 1.25;  V/Fv + T/(1.4 Ft) <= 1 and T/Ft"
        " <= 1"
    ),
    source="EN 1993-1-8:2005 table 3.4 (from memory); strengths ISO 898-1:2013, SAE J429",
    leaves_out="prying, fatigue and how well the block's own thread holds",
)(bolt_use)


def preload(torque_nm: float, diameter: float, nut_factor: float) -> float:
    """Clamp force N of a bolt tightened to torque_nm; diameter mm."""
    return torque_nm * 1000 / (nut_factor * diameter)


PRELOAD = calculation(
    "bolt-preload",
    "Clamp force from tightening torque",
    inputs=(
        Q("torque_nm", "Nm", "tightening torque", above=0),
        Q("diameter", "mm", "nominal diameter", above=0),
        Q(
            "nut_factor",
            "",
            "nut factor K: about 0.2 dry, 0.15 oiled (common practice, no source)",
            0.2,
            above=0.05,
            high=0.5,
        ),
    ),
    outputs=(Q("preload", "N", "clamp force"),),
    formula="F = T / (K d)",
    source="Shigley, Mechanical Engineering Design, 8-8 (from memory)",
    leaves_out="scatter of 30 % either way between like bolts",
)(preload)


def _preload_use(
    torque_nm: float, diameter: float, nut_factor: float, proof: float
) -> tuple[float, float, float]:
    force = preload(torque_nm, diameter, nut_factor)
    return force / (MOST_PROOF * proof), force, MOST_PROOF * proof


PRELOAD_USE = calculation(
    "bolt-tightening",
    "Tightening of a bolt against its proof load",
    inputs=(*PRELOAD.inputs, Q("proof", "N", "proof load", above=0)),
    outputs=(
        Q("use", "", "share used"),
        Q("preload", "N", "clamp force"),
        Q("most", "N", "nine tenths of proof"),
    ),
    formula="F = T / (K d) <= 0.9 proof",
    source="Shigley, Mechanical Engineering Design, 8-8 (from memory); proof loads ISO 898-1:2013, SAE J429",
    leaves_out="scatter of 30 % either way between like bolts",
)(_preload_use)


def slip_use(shear: float, tension: float, bolts: int, clamp: float, friction: float) -> tuple[float, float]:
    """Use of the friction under the bolt that is asked most, and the shear in N at which it slips there.
    shear: N on that bolt, its share of force and moment; clamp: N of one bolt as tightened, of which
    LOW_CLAMP is believed; tension: N pulling the joint apart."""
    holds = max(friction * (LOW_CLAMP * clamp - max(tension, 0.0) / bolts), 1e-9)
    return shear / holds, holds


SLIP = calculation(
    "joint-slip",
    "Whether a bolted joint slips",
    inputs=(
        Q("shear", "N", "shear on the bolt that is asked most, with its factor", low=0),
        Q("tension", "N", "pull on the joint, likewise", 0.0),
        Q("bolts", "", "number of bolts", low=1, whole=True),
        Q("clamp", "N", "clamp force of one bolt as tightened", above=0),
        Q("friction", "", "friction, clean steel on cast metal", FRICTION, above=0, high=1),
    ),
    outputs=(
        Q("use", "", "share of the friction used"),
        Q("holds", "N", "shear at which it slips under that bolt"),
    ),
    formula="|V/n + M x r / sum r^2| <= mu (0.7 F - N/n), at the bolt asked most",
    source=(
        "Coulomb friction, shared elastically (cautious); mu = 0.2 is EN 1090-2 class D, untreated surfaces"
        " (from memory); 0.7: the low side of clamp by torque, Shigley 8-8 (from memory)"
    ),
    leaves_out="paint, oil and loss of clamp in service: bolts are torqued again after the first drives",
)(slip_use)


def hole_bearing(
    shear: float,
    diameter: float,
    hole: float,
    edge: float,
    thickness: float,
    tensile: float,
    bolt_tensile: float,
) -> tuple[float, float]:
    """Use and capacity N of a hole in bearing, its edge distance the same every way."""
    k1 = min(2.8 * edge / hole - 1.7, 2.5)
    alpha = min(edge / (3 * hole), bolt_tensile / tensile, 1.0)
    capacity = max(k1 * alpha * tensile * diameter * thickness / GAMMA_M2, 1e-9)
    return shear / capacity, capacity


BEARING = calculation(
    "hole-bearing",
    "Bearing of a bolt in its hole",
    inputs=(
        Q("shear", "N", "shear on the bolt, with its factor", low=0),
        Q("diameter", "mm", "bolt", above=0),
        Q("hole", "mm", "hole", above=0),
        Q("edge", "mm", "hole centre to the nearest edge", above=0),
        Q("thickness", "mm", "plate", above=0),
        Q("tensile", "MPa", "tensile strength of the plate", 360.0, above=0),
        Q("bolt_tensile", "MPa", "tensile strength of the bolt", 800.0, above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("capacity", "N", "of the hole")),
    formula="Fb = k1 ab fu d t / 1.25;  k1 = min(2.8 e/d0 - 1.7, 2.5);  ab = min(e/(3 d0), fub/fu, 1)",
    source="EN 1993-1-8:2005 table 3.4 (from memory)",
    leaves_out="how the hole stretches before it fails",
)(hole_bearing)


def edge_use(edge: float, hole: float) -> tuple[float, float]:
    """Least edge distance over the one there is, and the least, mm."""
    return LEAST_EDGE * hole / edge, LEAST_EDGE * hole


EDGE = calculation(
    "edge-distance",
    "Edge distance of a hole",
    inputs=(Q("edge", "mm", "hole centre to the nearest edge", above=0), Q("hole", "mm", "hole", above=0)),
    outputs=(Q("use", "", "least over what there is"), Q("least", "mm", "least edge distance")),
    formula="e >= 1.2 d0",
    source="EN 1993-1-8:2005 table 3.3 (from memory)",
    leaves_out="a hole that tears out under shear: see hole-bearing",
)(edge_use)


def pitch_use(apart: float, hole: float) -> tuple[float, float]:
    """Least distance of two holes over the one there is, and the least, mm."""
    return LEAST_PITCH * hole / apart, LEAST_PITCH * hole


PITCH = calculation(
    "hole-pitch",
    "Distance between two holes",
    inputs=(Q("apart", "mm", "centre to centre", above=0), Q("hole", "mm", "hole", above=0)),
    outputs=(Q("use", "", "least over what there is"), Q("least", "mm", "least distance")),
    formula="p >= 2.2 d0",
    source="EN 1993-1-8:2005 table 3.3 (from memory)",
    leaves_out="the room that a socket wants",
)(pitch_use)
