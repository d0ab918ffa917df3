"""Flat plates: an outline round a hole pattern with an edge distance. (u, v) mm in the plate's plane;
shapely does the geometry."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.calc import Q, calculation, places
from nimble_cradle.geometry.pose import Array

if TYPE_CHECKING:
    from shapely.geometry import Polygon


@dataclass(frozen=True, eq=False)
class Plate:
    """A plate: outline (n, 2) closed by itself, holes (m, 2) with diameters (m,), area mm2."""

    outline: Array
    holes: Array
    diameters: Array
    area: float


def plate_round(
    holes: ArrayLike,
    hole_mm: ArrayLike,
    edge: float,
    landing: ArrayLike = (),
    cut: tuple[float, float, float] | None = None,
) -> Plate:
    """The smallest rounded outline that keeps ``edge`` mm from every hole's centre to the edge and carries a
    landing; hole_mm: of all holes, or of each (n,). landing: points (n, 2) round what is welded on, none for
    none. cut: a straight line that it ends at, by the way (u, v) out of it and its distance from nought.
    Raises ValueError for no holes, holes that run into each other, an edge distance inside the hole, or a cut
    through a hole or what is welded on.
    """
    from shapely.geometry import MultiPoint, Point, Polygon
    from shapely.ops import unary_union

    p = np.asarray(holes, dtype=float).reshape(-1, 2)
    if len(p) == 0:
        raise ValueError("a plate needs holes")
    wide = np.broadcast_to(np.asarray(hole_mm, dtype=float), len(p))
    most = float(wide.max())
    if edge <= most / 2:
        raise ValueError(f"an edge distance of {edge:g} mm does not even leave a {most:g} mm hole whole")
    apart = np.linalg.norm(p[:, None] - p[None], axis=2) + np.eye(len(p)) * 1e9
    into = apart - (wide[:, None] + wide[None]) / 2
    if float(into.min()) <= 0:
        raise ValueError(f"two holes stand {apart.flat[into.argmin()]:.1f} mm apart and run into each other")
    rounds = [Point(*q).buffer(edge, quad_segs=32) for q in p]
    land = np.asarray(landing, dtype=float).reshape(-1, 2)
    if len(land) > 2:
        hull = MultiPoint(land).convex_hull
        assert isinstance(hull, Polygon)
        rounds.append(hull)
    shape = unary_union(rounds).convex_hull
    assert isinstance(shape, Polygon)
    if cut is not None:
        shape = _cut_off(shape, p, most, land, cut)
    outline = np.asarray(shape.exterior.coords)[:-1]
    area = float(shape.area - np.pi / 4 * (wide**2).sum())
    return Plate(outline, p, wide.copy(), area)


def _cut_off(
    shape: Polygon, holes: Array, hole_mm: float, land: Array, cut: tuple[float, float, float]
) -> Polygon:
    """What of a convex plate lies before a line."""
    from shapely.geometry import Polygon

    way, far = np.array(cut[:2]), cut[2]
    if float((holes @ way).max()) + hole_mm / 2 >= far:
        raise ValueError("the side that is cut off runs through a hole")
    if len(land) > 2 and float((land @ way).max()) > far:
        raise ValueError("the side that is cut off runs through the weld of the arm or the eye")
    side, big = np.array([-way[1], way[0]]), 1e4
    corners = [far * way + a * side + b * way for a, b in ((-big, 0), (big, 0), (big, -big), (-big, -big))]
    left = shape.intersection(Polygon(corners))
    assert isinstance(left, Polygon)
    return left


def _worked_plate(holes: str, hole_mm: float, edge: float) -> tuple[float, float, float]:
    plate = plate_round(places(holes), hole_mm, edge)
    size = plate.outline.max(0) - plate.outline.min(0)
    return float(size[0]), float(size[1]), plate.area


PLATE_SIZE = calculation(
    "plate-size",
    "Plate round a hole pattern",
    inputs=(
        Q("holes", "mm", "places of the holes: u to the right, v up, as one faces the plate", many=True),
        Q("hole_mm", "mm", "hole diameter", above=0),
        Q("edge", "mm", "hole centre to edge", above=0),
    ),
    outputs=(Q("width", "mm", "width"), Q("height", "mm", "height"), Q("area", "mm2", "area less the holes")),
    formula="convex hull of rounds of the edge distance about every hole",
    source="plane geometry (shapely)",
    leaves_out="kerf",
)(_worked_plate)
