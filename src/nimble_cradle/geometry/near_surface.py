"""Where a surface of triangles lies within a distance of something: the part of it that does, and its rim."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.geometry.solids import Triangles, connected

FINEST = 1.0
"""Triangles on the rim are split until their edges are no longer, mm."""
SMALLEST, STRAIGHT = 0.2, 0.08
"""But they are split on while the field at an edge's middle is so far from straight, down to so many mm."""
REACH = 1 / np.sqrt(3.0)
"""No place of a triangle is farther from its nearest corner than this share of its longest edge."""
SAME, JOINED = 1e-6, 0.35
"""Ends of the rim so near to one another are one, mm; and so near where nothing else goes on."""


@dataclass(frozen=True, eq=False)
class NearPatch:
    """Triangles (k, 3, 3) that lie within, and of which triangle of the surface each is a piece (k,); the
    rim in pieces (s, 2, 3), and theirs (s,); mm."""

    triangles: Array
    of: np.ndarray
    rim: Array
    rim_of: np.ndarray

    @property
    def area(self) -> float:
        """Of all of it, mm2."""
        return float(areas(self.triangles).sum())

    def rings(self) -> list[tuple[Array, np.ndarray]]:
        """The rim as lines of points (n, 3), closed ones ending where they begin, longest first; and for
        each point a triangle of the surface that it lies on (n,)."""
        if not len(self.rim):
            return []
        ends = self.rim.reshape(-1, 3)
        node = _alike(ends, np.arange(len(ends)), SAME)
        # where a large and a small triangle of the surface meet the line is out of step a little
        count = np.bincount(node, minlength=len(ends))
        loose = np.nonzero(count[node] == 1)[0]
        if len(loose):
            node[loose] = _alike(ends[loose], loose, JOINED)
        steps: dict[int, list[tuple[int, int]]] = {}
        for k, (a, b) in enumerate(node.reshape(-1, 2)):
            if a != b:
                steps.setdefault(int(a), []).append((int(b), k))
                steps.setdefault(int(b), []).append((int(a), k))
        at = {int(c): ends[int(c)] for c in np.unique(node)}
        left, out = {k for row in steps.values() for _, k in row}, []
        # lines that run out at the surface's edge are begun at an end
        for start in sorted(steps, key=lambda c: len(steps[c]) != 1):
            while any(k in left for _, k in steps[start]):
                line, own, here = [at[start]], [], start
                while (row := next(((b, k) for b, k in steps[here] if k in left), None)) is not None:
                    here, k = row
                    left.discard(k)
                    line.append(at[here])
                    own.append(int(self.rim_of[k]))
                out.append((np.array(line), np.array([*own, own[-1]])))
        return sorted(out, key=lambda row: -float(np.linalg.norm(np.diff(row[0], axis=0), axis=1).sum()))


def _alike(points: Array, names: np.ndarray, within: float) -> np.ndarray:
    """(n,) for each point the name of the first one that is as near as that, or hangs together with it."""
    from scipy.spatial import cKDTree  # its import is felt where it is not needed

    pairs = cKDTree(points).query_pairs(within, output_type="ndarray")
    return np.asarray(names[connected(len(points), pairs.reshape(-1, 2))])


def areas(triangles: Array) -> Array:
    """(k,) mm2 of triangles (k, 3, 3)."""
    a, b, c = triangles[:, 0], triangles[:, 1], triangles[:, 2]
    return np.asarray(np.linalg.norm(crosses(b - a, c - a), axis=1) / 2)


def near_patch(corners: Array, field: Callable[[Array], Array], finest: float = FINEST) -> NearPatch:
    """The part of a surface, triangles (m, 3, 3), on which ``field`` is below nought. field: mm at points (n,
    3), never steeper than one; nothing too near is missed that is larger than ``finest``."""
    waiting, of = corners, np.arange(len(corners))
    inside: list[Array] = []
    inside_of: list[np.ndarray] = []
    rim: list[Array] = []
    rim_of: list[np.ndarray] = []
    while len(waiting):
        f = field(waiting.reshape(-1, 3)).reshape(-1, 3)
        edges = np.linalg.norm(waiting - np.roll(waiting, -1, axis=1), axis=2)
        far = edges.max(1) * REACH
        whole = f.max(1) < -far
        inside.append(waiting[whole])
        inside_of.append(of[whole])
        open_still = ~whole & (f.min(1) <= far)
        fine = open_still & (edges.max(1) <= finest)
        # a small one is small enough where the field is as good as straight on it
        rows = np.nonzero(fine & (edges.max(1) > SMALLEST))[0]
        if len(rows):
            t = waiting[rows]
            middle = field(((t + np.roll(t, -1, axis=1)) / 2).reshape(-1, 3)).reshape(-1, 3)
            bent = np.abs(middle - (f[rows] + np.roll(f[rows], -1, axis=1)) / 2).max(1)
            fine[rows[bent > STRAIGHT]] = False
        cut, own, line, line_own = _clipped(waiting[fine], f[fine], of[fine])
        inside.append(cut)
        inside_of.append(own)
        rim.append(line)
        rim_of.append(line_own)
        more = open_still & ~fine
        waiting, of = _halved(waiting[more], edges[more]), np.repeat(of[more], 2)
    return NearPatch(
        np.concatenate(inside) if inside else np.zeros((0, 3, 3)),
        np.concatenate(inside_of) if inside_of else np.zeros(0, dtype=int),
        np.concatenate(rim) if rim else np.zeros((0, 2, 3)),
        np.concatenate(rim_of) if rim_of else np.zeros(0, dtype=int),
    )


def _halved(t: Array, edges: Array) -> Array:
    """Triangles (m, 3, 3), each parted at the middle of its longest edge: (2 m, 3, 3). Two that share that
    edge are parted alike."""
    k = edges.argmax(1)
    rows = np.arange(len(t))
    a, b, c = t[rows, k], t[rows, (k + 1) % 3], t[rows, (k + 2) % 3]
    m = (a + b) / 2
    return np.stack([np.stack([a, m, c], 1), np.stack([m, b, c], 1)], 1).reshape(-1, 3, 3)


def _clipped(t: Array, f: Array, of: np.ndarray) -> tuple[Array, np.ndarray, Array, np.ndarray]:
    """What of small triangles is below nought, f (m, 3) taken as straight between corners, and the line
    across each that is cut."""
    low = f < 0
    count = low.sum(1)
    out, own = [t[count == 3]], [of[count == 3]]
    line, line_own = [np.zeros((0, 2, 3))], [np.zeros(0, dtype=int)]
    for n in (1, 2):
        rows = np.nonzero(count == n)[0]
        if not len(rows):
            continue
        lone = (low if n == 1 else ~low)[rows].argmax(1)
        p, q, r = (t[rows, (lone + j) % 3] for j in range(3))
        fp, fq, fr = (f[rows, (lone + j) % 3] for j in range(3))
        a = p + (fp / (fp - fq))[:, None] * (q - p)
        b = p + (fp / (fp - fr))[:, None] * (r - p)
        if n == 1:
            out.append(np.stack([p, a, b], 1))
            own.append(of[rows])
        else:
            out += [np.stack([a, q, r], 1), np.stack([a, r, b], 1)]
            own += [of[rows], of[rows]]
        line.append(np.stack([a, b], 1))
        line_own.append(of[rows])
    return np.concatenate(out), np.concatenate(own), np.concatenate(line), np.concatenate(line_own)


def on_triangles(points: Array, corners: Array) -> Array:
    """(n, 3) shares of a triangle's corners (n, 3, 3) at points (n, 3) on it."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    u, v, w = b - a, c - a, points - a
    uu, uv, vv = (u * u).sum(1), (u * v).sum(1), (v * v).sum(1)
    wu, wv = (w * u).sum(1), (w * v).sum(1)
    size = np.maximum(uu * vv - uv**2, 1e-18)
    s, t = (vv * wu - uv * wv) / size, (uu * wv - uv * wu) / size
    return np.column_stack([1 - s - t, s, t])


def welded(corners: Array, within: float = 1e-3) -> tuple[Array, Triangles]:
    """Vertices (n, 3) and triangles (m, 3) of loose triangles (m, 3, 3): corners so near are one."""
    flat = corners.reshape(-1, 3)
    _, first, back = np.unique(np.round(flat / within), axis=0, return_index=True, return_inverse=True)
    return flat[first], np.asarray(back).reshape(-1, 3)
