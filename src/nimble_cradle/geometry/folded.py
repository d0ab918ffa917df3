"""Folded sheet: faces joined by bends as a tree; its flat pattern, and its solids as folded.

A face is a polygon in its own x, y as one faces it, anticlockwise. A bend stands on one of its edges: the
face ends at the bend's tangent line there, and the lip's own face begins beyond the bend, with its origin at
the far end of that line, x back along it and y away from it. Sizes are outside sizes, as a rule measures
them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Polygon

from nimble_cradle.geometry.bend import bend_allowance, setback
from nimble_cradle.geometry.outlines import convex_outlines
from nimble_cradle.geometry.pose import Array, Pose, crosses
from nimble_cradle.geometry.solid_makers import hull, pushed
from nimble_cradle.geometry.solids import ConvexPart, ShapeError

SECTORS = 6
"""A bend is drawn in so many flat slices."""
BEYOND = 4.0
"""What a bend takes off its face goes on past a corner by so many setbacks: corners are not all square."""


@dataclass(frozen=True)
class Bend:
    """A lip on an edge of a face. key: its own; on: the face's (empty: the sheet's); edge: from which corner
    of it, in order; long: outside, mm; turned: degrees; up: towards who faces the sheet; first, last: how far
    from the edge's two ends it stays."""

    key: str
    on: str
    edge: int
    long: float
    turned: float
    up: bool
    first: float = 0.0
    last: float = 0.0


@dataclass(frozen=True, eq=False)
class Face:
    """A face of the folded sheet. polygon: its flat part, own x, y. flat: (3, 3) from there to the flat
    pattern's plane. pose: from there, its mid-plane at z = 0, to the frame of the sheet's own face. bend: the
    one that it hangs on, of which length is what the tangent line measures."""

    key: str
    polygon: Polygon
    flat: Array
    pose: Pose
    bend: Bend | None
    length: float


@dataclass(frozen=True, eq=False)
class Folded:
    """A folded sheet, mm. faces: the sheet's own first."""

    faces: tuple[Face, ...]
    thick: float
    radius: float

    @cached_property
    def pattern(self) -> Polygon:
        """The flat pattern. Raises ShapeError where it is not one piece, or lies over itself."""
        rows = self._laid
        whole = shapely.union_all([row.buffer(1e-6, join_style="mitre") for row in rows])
        whole = whole.buffer(-1e-6, join_style="mitre")
        if whole.geom_type != "Polygon":
            raise ShapeError("Flat it is not one piece: a corner comes off between two lips.")
        if sum(row.area for row in rows) - whole.area > 1.0:
            raise ShapeError("Flat it lies over itself: two lips want the same sheet.")
        return whole

    @cached_property
    def _laid(self) -> list[Polygon]:
        out = []
        for face in self.faces:
            out.append(_laid(face.polygon, face.flat))
            if face.bend is not None:
                long = bend_allowance(self.radius, self.thick, face.bend.turned)
                strip = Polygon([(0, -long), (face.length, -long), (face.length, 0), (0, 0)])
                out.append(_laid(strip, face.flat))
        return out

    @property
    def folds(self) -> tuple[tuple[str, Array], ...]:
        """Where it is bent, along the middle of each bend in the flat pattern: key and both ends (2, 2)."""
        out = []
        for face in self.faces:
            if face.bend is not None:
                mid = -bend_allowance(self.radius, self.thick, face.bend.turned) / 2
                ends = np.array([[0.0, mid, 1.0], [face.length, mid, 1.0]])
                out.append((face.key, (ends @ face.flat.T)[:, :2]))
        return tuple(out)

    @cached_property
    def solids(self) -> tuple[tuple[str, tuple[ConvexPart, ...]], ...]:
        """Convex solids of every face with its bend, in the frame of the sheet's own face (its middle at
        z = 0, z towards who faces it)."""
        out = []
        for face in self.faces:
            parts = [
                pushed(
                    face.pose.points(np.column_stack([ring, np.full(len(ring), -self.thick / 2)])),
                    self.thick * face.pose.rotation[:, 2],
                )
                for ring in convex_outlines(np.asarray(face.polygon.exterior.coords)[:-1])
            ]
            if face.bend is not None:
                parts += self._bend(face, face.bend)
            out.append((face.key, tuple(parts)))
        return tuple(out)

    def _bend(self, face: Face, bend: Bend) -> list[ConvexPart]:
        """The bend's sector between the face that it stands on and its lip, sliced. Own frame of the lip: the
        bend's middle is at (x, 0, s (R + t/2))."""
        s = 1.0 if bend.up else -1.0
        rho = self.radius + self.thick / 2
        angles = np.linspace(-math.radians(bend.turned), 0.0, SECTORS + 1)
        out = []
        for a, b in zip(angles, angles[1:], strict=False):
            points = [
                (x, r * math.sin(w), s * (rho - r * math.cos(w)))
                for x in (0.0, face.length)
                for w in (a, b)
                for r in (self.radius, self.radius + self.thick)
            ]
            out.append(hull(face.pose.points(np.array(points))))
        return out


def folded(outline: Sequence[Sequence[float]], bends: Sequence[Bend], thick: float, radius: float) -> Folded:
    """A sheet of an outside outline (n, 2), anticlockwise or not, with its lips; a lip may stand on the outer
    edge (2) or an end (1, 3) of another that comes before it. Raises ShapeError for what cannot be folded."""
    ring = np.asarray(outline, dtype=float)
    if _area(ring) < 0:
        ring = ring[::-1]
        bends = [_turned_round(bend, len(ring)) if not bend.on else bend for bend in bends]
    if not Polygon(ring).is_valid or abs(_area(ring)) < 1.0:
        raise ShapeError("The outline crosses itself or holds no area.")
    faces: dict[str, Face] = {}

    def put(key: str, ring: Array, flat: Array, pose: Pose, bend: Bend | None, length: float) -> None:
        mine = [b for b in bends if b.on == key and b.key != key]
        polygon, lines = _cut(ring, mine, thick, radius, 0 if bend is not None else None)
        faces[key] = Face(key, polygon, flat, pose, bend, length)
        for b, (p, q) in zip(mine, lines, strict=True):
            if b.key in faces:
                raise ShapeError(f"Two lips are called “{b.key}”.")
            back = setback(radius, thick, b.turned)
            if b.long <= back + 0.5:
                raise ShapeError(
                    f"A lip of {b.long:g} mm is shorter than its bend takes ({back:.1f} mm of it)."
                )
            long, high = float(np.linalg.norm(p - q)), b.long - back
            child = np.array([[0.0, 0.0], [long, 0.0], [long, high], [0.0, high]])
            put(b.key, child, *_beyond(b, p, q, flat, pose, thick, radius), b, long)

    put("", ring, np.eye(3), Pose.still(), None, 0.0)
    lost = [b.key for b in bends if b.key not in faces]
    if lost:
        raise ShapeError(f"The lip “{lost[0]}” stands on nothing.")
    return Folded(tuple(faces.values()), thick, radius)


def _turned_round(bend: Bend, corners: int) -> Bend:
    """The same lip on an outline that is gone round the other way."""
    edge = (corners - 2 - bend.edge) % corners
    return Bend(bend.key, bend.on, edge, bend.long, bend.turned, bend.up, bend.last, bend.first)


def _beyond(
    bend: Bend, p: Array, q: Array, flat: Array, pose: Pose, thick: float, radius: float
) -> tuple[Array, Pose]:
    """Frames of a lip in the flat pattern and as folded; p, q: its tangent line on the face it stands on,
    with that to the left."""
    x = (p - q) / np.linalg.norm(p - q)
    out = np.array([-x[1], x[0]])
    allowance = bend_allowance(radius, thick, bend.turned)
    lay = np.eye(3)
    lay[:2, 0], lay[:2, 1], lay[:2, 2] = x, out, q + allowance * out
    turn, rho, s = math.radians(bend.turned), radius + thick / 2, 1.0 if bend.up else -1.0
    y3 = np.array([*(out * math.cos(turn)), s * math.sin(turn)])
    x3 = np.array([*x, 0.0])
    origin = np.array([*(q + rho * math.sin(turn) * out), s * rho * (1 - math.cos(turn))])
    return flat @ lay, pose @ Pose(np.column_stack([x3, y3, crosses(x3, y3)]), origin)


def _cut(
    ring: Array, bends: Sequence[Bend], thick: float, radius: float, held: int | None
) -> tuple[Polygon, list[tuple[Array, Array]]]:
    """A face less what its bends take of it, and each bend's tangent line. held: the edge that it hangs
    on."""
    count = len(ring)
    backs = {b.edge % count: setback(radius, thick, b.turned) for b in bends}
    if len(backs) < len(bends):
        raise ShapeError("Two lips stand on one edge: make it two edges, with a corner between them.")
    if held is not None and held in backs:
        raise ShapeError("A lip cannot stand where another one hangs on its own bend.")
    face: Any = Polygon(ring)
    lines = []
    for b in bends:
        k = b.edge % count
        a, c = ring[k], ring[(k + 1) % count]
        long = float(np.linalg.norm(c - a))
        d = (c - a) / max(long, 1e-9)
        n = np.array([-d[1], d[0]])
        back = backs[k]
        start = b.first or _corner(ring, k, back, backs.get((k - 1) % count, 0.0))
        end = long - (
            b.last or _corner(ring[::-1], (count - 2 - k) % count, back, backs.get((k + 1) % count, 0.0))
        )
        if end - start < 1.0:
            raise ShapeError("A lip has no length left between its ends.")
        lines.append((a + start * d + back * n, a + end * d + back * n))
        low = start - (thick if b.first else BEYOND * back)
        high = end + (thick if b.last else BEYOND * back)
        strip = [
            (start, back),
            (low, back),
            (low, -BEYOND * back),
            (high, -BEYOND * back),
            (high, back),
            (end, back),
        ]
        past = back + thick / 2
        notches = [
            [(x, past), (x, -1.0), (x + thick, -1.0), (x + thick, past)]
            for x, wanted in ((low, b.first), (end, b.last))
            if wanted
        ]
        for shape in (strip, *notches):
            face = face.difference(Polygon([tuple(a + x * d + y * n) for x, y in shape]))
    if face.geom_type != "Polygon" or face.area < 1.0:
        raise ShapeError("A corner of it comes off between two lips, or nothing is left of a face.")
    return face, lines


def _corner(ring: Array, k: int, back: float, other: float) -> float:
    """How far along edge ``k`` from its first corner its tangent line meets that of the edge before, whose
    own is ``other`` in from it; a ring gone round either way."""
    a, before, after = ring[k], ring[k - 1], ring[(k + 1) % len(ring)]
    u, v = after - a, before - a
    cos = float(u @ v / (np.linalg.norm(u) * np.linalg.norm(v)))
    sin = abs(float(u[0] * v[1] - u[1] * v[0]) / float(np.linalg.norm(u) * np.linalg.norm(v)))
    way = 1.0 if (_area(ring) > 0) == (u[0] * v[1] - u[1] * v[0] > 0) else -1.0
    if sin < 0.05:
        return 0.0
    return max(0.0, (other + back * cos) / (way * sin)) if way > 0 else 0.0


def _area(ring: Array) -> float:
    x, y = ring.T
    return float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum() / 2)


def _laid(polygon: Any, matrix: Array) -> Polygon:
    return Polygon([tuple((matrix @ (x, y, 1.0))[:2]) for x, y in np.asarray(polygon.exterior.coords)[:-1]])
