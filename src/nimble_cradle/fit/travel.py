"""Items that move with the wheels or the steering: where they stand along their travel, and the least gap
through all of it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property, partial
from itertools import product

import numpy as np
from numpy.typing import NDArray

from nimble_cradle.bay.bodies import solid_of, standing_items
from nimble_cradle.fit.part_travel import PartTravel, part_travel
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.courses import Places, Track
from nimble_cradle.geometry.distance import Nearest, nearest
from nimble_cradle.geometry.least_through import Asked, Closest, least_between
from nimble_cradle.geometry.pose import Array, Pose, rotation_about
from nimble_cradle.geometry.solids import MeshPart
from nimble_cradle.job.from_points import Follows, Motion, Slide, Swing
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered

MISSED = 0.2
"""A nearest approach may be missed by this much, mm: no tape measures closer."""
DEEP, DEEP_SHARE = 50.0, 0.04
"""How deep things are in one another through travel is found to within a twenty-fifth of it more, and beyond
DEEP mm to a quarter of what is beyond: something stands in the wrong place then, and how wrong to the
millimetre is nobody's question."""
_FIRST = 3
"""Places of a travel that are looked at first where a mesh is measured: both ends and the middle."""
STATIONS, ON_EDGE = 9, 4
"""Stations of a travel at which planes are tried first; stretches of each edge of travel and lock."""


@dataclass(frozen=True, eq=False)
class MovingItem:
    """An item with its motion: its number among the standing items, its solids, the most its surface moves
    per degree or mm, least and most of that (span), and where it is at each (pose). follows: the part of a
    suspension that it goes with."""

    column: int
    name: str
    motion: Motion
    bodies: Bodies
    speed: float
    span: tuple[float, float]
    pose: Callable[[float], Pose]
    follows: PartTravel | None = None
    _along: dict[tuple[float, ...], Track] = field(default_factory=dict)

    def words(self, at: float) -> str:
        """Where it is on its travel, in words."""
        if self.follows is not None and self.follows.steered is not None:
            return steered_words(*self.follows.stop(at))
        return travel_words(self.motion, at)

    @property
    def rises(self) -> tuple[float, float]:
        """The part of its travel on which it goes from its lowest to its highest."""
        return self.span if self.follows is None else self.follows.rises

    @cached_property
    def ends(self) -> tuple[float, ...]:
        """Places of its travel at which it turns back or another way."""
        return self.span if self.follows is None else self.follows.bends

    @cached_property
    def track(self) -> Track:
        """Its stations, ride height and all that it turns another way at among them."""
        stops = np.linspace(*self.rises, STATIONS)
        more = [at for at in self.ends if at > stops[-1]]
        for at in more:
            stops = np.append(stops, np.linspace(stops[-1], at, ON_EDGE + 1)[1:])
        if self.span[0] < 0.0 < self.span[1] and np.abs(stops).min() > 1e-9:
            stops = np.sort([*stops, 0.0])
        return Track(tuple(stops.tolist()), self.pose, self._corners, self.speed)

    @cached_property
    def _corners(self) -> Array:
        points = np.vstack([part.triangles[0] for part in self.bodies.parts])
        return np.array(list(product(*zip(points.min(0), points.max(0), strict=True))))

    def along(self, stops: tuple[float, ...], first: float, last: float) -> Track:
        """Its stations where something else goes along ``stops`` (n,), at the ends of which this is at
        ``first`` and ``last`` of its own travel."""
        key = (*stops, first, last)
        if key not in self._along:
            low, rate = stops[0], (last - first) / (stops[-1] - stops[0])

            def at(t: float) -> Pose:
                return self.pose(first + (t - low) * rate)

            self._along[key] = Track(stops, at, self._corners, self.speed * abs(rate))
        return self._along[key]

    @cached_property
    def of_mesh(self) -> bool:
        """Whether it has a mesh in it."""
        return bool(of_meshes(self.bodies).any())

    @cached_property
    def farthest(self) -> float:
        """The most that its surface moves from where it stands, mm."""
        if self.follows is not None and self.follows.steered is not None:
            return self.follows.farthest(self._corners)
        return self.speed * max(-self.span[0], self.span[1])


def motion_pose(motion: Swing | Slide, at: float) -> Pose:
    """Where the item goes for ``at`` (degrees or mm from ride height), as a pose in the vehicle frame."""
    if isinstance(motion, Swing):
        rotation = rotation_about(motion.axis, np.radians(at)) if at else np.eye(3)
        about = np.asarray(motion.about)
        return Pose(rotation, about - rotation @ about)
    along = np.asarray(motion.along) / np.linalg.norm(motion.along)
    return Pose(np.eye(3), at * along)


def steered_words(up: float, rack: float) -> str:
    """``the wheel 40 mm up, the rack 60 mm to the left``."""
    told = [f"the wheel {abs(up):.0f} mm {'up' if up > 0 else 'down'}"] if abs(up) > 0.5 else []
    told += (
        [f"the rack {abs(rack):.0f} mm to the {'left' if rack > 0 else 'right'}"] if abs(rack) > 0.5 else []
    )
    return ", ".join(told) or "at ride height"


def travel_words(motion: Motion, at: float) -> str:
    """``swung 6.5 deg one way``, ``slid 12 mm along its line`` or ``at ride height``; the ways are named
    as where they are typed."""
    if abs(at) < 1e-9:
        return "at ride height"
    if isinstance(motion, Follows):
        return f"the wheel {abs(at):.0f} mm {'up' if at > 0 else 'down'}"
    if isinstance(motion, Swing):
        return f"swung {abs(at):.1f} deg {'the other way' if at > 0 else 'one way'}"
    return f"slid {abs(at):.0f} mm {'along' if at > 0 else 'against'} its line"


@remembered("items", "survey", "meshes", "suspensions", "vehicle", "openings")
def moving_items(job: Job) -> tuple[MovingItem, ...]:
    """All standing items that move. Raises JobError."""
    out = []
    for column, item in enumerate(standing_items(job)):
        if item.motion is None:
            continue
        parts = solid_of(item, job.meshes, "items")
        points = np.vstack([part.triangles[0] for part in parts])
        motion, speed = item.motion, 1.0
        if isinstance(motion, Follows):
            travel = part_travel(job, motion)
            row = column, item.name, motion, Bodies([parts]), travel.speed(points), travel.span, travel.pose
            out.append(MovingItem(*row, travel))
            continue
        if isinstance(motion, Swing):
            axis = np.asarray(motion.axis) / np.linalg.norm(motion.axis)
            arm = points - motion.about
            speed = float(np.linalg.norm(arm - np.outer(arm @ axis, axis), axis=1).max()) * np.pi / 180
            span = motion.least_deg, motion.most_deg
        else:
            span = motion.least_mm, motion.most_mm
        out.append(
            MovingItem(column, item.name, motion, Bodies([parts]), speed, span, partial(motion_pose, motion))
        )
    return tuple(out)


def least_through_travel(
    moving: Bodies, pose: Pose, item: MovingItem, reach: Array, known: dict[int, float] | None = None
) -> dict[int, tuple[Nearest, float]]:
    """The nearest approach of each moving body to an item through its travel, within MISSED mm: body ->
    (nearest, where on its travel). Overlaps are found less closely, see ``DEEP``.

    pose: of the moving bodies. reach: (count,) mm; what never comes nearer is left out, as is what cannot
    undercut ``known``.
    """
    rough = of_meshes(moving) | item.of_mesh
    wanted = [k for k in range(moving.count) if np.isfinite(reach[k]) and not rough[k]]
    asked = {(k, 0): Asked(min((known or {}).get(k, np.inf), float(reach[k]))) for k in wanted}
    found = {
        k: (nearest_of(near, k, item.column), near.at)
        for (k, _), near in least_through_cases(moving, [pose], item, asked).items()
    }
    if rough.any():
        found |= _by_halves(moving, pose, item, np.where(rough, reach, -np.inf), known)
    return found


def least_through_cases(
    moving: Bodies, poses: Sequence[Pose], item: MovingItem, asked: Mapping[tuple[int, int], Asked]
) -> dict[tuple[int, int], Closest]:
    """The same in several cases at once, for bodies without meshes: (body, 0) -> nearest of all cases."""
    return least_between(moving, Places(poses), item.bodies, item.track, asked, near_enough)


def nearest_of(near: Closest, a: int, b: int) -> Nearest:
    """A pair of two bodies by their numbers, as where they stand."""
    return Nearest(a, b, near.distance, near.on_a, near.on_b, near.way)


def of_meshes(bodies: Bodies) -> NDArray[np.bool_]:
    """(bodies,) which of them have a mesh in them."""
    out = np.zeros(bodies.count, dtype=bool)
    out[
        [k for k, part in zip(bodies.owner.tolist(), bodies.parts, strict=True) if isinstance(part, MeshPart)]
    ] = True
    return out


def _by_halves(
    moving: Bodies, pose: Pose, item: MovingItem, reach: Array, known: dict[int, float] | None
) -> dict[int, tuple[Nearest, float]]:
    """The same where there is a mesh: between two samples a gap cannot fall faster than the item's surface
    moves, so an interval is cut in half until nothing in it can be nearer than the least found by more than
    MISSED mm."""
    least, most = item.span
    limit = reach + min(item.speed * (most - least) / 2, 2 * item.farthest)
    # what is farther at both ends of half the travel is never within reach in it
    best = {k: min((known or {}).get(k, np.inf), float(reach[k])) for k in range(moving.count)}
    found: dict[int, tuple[Nearest, float]] = {}
    seen: dict[tuple[float, int], float] = {}

    def look(t: float, bodies: list[int]) -> None:
        """Measure some bodies at one place of the travel, keeping what is nearer than before."""
        new = [body for body in bodies if (t, body) not in seen]
        if not new:
            return
        within = np.full((moving.count, 1), -np.inf)
        within[new, 0] = limit[new]
        seen.update({(t, k): float(limit[k]) for k in new})
        shift = item.pose(t)
        for near in nearest(moving, shift.inverse() @ pose, item.bodies, within):
            seen[t, near.a] = near.distance
            if near.distance < best[near.a]:
                best[near.a] = near.distance
                on_a, on_b, way = shift.points(near.on_a), shift.points(near.on_b), shift.vectors(near.way)
                found[near.a] = Nearest(near.a, item.column, near.distance, on_a, on_b, way), t

    stops = sorted({0.0, *item.ends, *np.linspace(*item.rises, _FIRST).tolist()})
    every = [k for k in range(moving.count) if np.isfinite(limit[k])]
    todo = [(a, b, every) for a, b in zip(stops, stops[1:], strict=False)]
    while todo:
        a, b, bodies = todo.pop()
        look(a, bodies)
        look(b, bodies)
        slack = item.speed * (b - a)
        left = [
            body
            for body in bodies
            if (seen[a, body] + seen[b, body] - slack) / 2 < best[body] - near_enough(best[body])
        ]
        if left:
            todo += [(a, (a + b) / 2, left), ((a + b) / 2, b, left)]
    return found


def near_enough(distance: float) -> float:
    """To how much a least distance is found through travel, mm."""
    deep = max(0.0, -distance)
    return MISSED + DEEP_SHARE * deep + 0.25 * max(0.0, deep - DEEP)
