"""Convex parts that go through many places: the cases of one thing and the stations of a travel."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart, SolidPart


class Places:
    """Places (n) that a frame takes, in the outer frame: rotation (n, 3, 3), translation (n, 3)."""

    def __init__(self, poses: Sequence[Pose]) -> None:
        self.poses = tuple(poses)
        self.rotation = np.array([pose.rotation for pose in poses])
        self.translation = np.array([pose.translation for pose in poses])
        self._turn = np.ascontiguousarray(self.rotation.transpose(1, 0, 2)).reshape(3, -1)

    def reach(self, part: ConvexPart, ways: Array) -> Array:
        """(m, n) the greatest reach of a part of that frame along each of ways (m, 3) in each place."""
        local = (ways @ self._turn).reshape(-1, 3)
        return np.asarray(part.support(local).reshape(len(ways), -1) + ways @ self.translation.T)

    def boxes(self, centres: Array, axes: Array) -> tuple[Array, Array]:
        """Lower and upper corners (p, 3) of the upright boxes that hold each of p parts in all places;
        centres (p, 3) and half axes (p, 3, 3) of their own boxes, in the frame."""
        middle = np.einsum("kij,pj->kpi", self.rotation, centres) + self.translation[:, None]
        half = np.abs(np.einsum("kij,pjl->kpil", self.rotation, axes)).sum(3)
        return (middle - half).min(0), (middle + half).max(0)


class Course(Protocol):
    """One convex part in places of a table of (cases, stations). A table of one column or row holds for all
    of them."""

    @property
    def gone(self) -> Array:
        """(stations - 1,) mm that any point of it moves from one station to the next at most."""

    @property
    def bent(self) -> Array:
        """(stations - 1,) mm that any point of it leaves the chord from one station to the next by at
        most."""

    def reach(self, ways: Array) -> Array:
        """(m, cases or 1, stations or 1) the greatest reach along ways (m, 3)."""

    def at(self, case: int, station: int) -> tuple[ConvexPart, Pose]:
        """The part and where it is, to be measured."""

    def halved(self, k: int) -> Course:
        """With one more station half-way between k and k + 1."""


@dataclass(frozen=True, eq=False)
class Cased:
    """A part that is somewhere else in every case, wherever the travel is."""

    part: ConvexPart
    places: Places
    gone: Array
    bent: Array
    """Nought: the travel does not move it."""

    def reach(self, ways: Array) -> Array:
        """See ``Course``."""
        return self.places.reach(self.part, ways)[:, :, None]

    def at(self, case: int, station: int) -> tuple[ConvexPart, Pose]:
        """See ``Course``."""
        return self.part, self.places.poses[case if len(self.places.poses) > 1 else 0]

    def halved(self, k: int) -> Cased:
        """See ``Course``."""
        more = np.zeros(len(self.gone) + 1)
        return Cased(self.part, self.places, more, more)


def cased(part: SolidPart, places: Places, stations: int) -> Cased:
    """A part in every case, beside a travel of so many stations. Raises TypeError for a mesh."""
    still = np.zeros(stations - 1)
    return Cased(convex(part), places, still, still)


def convex(part: SolidPart) -> ConvexPart:
    """The part, which is none of a mesh: of those no plane can be told. Raises TypeError."""
    if not isinstance(part, ConvexPart):
        raise TypeError("a mesh has no course")
    return part


@dataclass(frozen=True, eq=False)
class Track:
    """Stations (n,) of a travel and where a frame is at each. pose: where it is at any. corners (8, 3) of
    what holds all that moves with it, in the frame; speed: the most that a point moves per unit of
    travel."""

    at: tuple[float, ...]
    pose: Callable[[float], Pose]
    corners: Array
    speed: float

    @cached_property
    def places(self) -> Places:
        """Where the frame is at each station."""
        return Places([self.pose(t) for t in self.at])

    @cached_property
    def gone(self) -> Array:
        """The most that any point moves from one station to the next, mm."""
        return self.speed * np.diff(self.at)

    @cached_property
    def bent(self) -> Array:
        """The most that any point leaves the straight line from one station to the next, mm: that of the
        corners half-way, and a tenth more."""
        ends = [pose.points(self.corners) for pose in self.places.poses]
        middles = [(a + b) / 2 for a, b in zip(self.at, self.at[1:], strict=False)]
        off = [
            self.pose(t).points(self.corners) - (one + two) / 2
            for t, one, two in zip(middles, ends, ends[1:], strict=False)
        ]
        return np.array([1.1 * float(np.sqrt((o**2).sum(1)).max()) for o in off])

    @cached_property
    def _halved(self) -> dict[int, Track]:
        return {}

    def halved(self, k: int) -> Track:
        """With one more station half-way between k and k + 1."""
        if k not in self._halved:
            middle = (self.at[k] + self.at[k + 1]) / 2
            stops = (*self.at[: k + 1], middle, *self.at[k + 1 :])
            child = Track(stops, self.pose, self.corners, self.speed)
            poses = self.places.poses
            child.__dict__["places"] = Places((*poses[: k + 1], self.pose(middle), *poses[k + 1 :]))
            child.__dict__["bent"] = halved_bends(self.bent, k)
            self._halved[k] = child
        return self._halved[k]


def halved_bends(bent: Array, k: int) -> Array:
    """What is left of ``Course.bent`` once stretch k is halved: half a way leaves its chord by a quarter of
    what the whole does; a third is taken."""
    return np.concatenate([bent[:k], np.full(2, bent[k] / 3.0), bent[k + 1 :]])


@dataclass(frozen=True, eq=False)
class Tracked:
    """A part of a frame that goes along a travel, the same in every case."""

    part: ConvexPart
    track: Track

    @property
    def gone(self) -> Array:
        """See ``Course``."""
        return self.track.gone

    @property
    def bent(self) -> Array:
        """See ``Course``."""
        return self.track.bent

    def reach(self, ways: Array) -> Array:
        """See ``Course``."""
        return self.track.places.reach(self.part, ways)[:, None, :]

    def at(self, case: int, station: int) -> tuple[ConvexPart, Pose]:
        """See ``Course``."""
        return self.part, self.track.places.poses[station]

    def halved(self, k: int) -> Tracked:
        """See ``Course``."""
        return Tracked(self.part, self.track.halved(k))
