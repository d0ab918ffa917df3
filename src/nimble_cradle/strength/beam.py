"""The gearbox crossmember as a space frame: unit loads once, every load case by superposition.

Vehicle frame; mm, N, MPa.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.polyline import nearest_on, rounded
from nimble_cradle.geometry.pose import Array, cross, crosses
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.cross_section import CrossSection
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.stock.steels import E_STEEL, G_STEEL
from nimble_cradle.strength.cross_section import bimoment_reach, figures_of, stresses_of
from nimble_cradle.strength.frame import Member, member_axes, solve_frame
from nimble_cradle.strength.section import held_torsion

RAIL_SPRING = 500.0
"""How hard a rail holds the crossmember's end sideways, N/mm, by its bending and twist (common practice,
no source)."""


@dataclass(frozen=True, eq=False)
class Response:
    """The frame under six unit loads at the mount (force x, y, z in N, moment x, y, z in N mm; vehicle
    frame).

    forces: (stations, 6 loads, 6) axial N, shear up and across N, torsion, bending about the standing and
    the lying axis N mm, about its shear centre; moved: (6 loads, 3) mm at the mount, vehicle frame; places:
    (stations, 3). held: (2 ends, 6 loads, 6) force N and moment N mm, about its axis, that each end of the
    tube puts on what holds it, the left one first, vehicle frame. at: where the load is, on the line of shear
    centres; warps: (stations,) mm, bimoment for each N mm of torsion.
    """

    forces: Array
    moved: Array
    places: Array
    at: Array
    held: Array
    warps: Array


@lru_cache(maxsize=64)
def unit_response(
    points: tuple[Vec3, ...],
    section: CrossSection,
    ends: str,
    mount: Vec3,
    rail_n_per_mm: float = RAIL_SPRING,
) -> Response:
    """Solve the frame for unit loads where the mount stands. Raises JobError where the mount is at an end.

    The left end is held; the right end may slide sideways on a spring of ``rail_n_per_mm`` N/mm: rails
    bend and twist, and two ends nailed down would make an arch of a dropped tube, whose thrust no rail can
    hold. End plates hold the tube against turning about the car's left-right axis, and clamped ones about
    all.
    """
    figures = figures_of(section)
    p = figures.own
    k, at = nearest_on(points, mount)
    nodes = [np.asarray(point, dtype=float) for point in points]
    if np.linalg.norm(at - nodes[0]) < 5 or np.linalg.norm(at - nodes[-1]) < 5:
        raise JobError(
            "The crossmember's mount stands beyond its end, not between the rails.", "crossmember/points"
        )
    if min(float(np.linalg.norm(at - n)) for n in nodes) > 1.0:
        nodes.insert(k + 1, at)
    loaded = int(np.argmin([np.linalg.norm(n - at) for n in nodes]))
    axis, nodes = nodes, _shear_line(nodes, figures.shear_up)
    long = np.cumsum([0.0, *(math.dist(a, b) for a, b in zip(nodes, nodes[1:], strict=False))])
    torsion = held_torsion(p.torsion, figures.warping, float(long[-1]))
    members = [
        Member(i, i + 1, p.area, p.i_lying, p.i_standing, torsion, E_STEEL, G_STEEL)
        for i in range(len(nodes) - 1)
    ]
    held, springs, loads = (
        np.zeros((len(nodes), 6), dtype=bool),
        np.zeros((len(nodes), 6)),
        np.zeros((6, len(nodes), 6)),
    )
    clamped = ends == "clamped"
    held[0] = (True, True, True, clamped, True, clamped)
    held[-1] = (True, False, True, clamped, True, clamped)
    springs[-1, 1] = rail_n_per_mm
    loads[range(6), loaded, range(6)] = 1.0
    solved = solve_frame(np.array(nodes), members, held, loads, springs)
    order = [0, 2, 1, 3, 5, 4]  # from (along, across, up, turns about them) to what Response says
    both_ends = [(i, side) for i in range(len(members)) for side in (0, 1)]
    forces = np.array([solved.ends[:, i, side][:, order] for i, side in both_ends])
    places = np.array([nodes[i + side] for i, side in both_ends])
    last = len(members) - 1
    held_by = []
    for i, side, end in ((0, 0, 0), (last, 1, -1)):
        on = _on_rail(solved.ends[:, i, side], nodes[i], nodes[i + 1])
        on[:, 3:] += crosses(nodes[end] - axis[end], on[:, :3])
        held_by.append(on)
    along = np.array([long[i + side] for i, side in both_ends])
    warps = bimoment_reach(figures, along, float(long[-1]), float(long[loaded]))
    return Response(forces, solved.moved[:, loaded, :3], places, nodes[loaded], np.array(held_by), warps)


def _shear_line(nodes: list[Array], up: float) -> list[Array]:
    """The line ``up`` mm over a line, square to each leg in its own standing plane, its corners on the
    bisecting planes."""
    if abs(up) < 1e-9:
        return nodes
    ups = [member_axes(a, b, (0.0, 0.0, 1.0))[2] for a, b in zip(nodes, nodes[1:], strict=False)]
    out = []
    for k, node in enumerate(nodes):
        one, two = ups[max(k - 1, 0)], ups[min(k, len(ups) - 1)]
        out.append(node + up * (one + two) / (1.0 + float(one @ two)))
    return out


def _on_rail(end: Array, a: Array, b: Array) -> Array:
    """(loads, 6) what a member's end, given in its own axes as what its node does to it, does to that node,
    vehicle frame."""
    axes = member_axes(a, b, (0.0, 0.0, 1.0))
    return -np.hstack([end[:, :3] @ axes, end[:, 3:] @ axes])


def axis_of(crossmember: Crossmember) -> tuple[Vec3, ...]:
    """Its axis: through its points, or round its bends. Raises JobError where a leg is too short for them."""
    try:
        return rounded(crossmember.points, crossmember.bend_radius_mm)
    except ValueError as error:
        raise JobError(
            f"The crossmember's {error}; a smaller radius.", "crossmember/bend_radius_mm"
        ) from None


def ends_under(crossmember: Crossmember, mount: Vec3, forces: Array) -> Array:
    """(2 ends, k, 6) force N and moment N mm, about each end of its axis, that a crossmember puts on what
    holds it under forces (k, 3) N on the bush centre; the left end first, vehicle frame. Raises JobError."""
    response = unit_response(
        axis_of(crossmember), crossmember.section, crossmember.ends, mount, crossmember.rail_n_per_mm
    )
    lever = np.asarray(mount, dtype=float) - response.at
    load = np.hstack([forces, crosses(lever, forces)])
    return np.asarray(np.einsum("kl,elc->ekc", load, response.held))


def stiffness_at(crossmember: Crossmember, mount: Vec3) -> float:
    """N for each mm that a force up or down moves the mount. Raises JobError."""
    response = unit_response(
        axis_of(crossmember), crossmember.section, crossmember.ends, mount, crossmember.rail_n_per_mm
    )
    lever = np.asarray(mount, dtype=float) - response.at
    load = np.concatenate([[0.0, 0.0, 1.0], cross(lever, np.array([0.0, 0.0, 1.0]))])
    return 1.0 / max(abs(float((load @ response.moved)[2])), 1e-12)


class Under(NamedTuple):
    """A crossmember under k forces. stress: (k,) greatest equivalent, MPa; moved: (k, 3) mm, of the mount;
    bent: (k,) N mm, the most that it is bent up or down."""

    stress: Array
    moved: Array
    bent: Array


def crossmember_under(crossmember: Crossmember, mount: Vec3, forces: Array) -> Under:
    """What forces (k, 3) N on the bush centre, each by itself, do to a crossmember. Raises JobError."""
    response = unit_response(
        axis_of(crossmember), crossmember.section, crossmember.ends, mount, crossmember.rail_n_per_mm
    )
    lever = np.asarray(mount, dtype=float) - response.at
    load = np.hstack([forces, crosses(lever, forces)])
    inside = np.einsum("slc,kl->ksc", response.forces, load)
    bimoment = inside[:, :, 3] * response.warps
    stresses = stresses_of(inside.reshape(-1, 6), bimoment.reshape(-1), crossmember.section)
    return Under(
        stresses.reshape(inside.shape[:2]).max(1), load @ response.moved, np.abs(inside[:, :, 5]).max(1)
    )


def beam_between(
    load: float, span: float, at: float, i: float, w: float, ends: str = "hinged"
) -> tuple[float, float]:
    """Stress MPa and sag mm under a point load N on a straight beam; ``at`` mm from one end; I mm4, W mm3;
    steel."""
    a, b = at, span - at
    if a <= 0 or b <= 0:
        raise ValueError("the load must stand between the ends")
    if ends == "hinged":
        return load * a * b / span / w, load * a**2 * b**2 / (3 * E_STEEL * i * span)
    most = max(load * a * b**2 / span**2, load * a**2 * b / span**2, 2 * load * a**2 * b**2 / span**3)
    return most / w, load * a**3 * b**3 / (3 * E_STEEL * i * span**3)


BEAM = calculation(
    "beam-between-rails",
    "A straight crossmember under a point load",
    inputs=(
        Q("load", "N", "load"),
        Q("span", "mm", "between the ends", above=0),
        Q("at", "mm", "load from one end", above=0),
        Q("i", "mm4", "second moment", above=0),
        Q("w", "mm3", "elastic modulus", above=0),
        Q("ends", "", "how the ends are held", "hinged", choices=("hinged", "clamped")),
    ),
    outputs=(Q("stress", "MPa", "bending stress"), Q("sag", "mm", "sag under the load")),
    formula=(
        "hinged: M = F a b / L, sag = F a2 b2 / (3 E I L);  clamped: M = F a b2 / L2 ..., sag = F a3 b3 / (3"
        " E I L3)"
    ),
    source=(
        "Young and Budynas, Roark's Formulas for Stress and Strain, table 8.1 (from memory); E = 210 000 MPa"
    ),
    leaves_out="torsion, bends and sideways load: the screen solves a space frame with all of them",
)(beam_between)


def _stress_use(stress: float, yield_mpa: float, factor: float) -> tuple[float, float]:
    return stress * factor / yield_mpa, yield_mpa / factor


CROSSMEMBER_STRESS = calculation(
    "crossmember-stress",
    "Stress in the crossmember against its steel",
    inputs=(
        Q("stress", "MPa", "greatest equivalent stress in the frame", low=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
        Q("factor", "", "kept in hand", low=1),
    ),
    outputs=(Q("use", "", "share used"), Q("allowed", "MPa", "allowed stress")),
    formula="use = stress * factor / fy",
    source=(
        "space frame of the program's own beam elements; sections EN 10219-2; sigma = N/A + My/Wy + Mz/Wz"
        " with torsion and shear by von Mises"
    ),
    leaves_out="the holes and welds of the end plates and of the mount's bracket, and the rails' own give",
)(_stress_use)


def _sag_use(sag: float, most: float) -> float:
    return sag / most


CROSSMEMBER_SAG = calculation(
    "crossmember-sag",
    "Sag of the crossmember at the mount",
    inputs=(
        Q("sag", "mm", "movement up or down at the mount", low=0),
        Q("most", "mm", "the most allowed (the job's own)", above=0),
    ),
    outputs=(Q("use", "", "share used"),),
    formula="use = sag / most",
    source="space frame of the program's own beam elements",
    leaves_out="the give of the rails",
)(_sag_use)


def own_tone(stiffness: float, carried_kg: float, own_kg: float) -> float:
    """Hz at which a crossmember swings up and down with what it carries, and with half of itself."""
    return math.sqrt(1000 * stiffness / (carried_kg + own_kg / 2)) / (2 * math.pi)


def _tone_use(stiffness: float, carried_kg: float, own_kg: float, least: float) -> tuple[float, float]:
    tone = own_tone(stiffness, carried_kg, own_kg)
    return least / tone, tone


CROSSMEMBER_TONE = calculation(
    "crossmember-tone",
    "At what a crossmember swings with its share of the powertrain",
    inputs=(
        Q("stiffness", "N/mm", "up and down at the mount", above=0),
        Q("carried_kg", "kg", "carried at rest", above=0),
        Q("own_kg", "kg", "the crossmember's own", low=0),
        Q("least", "Hz", "the least that is wanted (the job's own; 20: common practice, no source)", above=0),
    ),
    outputs=(Q("use", "", "least over what it is"), Q("tone", "Hz", "its own frequency")),
    formula="f = sqrt(k / (m + own/2)) / (2 pi)",
    source="Den Hartog, Mechanical Vibrations, 2 (from memory)",
    leaves_out="the rubber, which lets it swing faster by itself; the rails' own give",
)(_tone_use)


def _nose_use(sag: float, apart: float, spare: float) -> tuple[float, float]:
    turned = math.degrees(math.atan2(sag, apart))
    return turned / spare, turned


CROSSMEMBER_DRIVELINE = calculation(
    "crossmember-driveline",
    "How far a crossmember that sags turns the gearbox, against what its joints have to spare",
    inputs=(
        Q("sag", "mm", "at the gearbox mount, of the cases that are not rare", low=0),
        Q("apart", "mm", "from there to the engine mounts, along the car", above=0),
        Q("spare", "deg", "the joint that works hardest may turn so much more", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("turned", "deg", "the gearbox turns by")),
    formula="turned = atan(sag / apart);  use = turned / spare",
    source="geometry",
    leaves_out="what the mounts' rubber gives besides, which the driveline's doubt and the gaps hold",
)(_nose_use)
