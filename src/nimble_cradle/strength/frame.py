"""Space frames: straight members of twelve degrees of freedom, dense, small. N, mm, N mm, rad; any
right-handed axes.

Euler-Bernoulli beams with Saint-Venant torsion, no shear deflection. Each end of a member may be joined to
its node through springs; nodes may be held or stand on springs. Source: the stiffness of a prismatic
member in closed form, e.g. Przemieniecki, Theory of Matrix Structural Analysis, ch. 5 (from memory);
checked against an independent frame library in the tests.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from nimble_cradle.geometry.pose import Array, cross, unit


@dataclass(frozen=True)
class Member:
    """A straight member from node ``start`` to node ``end``. area mm2; i_up: second moment mm4 against
    bending in the plane that holds ``up``, i_across: against bending across it; torsion: constant mm4; e, g:
    moduli MPa.

    joints: (member end 0 or 1, direction 3 to 5: turn about the member's own axis, ``across`` and ``up``)
    -> spring N mm/rad between the member and its node; 0 is a hinge; what is not named is rigid.
    """

    start: int
    end: int
    area: float
    i_up: float
    i_across: float
    torsion: float
    e: float
    g: float
    up: tuple[float, float, float] = (0.0, 0.0, 1.0)
    joints: tuple[tuple[int, int, float], ...] = ()


@dataclass(frozen=True, eq=False)
class Solved:
    """moved: (loads, nodes, 6) mm and rad. ends: (loads, members, 2, 6) what the node does to the member's
    end, in the member's own axes (along, across, up): forces N, then moments N mm."""

    moved: Array
    ends: Array


_PULL = np.array([[1.0, -1.0], [-1.0, 1.0]])


def member_stiffness(member: Member, length: float) -> Array:
    """(12, 12) in the member's own axes: at each end movement along, across, up, then turns about them."""
    k = np.zeros((12, 12))
    for i, stiff in ((0, member.e * member.area / length), (3, member.g * member.torsion / length)):
        k[[[i], [i + 6]], [i, i + 6]] = stiff * _PULL
    ll = length * length
    # moving up goes with a turn about minus across (dz/dx = -turn about y), moving across with one about plus
    # up
    for move, turn, sign, second in ((2, 4, -1.0, member.i_up), (1, 5, 1.0, member.i_across)):
        c = member.e * second / length**3
        s = sign * length
        block = c * np.array(
            [
                [12, 6 * s, -12, 6 * s],
                [6 * s, 4 * ll, -6 * s, 2 * ll],
                [-12, -6 * s, 12, -6 * s],
                [6 * s, 2 * ll, -6 * s, 4 * ll],
            ]
        )
        dof = np.array([move, turn, move + 6, turn + 6])
        k[dof[:, None], dof] = block
    if member.joints:
        sprung = [6 * end + direction for end, direction, _ in member.joints]
        springs = np.diag([stiff for _, _, stiff in member.joints])
        rest = [i for i in range(12) if i not in sprung]
        inner = np.linalg.inv(k[np.ix_(sprung, sprung)] + springs)
        out = np.zeros((12, 12))
        link = k[np.ix_(rest, sprung)] @ inner
        out[np.ix_(rest, rest)] = k[np.ix_(rest, rest)] - link @ k[np.ix_(sprung, rest)]
        out[np.ix_(rest, sprung)] = link @ springs
        out[np.ix_(sprung, rest)] = out[np.ix_(rest, sprung)].T
        out[np.ix_(sprung, sprung)] = springs - springs @ inner @ springs
        return out
    return k


def solve_frame(
    nodes: Array, members: Sequence[Member], held: Array, loads: Array, springs: Array | None = None
) -> Solved:
    """Movements and end forces. nodes: (n, 3) mm. held: (n, 6) bool, along the axes of ``nodes``. loads:
    (k, n, 6) N and N mm. springs: (n, 6) N/mm and N mm/rad that nodes stand on. Raises ValueError where
    the frame is not held.
    """
    n = len(nodes)
    k = np.zeros((6 * n, 6 * n))
    parts = [_placed(replace(m, start=0, end=1), *_ends(nodes, m)) for m in members]
    own, turn = np.array([part[0] for part in parts]), np.array([part[1] for part in parts])
    dofs = np.array([np.concatenate([6 * m.start + np.arange(6), 6 * m.end + np.arange(6)]) for m in members])
    for dof, there in zip(dofs, turn.transpose(0, 2, 1) @ own @ turn, strict=True):
        k[dof[:, None], dof] += there
    if springs is not None:
        k[np.diag_indices(6 * n)] += springs.ravel()
    free = ~np.asarray(held, dtype=bool).ravel()
    part = k[np.ix_(free, free)]
    scale = np.sqrt(np.maximum(np.diag(part), 1e-30))
    even = part / np.outer(scale, scale)
    if len(even):
        stiff = np.abs(np.linalg.eigvalsh(even))
        if stiff.max() > 1e13 * stiff.min():
            raise ValueError("the frame can move without bending: it is not held")
    moved = np.zeros((len(loads), 6 * n))
    moved[:, free] = (
        np.linalg.solve(even, (loads.reshape(len(loads), -1)[:, free] / scale).T) / scale[:, None]
    ).T
    ends = np.einsum("mij,mjk,lmk->lmi", own, turn, moved[:, dofs], optimize=True)
    return Solved(moved.reshape(len(loads), n, 6), ends.reshape(len(loads), len(members), 2, 6))


def _ends(nodes: Array, member: Member) -> tuple[tuple[float, ...], tuple[float, ...]]:
    return tuple(nodes[member.start].tolist()), tuple(nodes[member.end].tolist())


@lru_cache(maxsize=4096)
def _placed(member: Member, a: tuple[float, ...], b: tuple[float, ...]) -> tuple[Array, Array]:
    """A member's stiffness in its own axes and its turn into them, (12, 12) each, from place to place."""
    start, end = np.array(a), np.array(b)
    axes = member_axes(start, end, member.up)
    turn = np.zeros((12, 12))
    for i in range(4):
        turn[3 * i : 3 * i + 3, 3 * i : 3 * i + 3] = axes
    return member_stiffness(member, float(np.linalg.norm(end - start))), turn


def member_axes(a: Array, b: Array, up: Sequence[float]) -> Array:
    """(3, 3) rows: along the member, across (level where ``up`` is the vertical), and up made square to
    the member."""
    along = unit(b - a)
    across = cross(np.asarray(up, dtype=float), along)
    if np.linalg.norm(across) < 1e-6:
        across = cross(np.array([1.0, 0.0, 0.0]) if abs(along[0]) < 0.9 else np.array([0.0, 1.0, 0.0]), along)
    across = unit(across)
    return np.array([along, across, cross(along, across)])
