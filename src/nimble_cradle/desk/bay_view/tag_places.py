"""Where tags stand: along the edges of the view, where they hide least, with leaders that do not cross.

Boundary labelling: each tag has places along the four edges, and each place a cost; the dearest conflicts are
forbidden, and every tag is placed anew against the others until nothing moves.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array

EDGE, STEP = 8.0, 12.0
"""Pixels between a tag and the edge, and between one place and the next."""
ROUNDS = 6
"""Rounds of placing anew: they settle in two or three (seen in 24 pictures)."""
HIDES, LEADER, LEADER_OVER, ON_ANCHOR, STAYS = 600.0, 1.0, 3.6, 400.0, 40.0
"""Cost of covering the whole of a tag's area, of a pixel of leader, of one more of it over a body, of
hiding an anchor; what is saved by standing where it stood. Found by trial: less than 1 % of the engine
was covered."""
CROSSING, UNDER = 400.0, 120.0
"""Cost of crossing another leader, and of a leader's piece under another tag."""
SAMPLES = 12
"""Points of a leader that are looked at."""


@dataclass(frozen=True)
class Wanted:
    """A tag to be placed: what it points at (x, y), its size, and the box where it stood before, or None."""

    x: float
    y: float
    wide: float
    high: float
    before: tuple[float, float] | None = None


class Cover:
    """How much of a picture's bodies lies under a box. mask: (h, w) of 0 to 1 at one value for ``scale``
    pixels."""

    def __init__(self, mask: Array, scale: float) -> None:
        self.mask, self.scale = mask, scale
        table = np.zeros((mask.shape[0] + 1, mask.shape[1] + 1))
        table[1:, 1:] = mask.cumsum(0).cumsum(1)
        self._table = table

    def share(self, left: Array, top: Array, wide: float, high: float) -> Array:
        """Share (n,) of boxes of one size that lies over bodies."""
        h, w = self.mask.shape
        x0, x1 = (np.clip(np.rint(x / self.scale).astype(int), 0, w) for x in (left, left + wide))
        y0, y1 = (np.clip(np.rint(y / self.scale).astype(int), 0, h) for y in (top, top + high))
        t = self._table
        over = t[y1, x1] - t[y0, x1] - t[y1, x0] + t[y0, x0]
        return np.asarray(over / max(1.0, wide * high / self.scale**2))

    def at(self, x: Array, y: Array) -> Array:
        """Value at places."""
        h, w = self.mask.shape
        rows = np.clip((y / self.scale).astype(int), 0, h - 1)
        return np.asarray(self.mask[rows, np.clip((x / self.scale).astype(int), 0, w - 1)])


def _places(tag: Wanted, width: float, height: float, top: float) -> Array:
    """Left upper corners (n, 2) along the four edges."""
    across = np.arange(EDGE, max(EDGE + 1, width - tag.wide - EDGE + 1), STEP)
    down = np.arange(top + EDGE, max(top + EDGE + 1, height - tag.high - EDGE + 1), STEP)
    sides = [np.column_stack([np.full(len(down), x), down]) for x in (EDGE, width - tag.wide - EDGE)]
    ends = [
        np.column_stack([across, np.full(len(across), y)]) for y in (top + EDGE, height - tag.high - EDGE)
    ]
    return np.vstack([*sides, *ends])


def _feet(tag: Wanted, places: Array) -> Array:
    """Where the leader meets each box (n, 2): the nearest point of its rim."""
    x = np.clip(tag.x, places[:, 0], places[:, 0] + tag.wide)
    y = np.clip(tag.y, places[:, 1], places[:, 1] + tag.high)
    return np.column_stack([x, y])


def _own_costs(tag: Wanted, places: Array, anchors: Array, cover: Cover | None) -> Array:
    """What each place costs by itself."""
    feet = _feet(tag, places)
    length = np.hypot(feet[:, 0] - tag.x, feet[:, 1] - tag.y)
    cost = LEADER * length
    if cover is not None:
        cost = cost + HIDES * cover.share(places[:, 0], places[:, 1], tag.wide, tag.high)
        t = np.linspace(0.0, 1.0, SAMPLES)
        x = tag.x + np.outer(feet[:, 0] - tag.x, t)
        y = tag.y + np.outer(feet[:, 1] - tag.y, t)
        cost = cost + (LEADER_OVER - LEADER) * length * cover.at(x, y).mean(1)
    for ax, ay in anchors:
        near_x = (ax > places[:, 0] - 8) & (ax < places[:, 0] + tag.wide + 8)
        cost = cost + ON_ANCHOR * (near_x & (ay > places[:, 1] - 8) & (ay < places[:, 1] + tag.high + 8))
    if tag.before is not None:
        cost = cost - STAYS * (np.hypot(*(places - np.array(tag.before)).T) < STEP)
    return np.asarray(cost)


def _overlap(places: Array, tag: Wanted, box: Array, other: Wanted) -> Array:
    """True (n,) where a box would lie on another."""
    return np.asarray(
        (places[:, 0] < box[0] + other.wide + 4)
        & (places[:, 0] + tag.wide > box[0] - 4)
        & (places[:, 1] < box[1] + other.high + 4)
        & (places[:, 1] + tag.high > box[1] - 4)
    )


def _crosses(a: Array, b: Array, c: Array, d: Array) -> Array:
    """True (n,) where the stretch from a (2,) to b (n, 2) crosses the one from c to d."""

    def side(p: Array, q: Array, r: Array) -> Array:
        return np.asarray(
            (q[..., 0] - p[..., 0]) * (r[..., 1] - p[..., 1])
            - (q[..., 1] - p[..., 1]) * (r[..., 0] - p[..., 0])
        )

    return np.asarray((side(a, b, c) * side(a, b, d) < 0) & (side(c, d, a) * side(c, d, b) < 0))


def _under(tag: Wanted, feet: Array, box: Array, other: Wanted) -> Array:
    """Number (n,) of a leader's samples that lie under another tag."""
    t = np.linspace(0.0, 1.0, SAMPLES)
    x, y = tag.x + np.outer(feet[:, 0] - tag.x, t), tag.y + np.outer(feet[:, 1] - tag.y, t)
    inside = (x > box[0]) & (x < box[0] + other.wide) & (y > box[1]) & (y < box[1] + other.high)
    return np.asarray(inside.sum(1))


def _covers(places: Array, tag: Wanted, other: Wanted, foot: Array) -> Array:
    """Number (n,) of samples of another's leader that lie under each place of a tag."""
    t = np.linspace(0.0, 1.0, SAMPLES)
    x, y = other.x + (foot[0] - other.x) * t, other.y + (foot[1] - other.y) * t
    left, top = places[:, :1], places[:, 1:]
    inside = (x > left) & (x < left + tag.wide) & (y > top) & (y < top + tag.high)
    return np.asarray(inside.sum(1))


def place_tags(
    tags: Sequence[Wanted], width: float, height: float, top: float = 0.0, cover: Cover | None = None
) -> list[tuple[float, float] | None]:
    """Left upper corners of tags in a view of this size, ``top`` pixels of it kept free; None for a tag
    that finds no place apart from the others."""
    anchors = np.array([(tag.x, tag.y) for tag in tags]).reshape(-1, 2)
    places = [_places(tag, width, height, top) for tag in tags]
    own = [_own_costs(tag, some, anchors, cover) for tag, some in zip(tags, places, strict=True)]
    chosen: list[int | None] = [None] * len(tags)
    for _ in range(ROUNDS):
        moved = False
        for k in range(len(tags)):
            best = _best(k, tags, places, own, chosen)
            moved |= best != chosen[k]
            chosen[k] = best
        if not moved:
            break
    return [
        None if at is None else (float(some[at][0]), float(some[at][1]))
        for at, some in zip(chosen, places, strict=True)
    ]


def _best(
    k: int, tags: Sequence[Wanted], places: list[Array], own: list[Array], chosen: list[int | None]
) -> int | None:
    """The cheapest place of a tag as the others stand."""
    tag, cost = tags[k], own[k].copy()
    feet, anchor = _feet(tag, places[k]), np.array((tag.x, tag.y))
    for j, at in enumerate(chosen):
        if j == k or at is None:
            continue
        other, box = tags[j], places[j][at]
        foot = _feet(other, box[None])
        cost[_overlap(places[k], tag, box, other)] = np.inf
        cost += CROSSING * _crosses(anchor, feet, np.array((other.x, other.y)), foot[0])
        cost += UNDER * _under(tag, feet, box, other)
        cost += UNDER * _covers(places[k], tag, other, foot[0])
    best = int(np.argmin(cost))
    return best if np.isfinite(cost[best]) else None
