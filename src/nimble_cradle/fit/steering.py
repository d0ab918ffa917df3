"""Wheels at lock: how far each turns as the rack goes across, how near its rod comes to its dead point, and
both wheels of an axle together."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.fit.suspension import RACK_WAY, Points, checked, corner_linkage, heights, hub, places_of
from nimble_cradle.geometry.linkage import Linkage, moved_along, repeated, stepped
from nimble_cradle.geometry.pose import Array, Pose, crosses
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.suspension import Corner, LinkedAxle, StrutCorner

HALF = 16
"""The rack is looked at at so many places on each side of straight ahead."""
STEP = 4.0
"""A wheel is moved up or down by at most so much from one look to the next, mm."""
FINE = 2.0
"""The rack likewise, mm: near its dead point a wheel turns fast."""


@dataclass(frozen=True, eq=False)
class Turned:
    """A wheel at ride height with the rack ``rack`` (stops,) mm to the left: turns: degrees to the left of
    straight ahead; lever: degrees between the rod and the steering arm, 90 where it steers best and 0 or 180
    at the dead point. Not a number where it does not get there."""

    rack: Array
    turns: Array
    lever: Array

    @property
    def whole(self) -> bool:
        """Whether it gets to both ends."""
        return bool(np.isfinite(self.turns).all())

    @property
    def nearest_dead(self) -> float:
        """How near the rod comes to its dead point, degrees; not a number where it never gets to lock."""
        return float(np.minimum(self.lever, 180.0 - self.lever).min()) if self.whole else math.nan

    @property
    def locks(self) -> tuple[float, float]:
        """How far it turns to the left and to the right, degrees, both positive."""
        ends = float(self.turns[0]), float(self.turns[-1])
        return max(ends), -min(ends)


@dataclass(frozen=True, eq=False)
class LockFound:
    """A wheel steered to both sides, before and after what is moved."""

    corner: Corner
    before: Turned
    after: Turned
    moved: bool


@dataclass(frozen=True)
class BothLocked:
    """Both wheels of an axle with the rack at one end: inner and outer wheel, degrees; share: of the
    difference that would let both roll without slip, %; circle: across which the outer wheel's middle runs,
    mm."""

    to: str
    inner: float
    outer: float
    share: float
    circle: float


def turned(corner: Corner, points: Points) -> Turned:
    """A wheel with its rack across its travel. Raises JobError for what is no linkage."""
    checked(corner, points)
    travel = corner.rack_travel_mm or 0.0
    linkage = corner_linkage(corner, points, steered=True)
    many = max(HALF, math.ceil(travel / FINE))
    rack = np.linspace(-travel, travel, 2 * many + 1)
    turns, lever = np.full((2, len(rack)), np.nan)
    ways = np.array([rack[many:], rack[many::-1]])
    places = moved_along(repeated(linkage, 2), np.stack([np.zeros_like(ways), ways], -1))
    straight = hub(corner)[0]
    heads = places.vectors(np.tile(straight, (2, 1)))
    angle = np.degrees(np.arctan2(heads[..., 1], heads[..., 0]) - math.atan2(straight[1], straight[0]))
    off = _lever(corner, points, lambda p: places.points(np.tile(p, (2, 1))), ways)
    for k, at in enumerate(np.searchsorted(rack, ways)):
        turns[at] = np.where(places.met[k], (angle[k] + 180) % 360 - 180, np.nan)
        lever[at] = np.where(places.met[k], off[k], np.nan)
    return Turned(rack, turns, lever)


def _lever(corner: Corner, points: Points, there: Callable[[Array], Array], rack: Array) -> Array:
    """Degrees between the rod and the arm that it pulls at, seen along the line that the wheel turns about.
    there: a point of the upright at every stop; rack: its place at every stop, mm."""
    strut = isinstance(corner, StrutCorner)
    top = points["strut_top" if strut else "upper_ball"]
    low, outer = (there(points[key]) for key in ("lower_ball", "rod_outer"))
    high = np.broadcast_to(top, low.shape) if strut else there(top)
    post = (high - low) / np.linalg.norm(high - low, axis=-1, keepdims=True)
    inner = points["rod_inner"] + rack[..., None] * RACK_WAY

    def square(v: Array) -> Array:
        flat = v - (v * post).sum(-1, keepdims=True) * post
        return np.asarray(flat / np.maximum(np.linalg.norm(flat, axis=-1, keepdims=True), 1e-12))

    rod, arm = square(inner - outer), square(outer - low)
    return np.asarray(np.degrees(np.arccos(np.clip((rod * arm).sum(-1), -1.0, 1.0))))


@remembered("suspensions", "survey")
def locks_found(job: Job) -> tuple[LockFound | JobError, ...]:
    """Every wheel of which the rack's travel is said, in the job's order; what cannot be worked out says
    why."""
    out: list[LockFound | JobError] = []
    for one in job.suspensions:
        if isinstance(one, LinkedAxle) or one.rack_travel_mm is None:
            continue
        try:
            before, after = places_of(job, one)
            moved = any(np.abs(after[key] - before[key]).max() > 1e-9 for key in before)
            was = turned(one, before)
            out.append(LockFound(one, was, turned(one, after) if moved else was, moved))
        except JobError as error:
            out.append(error)
    return tuple(out)


def rolls_without_slip(outer_deg: float, apart_mm: float, wheelbase_mm: float) -> float:
    """The angle of the inner wheel at which both front wheels roll about one point on the rear axle's
    line."""
    ahead = 1 / math.tan(math.radians(outer_deg)) - apart_mm / wheelbase_mm
    return math.degrees(math.atan2(1.0, ahead))


INNER = calculation(
    "inner-wheel-angle",
    "How far the inner wheel turns where both roll without slip",
    inputs=(
        Q("outer_deg", "deg", "the outer wheel is turned by", above=0, high=60),
        Q("apart_mm", "mm", "between the lines that both wheels turn about, at the axle", above=0),
        Q("wheelbase_mm", "mm", "from front to rear axle", above=0),
    ),
    outputs=(Q("inner_deg", "deg", "the inner wheel"),),
    formula="cot inner = cot outer - apart / wheelbase",
    source="two wheels about one point; Gillespie, Fundamentals of Vehicle Dynamics (from memory)",
    leaves_out="slip of the tyres, which makes less of a difference better the faster one goes",
)(rolls_without_slip)


def both_locked(job: Job, left: LockFound, right: LockFound) -> tuple[BothLocked, ...]:
    """Both wheels of an axle at both ends of their rack, as they are after what is moved; none where one does
    not get there or they do not turn the same way."""
    out = []
    posts = [float(places_of(job, one.corner)[1]["lower_ball"][1]) for one in (left, right)]
    apart = abs(posts[0] - posts[1])
    if not (left.after.whole and right.after.whole) or apart < 1.0:
        return ()
    for end in (0, -1):
        a, b = float(left.after.turns[end]), float(right.after.turns[end])
        if a * b <= 0:
            return ()
        inner, outer = (a, b) if a > 0 else (-b, -a)
        wants = rolls_without_slip(outer, apart, job.vehicle.wheelbase_mm)
        share = 100 * (inner - outer) / (wants - outer)
        circle = 2 * job.vehicle.wheelbase_mm / math.sin(math.radians(outer))
        out.append(BothLocked("left" if a > 0 else "right", inner, outer, share, circle))
    return tuple(sorted(out, key=lambda row: row.to))


class SteeredPath:
    """The upright of a wheel along one way through all that it can do: with the wheel straight from droop to
    bump (``at`` is mm up from ride there), then over every edge of travel and lock and across at ride. It
    may raise JobError at the start where the linkage does not get there.

    corners: (n, 3) rows of ``at``, mm up, mm of rack to the left, straight lines between them.
    """

    def __init__(self, job: Job, corner: Corner, points: Points) -> None:
        up, lock = heights(job), corner.rack_travel_mm or 0.0
        low, high = float(up[0]), float(up[-1])
        stops = [(low, 0.0), (high, 0.0), (high, lock), (low, lock), (low, -lock), (high, -lock)]
        stops += [(0.0, -lock), (0.0, lock)]
        long = np.cumsum(
            [0.0, *(abs(a - c) + abs(b - d) for (a, b), (c, d) in zip(stops, stops[1:], strict=False))]
        )
        self.corners = np.column_stack([low + long, stops])
        self.linkage: Linkage = corner_linkage(corner, points, steered=True)
        self._name, self._place = corner.name, f"suspensions/{corner.id}/rack_travel_mm"
        self._ats, self._turns, self._moves = self._laid()

    @property
    def span(self) -> tuple[float, float]:
        """Where the way begins and ends."""
        return float(self.corners[0, 0]), float(self.corners[-1, 0])

    def stop(self, at: float) -> Array:
        """Height and rack at a place of the way, (2,) mm."""
        k = self.corners
        return np.array([np.interp(at, k[:, 0], k[:, 1]), np.interp(at, k[:, 0], k[:, 2])])

    def _laid(self) -> tuple[Array, Array, Array]:
        """Places of the way close together, and the upright there. Raises JobError where it topples."""
        ride = 0.0
        first = self.corners[0, 0]
        ats = [ride]
        for (a, _, left), (b, _, right) in zip(self.corners, self.corners[1:], strict=False):
            step = STEP if left == right else FINE
            ats += np.linspace(a, b, max(2, math.ceil((b - a) / step) + 1)).tolist()
        back = np.linspace(ride, first, math.ceil((ride - first) / STEP) + 1)
        walk = np.array([*back, *(at for at in ats[1:])])
        places = moved_along(self.linkage, np.array([self.stop(at) for at in walk]))
        if not places.met.all():
            raise JobError(
                f"{self._name}: its linkage does not go to lock all through its travel.", self._place
            )
        order = np.argsort(walk, kind="stable")
        return walk[order], places.rotation[0][order], places.translation[0][order]

    @property
    def laid_at(self) -> Array:
        """Places of the way at most STEP mm apart, in order, (n,)."""
        return np.unique(self._ats)

    def through(self, point: Array, faces: Array) -> tuple[Array, Array]:
        """Where a point (3,) of the upright goes and which way something of it (3,) faces, all along the way,
        (n, 3) each."""
        centre = self.linkage.centre[0]
        return centre + self._moves + self._turns @ (point - centre), self._turns @ faces

    def upright(self, at: float) -> Pose:
        """The upright at a place of the way, as a pose in the vehicle frame."""
        k = int(np.abs(self._ats - at).argmin())
        r, t, _ = stepped(self.linkage, self.stop(at), (self._turns[k], self._moves[k]))
        centre = self.linkage.centre[0]
        return Pose(r, centre + t - r @ centre)


@remembered("suspensions", "survey", "vehicle")
def steered_paths(job: Job) -> dict[str, tuple[SteeredPath | None, SteeredPath | None]]:
    """The ways of all wheels of which the rack's travel is said, before and after what is moved, by the
    suspension's id; None where the linkage does not get there, which is asked about."""
    out = {}
    for one in job.suspensions:
        if isinstance(one, LinkedAxle) or one.rack_travel_mm is None:
            continue
        try:
            before, after = places_of(job, one)
        except JobError:
            continue
        was = _path(job, one, before)
        same = all(np.array_equal(after[key], before[key]) for key in before)
        out[one.id] = was, was if same else _path(job, one, after)
    return out


def _path(job: Job, corner: Corner, points: Points) -> SteeredPath | None:
    try:
        return SteeredPath(job, corner, points)
    except JobError:
        return None


def joint_angle(shaft: Array, out: Array) -> Array:
    """Degrees between a shaft (n, 3) and the way its wheel faces (n, 3)."""
    sine = np.linalg.norm(crosses(shaft, out), axis=-1)
    return np.asarray(np.degrees(np.arctan2(sine, (shaft * out).sum(-1))))
