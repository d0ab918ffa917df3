"""A shaft or rod through the wheels' travel in several cases of the engine: its bars, to be measured."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from nimble_cradle.fit.links import FAN, Link
from nimble_cradle.geometry.bodies import measured_mesh
from nimble_cradle.geometry.courses import Track, halved_bends
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solid_makers import bar, hull
from nimble_cradle.geometry.solids import ConvexPart

STATIONS = 17
"""Stations of the wheels' travel at which planes are tried first."""
SHORT = 2.0
"""A link no longer than this, mm, has no solid."""


@dataclass(frozen=True, eq=False)
class Ends:
    """Where both ends of a link are: starts (cases, 3) as the engine stands, far (stations, 3) as the wheels
    do; stops: of the stations, mm up from ride height."""

    link: Link
    starts: Array
    stops: tuple[float, ...]

    @cached_property
    def far(self) -> Array:
        """(stations, 3)"""
        still = Pose.still()
        return np.array([self.link.ends(still, t)[1] for t in self.stops])

    @cached_property
    def long(self) -> Array:
        """(cases, stations) mm between the ends."""
        away = self.far[None] - self.starts[:, None]
        return np.asarray(np.maximum(np.sqrt((away**2).sum(2)), 1e-9))

    @cached_property
    def way(self) -> Array:
        """(cases, stations, 3) from the start to the far end."""
        return np.asarray((self.far[None] - self.starts[:, None]) / self.long[:, :, None])

    @cached_property
    def into(self) -> Array:
        """(cases, stations) mm that its joints are long."""
        return np.minimum(self.link.joint_long, 0.5 * self.long)

    def stations(self, first: int, last: int) -> Ends:
        """With some of the stations only."""
        return Ends(self.link, self.starts, self.stops[first : last + 1])

    def halved(self, k: int) -> Ends:
        """With one more station half-way between k and k + 1."""
        middle = (self.stops[k] + self.stops[k + 1]) / 2
        return Ends(self.link, self.starts, (*self.stops[: k + 1], middle, *self.stops[k + 1 :]))

    @cached_property
    def steps(self) -> tuple[Array, Array]:
        """(stations - 1,) twice: mm that a point of its surface moves from one station to the next at most,
        and leaves the straight line by at most."""
        size = max(self.link.joint, self.link.outside) / 2
        moved = np.sqrt((np.diff(self.far, axis=0) ** 2).sum(1))
        turned = moved / self.long.min(0)[:-1].clip(min=1.0)
        middles = [(a + b) / 2 for a, b in zip(self.stops, self.stops[1:], strict=False)]
        half = Ends(self.link, self.starts, tuple(middles)).far if middles else self.far[:0]
        off = np.sqrt(((half - (self.far[:-1] + self.far[1:]) / 2) ** 2).sum(1))
        reach = self.link.joint_long + size
        return moved + reach * turned, 1.1 * off + reach * turned**2 / 8


@dataclass(frozen=True, eq=False)
class BarCourse:
    """One of a link's bars: ``shaft`` between its joints, ``first`` or ``last`` joint."""

    ends: Ends
    which: str

    @cached_property
    def axis(self) -> tuple[Array, Array]:
        """Both ends of its axis, (cases, stations, 3) each."""
        e = self.ends
        start, far = (
            np.broadcast_to(e.starts[:, None], e.way.shape),
            np.broadcast_to(e.far[None], e.way.shape),
        )
        step = e.into[:, :, None] * e.way
        if self.which == "first":
            return start, start + step
        if self.which == "last":
            return far - step, far
        # where two joints meet there is no shaft between: then it is a thin disc in them
        short = (0.5 * e.long - 0.05)[:, :, None]
        step = np.minimum(e.into[:, :, None], short) * e.way
        return start + step, far - step

    @cached_property
    def _lines(self) -> Array:
        """(3 x cases x stations, 3) both ends of its axis and its way."""
        return np.stack([*self.axis, self.ends.way]).reshape(-1, 3)

    @property
    def across(self) -> float:
        """Its diameter, mm."""
        return self.ends.link.outside if self.which == "shaft" else self.ends.link.joint

    @property
    def gone(self) -> Array:
        """See ``Course``."""
        return self.ends.steps[0]

    @property
    def bent(self) -> Array:
        """See ``Course``."""
        return self.ends.steps[1]

    def reach(self, ways: Array) -> Array:
        """See ``Course``."""
        return _bar_reach(self._lines, self.ends.long.shape, ways, self.across)

    def at(self, case: int, station: int) -> tuple[ConvexPart, Pose]:
        """See ``Course``."""
        one, two = self.axis
        return bar(one[case, station], two[case, station], self.across), Pose.still()

    def halved(self, k: int) -> BarCourse:
        """See ``Course``."""
        return BarCourse(self.ends.halved(k), self.which)


@dataclass(frozen=True, eq=False)
class FromCourse:
    """One of a link's bars seen from something that goes along the same travel: both rise together, so from
    there it hardly moves, and a plane that parts the two in one place parts them in the next."""

    bar: BarCourse
    track: Track

    @cached_property
    def axis(self) -> tuple[Array, Array]:
        """Both ends of its axis, (cases, stations, 3) each, in the frame of the other."""
        places = self.track.places
        one, two = (np.einsum("kti,tij->ktj", p - places.translation, places.rotation) for p in self.bar.axis)
        return one, two

    @cached_property
    def _lines(self) -> tuple[Array, Array]:
        """(3 x cases x stations, 3) both ends of its axis and its way; (cases, stations) its length."""
        one, two = self.axis
        long = np.maximum(np.sqrt(((two - one) ** 2).sum(2)), 1e-9)
        return np.stack([one, two, (two - one) / long[:, :, None]]).reshape(-1, 3), long

    @cached_property
    def gone(self) -> Array:
        """See ``Course``."""
        lines, long = self._lines
        one, two, way = lines.reshape(3, *long.shape, 3)
        return np.asarray(np.maximum(_steps(one), _steps(two)) + self.bar.across / 2 * _steps(way))

    @cached_property
    def bent(self) -> Array:
        """See ``Course``: an eighth of how much a step differs from the next one, and half as much again."""
        lines, long = self._lines
        one, two, way = lines.reshape(3, *long.shape, 3)
        size = self.bar.across / 2
        return np.asarray(np.maximum(_sagitta(one), _sagitta(two)) + size * _sagitta(way))

    def reach(self, ways: Array) -> Array:
        """See ``Course``."""
        lines, long = self._lines
        return _bar_reach(lines, long.shape, ways, self.bar.across)

    def at(self, case: int, station: int) -> tuple[ConvexPart, Pose]:
        """See ``Course``."""
        one, two = self.axis
        return bar(one[case, station], two[case, station], self.bar.across), Pose.still()

    def halved(self, k: int) -> FromCourse:
        """See ``Course``."""
        child = FromCourse(self.bar.halved(k), self.track.halved(k))
        child.__dict__["bent"] = halved_bends(self.bent, k)
        return child


def _steps(places: Array) -> Array:
    """(stations - 1,) the most over all cases that a place (cases, stations, 3) moves from one station to the
    next."""
    return np.asarray(np.sqrt((np.diff(places, axis=1) ** 2).sum(2)).max(0))


def _sagitta(places: Array) -> Array:
    """(stations - 1,) how far places (cases, stations, 3) leave their chords, by their second differences."""
    if places.shape[1] < 3:
        return np.zeros(max(places.shape[1] - 1, 0))
    second = np.sqrt((np.diff(places, 2, axis=1) ** 2).sum(2)).max(0)
    return np.asarray(1.5 / 8 * np.maximum(np.r_[second, second[-1]], np.r_[second[0], second]))


def _bar_reach(lines: Array, shape: tuple[int, ...], ways: Array, across: float) -> Array:
    """(m, cases, stations) the greatest reach of bars along ways (m, 3). lines: (3 x cases x stations, 3)
    both ends of their axes, and their ways."""
    one, two, along = (lines @ ways.T).T.reshape(len(ways), 3, *shape).swapaxes(0, 1)
    size = (ways**2).sum(1)[:, None, None]
    return np.asarray(np.maximum(one, two) + across / 2 * np.sqrt(np.maximum(size - along**2, 0.0)))


@dataclass(frozen=True, eq=False)
class SweptCourse:
    """All that one of a link's bars sweeps between its first and last station, in every case, beside
    something that goes along a travel of its own."""

    bar: BarCourse
    gone: Array
    bent: Array

    def reach(self, ways: Array) -> Array:
        """See ``Course``."""
        return np.asarray(self.bar.reach(ways).max(2, keepdims=True))

    def at(self, case: int, station: int) -> tuple[ConvexPart, Pose]:
        """See ``Course``."""
        last = len(self.bar.ends.stops) - 1
        if last == 0:
            return self.bar.at(case, 0)
        places = [measured_mesh(self.bar.at(case, k)[0])[0] for k in (0, last)]
        return hull(np.vstack(places)), Pose.still()

    def halved(self, k: int) -> SweptCourse:
        """See ``Course``."""
        more = np.zeros(len(self.gone) + 1)
        return SweptCourse(self.bar, more, more)


def ends_of(link: Link, poses: list[Pose]) -> Ends:
    """A link in several cases of the engine, through the wheels' travel."""
    low, high = link.span
    stops = (
        (0.0,) if high - low < 1e-9 else tuple(np.unique([*np.linspace(low, high, STATIONS), 0.0]).tolist())
    )
    starts = np.array([link.ends(pose, 0.0)[0] for pose in poses])
    return Ends(link, starts, stops)


def bars_of(ends: Ends) -> list[tuple[bool, BarCourse]]:
    """Its bars, with whether each is one of its joints; none of a link that is too short."""
    if ends.long.max() < SHORT:
        return []
    joints = [(True, BarCourse(ends, "first")), (True, BarCourse(ends, "last"))]
    shaft = float((ends.long - 2 * ends.into).max()) > 1.0
    return [*([(False, BarCourse(ends, "shaft"))] if shaft else []), *joints]


def swept_bars(ends: Ends, stations: int) -> list[tuple[bool, SweptCourse]]:
    """What its bars sweep, beside something with so many stations of its own: a bar of which one end stays
    and the other runs along a straight line sweeps what lies between its two places, which is convex; a bend
    is taken in FAN steps."""
    still = np.zeros(stations - 1)
    if len(ends.stops) == 1:
        parts = [ends]
    else:
        low, high = ends.link.span
        stops = np.linspace(low, high, FAN + 1) if ends.link.bends else np.array([low, high])
        parts = [
            Ends(ends.link, ends.starts, (a, b))
            for a, b in zip(stops.tolist(), stops.tolist()[1:], strict=False)
        ]
    return [(joint, SweptCourse(one, still, still)) for part in parts for joint, one in bars_of(part)]
