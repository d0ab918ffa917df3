"""Where to begin a search for a seat: thousands of places judged roughly, the best few far enough apart kept.

At a fixed rotation two convex parts are apart by the most that any of their separating axes says, and that
is linear in the place: so a pair is judged at all places at once. It is exact for overlaps of polyhedra
and never too large where they are apart. Open surfaces are judged on a grid of distances.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import zip_longest
from weakref import WeakKeyDictionary

import numpy as np

from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.overlap import candidate_axes
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart, MeshPart
from nimble_cradle.motion.contacts import Obstacles
from nimble_cradle.motion.part_distance import surface_points
from nimble_cradle.motion.seat_problem import LEVER, SeatProblem

CELL = 12.0
"""Cell of the grid of distances, mm: rough judging needs no closer."""
FAR_ENOUGH = 22.0
"""Two starts are taken as different when they are this far apart, mm."""
PLACES, LEAST_PLACES = 2000, 200
"""So many places are judged roughly, shared among the rotations, and at least so many at each."""
LEAST_FREE = 6
"""So many starts are chosen among all rotations."""
CLOSER, WIDE = 40, 50.0
"""So many more are laid within so many mm of each of the best."""


@dataclass(frozen=True, eq=False)
class Start:
    """A place to begin from: its pose, its rough cost and how much it lacks at most, mm (rough)."""

    pose: Pose
    cost: float
    short: float


class OpenSurfaces:
    """Distances to open surfaces on a grid: unsigned, mm, good to about a cell."""

    def __init__(self, parts: Sequence[MeshPart], room: float = 80.0) -> None:
        from scipy.ndimage import distance_transform_edt

        points = np.vstack([_spread(part) for part in parts])
        self.low = points.min(0) - room
        shape = np.ceil((points.max(0) + room - self.low) / CELL).astype(int) + 1
        empty = np.ones(shape, dtype=bool)
        k = np.round((points - self.low) / CELL).astype(int)
        empty[k[:, 0], k[:, 1], k[:, 2]] = False
        self.grid = (distance_transform_edt(empty) * CELL).astype(np.float32)
        self.room = room

    def each(self, places: Array, points: Array) -> Array:
        """Distance (n, m) of points (m, 3) moved to each of places (n, 3); ``room`` or more outside the
        grid."""
        shape = np.array(self.grid.shape)
        at = ((points - self.low) / CELL + 0.5).astype(np.float32)
        move = (places / CELL).astype(np.float32)
        flat = np.zeros((len(places), len(points)), dtype=np.int32)
        for axis in range(3):
            k = (move[:, axis, None] + at[None, :, axis]).astype(np.int32)
            np.clip(k, 0, shape[axis] - 1, out=k)
            flat *= shape[axis]
            flat += k
        return np.asarray(self.grid.ravel().take(flat))


def _spread(part: MeshPart) -> Array:
    """Points on a mesh not farther apart than a cell."""
    c = part.vertices[part.faces]
    longest = np.sqrt(((c - np.roll(c, 1, axis=1)) ** 2).sum(2).max(1))
    steps = np.clip(np.ceil(longest / CELL), 1, 120).astype(int)
    out = [part.vertices]
    for n in np.unique(steps[steps > 1]):
        rows = c[steps == n]
        i, j = (g.ravel() for g in np.meshgrid(np.arange(n + 1), np.arange(n + 1), indexing="ij"))
        keep = i + j <= n
        a, b = i[keep] / n, j[keep] / n
        out.append(
            (
                rows[:, None, 0]
                + a[None, :, None] * (rows[:, 1] - rows[:, 0])[:, None]
                + b[None, :, None] * (rows[:, 2] - rows[:, 0])[:, None]
            ).reshape(-1, 3)
        )
    return np.vstack(out)


_SHEETS: dict[tuple[int, ...], tuple[list[MeshPart], OpenSurfaces]] = {}


def _sheets(bodies: Bodies) -> list[OpenSurfaces | None]:
    """The grid of each standing body that has open surfaces. The grids of the last call are kept and used
    again for the same parts."""
    made: list[OpenSurfaces | None] = []
    for k in range(bodies.count):
        meshes = [
            part
            for part, o in zip(bodies.parts, bodies.owner, strict=True)
            if o == k and isinstance(part, MeshPart)
        ]
        if not meshes:
            made.append(None)
            continue
        key = tuple(id(mesh) for mesh in meshes)
        if key not in _SHEETS:
            while len(_SHEETS) >= 24:
                _SHEETS.pop(next(iter(_SHEETS)), None)
            _SHEETS[key] = meshes, OpenSurfaces(meshes)
        made.append(_SHEETS[key][1])
    return made


def separating(a: ConvexPart, b: ConvexPart, rotation: Array) -> tuple[Array, Array]:
    """Directions (k, 3) and offsets (k,): ``a`` turned by ``rotation`` and moved to t is apart from ``b``
    by max(directions @ t - offsets)."""
    many = "bar" in (a.kind, b.kind) or len(a.axes[1]) * len(b.axes[1]) >= 400
    return candidate_axes(a, b, Pose(rotation, np.zeros(3)), faces_only=many)


def shortfall(problem: SeatProblem, rotation: Array, places: Array, enough: float = 60.0) -> Array:
    """(n,) rough shortfall of the worst pair, mm, never below 0, with the moving set turned by ``rotation``
    and moved to each of places (n, 3). A place that lacks more than ``enough`` is not judged further."""
    worst = np.zeros(len(places))
    for group in problem.obstacles:
        _against(problem.moving, group, rotation, places, worst, enough)
    return worst


def _against(
    moving: Bodies, group: Obstacles, rotation: Array, places: Array, worst: Array, enough: float
) -> None:
    fixed = group.bodies
    ca, ha = moving.centres @ rotation.T, np.abs(rotation @ moving.axes).sum(2)
    cb, hb = fixed.boxes(Pose.still())
    need = group.need[moving.owner[:, None], fixed.owner[None]]
    low = cb[None] - hb[None] - ca[:, None] - ha[:, None] - need[..., None]
    high = cb[None] + hb[None] - ca[:, None] + ha[:, None] + need[..., None]
    all_low, all_high = places.min(0), places.max(0)
    near = ((low < all_high) & (high > all_low)).all(2) & np.isfinite(need)
    sheets = _sheets(fixed)
    for i, j in zip(*np.nonzero(near), strict=True):
        a, b = moving.parts[i], fixed.parts[j]
        if isinstance(b, MeshPart) or isinstance(a, MeshPart):
            continue
        rows = np.nonzero(((places > low[i, j]) & (places < high[i, j])).all(1) & (worst < enough))[0]
        if len(rows):
            n, c = separating(a, b, rotation)
            apart = (places[rows] @ n.T - c).max(1)
            worst[rows] = np.maximum(worst[rows], need[i, j] - apart)
    for k, sheet in enumerate(sheets):
        if sheet is not None:
            _off_sheet(moving, group.need[moving.owner, k], sheet, rotation, places, worst, enough)


def _off_sheet(
    moving: Bodies,
    wants: Array,
    sheet: OpenSurfaces,
    rotation: Array,
    places: Array,
    worst: Array,
    enough: float,
) -> None:
    """Raise what lacks (n,) by what the moving parts lack to one sheet. wants: (parts,) mm."""
    rows = np.nonzero(worst < enough)[0]
    parts = np.nonzero(np.isfinite(wants))[0]
    if not len(rows) or not len(parts):
        return
    # a part whose middle is farther off than its corners from there, two cells and what is wanted is clear
    off = sheet.each(places[rows], moving.centres[parts] @ rotation.T)
    near = off < (moving.arms[parts] + wants[parts] + 2 * CELL)[None]
    for n in np.nonzero(near.any(0))[0].tolist():
        part, want = moving.parts[parts[n]], wants[parts[n]]
        points = _points(part) @ rotation.T
        mine = rows[near[:, n] & (worst[rows] < enough)]
        for start in range(0, len(mine), 1024):
            some = mine[start : start + 1024]
            least = sheet.each(places[some], points).min(1)
            worst[some] = np.maximum(worst[some], np.where(least < want, want - least, 0.0))


_POINTS: WeakKeyDictionary[ConvexPart | MeshPart, Array] = WeakKeyDictionary()


def _points(part: ConvexPart | MeshPart) -> Array:
    """Points over a part's surface, its owner's frame."""
    if part not in _POINTS:
        _POINTS[part] = (
            surface_points(part, 40.0)
            if isinstance(part, ConvexPart)
            else part.vertices[:: max(1, len(part.vertices) // 300)]
        )
    return _POINTS[part]


def judged_at(
    problem: SeatProblem,
    rotations: Sequence[Array],
    k: int,
    low: Array,
    high: Array,
    told: Callable[[str], None] | None = None,
    count: int = PLACES,
) -> list[Rough]:
    """Places of the problem's moving frame within low..high (3,) mm at rotation ``k``, its share of
    ``count``, judged roughly: laid evenly, then closer round the best. Aims are taken as linear in the
    place."""
    if told is not None:
        told("Looking over the bay")
    grid = evenly(places_at(len(rotations), count))
    ranked = _judged(problem, rotations[k], k, low + grid * (high - low))
    finer = [
        row.place + (grid[:CLOSER] - 0.5) * np.minimum(high - low, WIDE)
        for weight in (SOFT, HARD)
        for row in _apart(ranked, 3, weight, rotations)
    ]
    if finer:
        ranked += _judged(problem, rotations[k], k, np.clip(np.vstack(finer), low, high))
    return ranked


def starts(rotations: Sequence[Array], judged: Sequence[list[Rough]], most: int = 5) -> list[Start]:
    """The most promising of the places that were judged at each rotation. Two orders are taken by turns: what
    lacks weighs heavily (HARD) in one and lightly (SOFT) in the other."""
    rows = [row for ranked in judged for row in ranked]
    kept: list[Rough] = []
    for k in range(
        len(rotations)
    ):  # first the best at each rotation: valleys differ by angle more than by place
        own = _apart([row for row in rows if row.turned == k], 1, HARD, rotations)
        if own and len(kept) < most - LEAST_FREE and _differs(own[0], kept, rotations):
            kept.append(own[0])
    queues = [_apart(rows, most, SOFT, rotations), _apart(rows, most, HARD, rotations)]
    for soft, hard in zip_longest(*queues):
        for row in (hard, soft):
            if row is not None and len(kept) < most and _differs(row, kept, rotations):
                kept.append(row)
    return [Start(Pose(rotations[row.turned], row.place), row.cost, row.short) for row in kept]


@dataclass(frozen=True, eq=False)
class Rough:
    """A place (3,) judged roughly: wish mm, lack mm, number of its rotation."""

    cost: float
    short: float
    place: Array
    turned: int


def _differs(row: Rough, others: Sequence[Rough], rotations: Sequence[Array]) -> bool:
    """Whether a place is far enough from all others, a turn counted as at half a LEVER."""
    return all(
        float(np.linalg.norm(row.place - other.place))
        + LEVER / 2 * float(np.abs(rotations[row.turned] - rotations[other.turned]).max())
        > FAR_ENOUGH
        for other in others
    )


def _judged(problem: SeatProblem, rotation: Array, turned: int, places: Array) -> list[Rough]:
    """Every place that does not lack too much."""
    aims = problem.aims
    middle = places.mean(0)
    steps = 5.0 * np.eye(3)
    told = aims.measure([Pose(rotation, middle + d) for d in (np.zeros(3), *steps, *-steps)])
    base, slopes = told[0], (told[1:4] - told[4:]).T / 10.0
    values = base + (places - middle) @ slopes.T
    cost = values @ aims.linear + np.abs(values - aims.target) @ aims.absolute
    outside = np.maximum(np.maximum(aims.low - values, values - aims.high), 0.0) * aims.scale
    lack = np.nan_to_num(outside, nan=0.0, posinf=0.0).max(1)
    keep = np.nonzero(lack < 60.0)[0]
    if not len(keep):
        return []
    short = np.maximum(shortfall(problem, rotation, places[keep]), lack[keep])
    return [
        Rough(float(cost[k]), float(s), places[k], turned)
        for k, s in zip(keep, short, strict=True)
        if s < 60.0
    ]


def evenly(count: int) -> Array:
    """(count, 3) points that fill the unit cube evenly: the additive recurrence by powers of the root of
    x^4 = x + 1 (Roberts' R3, from memory)."""
    root = 1.2207440846057596
    return np.asarray((0.5 + np.arange(1, count + 1)[:, None] / root ** np.arange(1, 4)) % 1.0)


def places_at(rotations: int, count: int = PLACES) -> int:
    """So many places ``starts`` judges at each of so many rotations, not counting those laid closer."""
    return max(count // max(rotations, 1), LEAST_PLACES)


SOFT, HARD = 4.0, 30.0
"""What a mm that a start lacks costs in its ranking."""


def _apart(rows: list[Rough], most: int, weight: float, rotations: Sequence[Array]) -> list[Rough]:
    """The best few, none of them near a better one."""
    if not rows:
        return []
    score = np.array([row.cost + weight * max(row.short - 4.0, 0.0) for row in rows])
    places = np.array([row.place for row in rows])
    turned = np.array([row.turned for row in rows])
    between = np.array([[LEVER / 2 * np.abs(a - b).max() for b in rotations] for a in rotations])
    left = np.argsort(score, kind="stable")
    out: list[Rough] = []
    while len(left) and len(out) < most:
        k = left[0]
        out.append(rows[k])
        away = np.linalg.norm(places[left] - places[k], axis=1) + between[turned[k], turned[left]]
        left = left[away > FAR_ENOUGH]
    return out
