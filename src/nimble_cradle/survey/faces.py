"""The flat faces of a shape of given sizes, found by a line of sight, and pulled along their normals: the
shape's own sizes follow."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from pydantic import ValidationError

from nimble_cradle.geometry.pose import Array, crosses, frame, rotation_xyz, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.shapes import Bar, Box, Prism, Shape, Slab

LEAST = 0.5
"""A shape is pulled no thinner than so many mm: less is taken for a slip of the hand."""
_NEARLY_PARALLEL = 0.1
"""Sine below which two sides of an outline do not meet at a place that is of use."""
_ROUND = 24
"""Corners that the end of a bar is drawn with."""
_EDGES = ((1, 2), (2, 0), (0, 1))
"""The two axes across each axis of a box, right-handed."""


@dataclass(frozen=True)
class Face:
    """A face of a shape. key: which one of its shape; ring: (n, 3) its corners in order; normal: (3,)
    outward. Both in the frame of the shape's owner, mm."""

    key: int
    ring: Array
    normal: Array

    def met(self, eye: Array, way: Array) -> float | None:
        """How far along a line of sight (start, unit direction) it is met from outside, mm; None where it is
        not."""
        against = float(way @ self.normal)
        if against > -1e-6:
            return None
        middle = self.ring.mean(0)
        far = float((middle - eye) @ self.normal) / against
        axes = frame(self.normal, self.ring[1] - self.ring[0])[:, :2]
        if far <= 0 or not _inside((eye + far * way - middle) @ axes, (self.ring - middle) @ axes):
            return None
        return far


def faces_of(shape: Shape) -> list[Face]:
    """Its flat faces; none of a mesh or a skin, the two ends of a bar."""
    make = _FACES.get(type(shape))
    return [] if make is None else make(shape)


def pulled(shape: Shape, key: int, mm: float) -> Shape:
    """The shape with one face moved outward by mm (inward where negative), every other face in its plane.
    Raises JobError where it would be thinner than ``LEAST`` or turn inside out."""
    changed = _PULLED[type(shape)](shape, key, mm)
    try:
        return type(shape).model_validate(shape.model_dump() | changed)
    except ValidationError:
        raise _too_far() from None


def seen(shapes: Sequence[Shape], eye: Array, way: Array) -> tuple[int, Face] | None:
    """Which shape and which face of it is met first by a line of sight, or None."""
    hits = []
    for k, shape in enumerate(shapes):
        for face in faces_of(shape):
            far = face.met(eye, way)
            if far is not None:
                hits.append((far, k, face))
    if not hits:
        return None
    _, k, face = min(hits, key=lambda hit: hit[0])
    return k, face


def _too_far() -> JobError:
    return JobError(
        f"The face goes no further: the part would be thinner than {LEAST} mm or turn inside out."
    )


def _vec(p: Array) -> tuple[float, ...]:
    return tuple(round(float(c), 4) for c in p)


def _inside(point: Array, ring: Array) -> bool:
    """Whether a point is in an outline, both (…, 2): an odd number of sides lies to its right."""
    a, b = ring, np.roll(ring, -1, axis=0)
    spans = (a[:, 1] > point[1]) != (b[:, 1] > point[1])
    rise = np.where(spans, b[:, 1] - a[:, 1], 1.0)
    return bool(np.sum(spans & (point[0] < a[:, 0] + (point[1] - a[:, 1]) / rise * (b[:, 0] - a[:, 0]))) % 2)


def _box_faces(box: Box) -> list[Face]:
    """Faces 2k and 2k + 1 look along and against axis k."""
    turn, half = rotation_xyz(*box.turn), np.array(box.size) / 2
    found: list[Face] = []
    for k, (i, j) in enumerate(_EDGES):
        for sign in (1.0, -1.0):
            corners = np.zeros((4, 3))
            corners[:, k] = sign * half[k]
            corners[:, i] = half[i] * np.array([-1, 1, 1, -1])
            corners[:, j] = half[j] * np.array([-1, -1, 1, 1])
            found.append(Face(len(found), np.array(box.centre) + corners @ turn.T, sign * turn[:, k]))
    return found


def _pull_box(box: Box, key: int, mm: float) -> dict[str, Any]:
    k, normal = key // 2, _box_faces(box)[key].normal
    size = [*box.size]
    size[k] += mm
    if size[k] < LEAST:
        raise _too_far()
    return {"size": _vec(np.array(size)), "centre": _vec(np.array(box.centre) + normal * mm / 2)}


def _bar_faces(bar: Bar) -> list[Face]:
    """0 at its start, 1 at its end."""
    a, b = np.array(bar.start), np.array(bar.end)
    along = unit(b - a)
    axes = frame(along, (0, 0, 1))[:, :2]
    turns = np.linspace(0, 2 * np.pi, _ROUND, endpoint=False)
    disc = bar.diameter / 2 * np.column_stack([np.cos(turns), np.sin(turns)]) @ axes.T
    return [Face(0, a + disc, -along), Face(1, b + disc, along)]


def _pull_bar(bar: Bar, key: int, mm: float) -> dict[str, Any]:
    if float(np.linalg.norm(np.subtract(bar.end, bar.start))) + mm < LEAST:
        raise _too_far()
    name = ("start", "end")[key]
    return {name: _vec(np.array(getattr(bar, name)) + mm * _bar_faces(bar)[key].normal)}


def _drum(outline: Array, near: Array, along: Array) -> list[Face]:
    """Faces of an outline (n, 3) pushed by a vector: 0 the near one, 1 the far one, 2 + k from corner k to
    the next. outline: (n, 2) the same in axes right-handed about ``along``."""
    n = unit(along)
    sign = 1.0 if _area(outline) > 0 else -1.0
    found = [Face(0, near, -n), Face(1, near + along, n)]
    for k in range(len(near)):
        a, b = near[k], near[(k + 1) % len(near)]
        found.append(Face(2 + k, np.array([a, b, b + along, a + along]), sign * unit(crosses(b - a, n))))
    return found


def _area(ring: Array) -> float:
    """Of an outline (n, 2), positive where it goes round to the left, mm²."""
    after = np.roll(ring, -1, axis=0)
    return float(np.sum(ring[:, 0] * after[:, 1] - after[:, 0] * ring[:, 1]) / 2)


def _side_moved(ring: Array, k: int, mm: float) -> Array:
    """An outline (n, 2) with the side from corner k moved outward, its neighbours in their own lines. Raises
    JobError where a side would be gone."""
    n = len(ring)
    i, j = k, (k + 1) % n
    side = unit(ring[j] - ring[i])
    out = np.array([side[1], -side[0]]) * (1.0 if _area(ring) > 0 else -1.0)
    moved = ring.copy()
    for corner, other in ((i, (i - 1) % n), (j, (j + 1) % n)):
        line = unit(ring[corner] - ring[other])
        rise = float(line @ out)
        moved[corner] = ring[corner] + (mm / rise * line if abs(rise) > _NEARLY_PARALLEL else mm * out)
    before, after = (np.roll(r, -1, axis=0) - r for r in (ring, moved))
    lengths = np.linalg.norm(after, axis=1)
    if np.any(np.einsum("ij,ij->i", before, after) <= 0) or lengths.min() < LEAST:
        raise _too_far()
    return moved


def _prism_axes(prism: Prism) -> tuple[Array, Array, Array]:
    """Axes (3, 3), outline (n, 2), corners of its near face (n, 3)."""
    axes = frame(prism.along, prism.up)
    ring = np.array(prism.outline)
    return axes, ring, np.array(prism.origin) + ring @ axes[:, :2].T


def _prism_faces(prism: Prism) -> list[Face]:
    axes, ring, near = _prism_axes(prism)
    return _drum(ring, near, prism.length * axes[:, 2])


def _pull_prism(prism: Prism, key: int, mm: float) -> dict[str, Any]:
    axes, ring, _ = _prism_axes(prism)
    if key >= 2:
        return {"outline": tuple(_vec(p) for p in _side_moved(ring, key - 2, mm))}
    if prism.length + mm < LEAST:
        raise _too_far()
    changed: dict[str, Any] = {"length": round(prism.length + mm, 4)}
    if key == 0:
        changed["origin"] = _vec(np.array(prism.origin) - mm * axes[:, 2])
    return changed


def _slab_axes(slab: Slab) -> tuple[Array, Array, Array]:
    """Axes (3, 3) with its plane's normal last, outline (n, 2) and heights (n,) of its corners about their
    middle."""
    p = np.array(slab.corners)
    about = p - p.mean(0)
    axes = np.linalg.svd(about)[2].T
    axes[:, 2] = crosses(axes[:, 0], axes[:, 1])
    flat = about @ axes
    return axes, flat[:, :2], flat[:, 2]


def _slab_faces(slab: Slab) -> list[Face]:
    axes, ring, _ = _slab_axes(slab)
    middle = np.array(slab.corners).mean(0)
    along = slab.thickness * axes[:, 2]
    return _drum(ring, middle + ring @ axes[:, :2].T - along / 2, along)


def _pull_slab(slab: Slab, key: int, mm: float) -> dict[str, Any]:
    axes, ring, heights = _slab_axes(slab)
    p = np.array(slab.corners)
    if key >= 2:
        moved = np.column_stack([_side_moved(ring, key - 2, mm), heights])
        return {"corners": tuple(_vec(c) for c in p.mean(0) + moved @ axes.T)}
    if slab.thickness + mm < LEAST:
        raise _too_far()
    shift = (-1, 1)[key] * mm / 2 * axes[:, 2]
    return {"thickness": round(slab.thickness + mm, 4), "corners": tuple(_vec(c) for c in p + shift)}


_FACES: dict[type, Callable[[Any], list[Face]]] = {
    Box: _box_faces,
    Bar: _bar_faces,
    Prism: _prism_faces,
    Slab: _slab_faces,
}
_PULLED: dict[type, Callable[[Any, int, float], dict[str, Any]]] = {
    Box: _pull_box,
    Bar: _pull_bar,
    Prism: _pull_prism,
    Slab: _pull_slab,
}
