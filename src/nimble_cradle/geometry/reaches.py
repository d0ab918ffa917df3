"""Where the parts of a set reach farthest, many parts and directions at a time."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from weakref import WeakKeyDictionary

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart, SolidPart

BOX, BAR, HULL, MESH = range(4)
"""Kinds of parts."""


class Reaches:
    """Reaches of a set's parts, in the frame that the set stands in. Boxes and round bars are told in closed
    form, all at once; hulls and meshes by their vertices. kinds: (parts,); solid: which of them are convex;
    spread: (parts, 3) half sizes along the part's own axes ``turns`` (parts, 3, 3), in columns, about
    ``middles`` (parts, 3), of the convex ones."""

    def __init__(self, parts: Sequence[SolidPart]) -> None:
        self.parts = parts
        numbers = {"box": BOX, "bar": BAR, "hull": HULL}
        kinds = [numbers[part.kind] if isinstance(part, ConvexPart) else MESH for part in parts]
        self.kinds = np.array(kinds, dtype=np.int64)
        self.solid = self.kinds != MESH
        n = len(parts)
        self.middles, self.turns, self.spread = np.zeros((n, 3)), np.zeros((n, 3, 3)), np.zeros((n, 3))
        for k, part in enumerate(parts):
            if isinstance(part, ConvexPart):
                centre, half = part.box
                self.middles[k], self.turns[k] = part.pose.points(centre), part.pose.rotation
                self.spread[k] = half

    def farthest(self, which: np.ndarray, ways: Array) -> Array:
        """The point (k, 3) of each part (k,) that reaches farthest along its direction (k, 3), both in the
        set's own frame; one of them where there are several."""
        turns, half = self.turns[which], self.spread[which]
        local = np.einsum("kx,kxj->kj", ways, turns)
        out = np.copysign(half, local)
        kinds = self.kinds[which]
        bars = np.nonzero(kinds == BAR)[0]
        if len(bars):
            flat = np.maximum(np.hypot(local[bars, 0], local[bars, 1]), 1e-12)
            out[bars, :2] = local[bars, :2] * (half[bars, 0] / flat)[:, None]
        out = self.middles[which] + np.einsum("kxj,kj->kx", turns, out)
        others = np.nonzero(kinds >= HULL)[0]
        if len(others):
            numbers = which[others]
            for part in np.unique(numbers).tolist():
                rows = others[numbers == part]
                corners = self.parts[part].triangles[0]
                out[rows] = corners[(ways[rows] @ corners.T).argmax(1)]
        return np.asarray(out)

    def extent(self, which: np.ndarray, ways: Array) -> tuple[Array, Array]:
        """Least and most (k,), (k,) of each convex part (k,) along its unit direction (k, 3), both in the
        set's own frame."""
        half = self.spread[which]
        local = np.abs(np.einsum("kx,kxj->kj", ways, self.turns[which]))
        middle = np.einsum("kx,kx->k", ways, self.middles[which])
        kinds = self.kinds[which]
        across = np.where(
            kinds == BAR,
            half[:, 0] * np.hypot(local[:, 0], local[:, 1]),
            local[:, 0] * half[:, 0] + local[:, 1] * half[:, 1],
        )
        reach = across + local[:, 2] * half[:, 2]
        low, high = middle - reach, middle + reach
        hulls = np.nonzero(kinds == HULL)[0]
        if len(hulls):
            numbers = which[hulls]
            for part in np.unique(numbers).tolist():
                rows = hulls[numbers == part]
                along = ways[rows] @ self.parts[part].triangles[0].T
                low[rows], high[rows] = along.min(1), along.max(1)
        return low, high


ALONG = np.array(
    [v for v in itertools.product((-1.0, 0.0, 1.0), repeat=3) if v > (0.0, 0.0, 0.0)], dtype=float
)
ALONG /= np.sqrt((ALONG**2).sum(1))[:, None]
"""Thirteen directions: to the sides, edges and corners of a cube, each once."""
_ALONG: WeakKeyDictionary[SolidPart, tuple[Array, Array]] = WeakKeyDictionary()


def _ends_along(part: SolidPart) -> tuple[Array, Array]:
    """Least and most of a mesh along ALONG."""
    if part not in _ALONG:
        along = part.triangles[0] @ ALONG.T
        _ALONG[part] = along.min(0), along.max(0)
    return _ALONG[part]


def sheets_apart(
    a: Reaches, of_a: np.ndarray, pose: Pose, b: Reaches, of_b: np.ndarray
) -> tuple[Array, Array]:
    """As ``boxes_apart``, of convex parts and meshes, by planes square to ALONG."""
    parts_a, at_a = np.unique(of_a, return_inverse=True)
    parts_b, at_b = np.unique(of_b, return_inverse=True)
    n = len(ALONG)
    turned = np.tile(ALONG @ pose.rotation, (len(parts_a), 1))
    low, high = (v.reshape(-1, n) + ALONG @ pose.translation for v in a.extent(parts_a.repeat(n), turned))
    ends = [_ends_along(b.parts[k]) for k in parts_b.tolist()]
    least, most = np.array([v for v, _ in ends]), np.array([v for _, v in ends])
    apart = np.hstack([low[at_a] - most[at_b], least[at_b] - high[at_a]])
    best = apart.argmax(1)
    return apart[np.arange(len(best)), best], np.vstack([ALONG, -ALONG])[best]


def boxes_apart(
    a: Reaches, of_a: np.ndarray, pose: Pose, b: Reaches, of_b: np.ndarray
) -> tuple[Array, Array]:
    """How far apart planes square to one of their boxes keep pairs of convex parts, of a set at ``pose`` and
    of one that stands (k,), mm, below nought where none does; and that direction (k, 3), from the part of
    ``b`` to that of ``a``. A bar or a hull is taken as the box round it, so it is no more than the distance.
    """
    turn_a, turn_b = pose.rotation @ a.turns[of_a], b.turns[of_b]
    half_a, half_b = a.spread[of_a], b.spread[of_b]
    between = pose.points(a.middles[of_a]) - b.middles[of_b]
    axes = np.concatenate([turn_a, turn_b], axis=2)  # (k, 3, 6) in columns
    mixed = np.abs(np.einsum("kxi,kxj->kij", turn_a, turn_b))
    reach = np.concatenate(
        [half_a + np.einsum("kij,kj->ki", mixed, half_b), half_b + np.einsum("kij,ki->kj", mixed, half_a)],
        axis=1,
    )
    along = np.einsum("kx,kxj->kj", between, axes)
    apart = np.abs(along) - reach
    best = apart.argmax(1)
    rows = np.arange(len(best))
    ways = axes[rows, :, best] * np.where(along[rows, best] < 0, -1.0, 1.0)[:, None]
    return apart[rows, best], ways
