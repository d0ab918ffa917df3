"""A way for a rigid set out of a place: two trees of poses grown towards one another (RRT-Connect), then
shortened, then replayed exactly.

Every stretch is proved by distances: from a pose that is d clear the set may move until some point of it
has moved by d less the air kept; so it keeps half of the air at least, all along.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import Nearest, clearance
from nimble_cradle.geometry.pose import Array, Pose, crosses, rotation_about

LOOK = 60.0
"""Distances are not looked at beyond this, mm."""
LOOKS = 12_000
"""So many looks at distances are one attempt: some five seconds on a calm core. A way that has not been
found by then is found sooner by beginning afresh."""
STRIDE = 90.0
"""How far a tree grows at once, mm (chosen by trial)."""
OFF = 7.0
"""Sliding keeps off what it slides along by so much, mm, so that its proof may stride."""
SLIDES = 4
"""So often a stretch that is stopped goes on along what stopped it."""
LEAST = 1.5
"""Steps along what is near are no shorter than this, mm, or the air kept: between two places with that air
no point comes nearer than half of it."""


@dataclass(frozen=True, eq=False)
class WayOutTask:
    """A set to be brought out. moving, fixed: bodies; start, goal: poses; about: the point (3,) of the
    moving frame that turns leave still; radius: how far its farthest point is from there, mm; air: kept to
    everything, mm; low, high: (6,) box of samples: place mm of ``about``, turns in degrees.
    """

    moving: Bodies
    fixed: Bodies
    start: Pose
    goal: Pose
    about: Array
    radius: float
    air: float
    low: Array
    high: Array


@dataclass
class WayOutSearch:
    """What a search learned. path: poses from start to goal, or none. checks: distances looked at.
    blocked: (moving body, fixed body) -> how often it stopped a stretch."""

    path: list[Pose] = field(default_factory=list)
    checks: int = 0
    blocked: Counter[tuple[int, int]] = field(default_factory=Counter)


class Span(NamedTuple):
    """The way between two poses. most: that any point moves by, mm; move: (3,) of ``about``, mm; axis (3,)
    and angle, rad, of the turn."""

    most: float
    move: Array
    axis: Array
    angle: float


def span(task: WayOutTask, a: Pose, b: Pose) -> Span:
    """The way from a to b."""
    turn = b.rotation @ a.rotation.T
    angle = float(np.arccos(np.clip((np.trace(turn) - 1) / 2, -1.0, 1.0)))
    axis = np.array([turn[2, 1] - turn[1, 2], turn[0, 2] - turn[2, 0], turn[1, 0] - turn[0, 1]])
    size = float(np.linalg.norm(axis))
    axis = axis / size if size > 1e-9 else np.array([0.0, 0.0, 1.0])
    move = b.points(task.about) - a.points(task.about)
    return Span(float(np.linalg.norm(move)) + task.radius * angle, move, axis, angle)


class Stretch:
    """From one pose to another, moved and turned evenly. whole: the most that any point of the set moves
    by, mm."""

    def __init__(self, task: WayOutTask, a: Pose, b: Pose) -> None:
        self.task, self.a = task, a
        self.whole, self.move, self.axis, self.angle = span(task, a, b)
        self.begin = a.points(task.about)

    def at(self, share: float) -> Pose:
        """The pose a share of the way along."""
        rotation = self.a.rotation
        if self.angle > 1e-12:
            rotation = rotation_about(self.axis, share * self.angle) @ rotation
        middle = self.begin + share * self.move
        return Pose(rotation, middle - rotation @ self.task.about)


def between(task: WayOutTask, a: Pose, b: Pose, share: float) -> Pose:
    """The pose a share of the way from a to b."""
    return Stretch(task, a, b).at(share)


def _look(task: WayOutTask, pose: Pose, found: WayOutSearch) -> tuple[float, Nearest | None]:
    found.checks += 1
    return clearance(task.moving, pose, task.fixed, LOOK)


def proved(stretch: Stretch, found: WayOutSearch) -> tuple[float, Nearest | None]:
    """The share of a stretch that is proved free, and the pair that stops it. The stretch must begin free."""
    if stretch.whole < 1e-9:
        return 1.0, None
    task, whole = stretch.task, stretch.whole
    air = task.air
    share = last = 0.0
    d, near = _look(task, stretch.a, found)
    while True:
        if d < air and share > 0.0:
            return last, near
        if share >= 1.0:
            return 1.0, None
        last = share
        share = min(share + max(d - air, min(LEAST, air)) / whole, 1.0)
        d, near = _look(task, stretch.at(share), found)


def hopeful(stretch: Stretch, found: WayOutSearch) -> bool:
    """True if a stretch is free at places spread over it, the middle first. No proof; a quick no to most
    that are not free."""
    n = 1
    while n * LOOK < stretch.whole:
        n *= 2
        for k in range(1, n, 2):
            if _look(stretch.task, stretch.at(k / n), found)[0] < stretch.task.air:
                return False
    return True


class _Tree:
    def __init__(self, root: Pose, task: WayOutTask) -> None:
        self.task = task
        self.poses, self.parents = [root], [-1]
        self.keys = [self._key(root)]

    def _key(self, pose: Pose) -> Array:
        return np.concatenate([pose.points(self.task.about), 0.55 * self.task.radius * pose.rotation.ravel()])

    def add(self, pose: Pose, parent: int) -> int:
        """A new pose."""
        self.poses.append(pose)
        self.parents.append(parent)
        self.keys.append(self._key(pose))
        return len(self.poses) - 1

    def nearest(self, pose: Pose) -> int:
        """The nearest pose's number."""
        return int(((np.array(self.keys) - self._key(pose)) ** 2).sum(1).argmin())

    def branch(self, k: int) -> list[Pose]:
        """Poses from the root to k."""
        out = []
        while k >= 0:
            out.append(self.poses[k])
            k = self.parents[k]
        return out[::-1]


class _Growth(NamedTuple):
    """What became of a tree. number: of the new pose, or of the nearest one; arrived: at the pose that was
    aimed at; grew: whether there is a new pose worth its while."""

    number: int
    arrived: bool
    grew: bool


def _extended(task: WayOutTask, tree: _Tree, towards: Pose, stride: float, found: WayOutSearch) -> _Growth:
    """Grow a tree towards a pose by at most a stride, sliding along what is met."""
    k = tree.nearest(towards)
    here = tree.poses[k]
    left, met = stride, False
    for slide in range(SLIDES):
        stretch = Stretch(task, here, towards)
        whole = stretch.whole
        if whole > left:
            stretch = Stretch(task, here, stretch.at(left / whole))
        share, near = proved(stretch, found)
        if near is not None:
            found.blocked[near.a, near.b] += 1
        gone = share * min(whole, left)
        if gone > 0.5:
            here = stretch.at(share)
            k = tree.add(here, k)
            left -= gone
            met = slide == 0 and share >= 1.0 and whole <= stride
        if share >= 1.0 or near is None or left < 2.0:
            break
        towards = _slid(task, here, towards, near)
    return _Growth(k, met, k == len(tree.poses) - 1 and left < stride - 2.0)


def _slid(task: WayOutTask, here: Pose, towards: Pose, near: Nearest) -> Pose:
    """The pose to go to from ``here``: the way to the aim less its component into what is near."""
    _, move, axis, angle = span(task, here, towards)
    lever = 0.5 * task.radius
    q = np.concatenate([move, axis * angle * lever])
    row = np.concatenate([near.way, crosses(near.on_a - here.points(task.about), near.way) / lever])
    row /= np.linalg.norm(row)
    q = q - (min(float(q @ row), 0.0) - OFF) * row
    size = float(np.linalg.norm(q[3:])) / lever
    rotation = (rotation_about(q[3:], size) if size > 1e-9 else np.eye(3)) @ here.rotation
    return Pose(rotation, here.points(task.about) + q[:3] - rotation @ task.about)


def way_out(
    task: WayOutTask,
    seed: int = 0,
    looks: int = LOOKS,
    told: Callable[[str], None] | None = None,
    guides: Sequence[Pose] = (),
) -> WayOutSearch:
    """One attempt at a way, with at most so many looks at distances. Looks are counted and not timed, so the
    answer depends on the task and the seed only. ``guides`` are poses tried first. told(words) may raise to
    stop it."""
    found = WayOutSearch()
    rng = np.random.default_rng(seed)
    d, near = _look(task, task.start, found)
    if d <= task.air or _look(task, task.goal, found)[0] <= task.air:
        if near is not None:
            found.blocked[near.a, near.b] += 1
        return found
    trees = [_Tree(task.start, task), _Tree(task.goal, task)]
    queue = list(guides)
    turn = 0
    while found.checks < looks:
        if told is not None:
            told(f"Looking for a way out, {len(trees[0].poses)} places reached")
        a, b = trees[turn], trees[1 - turn]
        target = queue.pop(0) if queue and turn == 0 else _sample(task, rng, a, trees[1 - turn].poses[0])
        k, _, grew = _extended(task, a, target, STRIDE if turn else 1.5 * STRIDE, found)
        nearest_yet = np.inf
        while grew:
            m, met, grew = _extended(task, b, a.poses[k], 4 * STRIDE, found)
            if met:
                one, two = a.branch(k), b.branch(m)
                path = one + two[-2::-1] if turn == 0 else two + one[-2::-1]
                found.path = _shortened(task, path, rng, found)
                return found
            left = span(task, b.poses[m], a.poses[k]).most
            grew, nearest_yet = grew and left < nearest_yet - 5.0, min(left, nearest_yet)
        turn = 1 - turn
    return found


def _sample(task: WayOutTask, rng: np.random.Generator, tree: _Tree, other_root: Pose) -> Pose:
    """Somewhere in the box of samples; now and then the other end itself, or beside a place already
    reached; tilts mostly small."""
    luck = rng.random()
    if luck < 0.15:
        return other_root
    if luck < 0.4:
        base = tree.poses[int(rng.integers(max(0, len(tree.poses) - 12), len(tree.poses)))]
        return base.moved(rng.normal(0, 45.0, 3), rng.normal(0, 0.09, 3), base.points(task.about))
    x = task.low + rng.random(6) * (task.high - task.low)
    x[3:] *= rng.random(3) ** 0.7
    r = (
        rotation_about((0, 0, 1), np.radians(x[5]))
        @ rotation_about((0, 1, 0), np.radians(-x[4]))
        @ rotation_about((1, 0, 0), np.radians(x[3]))
        @ task.start.rotation
    )
    return Pose(r, x[:3] - r @ task.about)


def _shortened(
    task: WayOutTask, path: list[Pose], rng: np.random.Generator, found: WayOutSearch, tries: int = 120
) -> list[Pose]:
    """Straight stretches put in the place of detours."""
    path = list(path)
    for _ in range(tries):
        if len(path) < 3:
            break
        i, j = sorted(rng.choice(len(path), 2, replace=False).tolist())
        if j - i > 1:
            stretch = Stretch(task, path[i], path[j])
            if hopeful(stretch, found) and proved(stretch, found)[0] >= 1.0:
                path = path[: i + 1] + path[j:]
    return path


@dataclass(frozen=True, eq=False)
class Moment:
    """One picture of the film: the pose, how far along (0 to 1), what is nearest and how near, mm."""

    pose: Pose
    at: float
    gap: float
    pair: tuple[int, int] | None


def film(task: WayOutTask, path: Sequence[Pose], step: float = 12.0) -> list[Moment]:
    """The path in even steps, each measured exactly."""
    lengths = [span(task, a, b).most for a, b in zip(path, path[1:], strict=False)]
    whole = max(sum(lengths), 1e-9)
    out: list[Moment] = []
    gone = 0.0
    for a, b, length in zip(path, path[1:], lengths, strict=False):
        n = max(1, int(np.ceil(length / step)))
        for k in range(n + (b is path[-1])):
            pose = between(task, a, b, k / n)
            d, near = clearance(task.moving, pose, task.fixed, 4 * LOOK)
            out.append(
                Moment(pose, (gone + length * k / n) / whole, d, None if near is None else (near.a, near.b))
            )
        gone += length
    return out
