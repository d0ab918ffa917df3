"""Pieces that look like what they are, from the same few taped sizes. Only drawn: gaps, masses and
sections never read it, and no drawn point lies outside the taped solid.

Coordinates are the shape's own: x, y, z from a box's centre; along a bar's axis from its middle.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.geometry.pose import Array, Pose, crosses, frame, rotation_xyz
from nimble_cradle.geometry.solid_makers import box
from nimble_cradle.geometry.solids import MeshPart, SolidPart
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.shapes import Bar, Box

ROUND = 32
"""Sides of what is turned: a multiple of four, so that it touches the box round it."""
Parts = list[SolidPart]


def turned(profile: Sequence[tuple[float, float]]) -> MeshPart:
    """A body turned about x from (x, radius) in order along it; closed at both ends. Radii above 0."""
    x, r = np.array(profile, dtype=float).T
    angle = np.arange(ROUND) * 2 * np.pi / ROUND
    ring = np.column_stack([np.cos(angle), np.sin(angle)])
    points = [np.column_stack([np.full(ROUND, a), b * ring]) for a, b in zip(x, r, strict=True)]
    n, i = len(x), np.arange(ROUND)
    j = (i + 1) % ROUND
    faces = []
    for k in range(n - 1):
        a, b = k * ROUND, (k + 1) * ROUND
        faces += [np.column_stack([a + i, b + j, b + i]), np.column_stack([a + i, a + j, b + j])]
    ends = np.array([[x[0], 0.0, 0.0], [x[-1], 0.0, 0.0]])
    first, last = n * ROUND, n * ROUND + 1
    faces.append(np.column_stack([np.full(ROUND, first), j, i]))
    faces.append(np.column_stack([np.full(ROUND, last), (n - 1) * ROUND + i, (n - 1) * ROUND + j]))
    return MeshPart(np.vstack([*points, ends]), np.vstack(faces).astype(np.int64))


def lofted(rings: ArrayLike) -> MeshPart:
    """A convex body through rings of corners (r, n, 3), its first and last ring filled. Corners of one place
    count as one."""
    p = np.asarray(rings, dtype=float)
    r, n = p.shape[:2]
    points, same = np.unique(p.reshape(-1, 3).round(6), axis=0, return_inverse=True)
    number = same.reshape(r, n)
    here, there = number[:-1], number[1:]
    right_here, right_there = np.roll(here, -1, axis=1), np.roll(there, -1, axis=1)
    faces = [np.stack([here, right_here, there], -1), np.stack([right_here, right_there, there], -1)]
    faces += [np.stack([np.full(n - 2, e[0]), e[1:-1], e[2:]], -1) for e in number[[0, -1]]]
    f = np.vstack([face.reshape(-1, 3) for face in faces])
    v = points[f]
    normal = crosses(v[:, 1] - v[:, 0], v[:, 2] - v[:, 0])
    inward = np.einsum("ij,ij->i", normal, v.mean(1) - points.mean(0)) < 0
    f[inward] = f[inward][:, ::-1]
    return MeshPart(points, f[np.linalg.norm(normal, axis=1) > 1e-9].astype(np.int64))


def chamfered(low: ArrayLike, high: ArrayLike, by: float) -> SolidPart:
    """A box between two corners with its edges taken off."""
    a, b = np.array(low, dtype=float), np.array(high, dtype=float)
    c = min(by, 0.3 * float((b - a).min()))
    middle, half = (a + b) / 2, (b - a) / 2
    x, y = half[:2]
    wide = [
        (x, y - c),
        (x - c, y),
        (c - x, y),
        (-x, y - c),
        (-x, c - y),
        (c - x, -y),
        (x - c, -y),
        (x, c - y),
    ]
    narrow = [(np.sign(u) * (x - c), np.sign(v) * (y - c)) for u, v in wide]
    heights = (-half[2], c - half[2], half[2] - c, half[2])
    rings = [
        [(u, v, at) for u, v in ring] for ring, at in zip((narrow, wide, wide, narrow), heights, strict=True)
    ]
    return lofted(middle + np.array(rings))


def _between(low: Sequence[float], high: Sequence[float]) -> SolidPart:
    a, b = np.array(low, dtype=float), np.array(high, dtype=float)
    return box((a + b) / 2, b - a)


def _block(half: Array) -> Parts:
    """Deck and sump flange, end plates, a waist between them with a rib at each bulkhead."""
    x, y, z = half
    waist, deck, foot, end = min(22.0, 0.2 * y), min(12.0, 0.2 * z), min(14.0, 0.2 * z), min(14.0, 0.1 * x)
    parts = [
        _between((-x, -y, z - deck), (x, y, z)),
        _between((-x, -y, -z), (x, y, -z + foot)),
        _between((-x, -y, -z), (-x + end, y, z)),
        _between((x - end, -y, -z), (x, y, z)),
        _between((-x + end, -y + waist, -z + foot), (x - end, y - waist, z - deck)),
    ]
    for at in np.linspace(-x, x, max(3, round(2 * x / 95)) + 1)[1:-1]:
        parts.append(_between((at - 6, -y + waist / 3, -z + foot), (at + 6, y - waist / 3, z - deck)))
    return parts


def _head(half: Array) -> Parts:
    """A casting to about its middle, a cover with round corners, its bolts and a filler."""
    x, y, z = half
    seam, rim = 0.04 * z, min(10.0, 0.08 * y)
    top = z - min(9.0, 0.1 * z)
    parts = [
        _between((-x, -y, -z), (x, y, seam)),
        chamfered((-x + rim, -y + rim, seam), (x - rim, y - rim, top), 34.0),
    ]
    for at in np.linspace(-x + 4 * rim, x - 4 * rim, 5):
        parts.append(_disc((at, 0.0, top - 2), 7.0, z - top + 2))
    parts.append(_disc((0.55 * x, 0.4 * y, top - 2), min(24.0, 0.3 * y), z - top + 2))
    return parts


def _disc(at: Sequence[float], radius: float, high: float) -> SolidPart:
    """A short round standing on a place."""
    part = turned([(0.0, radius), (high, radius)])
    up = np.column_stack([part.vertices[:, 2], part.vertices[:, 1], part.vertices[:, 0]])
    return MeshPart(up + np.array(at), part.faces[:, ::-1])


def _sump(half: Array) -> Parts:
    """A flange above, ends that slope to a smaller bottom, a plug."""
    x, y, z = half
    flange = min(9.0, 0.3 * z)
    sizes = ((x - 4, y - 8, z - flange), (0.94 * x, y - 9, -0.3 * z), (0.84 * x, y - 16, -z))
    round_ = ((-1, -1), (-1, 1), (1, 1), (1, -1))
    rings = [[(p * long, q * wide, at) for p, q in round_] for long, wide, at in sizes]
    return [_between((-x, -y, z - flange), (x, y, z)), lofted(rings)]


def _gearbox(half: Array) -> Parts:
    """Eight-sided, tapering to the rear, with ribs round it."""
    x, y, z = half

    def ring(at: float, share: float) -> list[tuple[float, float, float]]:
        a, b, c = share * y, share * z, 0.45
        return [(at, p * a, q * b) for p, q in _octagon(c)]

    parts: Parts = [lofted([ring(x - 12, 0.94), ring(-x, 0.78)])]
    parts.append(lofted([ring(x, 1.0), ring(x - 14, 1.0)]))
    for at in np.linspace(-x + 20, x - 40, max(2, round(2 * x / 90))):
        share = 0.78 + 0.2 * (at + x) / (2 * x)
        parts.append(lofted([ring(at, share), ring(at + 8, share)]))
    return parts


def _octagon(cut: float) -> list[tuple[float, float]]:
    """Corners of a square with its corners cut off, from -1 to 1."""
    c = 1 - cut
    return [(1, c), (c, 1), (-c, 1), (-1, c), (-1, -c), (-c, -1), (c, -1), (1, -c)]


def _manifold(half: Array) -> Parts:
    """A log along the outer side and four runners to the head, whichever side that is: drawn alike both
    ways."""
    x, y, z = half
    parts: Parts = [chamfered((-x, -0.45 * y, -z), (x, 0.45 * y, z), 0.6 * z)]
    wide = min(24.0, 0.16 * x)
    for at in np.linspace(-x + 1.4 * wide, x - 1.4 * wide, 4):
        parts.append(chamfered((at - wide, -y, -0.7 * z), (at + wide, y, 0.7 * z), 10.0))
    return parts


def _plain_box(half: Array) -> Parts:
    return [chamfered(-half, half, 6.0)]


def _fan(radius: float, long: float) -> Parts:
    """A hub, seven blades at an angle, a thin ring round them."""
    h = long / 2
    parts: Parts = [turned([(-h, 0.22 * radius), (h, 0.22 * radius)])]
    for k in range(7):
        turn = 2 * np.pi * k / 7
        out = np.array([0.0, np.cos(turn), np.sin(turn)])
        across = np.array([0.0, -np.sin(turn), np.cos(turn)])
        width = min(0.24 * radius, 0.45 * radius)
        points = []
        for share in (0.2, 0.965):
            for way, thick in ((-1, -1.5), (-1, 1.5), (1, 1.5), (1, -1.5)):
                points.append(share * radius * out + way * width * across + (0.7 * way * h + thick, 0, 0))
        clipped = np.array(points)
        far = np.hypot(clipped[:, 1], clipped[:, 2])
        clipped[:, 1:] *= np.minimum(1.0, 0.985 * radius / np.maximum(far, 1e-9))[:, None]
        parts.append(lofted(clipped.reshape(2, 4, 3)))
    parts.append(_ring(radius, 0.96 * radius, 0.35 * h))
    return parts


def _ring(outer: float, inner: float, half: float) -> SolidPart:
    """A ring about x, open in the middle."""
    a, b = turned([(-half, outer), (half, outer)]), turned([(-half, inner), (half, inner)])
    n = ROUND
    i, j = np.arange(n), (np.arange(n) + 1) % n
    v = np.vstack([a.vertices[: 2 * n], b.vertices[: 2 * n]])
    faces = [
        *(a.faces[(a.faces < 2 * n).all(1)], b.faces[(b.faces < 2 * n).all(1)][:, ::-1] + 2 * n),
        np.column_stack([i, i + 2 * n, j]),
        np.column_stack([j, i + 2 * n, j + 2 * n]),
        np.column_stack([i + n, j + n, i + 3 * n]),
        np.column_stack([j + n, j + 3 * n, i + 3 * n]),
    ]
    return MeshPart(v, np.vstack(faces).astype(np.int64))


def _pulley(radius: float, long: float) -> Parts:
    """Three grooves round it."""
    h, step = long / 2, long / 4
    profile = [(-h, radius)]
    for k in range(3):
        at = -h + (k + 1) * step
        profile += [(at - 0.36 * step, radius), (at, 0.84 * radius), (at + 0.36 * step, radius)]
    return [turned([*profile, (h, radius)])]


def _motor(radius: float, long: float) -> Parts:
    """A body between two lids, with fins, and a nose at each end."""
    h = long / 2
    lid, nose = 0.16 * long, 0.07 * long
    profile = [(-h, 0.4 * radius), (-h + nose, 0.4 * radius), (-h + nose, 0.82 * radius), (-h + lid, radius)]
    for at in np.linspace(-h + lid, h - lid, 6)[1:-1]:
        profile += [(at - 3, radius), (at - 3, 0.93 * radius), (at + 3, 0.93 * radius), (at + 3, radius)]
    profile += [(h - lid, radius), (h - nose, 0.82 * radius), (h - nose, 0.4 * radius), (h, 0.4 * radius)]
    return [turned(profile)]


def _bell(radius: float, long: float) -> Parts:
    """A flange at the engine and one at the gearbox, a cone between them."""
    h, flange = long / 2, min(12.0, 0.15 * long)
    return [
        turned(
            [
                (-h, radius),
                (-h + flange, radius),
                (-h + flange, 0.94 * radius),
                (h - flange, 0.86 * radius),
                (h - flange, 0.93 * radius),
                (h, 0.93 * radius),
            ]
        )
    ]


def _can(radius: float, long: float) -> Parts:
    """A filter: a round end and a seam."""
    h = long / 2
    return [
        turned(
            [(-h, 0.7 * radius), (-h + 0.1 * long, radius), (0.3 * h, radius), (0.3 * h, 0.96 * radius)]
            + [(0.36 * h, 0.96 * radius), (0.36 * h, radius), (h, radius)]
        )
    ]


def _plain_bar(radius: float, long: float) -> Parts:
    h, c = long / 2, min(1.0, 0.2 * radius, 0.2 * long)
    return [turned([(-h, radius - c), (-h + c, radius), (h - c, radius), (h, radius - c)])]


BOXES: tuple[tuple[tuple[str, ...], Callable[[Array], Parts]], ...] = (
    (("block",), _block),
    (("head",), _head),
    (("sump", "pan"), _sump),
    (("manifold", "inlet", "intake"), _manifold),
    (("gearbox", "transaxle", "transfer"), _gearbox),
)
BARS: tuple[tuple[tuple[str, ...], Callable[[float, float], Parts]], ...] = (
    (("fan",), _fan),
    (("alternator", "starter", "turbo", "pump", "motor"), _motor),
    (("filter",), _can),
    (("bell",), _bell),
    (("pulley", "damper", "flywheel"), _pulley),
)
"""Recipes by words of a piece's name; what has none is drawn as it was taped, with its edges taken off."""


WITHIN = 0.05
"""So many mm may a drawn point lie outside the taped solid, or a face of it stay untouched: less than a
line."""


def _points(parts: Parts) -> Array:
    return np.vstack([part.triangles[0] for part in parts])


def _fills_box(parts: Parts, half: Array) -> bool:
    """Whether a recipe stays in its box and touches each face: one made for other proportions may not."""
    points = _points(parts)
    return bool(np.abs(points.max(0) - half).max() <= WITHIN and np.abs(points.min(0) + half).max() <= WITHIN)


def _fills_bar(parts: Parts, radius: float, long: float) -> bool:
    """The same of a bar along x."""
    points = _points(parts)
    half = np.array([long / 2, radius, radius])
    away = np.hypot(points[:, 1], points[:, 2])
    return bool(away.max() <= radius + WITHIN) and _fills_box(parts, half)


def _of_box(shape: Box, name: str) -> Parts:
    half = np.array(shape.size, dtype=float) / 2
    make = next((make for words, make in BOXES if any(word in name for word in words)), _plain_box)
    parts = make(half)
    if not _fills_box(parts, half):
        parts = _plain_box(half)
    pose = Pose(rotation_xyz(*shape.turn), np.array(shape.centre, dtype=float))
    return [_moved(part, pose) for part in parts]


def _bar_recipe(name: str, radius: float, long: float) -> Callable[[float, float], Parts]:
    """By its name, if it has the proportions of such a thing."""
    make = next((make for words, make in BARS if any(word in name for word in words)), _plain_bar)
    if make is _fan and radius <= 1.2 * long:
        return _motor
    return _plain_bar if make is _pulley and radius <= 0.7 * long else make


def _of_bar(shape: Bar, name: str) -> Parts:
    a, b = np.array(shape.start, dtype=float), np.array(shape.end, dtype=float)
    long, radius = float(np.linalg.norm(b - a)), shape.diameter / 2
    parts = _bar_recipe(name, radius, long)(radius, long)
    if not _fills_bar(parts, radius, long):
        parts = _plain_bar(radius, long)
    axes = frame(b - a, (0.0, 0.0, 1.0))
    turn = np.column_stack([axes[:, 2], axes[:, 0], axes[:, 1]])
    return [_moved(part, Pose(turn, (a + b) / 2)) for part in parts]


def _moved(part: SolidPart, pose: Pose) -> SolidPart:
    vertices, faces = part.triangles
    return MeshPart(pose.points(vertices), faces)


@lru_cache(maxsize=512)
def dressed_piece(piece: Piece) -> Parts | None:
    """What is drawn of a piece, in the powertrain frame; None for one that holds a shape without a recipe."""
    if not all(isinstance(shape, (Box, Bar)) for shape in piece.shapes):
        return None
    name = f"{piece.id} {piece.name}".lower()
    parts: Parts = []
    for shape in piece.shapes:
        parts += _of_box(shape, name) if isinstance(shape, Box) else _of_bar(shape, name)  # type: ignore[arg-type]
    return parts
