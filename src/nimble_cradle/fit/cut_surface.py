"""What must go from what is no flat sheet (a tunnel, a scanned bulkhead, a member) so that the engine has its
room, at rest and in every load case: its outline on the thing itself, and laid flat."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from nimble_cradle.bay.bodies import solid_of, standing_items
from nimble_cradle.fit.cut_lines import MORE, apart, asking_of, sheets_of
from nimble_cradle.geometry.near_surface import NearPatch, areas, near_patch, on_triangles, welded
from nimble_cradle.geometry.point_distance import point_distances
from nimble_cradle.geometry.pose import Array, Pose, crosses
from nimble_cradle.geometry.solids import ConvexPart, SolidPart, connected, placed_part
from nimble_cradle.geometry.unroll import unrolled
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.job import Job

FAR = 64.0
"""Nothing is looked at that is farther beyond its room than so many mm."""
LEAST = 0.5
"""Less than so many mm2 are nothing."""
WELD = 1e-3
"""Corners so near to one another are one, mm."""
SHORT = 6.0
"""A ring that is no longer, mm, is nothing that anybody cuts."""
MOST_STRETCH = 0.5
"""A paper whose outline is out by more mm is not to be trusted; it is traced on the car (measured in
trials)."""


@dataclass(frozen=True, eq=False)
class FlatPiece:
    """One piece of what must go, laid flat. rings: its outlines (n, 2), mm, as one sees the thing from the
    engine; up: which way the car's up (or forward, where it lies level) runs on it, (2,); off: how far the
    worst outline is from its true length, mm; strain: the most that any of it is drawn or pressed, a share.
    edges: (k, 2, 2) where the thing itself ends there; mark: (2,) a place in the piece, and at: (3,) where
    that is in the car, vehicle frame."""

    rings: tuple[Array, ...]
    up: Array
    off: float
    strain: float
    edges: Array
    mark: Array
    at: Array


@dataclass(frozen=True, eq=False)
class SurfaceCut:
    """What must go from an item. patch: of its surface; why: what asks for room there, most first."""

    item: Item
    corners: Array
    patch: NearPatch
    why: tuple[str, ...]
    engine: Array

    @property
    def area(self) -> float:
        """Of all that goes, mm2."""
        return self.patch.area

    def outlines(self) -> list[Array]:
        """Every outline of what goes, (n, 3), vehicle frame, mm."""
        return [line for line, _ in self._rings]

    @cached_property
    def _rings(self) -> list[tuple[Array, np.ndarray]]:
        every = self.patch.rings()
        return [row for row in every if float(np.linalg.norm(np.diff(row[0], axis=0), axis=1).sum()) > SHORT]

    @cached_property
    def flat(self) -> tuple[FlatPiece, ...]:
        """Every piece that hangs together laid flat, the largest first."""
        return tuple(sorted(self._laid(), key=lambda p: -sum(len(ring) for ring in p.rings)))

    def _laid(self) -> list[FlatPiece]:
        touched = np.unique(self.patch.of)
        _, t = welded(self.corners[touched])
        piece_of = _hung_together(t)
        out = []
        for piece in np.unique(piece_of):
            own = touched[piece_of == piece]
            mine = [run for line, at in self._rings for run in _runs(line, at, np.isin(at, own))]
            if mine:
                out.append(self._flat_piece(own, mine))
        return out

    def _flat_piece(self, own: np.ndarray, rings: Sequence[tuple[Array, np.ndarray]]) -> FlatPiece:
        v, t = welded(self.corners[own])
        t = _one_way_round(t)
        c = v[t]
        normals = crosses(c[:, 1] - c[:, 0], c[:, 2] - c[:, 0])
        if float(((self.engine - c.mean(1)) * normals).sum()) < 0:  # seen from the engine
            t = t[:, ::-1]
        laid = unrolled(v, t)
        flat = laid.flat
        where = {int(k): n for n, k in enumerate(own)}

        def drawn(points: Array, of: np.ndarray) -> Array:
            share = on_triangles(points, v[t[of]])
            return np.asarray((share[:, :, None] * flat[t[of]]).sum(1))

        lines, off = [], 0.0
        for line, at in rings:
            known = np.array([where.get(int(k), -1) for k in at])
            line, known = line[known >= 0], known[known >= 0]
            lines.append(drawn(line, known))
            true = float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum())
            off = max(off, abs(float(np.linalg.norm(np.diff(lines[-1], axis=0), axis=1).sum()) - true))
        mine = np.nonzero(np.isin(self.patch.of, own))[0]
        middles = self.patch.triangles[mine].mean(1)
        sizes = areas(self.patch.triangles[mine])
        k = int(np.linalg.norm(middles - (middles * sizes[:, None]).sum(0) / sizes.sum(), axis=1).argmin())
        mark = drawn(middles[k][None], np.array([where[int(self.patch.of[mine[k]])]]))[0]
        ends = self._ends
        rows = [
            (a, b)
            for row in t
            for a, b in zip(row, np.roll(row, -1), strict=True)
            if _edge(v[a], v[b]) in ends
        ]
        edges = np.array([[flat[a], flat[b]] for a, b in rows]).reshape(-1, 2, 2)
        return FlatPiece(tuple(lines), _up_on(v, t, flat), off, laid.strain, edges, mark, middles[k])

    @cached_property
    def _ends(self) -> set[frozenset[tuple[int, ...]]]:
        """Edges of the whole surface that one triangle alone has."""
        counted = Counter(_edge(t[i], t[(i + 1) % 3]) for t in self.corners[self._beside] for i in range(3))
        return {edge for edge, count in counted.items() if count == 1}

    @cached_property
    def _beside(self) -> np.ndarray:
        """Triangles that share a corner with one that is touched."""
        keys = np.round(self.corners.reshape(-1, 3) / WELD).astype(np.int64)
        _, names = np.unique(keys, axis=0, return_inverse=True)
        names = np.asarray(names).reshape(-1, 3)
        near = np.isin(names, names[np.unique(self.patch.of)])
        return np.nonzero(near.any(1))[0]


def _hung_together(t: np.ndarray) -> np.ndarray:
    """(m,) which piece each triangle is of, where only edges that two triangles share hold pieces together:
    what meets along an edge of more is laid flat by itself."""
    edges = np.sort(t[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    _, name, count = np.unique(edges, axis=0, return_inverse=True, return_counts=True)
    name = np.asarray(name).ravel()
    order = np.argsort(name, kind="stable")
    shared = order[count[name[order]] == 2].reshape(-1, 2) // 3
    return connected(len(t), shared)


def _runs(line: Array, at: np.ndarray, mine: np.ndarray) -> list[tuple[Array, np.ndarray]]:
    """What of a line lies on one piece, in runs of at least three points."""
    if mine.all():
        return [(line, at)]
    marks = np.flatnonzero(np.diff(np.concatenate([[0], mine.astype(int), [0]])))
    spans = marks.reshape(-1, 2)
    return [(line[a:b], at[a:b]) for a, b in spans if b - a > 2]


def _edge(a: Array, b: Array) -> frozenset[tuple[int, ...]]:
    """A name for an edge, whichever way round."""
    return frozenset(tuple(int(c) for c in np.round(p / WELD)) for p in (a, b))


def _one_way_round(t: np.ndarray) -> np.ndarray:
    """Triangles (m, 3) all run the same way round as the first of their surface."""
    out = t.copy()
    by_edge: dict[tuple[int, int], list[int]] = {}
    for k, row in enumerate(t.tolist()):
        for i in range(3):
            one, other = row[i], row[(i + 1) % 3]
            by_edge.setdefault((min(one, other), max(one, other)), []).append(k)
    seen, waiting = {0}, [0]
    while waiting:
        k = waiting.pop()
        row = out[k].tolist()
        for i in range(3):
            one, other = row[i], row[(i + 1) % 3]
            for n in by_edge[min(one, other), max(one, other)]:
                if n in seen:
                    continue
                theirs = out[n].tolist()
                if (one, other) in zip(theirs, [*theirs[1:], theirs[0]], strict=True):
                    out[n] = out[n][::-1]
                seen.add(n)
                waiting.append(n)
    return out


def _up_on(v: Array, t: np.ndarray, flat: Array) -> Array:
    """Which way up, or forward where it lies level, runs on the flat piece, on the whole."""
    c, f = v[t], flat[t]
    for way in (np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0])):
        h = c @ way
        e, g = f[:, 1] - f[:, 0], f[:, 2] - f[:, 0]
        turn = e[:, 0] * g[:, 1] - e[:, 1] * g[:, 0]
        fine = np.abs(turn) > 1e-9
        e, g, turn, h = e[fine], g[fine], turn[fine], h[fine]
        a, b = h[:, 1] - h[:, 0], h[:, 2] - h[:, 0]
        slope = np.column_stack([(a * g[:, 1] - b * e[:, 1]), (b * e[:, 0] - a * g[:, 0])]).sum(0)
        size = float(np.abs(turn).sum())
        if float(np.linalg.norm(slope)) > 0.3 * size:
            return np.asarray(slope * np.sign(turn.sum()) / np.linalg.norm(slope))
    return np.array([0.0, 1.0])


def surfaces_of(job: Job) -> tuple[Item, ...]:
    """Items that may be cut and are no flat sheets: surfaces, scans, and what is chassis. Raises JobError."""
    sheets = {sheet.item.id for sheet in sheets_of(job)}
    return tuple(
        item
        for item in standing_items(job)
        if item.motion is None
        and item.id not in sheets
        and (item.chassis or not all(isinstance(p, ConvexPart) for p in solid_of(item, job.meshes, "items")))
    )


def surface_cut(job: Job, item_id: str, poses: Sequence[Pose], margin: float = 0.0) -> SurfaceCut:
    """What must go from one item with the powertrain at every one of some poses, and ``margin`` mm more all
    round. Raises JobError where there is no such item."""
    item = next((i for i in surfaces_of(job) if i.id == item_id), None)
    if item is None:
        raise JobError("There is nothing of that name to be cut here.", f"items/{item_id}")
    poses = apart(poses)
    parts = solid_of(item, job.meshes, "items")
    corners = np.concatenate([p.triangles[0][p.triangles[1]] for p in parts])
    low, high = corners.reshape(-1, 3).min(0), corners.reshape(-1, 3).max(0)
    near: list[tuple[str, float, SolidPart, Array, Array]] = []
    for name, mm, solids in asking_of(job, item):
        for pose in poses:
            for solid in solids:
                here = placed_part(solid, pose)
                reach = mm + margin + MORE
                v = here.triangles[0]
                first, last = v.min(0) - reach, v.max(0) + reach
                if (first < high).all() and (last > low).all():
                    near.append((name, reach, here, first, last))

    def field(points: Array) -> Array:
        """How far beyond its room a point is, mm, FAR at most."""
        best = np.full(len(points), FAR)
        for _, reach, part, first, last in near:
            on = ((points > first - FAR) & (points < last + FAR)).all(1)
            # what is farther from the part's box than the least known so far needs no looking at
            rows = np.nonzero(on)[0]
            box = np.maximum(np.maximum(first - points[rows], points[rows] - last), 0.0)
            rows = rows[np.linalg.norm(box, axis=1) < best[rows]]
            if len(rows):
                best[rows] = np.minimum(best[rows], point_distances(part, points[rows]) - reach)
        return best

    engine = np.asarray(poses[0].translation)
    if not near:
        return SurfaceCut(item, corners, near_patch(corners[:0], field), (), engine)
    patch = near_patch(_first(corners), field)
    patch = patch if patch.area > LEAST else near_patch(corners[:0], field)
    return SurfaceCut(item, _first(corners), patch, _why(patch, near), engine)


def _first(corners: Array) -> Array:
    """Triangles that are large enough to be anything."""
    size = np.linalg.norm(crosses(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    return np.asarray(corners[size > 1e-9])


def _why(patch: NearPatch, near: Sequence[tuple[str, float, SolidPart, Array, Array]]) -> tuple[str, ...]:
    """What asks for room on the patch, what asks for most places of it first."""
    at = patch.triangles.mean(1)
    if not len(at):
        return ()
    asked: dict[str, np.ndarray] = {}
    for name, reach, part, first, last in near:
        rows = np.nonzero(((at > first) & (at < last)).all(1))[0]
        found = rows[point_distances(part, at[rows]) < reach] if len(rows) else rows
        if len(found):
            asked.setdefault(name, np.zeros(len(at), dtype=bool))[found] = True
    return tuple(sorted(asked, key=lambda name: -int(asked[name].sum())))
