"""Items that move with the wheels or the steering: where they stand along their travel, and the least gap
through all of it.

Between two samples a gap cannot fall faster than the item's surface moves, so an interval is cut in half
until nothing in it can be nearer than the least found by more than ``MISSED`` mm.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.fit.bodies import solid_of, standing_items
from nimble_cradle.geometry.distance import Bodies, Nearest, nearest
from nimble_cradle.geometry.pose import Array, Pose, rotation_about
from nimble_cradle.job.job import Job
from nimble_cradle.job.recipes import Motion, Swing
from nimble_cradle.job.remember import remembered

MISSED = 0.2
_FIRST = 3


@dataclass(frozen=True, eq=False)
class MovingItem:
    """An item with its motion: its number among the standing items, its solids, and the most its surface
    moves per degree or mm."""

    column: int
    name: str
    motion: Motion
    bodies: Bodies
    speed: float

    @property
    def span(self) -> tuple[float, float]:
        """Least and most, degrees or mm."""
        m = self.motion
        return (m.least_deg, m.most_deg) if isinstance(m, Swing) else (m.least_mm, m.most_mm)

    @property
    def farthest(self) -> float:
        """The most that its surface moves from where it stands, mm."""
        return self.speed * max(-self.span[0], self.span[1])


def motion_pose(motion: Motion, at: float) -> Pose:
    """Where the item goes for ``at`` (degrees or mm from ride height), as a pose in the vehicle frame."""
    if isinstance(motion, Swing):
        rotation = rotation_about(motion.axis, np.radians(at)) if at else np.eye(3)
        about = np.asarray(motion.about)
        return Pose(rotation, about - rotation @ about)
    along = np.asarray(motion.along) / np.linalg.norm(motion.along)
    return Pose(np.eye(3), at * along)


def travel_words(motion: Motion, at: float) -> str:
    """``swung 6.5 deg one way``, ``slid 12 mm along its line`` or ``at ride height``; the ways are named
    as where they are typed."""
    if abs(at) < 1e-9:
        return "at ride height"
    if isinstance(motion, Swing):
        return f"swung {abs(at):.1f} deg {'the other way' if at > 0 else 'one way'}"
    return f"slid {abs(at):.0f} mm {'along' if at > 0 else 'against'} its line"


@remembered("items", "survey", "meshes")
def moving_items(job: Job) -> tuple[MovingItem, ...]:
    """All standing items that move. Raises JobError."""
    out = []
    for column, item in enumerate(standing_items(job)):
        if item.motion is None:
            continue
        parts = solid_of(item, job.meshes, "items")
        points = np.vstack([p.triangles[0] for p in parts])
        speed = 1.0
        if isinstance(item.motion, Swing):
            axis = np.asarray(item.motion.axis) / np.linalg.norm(item.motion.axis)
            arm = points - item.motion.about
            speed = float(np.linalg.norm(arm - np.outer(arm @ axis, axis), axis=1).max()) * np.pi / 180
        out.append(MovingItem(column, item.name, item.motion, Bodies([parts]), speed))
    return tuple(out)


def least_through_travel(
    moving: Bodies, pose: Pose, item: MovingItem, reach: Array, known: dict[int, float] | None = None
) -> dict[int, tuple[Nearest, float]]:
    """The nearest approach of each moving body to an item through its travel, within MISSED mm: body ->
    (nearest, where on its travel).

    pose: of the moving bodies. reach: (count,) mm; what never comes nearer is left out, as is what cannot
    undercut ``known``.
    """
    least, most = item.span
    limit = (
        reach[:, None] + item.speed * (most - least) / 2
    )  # what is farther at both ends of half the travel is never within reach in it
    best: dict[int, float] = dict(known or {})
    found: dict[int, tuple[Nearest, float]] = {}
    seen: dict[float, dict[int, float]] = {}

    def look(t: float) -> dict[int, float]:
        """Distances at one place of the travel, keeping what is nearer than before."""
        if t not in seen:
            shift = motion_pose(item.motion, t)
            values = {}
            for n in nearest(moving, shift.inverse() @ pose, item.bodies, limit):
                values[n.a] = n.distance
                if n.distance < best.get(n.a, float(reach[n.a])):
                    best[n.a] = n.distance
                    found[n.a] = (
                        Nearest(
                            n.a,
                            item.column,
                            n.distance,
                            shift.points(n.on_a),
                            shift.points(n.on_b),
                            shift.vectors(n.way),
                        ),
                        t,
                    )
            seen[t] = values
        return seen[t]

    stops = sorted({0.0, *np.linspace(least, most, _FIRST).tolist()})
    todo = list(zip(stops, stops[1:], strict=False))
    while todo:
        a, b = todo.pop()
        at_a, at_b = look(a), look(b)
        slack = item.speed * (b - a)
        for k in range(moving.count):
            d = at_a.get(k, float(limit[k, 0])) + at_b.get(k, float(limit[k, 0]))
            if (d - slack) / 2 < min(best.get(k, float(reach[k])), float(reach[k])) - MISSED:
                todo += [(a, (a + b) / 2), ((a + b) / 2, b)]
                break
    return found
