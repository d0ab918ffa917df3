"""Items made from surveyed points: their solids, and how sure their surface is at any place."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from nimble_cradle.geometry.pose import Array, unit
from nimble_cradle.job.base import Vec3
from nimble_cradle.job.bay import Item
from nimble_cradle.job.from_points import (
    BarFrom,
    BoxFrom,
    GridFrom,
    OutlineFrom,
    PanelFrom,
    RailFrom,
    Recipe,
    ShaftFrom,
    TunnelFrom,
)
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.shapes import Bar, Box, Prism, Shape, Skin, Slab
from nimble_cradle.survey.adjust import COVER
from nimble_cradle.survey.network import network
from nimble_cradle.survey.network_types import Network


def _vec(p: Array) -> Vec3:
    return round(float(p[0]), 4), round(float(p[1]), 4), round(float(p[2]), 4)


def made_shapes(recipe: Recipe, at: Mapping[str, Array]) -> tuple[Shape, ...]:
    """The shapes of a recipe; at: point id -> (3,) mm, datum frame. Raises ValueError in words where the
    points do not give them."""
    p = [at[key] for key in recipe.points]
    if not isinstance(recipe, (GridFrom, TunnelFrom)):
        for a, b in zip(p, p[1:], strict=False):
            if np.linalg.norm(b - a) < 1.0:
                raise ValueError("two of its points are the same place")
    return _MADE[type(recipe)](recipe, p)


def _rail(recipe: RailFrom, p: list[Array]) -> tuple[Shape, ...]:
    """A box section from point to point, its top along them."""
    w, h = recipe.width_mm / 2, recipe.height_mm
    outline = ((-w, -h), (w, -h), (w, 0.0), (-w, 0.0))
    return tuple(
        Prism(
            origin=_vec(a),
            along=_vec(b - a),
            up=(0, 0, 1),
            outline=outline,
            length=float(np.linalg.norm(b - a)),
        )
        for a, b in zip(p, p[1:], strict=False)
    )


def _box(recipe: BoxFrom, p: list[Array]) -> tuple[Shape, ...]:
    """A box between two corners."""
    size = np.abs(p[1] - p[0])
    if size.min() < 0.5:
        raise ValueError(
            "its two corners do not span a box: they are level with one another in one direction"
        )
    return (Box(centre=_vec((p[0] + p[1]) / 2), size=_vec(size)),)


def _bars(recipe: BarFrom | ShaftFrom, p: list[Array]) -> tuple[Bar, ...]:
    """A round bar from point to point."""
    return tuple(
        Bar(start=_vec(a), end=_vec(b), diameter=recipe.diameter_mm) for a, b in zip(p, p[1:], strict=False)
    )


def _shaft(recipe: ShaftFrom, p: list[Array]) -> tuple[Shape, ...]:
    """The same, with what its joints sweep where it bends."""
    joints = []
    for a, b, c in zip(p, p[1:], p[2:], strict=False):
        half = unit(unit(b - a) + unit(c - b)) * recipe.joint_long_mm / 2
        joints.append(Bar(start=_vec(b - half), end=_vec(b + half), diameter=recipe.joint_mm))
    return (*_bars(recipe, p), *joints)


def _panel(recipe: PanelFrom, p: list[Array]) -> tuple[Shape, ...]:
    """A flat panel with these corners."""
    return (Slab(corners=tuple(_vec(c) for c in p), thickness=recipe.thickness_mm),)


def _outline(recipe: OutlineFrom, p: list[Array]) -> tuple[Shape, ...]:
    """An outline pushed from the first point to the second."""
    along = p[1] - p[0]
    return (
        Prism(
            origin=_vec(p[0]),
            along=_vec(along),
            up=recipe.up,
            outline=recipe.outline,
            length=float(np.linalg.norm(along)),
        ),
    )


def _grid(recipe: GridFrom, p: list[Array]) -> tuple[Shape, ...]:
    """A surface by heights over a grid."""
    rows = tuple(
        tuple(_vec(p[0] + (x, y, z)) for y, z in zip(recipe.left, row, strict=True))
        for x, row in zip(recipe.forward, recipe.heights, strict=True)
    )
    return (Skin(rows=rows),)


def _tunnel(recipe: TunnelFrom, p: list[Array]) -> tuple[Shape, ...]:
    """A surface through a profile at each point, all drawn with as many points as the longest."""
    most = max(len(profile) for profile in recipe.profiles)
    rows = (_profile(centre, profile, most) for centre, profile in zip(p, recipe.profiles, strict=True))
    return (Skin(rows=tuple(rows)),)


_MADE: dict[type[Any], Callable[[Any, list[Array]], tuple[Shape, ...]]] = {
    RailFrom: _rail,
    BoxFrom: _box,
    BarFrom: _bars,
    ShaftFrom: _shaft,
    PanelFrom: _panel,
    OutlineFrom: _outline,
    GridFrom: _grid,
    TunnelFrom: _tunnel,
}
"""What makes the shapes of each recipe from its points (3,)."""


def _profile(centre: Array, profile: tuple[tuple[float, float], ...], count: int) -> tuple[Vec3, ...]:
    """A profile (left, up) at a point, drawn anew with ``count`` points evenly along its length where it
    has fewer."""
    line = np.asarray(profile, dtype=float)
    if len(line) < count:
        along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
        at = np.linspace(0, along[-1], count)
        line = np.column_stack([np.interp(at, along, line[:, 0]), np.interp(at, along, line[:, 1])])
    return tuple(_vec(centre + (0.0, y, z)) for y, z in line)


@remembered("items", "survey")
def _placing(job: Job) -> tuple[tuple[Item, ...], tuple[tuple[Item, str], ...]]:
    net = network(job)
    at = {point.id: point.at for point in net.points}
    done, waiting = [], []
    for item in job.items:
        if item.made is not None:
            loose = [p.name for key in item.made.points if (p := net.point(key)).free]
            if loose:
                waiting.append(
                    (
                        item,
                        (
                            f"waits for its points: {', '.join(loose)} {'is' if len(loose) == 1 else 'are'}"
                            " not pinned down yet"
                        ),
                    )
                )
                continue
            try:
                item = item.model_copy(update={"shapes": made_shapes(item.made, at)})
            except ValueError as error:
                waiting.append((item, str(error)))
                continue
        done.append(item)
    return tuple(done), tuple(waiting)


def placed_items(job: Job) -> tuple[Item, ...]:
    """All items with their shapes there, but for those that wait for points."""
    return job.items if all(item.made is None for item in job.items) else _placing(job)[0]


def waiting_items(job: Job) -> tuple[tuple[Item, str], ...]:
    """Items whose points do not give them yet, and scans that are not placed, each with why."""
    scans = tuple((item, "is a scan that is not placed yet") for item in job.items if not item.placed)
    return scans if all(item.made is None for item in job.items) else scans + _placing(job)[1]


def point_weights(recipe: Recipe, points: Array, place: Array) -> Array:
    """How far each point (n, 3) carries the surface at ``place`` (3,) with it: weights (n, 3), one column a
    direction, each adding to one.

    Along a chain the two ends of the nearest piece share it; a box's faces go with their corner; else the
    smallest weights that reproduce the place within the points' plane (those of a least-squares plane).
    """
    n = len(points)
    if isinstance(recipe, BoxFrom):
        t = np.clip((place - points[0]) / (points[1] - points[0]), -0.2, 1.2)
        return np.vstack([1 - t, t])
    if isinstance(recipe, (RailFrom, BarFrom, ShaftFrom, TunnelFrom, OutlineFrom)) and n > 1:
        best, weights = np.inf, np.zeros(n)
        for i in range(n - 1):
            along = points[i + 1] - points[i]
            t = float(np.clip((place - points[i]) @ along / (along @ along), 0.0, 1.0))
            away = float(np.linalg.norm(points[i] + t * along - place))
            if away < best:
                best, weights = away, np.zeros(n)
                weights[i], weights[i + 1] = 1 - t, t
        return np.repeat(weights[:, None], 3, axis=1)
    if n == 1:
        return np.ones((1, 3))
    plane = np.linalg.svd(points - points.mean(0))[2][2]
    within = (np.eye(3) - np.outer(plane, plane)) @ (points.T - place[:, None])
    rows = np.vstack([np.full((1, n), 1000.0), within])
    share = np.linalg.lstsq(rows, np.array([1000.0, 0.0, 0.0, 0.0]), rcond=1e-9)[0]
    return np.asarray(np.repeat(share[:, None], 3, axis=1))


def surface_row(item: Item, net: Network, place: Array, way: Array) -> Array:
    """Change of a gap along ``way`` (3,) with all point coordinates (3 n,), where the item's surface is
    nearest at ``place``."""
    row = np.zeros(3 * len(net.points))
    if item.made is not None:
        numbers = [net.number(key) for key in item.made.points]
        weights = point_weights(item.made, np.array([net.points[i].at for i in numbers]), place)
        for i, weight in zip(numbers, weights, strict=True):
            row[3 * i : 3 * i + 3] -= weight * way
    return row


def surface_doubt(item: Item, net: Network, place: Array, way: Array) -> float:
    """Plus-or-minus mm of an item's surface at a place, along ``way``: from its points and its sizes, or
    its method's."""
    if item.made is None:
        return item.give_or_take
    row = surface_row(item, net, place, way)
    variance = max(float(row @ net.covariance @ row), 0.0)
    return math.hypot(COVER * math.sqrt(variance), item.made.size_plus_minus_mm)
