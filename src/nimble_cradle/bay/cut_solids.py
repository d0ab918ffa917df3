"""What an item or a piece is as solids: its shapes, less what is cut off it, where it was moved to."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from nimble_cradle.geometry.clip import clipped
from nimble_cradle.geometry.direction import WAY_VECTORS, Way
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ShapeError, SolidPart, placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Cut, Item
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.sides import Side
from nimble_cradle.survey.shapes import Meshes, solid, used_meshes

ALONG = 1e-3
"""A side whose way lies so near to a line has none of its own (sine)."""
_SIDES: dict[Side, Way] = {
    "front": "forward",
    "back": "back",
    "left": "left",
    "right": "right",
    "top": "up",
    "bottom": "down",
}
"""Which way each side of an item faces."""


def solid_of(owner: Item | Piece, meshes: Meshes, where: str) -> tuple[SolidPart, ...]:
    """Solid parts of an item or piece in its own frame, an item as cut and moved. Raises JobError that
    names it and its place."""
    try:
        parts = solid(owner.shapes, used_meshes(owner.shapes, meshes))
    except ShapeError as error:
        raise JobError(f"{owner.name}: {error}", f"{where}/{owner.id}/shapes") from None
    if isinstance(owner, Piece) or not (owner.cuts or any(owner.moved)):
        return parts
    return _as_cut(owner, parts, where)


@lru_cache(maxsize=256)
def _as_cut(item: Item, parts: tuple[SolidPart, ...], where: str) -> tuple[SolidPart, ...]:
    """The parts of an item with what was cut off it gone, and moved."""
    points = np.vstack([part.triangles[0] for part in parts])
    for cut in item.cuts:
        normal = np.array(WAY_VECTORS[_SIDES[cut.side]])
        if cut.between is not None:
            notched = _notched(parts, cut, normal)
            if notched is None:
                raise JobError(
                    f"{item.name}: a cut goes in from one of its sides, between two places along it.",
                    f"{where}/{item.id}/cuts",
                )
            parts = notched
        else:
            offset = float((points @ normal).max()) - cut.depth_mm
            way = -1.0 if cut.keeps else 1.0
            parts = tuple(
                left for part in parts if (left := clipped(part, way * normal, way * offset)) is not None
            )
        if not parts:
            what = "all but that" if cut.keeps else f"{cut.depth_mm:g} mm off its {cut.side}"
            raise JobError(
                f"{item.name}: {what} leaves nothing of it; mark it as taken out instead.",
                f"{where}/{item.id}/cuts",
            )
    return (
        tuple(placed_part(part, Pose(np.eye(3), np.asarray(item.moved))) for part in parts)
        if any(item.moved)
        else parts
    )


def _notched(parts: tuple[SolidPart, ...], cut: Cut, side: Array) -> tuple[SolidPart, ...] | None:
    """Parts less what lies within the cut's depth of their side, between its two places: each in up to three,
    before, beyond and under the notch; or only what lies in it. None where its places are one, or its side
    looks along the line between them."""
    assert cut.between is not None
    a, b = (np.asarray(p, dtype=float) for p in cut.between)
    long = float(np.linalg.norm(b - a))
    way = (b - a) / max(long, 1e-9)
    normal = side - (side @ way) * way
    if long < 1e-6 or float(np.linalg.norm(normal)) < ALONG:
        return None
    normal = normal / np.linalg.norm(normal)
    offset = max(float((part.triangles[0] @ normal).max()) for part in parts) - cut.depth_mm
    out: list[SolidPart] = []
    for part in parts:
        before, from_a = clipped(part, way, float(way @ a)), clipped(part, -way, -float(way @ a))
        beyond = None if from_a is None else clipped(from_a, -way, -float(way @ b))
        within = None if from_a is None else clipped(from_a, way, float(way @ b))
        if cut.keeps:
            kept = None if within is None else clipped(within, -normal, -offset)
            out += [] if kept is None else [kept]
            continue
        under = None if within is None else clipped(within, normal, offset)
        out += [left for left in (before, beyond, under) if left is not None]
    return tuple(out)
