"""An item of the bay that is a part of a suspension: where it is as the wheel rises, on the real linkage."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from itertools import product

import numpy as np

from nimble_cradle.fit.steering import SteeredPath, steered_paths
from nimble_cradle.fit.suspension import RACK_WAY, corner_linkage, corner_places, heights, places_of
from nimble_cradle.geometry.linkage import Linkage, Places, stepped
from nimble_cradle.geometry.pose import Array, Pose, cross, rotation_about, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.from_points import Follows
from nimble_cradle.job.job import Job
from nimble_cradle.job.suspension import Corner, LinkedAxle

STEERED = ("upright", "tie rod")
"""What goes with the steering; an arm stays but for a few mm."""
MARGIN = 1.1
"""Between two heights that are looked at nothing moves faster than the fastest of them by more than this."""


@dataclass(eq=False)
class PartTravel:
    """A part through the wheel's travel. corner, points: the linkage as it is after what is moved (mm,
    vehicle frame); rises: how far the wheel goes down and up, mm. steered: its way over travel and lock,
    where it goes with the steering and the rack's travel is said; up to the end of ``rises`` that is the
    wheel's height, straight ahead. up, laid: heights (stops,) close together, and the upright there."""

    corner: Corner
    part: str
    points: dict[str, Array]
    rises: tuple[float, float]
    up: Array
    laid: Places
    steered: SteeredPath | None = None
    _known: dict[float, Pose] = field(default_factory=dict)

    @property
    def span(self) -> tuple[float, float]:
        """Where its way begins and ends, mm."""
        return self.rises if self.steered is None else self.steered.span

    @property
    def bends(self) -> tuple[float, ...]:
        """Places of its way at which it turns another way: its ends, and the ends of travel and lock."""
        return self.rises if self.steered is None else tuple(self.steered.corners[:, 0].tolist())

    def stop(self, at: float) -> tuple[float, float]:
        """The wheel's height and the rack's place at a place of the way, mm."""
        if self.steered is None:
            return at, 0.0
        up, rack = self.steered.stop(at).tolist()
        return up, rack

    def pose(self, at: float) -> Pose:
        """Where it is at a place of its way."""
        key = round(float(np.clip(at, *self.span)), 9)
        if key not in self._known and self.steered is not None:
            self._known[key] = self._with(self.steered.upright(key), self.stop(key)[1])
        elif key not in self._known:
            # from the nearest that is known, so that it cannot fall over to its other side
            k = int(np.abs(self.up - key).argmin())
            begin = self.laid.rotation[0, k], self.laid.translation[0, k]
            r, t, _ = stepped(self._linkage, np.array([key]), begin)
            self._known[key] = self._straight(r, t)
        return self._known[key]

    @cached_property
    def _linkage(self) -> Linkage:
        return corner_linkage(self.corner, self.points)

    def _straight(self, r: Array, t: Array) -> Pose:
        """The part's pose with the upright turned by r (3, 3) and moved by t (3,), straight ahead."""
        centre = self.laid.centre[0]
        return self._with(Pose(r, centre + t - r @ centre), 0.0)

    def _with(self, upright: Pose, rack: float) -> Pose:
        """The part's pose with the upright somewhere and the rack so far to the left, mm."""
        p = self.points

        def there(key: str) -> Array:
            return upright.points(p[key])

        if self.part == "upright":
            return upright
        if self.part == "tie rod":
            inner = p["rod_inner"] + rack * RACK_WAY
            was, now = unit(p["rod_outer"] - p["rod_inner"]), unit(there("rod_outer") - inner)
            over = cross(was, now)
            turn = float(np.arctan2(np.linalg.norm(over), was @ now))
            r = rotation_about(over, turn) if turn > 1e-12 else np.eye(3)
            return Pose(r, inner - r @ p["rod_inner"])
        arm = self.part.split()[0]
        front, axis = p[f"{arm}_front"], unit(p[f"{arm}_rear"] - p[f"{arm}_front"])

        def square(at: Array) -> Array:
            by = at - front
            return np.asarray(by - (by @ axis) * axis)

        was, now = square(p[f"{arm}_ball"]), square(there(f"{arm}_ball"))
        r = rotation_about(axis, float(np.arctan2(cross(was, now) @ axis, was @ now)))
        return Pose(r, front - r @ front)

    def speed(self, points: Array) -> float:
        """The most that any of points (n, 3) moves per mm of its way."""
        corners = np.array(list(product(*zip(points.min(0), points.max(0), strict=True))))
        if self.steered is None:
            up, found = self.up, (self.laid.rotation[0], self.laid.translation[0])
            poses = [self._straight(r, t) for r, t in zip(*found, strict=True)]
        else:
            up = self.steered.laid_at
            poses = [self.pose(at) for at in up]
        at = np.array([pose.points(corners) for pose in poses])
        gone = np.linalg.norm(np.diff(at, axis=0), axis=2).max(1)
        return MARGIN * float((gone / np.diff(up)).max())

    def farthest(self, points: Array) -> float:
        """The most that any of points (n, 3) is from where it is at ride, mm."""
        corners = np.array(list(product(*zip(points.min(0), points.max(0), strict=True))))
        at = self.up if self.steered is None else self.steered.laid_at
        gone = [np.linalg.norm(self.pose(a).points(corners) - corners, axis=1).max() for a in at]
        return float(MARGIN * max(gone))


def part_travel(job: Job, motion: Follows) -> PartTravel:
    """Raises JobError where it cannot be worked out: no such part, a linkage that topples within the
    travel."""
    one = next((s for s in job.suspensions if s.id == motion.suspension), None)
    if one is None or isinstance(one, LinkedAxle):
        raise JobError("It goes with a suspension of a wheel that is not there.", "suspensions")
    if motion.part == "upper arm" and one.kind == "strut":
        raise JobError(f"{one.name} has no upper arm: it is a strut.", f"suspensions/{one.id}")
    up = heights(job)
    places = corner_places(job, one, up)
    if not places.met.all():
        reached = up[places.met[0]]
        said = (
            f"{one.name}: its linkage topples over {reached.min():.0f} to {reached.max():+.0f} mm from ride"
        )
        raise JobError(f"{said}; look at its points.", f"suspensions/{one.id}/wheel/at")
    after, ends = places_of(job, one)[1], (float(up[0]), float(up[-1]))
    steered = steered_paths(job).get(one.id, (None, None))[1] if motion.part in STEERED else None
    return PartTravel(one, motion.part, after, ends, up, places, steered)
