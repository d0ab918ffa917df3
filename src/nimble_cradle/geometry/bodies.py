"""Bodies that can be measured from one another."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property
from typing import NamedTuple
from weakref import WeakKeyDictionary

import fcl
import numpy as np

from nimble_cradle.geometry.cylinder import BAR_SIDES, cylinder
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.reaches import Reaches
from nimble_cradle.geometry.solids import ConvexPart, MeshPart, SolidPart

_SHAPES: WeakKeyDictionary[SolidPart, fcl.CollisionGeometry] = WeakKeyDictionary()
_INDEXES: WeakKeyDictionary[SolidPart, fcl.CollisionGeometry] = WeakKeyDictionary()
"""Measuring shapes, shared by every set that a part is in: the solid itself, and its triangles."""
ROUND_WITHIN = 0.02
"""Where a round bar is measured as a mesh, its surface is within so many mm of the true one, half outside
and half inside."""
HERE = Pose.still()


class Sheets(NamedTuple):
    """Boxes that lie as meshes do, which are mostly sheets: numbers (m,) of the parts, axes (m, 3, 3) rows,
    least and most (m, 3) along them."""

    parts: np.ndarray
    axes: Array
    low: Array
    high: Array


_LAID: WeakKeyDictionary[SolidPart, tuple[Array, Array, Array]] = WeakKeyDictionary()


def _laid(part: SolidPart) -> tuple[Array, Array, Array]:
    """Axes (3, 3) of how a mesh lies, rows, the least and the most (3,) along them."""
    if part not in _LAID:
        v = part.triangles[0]
        axes = np.linalg.eigh(np.cov(v.T))[1].T if len(v) > 3 else np.eye(3)
        along = v @ axes.T
        _LAID[part] = axes, along.min(0), along.max(0)
    return _LAID[part]


class Bodies:
    """A set of bodies, each one or more parts, ready for measuring. Parts of a body move together; a
    part's measuring object is made when it is first near something."""

    def __init__(self, bodies: Sequence[Sequence[SolidPart]]) -> None:
        self.parts: list[SolidPart] = [part for body in bodies for part in body]
        self.owner = np.array([i for i, body in enumerate(bodies) for _ in body], dtype=np.int64)
        self.count = len(bodies)
        boxes = [_reach_box(part) for part in self.parts]
        self.for_whole = np.array([isinstance(p, MeshPart) and p.for_whole for p in self.parts], dtype=bool)
        poses = [part.pose if isinstance(part, ConvexPart) else Pose.still() for part in self.parts]
        self.centres = np.array([pose.points(c) for pose, (c, _) in zip(poses, boxes, strict=True)]).reshape(
            -1, 3
        )
        self.axes = np.array([pose.rotation * h for pose, (_, h) in zip(poses, boxes, strict=True)]).reshape(
            -1, 3, 3
        )
        self._objects: list[fcl.CollisionObject | None] = [None] * len(self.parts)
        self._meshes: list[fcl.CollisionObject | None] = [None] * len(self.parts)
        self._pose: Pose | None = None
        self.memories: WeakKeyDictionary[Bodies, Memory] = WeakKeyDictionary()

    @cached_property
    def arms(self) -> Array:
        """(parts,) mm from the middle of each part's box to its corners."""
        return np.asarray(np.sqrt((self.axes**2).sum((1, 2))))

    @cached_property
    def are_meshes(self) -> list[bool]:
        """Which parts are meshes."""
        return [isinstance(part, MeshPart) for part in self.parts]

    @cached_property
    def reaches(self) -> Reaches:
        """Where its parts reach farthest."""
        return Reaches(self.parts)

    @cached_property
    def sheets(self) -> Sheets:
        """Boxes that lie as its meshes do; not of those that answer for a whole one."""
        rows = [k for k, part in enumerate(self.parts) if isinstance(part, MeshPart) and not part.for_whole]
        found = [_laid(self.parts[k]) for k in rows]
        return Sheets(
            np.array(rows, dtype=np.int64),
            np.array([axes for axes, _, _ in found]).reshape(-1, 3, 3),
            np.array([low for _, low, _ in found]).reshape(-1, 3),
            np.array([high for _, _, high in found]).reshape(-1, 3),
        )

    def boxes(self, pose: Pose) -> tuple[Array, Array]:
        """Centres and half sizes (n, 3) of the upright boxes that hold each part when the set stands at
        ``pose``."""
        return pose.points(self.centres), np.abs(pose.rotation @ self.axes).sum(2)

    def stand_at(self, pose: Pose) -> None:
        """Move the measuring objects to ``pose``; parts seen as meshes follow when they are asked for."""
        if self._pose is pose:
            return
        self._pose = pose
        self._placed = [False] * len(self.parts)
        self._placed_mesh = [False] * len(self.parts)

    def object(self, i: int) -> fcl.CollisionObject:
        """The exact solid of part i where the set stands."""
        part = self.parts[i]
        if isinstance(part, MeshPart):
            return self.mesh_object(i)
        o = self._objects[i]
        if o is None:
            o = self._objects[i] = _fcl_object(part)
        if not self._placed[i]:
            assert self._pose is not None
            at = self._pose @ part.pose
            o.setTransform(fcl.Transform(at.rotation, at.translation))
            self._placed[i] = True
        return o

    def mesh_object(self, i: int) -> fcl.CollisionObject:
        """Part i as a triangle mesh, for pairs with a mesh in them."""
        o = self._meshes[i]
        if o is None:
            part = self.parts[i]
            if part not in _INDEXES:
                mesh = part.triangles if isinstance(part, MeshPart) else measured_mesh(part)
                flat = isinstance(part, ConvexPart) and part.kind != "bar"
                _INDEXES[part] = _bvh(*(split(*mesh) if flat else mesh))
            o = self._meshes[i] = fcl.CollisionObject(_INDEXES[part], fcl.Transform())
        if not self._placed_mesh[i]:
            assert self._pose is not None
            o.setTransform(fcl.Transform(self._pose.rotation, self._pose.translation))
            self._placed_mesh[i] = True
        return o


def together(sets: Sequence[Bodies]) -> Bodies:
    """The bodies of several sets as one, in their order."""
    return Bodies(
        [
            [part for part, owner in zip(some.parts, some.owner.tolist(), strict=True) if owner == k]
            for some in sets
            for k in range(some.count)
        ]
    )


def _reach_box(part: SolidPart) -> tuple[Array, Array]:
    """Centre and half size of the box within which a part has something to say: a cell that answers for
    its whole mesh, the whole mesh's."""
    if isinstance(part, MeshPart) and part.for_whole and part.whole is not None:
        return part.whole.box
    return part.box


def measured_mesh(part: ConvexPart) -> tuple[Array, np.ndarray]:
    """A convex part as triangles, owner's frame; a bar with as many sides as it takes to be round within
    ROUND_WITHIN."""
    if part.kind != "bar":
        return part.triangles
    radius, length = part.size
    sides = max(BAR_SIDES, math.ceil(math.pi / math.sqrt(4 * ROUND_WITHIN / radius)))
    middle = 2 * radius / (1 + math.cos(math.pi / sides))
    vertices, faces = cylinder(middle, length, sides)
    return part.pose.points(vertices), faces


SPLIT = 60.0
"""Triangles that meshes are measured from are no longer, mm: boxes round long ones hold much that is not near
(of boxes against cells of a scan three quarters to a half of the time)."""


def split(vertices: Array, triangles: np.ndarray) -> tuple[Array, np.ndarray]:
    """The same surface in triangles none of whose edges is longer than SPLIT: each halved at the middle of
    its longest edge until none is."""
    corners = vertices[triangles]
    done = []
    while len(corners):
        edges = np.roll(corners, -1, axis=1) - corners
        long = (edges**2).sum(2)
        longest = long.argmax(1)
        rows = np.arange(len(corners))
        short = long[rows, longest] <= SPLIT**2
        done.append(corners[short])
        rows, longest, corners = rows[~short], longest[~short], corners[~short]
        rows = np.arange(len(corners))
        a, b, c = (corners[rows, (longest + k) % 3] for k in range(3))
        middle = (a + b) / 2
        corners = np.concatenate([np.stack([a, middle, c], 1), np.stack([middle, b, c], 1)])
    flat = np.concatenate(done).reshape(-1, 3)
    return flat, np.arange(len(flat)).reshape(-1, 3)


def _bvh(vertices: Array, triangles: np.ndarray) -> fcl.BVHModel:
    model = fcl.BVHModel()
    model.beginModel(len(vertices), len(triangles))
    model.addSubModel(np.ascontiguousarray(vertices), np.ascontiguousarray(triangles))
    model.endModel()
    return model


def _fcl_object(part: ConvexPart) -> fcl.CollisionObject:
    if part not in _SHAPES:
        _SHAPES[part] = _fcl_shape(part)
    return fcl.CollisionObject(_SHAPES[part], fcl.Transform())


def collision_object(part: ConvexPart, pose: Pose) -> fcl.CollisionObject:
    """A convex part to be measured once where its owner's frame is at ``pose``."""
    if part not in _SHAPES:
        _SHAPES[part] = _fcl_shape(part)
    at = pose @ part.pose
    return fcl.CollisionObject(_SHAPES[part], fcl.Transform(at.rotation, at.translation))


def _fcl_shape(part: ConvexPart) -> fcl.CollisionGeometry:
    if part.kind == "box":
        shape: fcl.CollisionGeometry = fcl.Box(*part.size)
    elif part.kind == "bar":
        shape = fcl.Cylinder(*part.size)
    else:
        v, t = part.local
        shape = fcl.Convex(v, len(t), np.column_stack([np.full(len(t), 3), t]).ravel())
    return shape


def stepped(arms: Array, before: Pose, after: Pose, centres: Array) -> Array:
    """What any point of a part can have moved at most (n,), mm, from one pose of its set to another. arms:
    (n,) mm from the middles ``centres`` (n, 3) of the parts, the set's own frame, to their corners."""
    turn = float(np.sqrt(((after.rotation - before.rotation) ** 2).sum() / 2))
    step = after.points(centres) - before.points(centres)
    return np.asarray(np.sqrt((step**2).sum(1)) + turn * arms + 1e-6)  # no vector turns by more of its length


class Memory:
    """Bounds under the distances of all pairs of parts of two sets, from when they were last measured: a
    part that was d away is still d less what its corners have moved since. at_least: (parts of moving,
    parts of fixed), mm."""

    def __init__(self, moving: Bodies, fixed: Bodies) -> None:
        self.at_least = np.full((len(moving.parts), len(fixed.parts)), -np.inf)
        self.fixed_boxes = fixed.boxes(HERE)
        self.arms, self.centres = moving.arms, moving.centres
        self.pose: Pose | None = None
        self.asked_anew = moving.for_whole[:, None] | fixed.for_whole[None]

    def note(self, i: int, j: int, distance: float) -> None:
        """A pair was measured. A cell that answers for its whole mesh is asked again every time: its own
        surface may be far from what is inside the whole."""
        if not self.asked_anew[i, j]:
            self.at_least[i, j] = distance

    def move_to(self, pose: Pose) -> None:
        """The moving set stands at a pose: what was known is worth so much less."""
        if self.pose is not None:
            self.at_least -= stepped(self.arms, self.pose, pose, self.centres)[:, None]
        self.pose = pose
