"""A cradle as a space frame: unit loads at each mount once, every load case by superposition. Vehicle frame;
mm, N, MPa, N mm."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.cradle import Cradle
from nimble_cradle.stock.steels import E_STEEL, G_STEEL
from nimble_cradle.stock.threads import SIZES
from nimble_cradle.stock.tubes import properties
from nimble_cradle.strength.bolts import CLASSES, bolt_capacity
from nimble_cradle.strength.frame import Member, solve_frame

NEAR = 2.0
"""A mount nearer to a point of the cradle than so many mm stands on it."""


@dataclass(frozen=True, eq=False)
class CradleResponse:
    """The cradle under six unit loads at each of m mounts: forces x, y, z, moments x, y, z; vehicle frame.

    ends: (6 m, members, 2, 6) what the node does to the member's end, along it, across, up, turns likewise;
    of_tube: (members,) number of the tube that a member is a piece of; at_joint: (members, 2) whether that
    end is welded to others; moved: (6 m, m, 6) mm and rad of the mounts; held: (6 m, h, 6) what
    the chassis does to each held point; at: (m, 3) where the mounts stand on it.
    """

    ends: Array
    of_tube: Array
    at_joint: Array
    moved: Array
    held: Array
    at: Array


@lru_cache(maxsize=32)
def cradle_response(cradle: Cradle, mounts: tuple[Vec3, ...]) -> CradleResponse:
    """Solve the frame. mounts: where they stand, vehicle frame; each goes to the nearest tube's axis. Raises
    JobError where it is not held."""
    index = {point.id: i for i, point in enumerate(cradle.points)}
    nodes = [np.asarray(point.at, dtype=float) for point in cradle.points]
    pieces: list[list[int]] = [[index[tube.start], index[tube.end]] for tube in cradle.tubes]
    stands = [_stand(nodes, pieces, np.asarray(place, dtype=float)) for place in mounts]
    members, of_tube = [], []
    for k, (tube, chain) in enumerate(zip(cradle.tubes, pieces, strict=True)):
        p = properties(cradle.section_of(tube))
        for a, b in zip(chain, chain[1:], strict=False):
            members.append(Member(a, b, p.area, p.i_lying, p.i_standing, p.torsion, E_STEEL, G_STEEL))
            of_tube.append(k)
    held, springs = np.zeros((len(nodes), 6), dtype=bool), np.zeros((len(nodes), 6))
    for point in cradle.points:
        i = index[point.id]
        if point.held == "rubber":
            springs[i, :3] = point.stiffness_flat, point.stiffness_flat, point.stiffness_up
        elif point.held != "free":
            held[i] = (True, True, True, *[point.held == "bolts"] * 3)
    loads = np.zeros((6 * len(stands), len(nodes), 6))
    for m, node in enumerate(stands):
        loads[range(6 * m, 6 * m + 6), node, range(6)] = 1.0
    try:
        solved = solve_frame(np.array(nodes), members, held, loads, springs)
    except ValueError as error:
        raise JobError(
            f"{cradle.name}: {error}; bolt it down at one more point, or by a plate.",
            f"cradles/{cradle.id}/points",
        ) from None
    meets = np.bincount([n for chain in pieces for n in (chain[0], chain[-1])], minlength=len(nodes))
    at_joint = [[meets[member.start] > 1, meets[member.end] > 1] for member in members]
    gripped = [index[point.id] for point in cradle.points if point.held != "free"]
    return CradleResponse(
        solved.ends,
        np.array(of_tube),
        np.array(at_joint),
        solved.moved[:, stands],
        _held(solved.ends, members, np.array(nodes), gripped, loads),
        np.array([nodes[n] for n in stands]),
    )


def _stand(nodes: list[Array], pieces: list[list[int]], place: Array) -> int:
    """The node at which a mount stands; a new one on the nearest tube where none is near."""
    best: tuple[float, int, int, Array] | None = None
    for k, chain in enumerate(pieces):
        for j, (a, b) in enumerate(zip(chain, chain[1:], strict=False)):
            along = nodes[b] - nodes[a]
            t = float(np.clip((place - nodes[a]) @ along / (along @ along), 0.0, 1.0))
            q = nodes[a] + t * along
            away = float(np.linalg.norm(place - q))
            if best is None or away < best[0] - 1e-9:
                best = away, k, j, q
    assert best is not None
    _, k, j, q = best
    for n in pieces[k][j : j + 2]:
        if float(np.linalg.norm(nodes[n] - q)) < NEAR:
            return n
    nodes.append(q)
    pieces[k].insert(j + 1, len(nodes) - 1)
    return len(nodes) - 1


def _held(
    ends: Array, members: Sequence[Member], nodes: Array, gripped: Sequence[int], loads: Array
) -> Array:
    """(loads, held points, 6) what the chassis does to each: the sum of what the node does to its members,
    less what stands on it."""
    from nimble_cradle.strength.frame import member_axes

    out = np.zeros((len(ends), len(gripped), 6))
    for k, member in enumerate(members):
        axes = member_axes(nodes[member.start], nodes[member.end], member.up)
        for side, n in enumerate((member.start, member.end)):
            if n in gripped:
                g = gripped.index(n)
                out[:, g, :3] += ends[:, k, side, :3] @ axes
                out[:, g, 3:] += ends[:, k, side, 3:] @ axes
    return out - loads[:, list(gripped)]


def held_use(
    force: float, moment: float, size: str, grade: str, bolts: float, pitch: float
) -> tuple[float, float]:
    """Share used of the bolts that hold a cradle at a point, and the force on the hardest-used one, N. The
    whole force is taken as shear and as pull."""
    pull, shear, _ = bolt_capacity(size, grade)
    each = force / bolts
    more = 2 * moment / (bolts * pitch) if bolts > 1 else 0.0
    return each / shear + (each + more) / (1.4 * pull), each + more


CRADLE_HELD = calculation(
    "cradle-held",
    "Bolts that hold a cradle at a point",
    inputs=(
        Q("force", "N", "on the chassis there, with its factor", low=0),
        Q("moment", "N mm", "likewise", 0.0, low=0),
        Q("size", "", "bolts", choices=SIZES),
        Q("grade", "", "their class", "8.8", choices=CLASSES),
        Q("bolts", "", "how many", 1.0, above=0),
        Q("pitch", "mm", "apart", 80.0, above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("most", "N", "on the hardest-used bolt")),
    formula="F/n and 2 M/(n p) on each;  V/Fv + T/(1.4 Ft) with V = F/n and T = F/n + 2 M/(n p)",
    source="EN 1993-1-8:2005 table 3.4 (from memory); V and T each taken as the whole force, cautious",
    leaves_out="what it is bolted to",
)(held_use)
CRADLE_STRESS = calculation(
    "cradle-stress",
    "Stress in a tube of a cradle",
    inputs=(
        Q("stress", "MPa", "greatest equivalent stress in the frame, with its factor", low=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(Q("use", "", "share used"),),
    formula="stress / fy;  sigma = N/A + My/Wy + Mz/Wz with torsion and shear by von Mises",
    source="space frame of the program's own beam elements; sections EN 10219-2",
    leaves_out="the walls of the tubes where they meet, judged by themselves; whatever else hangs on it",
)(lambda stress, yield_mpa: stress / yield_mpa)
CRADLE_MOVE = calculation(
    "cradle-move",
    "How far a mount moves on its cradle",
    inputs=(Q("moved", "mm", "in its worst everyday case", low=0), Q("most", "mm", "that it may", above=0)),
    outputs=(Q("use", "", "share of what it may"),),
    formula="moved / most",
    source="space frame of the program's own beam elements; common practice, no source",
    leaves_out="the give of the rails",
)(lambda moved, most: moved / most)
