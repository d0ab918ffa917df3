"""A body on rods, as a wheel's upright or an axle: where it goes when it is driven, by rigid bodies.

Its place is a translation and a rotation about a point of its own; every rod keeps its length, a slider keeps
a fixed point on a line of the body, and heights of chosen points are driven. Newton's method, derivatives
exact, many copies at once (own derivation; checked in the tests against a planar four-bar in closed form).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from nimble_cradle.geometry.pose import Array, crosses

TURNS = 30
"""So many steps of Newton's method are taken at most."""
CLOSED = 1e-9
"""Rods and heights are met within so many mm."""
_X, _Y = np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0])
MOST_TURN = 0.15
"""So far, radians, a body may turn from one height to the next; farther and it has toppled over."""


@dataclass(frozen=True, eq=False)
class Linkage:
    """fixed, moving: (copies, rods, 3) ends of each rod on the car and on the body, where the body stands at
    ride, mm, vehicle frame. slider: a point and a direction of the body's line (copies, 3) and the car's
    point that stays on it, or None. driven: (copies, n, 3) points of the body; weights (rows, n): each row is
    a height that is driven, a sum of those points' heights. centre: (copies, 3) what the body turns about.
    pushed: (copies, rods, 3) how each rod's end on the car goes for each mm of the last number of a stop, as
    a rack's rod does; None where nothing is pushed, and a stop then has no such number."""

    fixed: Array
    moving: Array
    slider: tuple[Array, Array, Array] | None
    driven: Array
    weights: Array
    centre: Array
    pushed: Array | None = None

    @cached_property
    def lengths(self) -> Array:
        """(copies, rods) of the rods, mm."""
        return np.asarray(np.linalg.norm(self.moving - self.fixed, axis=2))

    @cached_property
    def across(self) -> Array:
        """(copies, 2, 3): two directions square to the slider's line and to one another, at ride."""
        assert self.slider is not None
        return _across(self.slider[1])

    @property
    def rows(self) -> int:
        """How many equations there are; six unknowns."""
        return int(self.fixed.shape[1]) + (0 if self.slider is None else 2) + len(self.weights)


@dataclass(frozen=True, eq=False)
class Places:
    """Where the body went. rotation (copies, stops, 3, 3) and translation (copies, stops, 3): a point p of
    the body at ride goes to centre + translation + rotation (p - centre). met: (copies, stops) whether it
    could. apart: (copies, stops) mm by which the rods do not agree, where there are more of them than are
    needed."""

    centre: Array
    rotation: Array
    translation: Array
    met: Array
    apart: Array

    def points(self, p: Array) -> Array:
        """Points (copies, 3) of the body at ride: where they are at each stop, (copies, stops, 3)."""
        away = (p - self.centre)[:, None, :]
        return np.asarray(
            self.centre[:, None, :] + self.translation + np.einsum("csij,ctj->csi", self.rotation, away)
        )

    def vectors(self, v: Array) -> Array:
        """Directions (copies, 3) of the body, (copies, stops, 3)."""
        return np.asarray(np.einsum("csij,cj->csi", self.rotation, v))


def moved_through(linkage: Linkage, stops: Array) -> Places:
    """The body at each stop. stops: (stops, rows of weights) mm of what is driven; from ride the stops are
    gone through both ways in order of their first number, so they should be close together."""
    copies, count = len(linkage.centre), len(stops)
    rotation = np.broadcast_to(np.eye(3), (copies, count, 3, 3)).copy()
    translation, met = np.zeros((copies, count, 3)), np.zeros((copies, count), dtype=bool)
    apart = np.zeros((copies, count))
    order = np.argsort(stops[:, 0], kind="stable")
    ways = [k for k in order if stops[k, 0] >= 0], [k for k in order[::-1] if stops[k, 0] < 0]
    both = repeated(linkage, 2)  # each copy twice, one after the other: one goes up, one goes down
    r, t = np.broadcast_to(np.eye(3), (2 * copies, 3, 3)), np.zeros((2 * copies, 3))
    fine = np.ones(2 * copies, dtype=bool)
    for step in range(max(map(len, ways))):
        now = [way[min(step, len(way) - 1)] if way else order[0] for way in ways]
        before = r
        r, t, closed, left = _solved(both, np.tile(stops[now], (copies, 1)), r, t)
        turned = np.einsum("cji,cji->c", before, r)
        fine = fine & closed & (np.arccos(np.clip((turned - 1) / 2, -1, 1)) < MOST_TURN)
        r = np.where(fine[:, None, None], r, before)
        for way, (k, stops_of) in enumerate(zip(now, ways, strict=True)):
            if step < len(stops_of):
                rotation[:, k], translation[:, k] = r[way::2], t[way::2]
                met[:, k], apart[:, k] = fine[way::2], left[way::2]
    return Places(linkage.centre, rotation, translation, met, apart)


SKIPPED = 8
"""A long way is gone along one after the other by every so many stops, and all others are found at once from
the nearest of those."""


def moved_along(linkage: Linkage, stops: Array) -> Places:
    """The body at each stop, one after the other as they are given, from ride on: they should be close
    together. stops: (stops, or copies by stops, rows of weights and, of what is pushed, one more) mm. What is
    not met, and all after it, is told as not met."""
    copies, count = len(linkage.centre), stops.shape[-2]
    stops = np.broadcast_to(stops, (copies, *stops.shape[-2:]))
    return (_all_at_once(linkage, stops) if count > 2 * SKIPPED else None) or _one_by_one(linkage, stops)


def _all_at_once(linkage: Linkage, stops: Array) -> Places | None:
    """The same for a long way; None where anything is not met, or turns too far from one to the next."""
    copies, count = stops.shape[:2]
    some = np.unique([*range(0, count, SKIPPED), count - 1])
    along = _one_by_one(linkage, stops[:, some])
    if not along.met.all():
        return None
    near = np.abs(np.arange(count)[:, None] - some).argmin(1)
    begin = along.rotation[:, near].reshape(-1, 3, 3), along.translation[:, near].reshape(-1, 3)
    flat = stops.reshape(-1, stops.shape[-1])
    r, t, closed, left = _solved(repeated(linkage, count), flat, *begin)
    rotation = r.reshape(copies, count, 3, 3)
    before = np.concatenate([np.broadcast_to(np.eye(3), (copies, 1, 3, 3)), rotation[:, :-1]], axis=1)
    turned = np.einsum("csji,csji->cs", before, rotation)
    if not closed.all() or (np.arccos(np.clip((turned - 1) / 2, -1, 1)) >= MOST_TURN).any():
        return None
    met = np.ones((copies, count), dtype=bool)
    return Places(linkage.centre, rotation, t.reshape(copies, count, 3), met, left.reshape(copies, count))


def _one_by_one(linkage: Linkage, stops: Array) -> Places:
    copies, count = stops.shape[:2]
    r, t = np.broadcast_to(np.eye(3), (copies, 3, 3)), np.zeros((copies, 3))
    fine = np.ones(copies, dtype=bool)
    rotation, translation = np.zeros((copies, count, 3, 3)), np.zeros((copies, count, 3))
    met, apart = np.zeros((copies, count), dtype=bool), np.zeros((copies, count))
    for k in range(count):
        before = r
        r, t, closed, left = _solved(linkage, stops[:, k], r, t)
        turned = np.einsum("cji,cji->c", before, r)
        fine = fine & closed & (np.arccos(np.clip((turned - 1) / 2, -1, 1)) < MOST_TURN)
        r = np.where(fine[:, None, None], r, before)
        rotation[:, k], translation[:, k], met[:, k], apart[:, k] = r, t, fine, left
    return Places(linkage.centre, rotation, translation, met, apart)


def stepped(linkage: Linkage, stop: Array, begin: tuple[Array, Array]) -> tuple[Array, Array, bool]:
    """One copy at one stop, from a place near: rotation (3, 3) and translation (3,), and whether it is
    met."""
    r, t, closed, _ = _solved(linkage, stop[None], begin[0][None], begin[1][None])
    return r[0], t[0], bool(closed[0])


def rates(linkage: Linkage, row: int = 0) -> tuple[Array, Array]:
    """How the body begins to move at ride for each mm of what is driven by ``row``: mm of its centre and
    radians of turn, each (copies, 3). Raises LinAlgError where nothing tells it."""
    copies = len(linkage.centre)
    r, t = np.broadcast_to(np.eye(3), (copies, 3, 3)), np.zeros((copies, 3))
    _, jacobian = _equations(linkage, np.zeros(_numbers(linkage)), r, t)
    want = np.zeros((copies, linkage.rows))
    want[:, linkage.rows - len(linkage.weights) + row] = 1.0
    if linkage.rows == 6:
        x = np.linalg.solve(jacobian, want[..., None])[..., 0]
    else:
        x = np.einsum("cij,cj->ci", np.linalg.pinv(jacobian * _weigh(linkage)), want * _weigh(linkage)[:, 0])
    return np.asarray(x[:, :3]), np.asarray(x[:, 3:])


def _numbers(linkage: Linkage) -> int:
    """How many numbers a stop has."""
    return len(linkage.weights) + (0 if linkage.pushed is None else 1)


def _weigh(linkage: Linkage) -> Array:
    """(rows, 1): what is driven is met whatever the rods, where there are too many of them, say."""
    w = np.ones((linkage.rows, 1))
    if linkage.rows > 6:
        w[-len(linkage.weights) :] = 1e4
    return w


def _solved(linkage: Linkage, stop: Array, r: Array, t: Array) -> tuple[Array, Array, Array, Array]:
    """Newton from a place near: rotation, translation, whether it closed, what is left of the rods in mm."""
    weigh = _weigh(linkage)
    exact = linkage.rows == 6
    rods = linkage.rows - len(linkage.weights)
    step = np.full(len(t), np.inf)
    left = np.zeros((len(t), linkage.rows))
    for _ in range(TURNS):
        left, jacobian = _equations(linkage, stop, r, t)
        if exact:
            # a copy that has toppled has no derivative to go on with; it is told by not closing
            try:
                x = np.linalg.solve(jacobian, -left[..., None])[..., 0]
            except np.linalg.LinAlgError:
                x = -np.einsum("cij,cj->ci", np.linalg.pinv(jacobian), left)
        else:
            x = -np.einsum("cij,cj->ci", np.linalg.pinv(jacobian * weigh), left * weigh[:, 0])
        size = np.linalg.norm(x[:, 3:], axis=1, keepdims=True)
        x = x / np.maximum(1.0, np.maximum(size / 0.5, np.linalg.norm(x[:, :3], axis=1, keepdims=True) / 200))
        t = t + x[:, :3]
        r = _turned(x[:, 3:]) @ r
        step = np.abs(x).max(1)
        if step.max() < CLOSED:
            break
    off = np.abs(left)
    closed = (step < 1e-6) & (off.max(1) < 1e-5) if exact else (step < 1e-6) & (off[:, rods:].max(1) < 1e-3)
    return r, t, closed, off[:, :rods].max(1)


def _equations(linkage: Linkage, stop: Array, r: Array, t: Array) -> tuple[Array, Array]:
    """What is not met, mm, (copies, rows), and its derivatives by a move and a turn (copies, rows, 6)."""
    c = linkage.centre[:, None, :]
    arm = np.einsum("cij,cnj->cni", r, linkage.moving - c)
    fixed = linkage.fixed
    if linkage.pushed is not None:
        fixed = fixed + linkage.pushed * np.asarray(stop)[..., -1].reshape(-1, 1, 1)
    rod = c + t[:, None, :] + arm - fixed
    long = np.linalg.norm(rod, axis=2)
    u = rod / np.maximum(long, 1e-12)[..., None]
    found = [long - linkage.lengths]
    slopes = [np.concatenate([u, _cross(arm, u)], axis=2)]
    if linkage.slider is not None:
        on, _, top = linkage.slider
        e = np.einsum("cij,ckj->cki", r, linkage.across)
        s = np.einsum("cij,cj->ci", r, on - linkage.centre)[:, None, :]
        v = (top - linkage.centre - t)[:, None, :] - s
        found.append(np.einsum("cki,cji->ck", e, v))
        slopes.append(np.concatenate([-e, _cross(e, v + s)], axis=2))
    arm = np.einsum("cij,cnj->cni", r, linkage.driven - c)
    high = t[:, None, 2] + arm[..., 2] - (linkage.driven - c)[..., 2]
    found.append(high @ linkage.weights.T - np.asarray(stop)[..., : len(linkage.weights)])
    each = np.zeros((*arm.shape[:2], 6))
    each[..., 2], each[..., 3], each[..., 4] = 1.0, arm[..., 1], -arm[..., 0]
    slopes.append(np.einsum("wn,cnk->cwk", linkage.weights, each))
    return np.concatenate(found, axis=1), np.concatenate(slopes, axis=1)


def _cross(a: Array, b: Array) -> Array:
    """Vector products along the last axis (np.cross takes four times as long)."""
    return a[..., [1, 2, 0]] * b[..., [2, 0, 1]] - a[..., [2, 0, 1]] * b[..., [1, 2, 0]]


def _across(along: Array) -> Array:
    """(copies, 2, 3): two directions square to each of ``along`` (copies, 3) and to one another."""
    other = np.where(np.abs(along[:, :1]) < 0.7 * np.linalg.norm(along, axis=1, keepdims=True), _X, _Y)
    one = crosses(along, other)
    two = crosses(along, one)
    return np.stack([v / np.linalg.norm(v, axis=1, keepdims=True) for v in (one, two)], 1)


def turn_by(linkage: Linkage, other: Linkage, stops: Array, places: Places) -> Array:
    """How much more the body turns at every stop where its points are a little elsewhere, as ``other`` says:
    radians about the axes (copies, stops, 3), to first order. places: of ``linkage``, of one copy."""
    count, many = len(stops), len(other.centre)
    r, t = places.rotation[0], places.translation[0]

    spread = repeated(other, count)
    stop = np.tile(stops, (many, 1))
    left, _ = _equations(spread, stop, np.tile(r, (many, 1, 1)), np.tile(t, (many, 1)))
    _, jacobian = _equations(repeated(linkage, count), stops, r, t)
    left = left.reshape(many, count, -1)
    back = np.linalg.pinv(jacobian * _weigh(linkage))
    return np.asarray(-np.einsum("sij,csj->csi", back, left * _weigh(linkage)[:, 0])[..., 3:])


def repeated(linkage: Linkage, count: int) -> Linkage:
    """Every copy of a linkage, so many times."""

    def each(a: Array) -> Array:
        return np.repeat(a, count, axis=0)

    slider = linkage.slider
    return Linkage(
        each(linkage.fixed),
        each(linkage.moving),
        None if slider is None else (each(slider[0]), each(slider[1]), each(slider[2])),
        each(linkage.driven),
        linkage.weights,
        each(linkage.centre),
        None if linkage.pushed is None else each(linkage.pushed),
    )


def _turned(w: Array) -> Array:
    """(copies, 3, 3) rotations by the vectors ``w`` (copies, 3)."""
    angle = np.linalg.norm(w, axis=1)
    k = w / np.maximum(angle, 1e-300)[:, None]
    z = np.zeros(len(w))
    cross = np.stack(
        [
            np.stack([z, -k[:, 2], k[:, 1]], 1),
            np.stack([k[:, 2], z, -k[:, 0]], 1),
            np.stack([-k[:, 1], k[:, 0], z], 1),
        ],
        1,
    )
    sin, cos = np.sin(angle)[:, None, None], np.cos(angle)[:, None, None]
    return np.asarray(np.eye(3) + sin * cross + (1 - cos) * (cross @ cross))
