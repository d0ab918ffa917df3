"""The bolted plate at the root of an arm: bending between a pulled bolt and the toe of the weld, and along
straight lines right across it. N, mm, MPa; loads (k, ...) for k cases at once."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from nimble_cradle.calc import Q, calculation
from nimble_cradle.geometry.footprint import Footprint
from nimble_cradle.geometry.pose import Array


def plate_capacity(thickness: float, lever: float, edge: float, yield_mpa: float) -> tuple[float, float]:
    """Tension N that the plate can pass from one bolt to the arm, and the width mm of plate that works.

    One plastic hinge at the weld's toe, single curvature, so without prying. lever: bolt centre to toe;
    edge: bolt to plate edge.
    """
    width = min(2 * math.pi * lever, 4 * lever + 1.25 * edge)
    return width * thickness**2 * yield_mpa / (4 * lever), width


PLATE = calculation(
    "plate-at-bolt",
    "Bending of a plate between a bolt and the arm's weld",
    inputs=(
        Q("thickness", "mm", "plate", above=0),
        Q("lever", "mm", "bolt centre to the toe of the weld", above=0),
        Q("edge", "mm", "bolt centre to the edge of the plate", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(
        Q("capacity", "N", "tension that one bolt may bring in"),
        Q("width", "mm", "width of plate that works"),
    ),
    formula="width = min(2 pi m, 4 m + 1.25 e);  F = (width t^2 fy / 4) / m",
    source=(
        "EN 1993-1-8:2005 table 6.4, effective lengths of one bolt row (from memory); hinge in single"
        " curvature, cautious"
    ),
    leaves_out=(
        "the stiffness of the block's boss under the plate; prying: a plate that holds so needs none, and"
        " where this and the bolt hold, so do modes 1 to 3 of EN 1993-1-8, 6.2.4"
    ),
)(plate_capacity)


DIRECTIONS, PLACES = 36, 24
"""Straight yield lines that are tried: ways round, and places between the weld and the last bolt."""


@dataclass(frozen=True, eq=False)
class YieldLine:
    """The straight line of a plate that is used most: ``use`` (k,), and for each case the moment N mm over
    it, the metal on it mm, the way across it (k, 2) and where it lies along that way (k,) mm."""

    use: Array
    moment: Array
    chord: Array
    across: Array
    place: Array


def plate_lines(
    outline: Array,
    holes: Array,
    hole_mm: ArrayLike,
    footprint: Footprint,
    tension: Array,
    moment_at: Array,
    force_normal: Array,
    thickness: float,
    yield_mpa: float,
) -> YieldLine:
    """The worst straight yield line of a plate in each of k cases.

    outline: (n, 2), convex. hole_mm: of all holes, or of each (bolts,). tension: (k, bolts) N, on bosses with
    its sign. moment_at: (k, 2) N mm about u and v of all that the arm brings, at the plate's origin;
    force_normal: (k,) N away from the block. A line leaves the footprint wholly on one side. What bends over
    it is what the bolts beyond it hold; where none stands on the arm's side, all that the arm brings about
    the line. Capacity: chord t^2/4 fy.
    """
    turn = np.arange(DIRECTIONS) * 2 * np.pi / DIRECTIONS
    n = np.column_stack([np.cos(turn), np.sin(turn)])
    start = footprint.reach(n)
    last = (outline @ n.T).max(0)
    share = np.linspace(0.0, 0.999, PLACES)
    c = start[:, None] + np.maximum(last - start, 0.0)[:, None] * share
    exists = (last > start + 1e-6)[:, None] & np.ones(PLACES, dtype=bool)
    chord = _chords(outline, n, c) - _holes_on(holes, np.asarray(hole_mm, dtype=float) / 2, n, c)
    lever = (holes @ n.T).T[:, None, :] - c[:, :, None]
    beyond = np.maximum(lever, 0.0)
    by_bolts = np.tensordot(np.abs(tension), beyond, axes=(1, 2))
    # about a line across n at c: the moment about the line's own direction (-n_v, n_u) of force and moment at
    # the origin
    own = np.column_stack([-n[:, 1], n[:, 0]])
    turning = moment_at @ own.T
    external = np.abs(turning[:, :, None] + force_normal[:, None, None] * c[None])
    none_here = ~(lever <= 0).any(2)
    moment = np.where(none_here[None], external, by_bolts)
    strength = np.maximum(chord, 1e-6) * thickness**2 / 4 * yield_mpa
    use = np.where(exists[None], moment / strength[None], -1.0).reshape(len(tension), -1)
    best = use.argmax(1)
    use = np.maximum(use, 0.0)
    rows = np.arange(len(use))
    d, place = np.unravel_index(best, (DIRECTIONS, PLACES))
    return YieldLine(use[rows, best], moment[rows, d, place], chord[d, place], n[d], c[d, place])


def _chords(outline: Array, n: Array, c: Array) -> Array:
    """(d, p) length of the outline's chord on the line across n (d, 2) at c (d, p), mm. A line across a
    convex outline meets two of its sides: the first and last of those whose ends lie on either hand of it."""
    along, beside = n @ outline.T, np.column_stack([-n[:, 1], n[:, 0]]) @ outline.T
    beyond = along[:, None, :] > c[:, :, None]
    crosses = beyond != np.roll(beyond, -1, axis=2)
    count, way = len(outline), np.arange(len(n))[:, None]
    first, last = crosses.argmax(2), count - 1 - crosses[:, :, ::-1].argmax(2)

    def meets(side: NDArray[np.intp]) -> Array:
        after = (side + 1) % count
        one, two = along[way, side], along[way, after]
        share = (c - one) / np.where(two == one, 1.0, two - one)
        return np.asarray(beside[way, side] + share * (beside[way, after] - beside[way, side]))

    return np.asarray(np.where(crosses.any(2), np.abs(meets(first) - meets(last)), 0.0))


def _holes_on(holes: Array, radius: Array, n: Array, c: Array) -> Array:
    """(d, p) length of those lines that lies in holes, mm."""
    off = (holes @ n.T).T[:, None, :] - c[:, :, None]
    return np.asarray(2 * np.sqrt(np.maximum(radius**2 - off**2, 0.0)).sum(2))


def _line_use(moment: float, chord: float, thickness: float, yield_mpa: float) -> tuple[float, float]:
    capacity = chord * thickness**2 / 4 * yield_mpa
    return moment / capacity, capacity


PLATE_LINE = calculation(
    "plate-line",
    "A plate bent along a straight line right across it",
    inputs=(
        Q("moment", "N mm", "over the line, with its factor", low=0),
        Q("chord", "mm", "metal on the line, holes off", above=0),
        Q("thickness", "mm", "plate", above=0),
        Q("yield_mpa", "MPa", "yield strength", above=0),
    ),
    outputs=(Q("use", "", "share used"), Q("capacity", "N mm", "moment that the line carries")),
    formula=(
        "M <= chord t^2/4 fy;  M = sum of T (n h - c) over the bolts beyond the line, or all that the arm"
        " brings"
    ),
    source="Johansen's yield lines (from memory); the worst of 36 ways and 24 places between weld and edge",
    leaves_out="how little the block's boss gives under the plate",
)(_line_use)
