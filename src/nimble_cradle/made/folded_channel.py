"""A crossmember folded from sheet, flat: how wide, where it is folded, the outline of each leg."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.bend import bend_allowance, setback
from nimble_cradle.geometry.polyline import turns_of
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import Vec3
from nimble_cradle.job.cross_section import FoldedSection
from nimble_cradle.strength.frame import member_axes

Fold = tuple[float, str]


def taken_by_a_fold(section: FoldedSection) -> float:
    """How much shorter the flat is than both outside legs of one square fold together, mm."""
    radius, t = section.radius_mm, section.wall_mm
    return 2 * setback(radius, t, 90.0) - bend_allowance(radius, t, 90.0)


def folded_flat(section: FoldedSection) -> tuple[float, list[Fold]]:
    """Width of the flat mm, and where it is folded: mm from its middle, in order, and which way as one looks
    on the web from outside."""
    less = taken_by_a_fold(section)
    web = (section.width_mm - less) / 2
    folds: list[Fold] = [(-web, "away"), (web, "away")]
    half = web + section.height_mm - less / 2
    if section.lip_mm:
        low = web + section.height_mm - less
        folds = [(-low, "towards"), *folds, (low, "towards")]
        half = low + section.lip_mm - less / 2
    return 2 * half, folds


@dataclass(frozen=True, eq=False)
class FlatLeg:
    """A leg as it is cut: outline (n, 2) mm, along it from its left end to the right, and across from the
    web's middle, as one looks on the web from outside, the car's front above. folds: across, from and to
    along it mm, and which way."""

    outline: Array
    folds: tuple[tuple[float, float, float, str], ...]


def flat_legs(points: tuple[Vec3, ...], section: FoldedSection) -> tuple[FlatLeg, ...]:
    """The legs of a channel through points, mitred where they meet, cut square at its ends."""
    wide, folds = folded_flat(section)
    out = []
    nodes = np.asarray(points, dtype=float)
    for k, (a, b) in enumerate(zip(nodes, nodes[1:], strict=False)):
        axes = np.array(member_axes(a, b, (0.0, 0.0, 1.0)))
        long = math.dist(a, b)
        starts = _cut(axes, nodes[k - 1] if k else None, a, b)
        ends = _cut(axes, nodes[k + 2] if k + 2 < len(nodes) else None, b, a)
        over = _round(section)
        across = _flat_across(section, wide, folds)
        left = [(float(starts @ place), y) for place, y in zip(over, across, strict=True)]
        right = [(long + float(ends @ place), y) for place, y in zip(over, across, strict=True)]
        lines = [
            (y, one, other, way)
            for (y, way), (one, _), (other, _) in zip(folds, left[1:], right[1:], strict=False)
        ]
        out.append(FlatLeg(np.array([*left, *reversed(right)]), tuple(lines)))
    return tuple(out)


def _cut(axes: Array, beyond: Array | None, node: Array, other: Array) -> Array:
    """(2,) how far along the leg the cut at its ``node`` moves for each mm across and up: on the plane that
    halves the angle to the leg that comes ``beyond`` it."""
    if beyond is None or turns_of((other.tolist(), node.tolist(), beyond.tolist()))[0] < 0.01:
        return np.zeros(2)
    one = (node - other) / math.dist(node, other)
    two = (beyond - node) / math.dist(beyond, node)
    m = axes @ (one + two)
    return np.asarray(-m[1:] / m[0])


def _round(section: FoldedSection) -> list[Array]:
    """Corners of its outside from one edge to the other, (across, up) mm."""
    y, z, lip = section.width_mm / 2, section.height_mm / 2, section.over_mm / 2
    half = [np.array([y, z]), np.array([y, -z])]
    if section.lip_mm:
        half.append(np.array([lip, -z]))
    return [np.array([-p[0], p[1]]) for p in reversed(half)] + half


def _flat_across(section: FoldedSection, wide: float, folds: list[Fold]) -> list[float]:
    """Where those corners are in the flat, mm from its middle."""
    return [-wide / 2, *(y for y, _ in folds), wide / 2]
