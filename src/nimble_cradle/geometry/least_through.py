"""The least distance of two sets of bodies while either goes through many places.

Wherever two convex parts stand, a plane between them bounds their distance from below, and a plane that was
right in one place is nearly right in the next. So a pair is measured in the place where the planes known so
far leave it the least room, the plane found there is tried in all places at once, and so on until no place
can undercut the least that was measured. Between two stations of a travel every point of a part runs along
its chord but for ``bent``, and what is the least over points that run along chords is least at an end.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import fcl
import numpy as np

from nimble_cradle.geometry.bodies import Bodies, collision_object
from nimble_cradle.geometry.courses import Course, Places, Track, Tracked, cased, convex
from nimble_cradle.geometry.overlap import SIX, convex_overlap
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solids import ConvexPart, SolidPart

MEASURED_WITHIN = 1e-4
"""What stands still is measured to so many mm."""
_REQUEST = fcl.DistanceRequest(enable_nearest_points=True)


@dataclass(frozen=True, eq=False)
class Closest:
    """How near a pair came: mm (an overlap is negative), points (3,) on both and the way (3,) in which the
    first leaves, in the outer frame; in which case, and where on the travel."""

    distance: float
    on_a: Array
    on_b: Array
    way: Array
    case: int = 0
    at: float = 0.0


def exactly(distance: float) -> float:
    """To how much the least of things that stand still is found, mm."""
    return MEASURED_WITHIN


def apart(a: ConvexPart, at: Pose, b: ConvexPart, to: Pose, unless_within: float = 0.0) -> Closest:
    """Distance of two convex parts that stand at two poses of the outer frame; of an overlap no deeper than
    ``unless_within`` only so much is known."""
    result = fcl.DistanceResult()
    d = fcl.distance(collision_object(a, at), collision_object(b, to), _REQUEST, result)
    if d > 1e-6:
        on_a, on_b = np.array(result.nearest_points[0]), np.array(result.nearest_points[1])
        return Closest(float(d), on_a, on_b, (on_a - on_b) / d)
    depth, on_a, on_b, way = convex_overlap(a, b, to.inverse() @ at, unless_within)
    return Closest(float(depth), to.points(on_a), to.points(on_b), to.vectors(way))


class _Table:
    """What is known of one pair in all places. low (cases, stations): no nearer than; between (cases,
    stations - 1): nor anywhere on the way from one station to the next, by the planes alone."""

    def __init__(
        self, a: Course, b: Course, stops: tuple[float, ...], ways: Array, floor: Array | None
    ) -> None:
        self.a, self.b, self.stops, self.ways, self.floor = a, b, stops, ways, floor
        self.measured: dict[tuple[int, int], float] = {}
        self._anew()

    def _apart(self, ways: Array) -> Array:
        return -self.a.reach(-ways) - self.b.reach(ways)

    def _anew(self) -> None:
        parted = self._apart(self.ways)
        self.low = parted.max(0)
        self.bent, self.gone = self.a.bent + self.b.bent, self.a.gone + self.b.gone
        self.between = np.minimum(parted[..., :-1], parted[..., 1:]).max(0) - self.bent
        if self.floor is not None:
            self.low = np.maximum(self.low, self.floor[:, None])
            self.between = np.maximum(self.between, self.floor[:, None])
        for place, distance in self.measured.items():
            self.low[place] = max(self.low[place], distance)

    def bounds(self) -> Array:
        """(cases, stretches, or stations where there is one) no nearer than that there."""
        if len(self.stops) == 1:
            return np.asarray(self.low)
        by_speed = (self.low[:, :-1] + self.low[:, 1:] - self.gone) / 2
        return np.asarray(np.maximum(self.between, by_speed))

    def learn(self, place: tuple[int, int], near: Closest) -> None:
        """What was measured at one place, and what its plane says of all others."""
        self.measured[place] = near.distance
        self.ways = np.vstack([self.ways, near.way])
        parted = self._apart(near.way[None])[0]
        np.maximum(self.low, parted, out=self.low)
        if len(self.stops) > 1:
            np.maximum(self.between, np.minimum(parted[:, :-1], parted[:, 1:]) - self.bent, out=self.between)
        self.low[place] = max(self.low[place], near.distance)

    def pick(self, case: int, stretch: int) -> tuple[int, int]:
        """The place to be measured next: an end of a stretch, or where both are known its middle."""
        if len(self.stops) == 1:
            return case, stretch
        ends = [t for t in (stretch, stretch + 1) if (case, t) not in self.measured]
        if ends:
            return case, min(ends, key=lambda t: float(self.low[case, t]))
        middle = (self.stops[stretch] + self.stops[stretch + 1]) / 2
        self.stops = (*self.stops[: stretch + 1], middle, *self.stops[stretch + 1 :])
        self.a, self.b = self.a.halved(stretch), self.b.halved(stretch)
        self.measured = {(c, t + (t > stretch)): d for (c, t), d in self.measured.items()}
        self._anew()
        return case, stretch + 1


def least_of_pair(
    a: Course,
    b: Course,
    stops: tuple[float, ...],
    least: float,
    enough: Callable[[float], float] = exactly,
    floor: Array | None = None,
    ways: Array | None = None,
) -> Closest | None:
    """The least distance of two parts over all cases and the travel, where it is under ``least``.

    stops: of the stations. enough: to how many mm a least distance is wanted. floor: (cases,) mm that they
    are apart in each case at least, from elsewhere. ways: (m, 3) in which a plane may part them.
    """
    table = _Table(a, b, stops, SIX if ways is None else np.vstack([SIX, ways]), floor)
    found: Closest | None = None
    while True:
        bounds = table.bounds()
        at = int(bounds.argmin())
        if bounds.flat[at] >= least - enough(least):
            return found
        place = table.pick(*divmod(at, bounds.shape[1]))
        near = apart(*table.a.at(*place), *table.b.at(*place), max(0.0, -least))
        table.learn(place, near)
        if near.distance < least:
            least = near.distance
            found = replace(near, case=place[0], at=table.stops[place[1]])


@dataclass(frozen=True, eq=False)
class Asked:
    """A pair of bodies that is asked for: only what is under ``least`` mm counts. floor: (cases,) mm that
    they are apart at least; ways: (m, 3) in which a plane may part them."""

    least: float
    floor: Array | None = None
    ways: Array | None = None


def least_of_courses(
    pairs: Sequence[tuple[float, Course, Course]],
    stops: tuple[float, ...],
    asked: Asked,
    enough: Callable[[float], float] = exactly,
) -> Closest | None:
    """The least of several pairs of parts of two bodies (mm that they are apart at least, both courses)."""
    least, found = asked.least, None
    for bound, a, b in sorted(pairs, key=lambda row: row[0]):
        if bound >= least:
            break
        near = least_of_pair(a, b, stops, least, enough, asked.floor, asked.ways)
        if near is not None:
            least, found = near.distance, near
    return found


def least_between(
    moving: Bodies,
    places: Places,
    fixed: Bodies,
    track: Track | None,
    asked: Mapping[tuple[int, int], Asked],
    enough: Callable[[float], float] = exactly,
) -> dict[tuple[int, int], Closest]:
    """The least distance of each pair of bodies that is asked for, by number, over all places of the one set
    and all of the other's travel (None: it stands still). Bodies of convex parts only."""
    if not asked:
        return {}
    low_a, high_a = places.boxes(moving.centres, moving.axes)
    theirs = Places([Pose.still()]) if track is None else track.places
    low_b, high_b = theirs.boxes(fixed.centres, fixed.axes)
    stops = (0.0,) if track is None else track.at
    margin = 0.0 if track is None else float(track.bent.max())
    off = np.maximum(low_a[:, None] - high_b[None], low_b[None] - high_a[:, None])
    outside = np.maximum(off, 0.0)
    bound = np.where((off > 0).any(2), np.sqrt((outside**2).sum(2)), off.max(2)) - margin

    def other(part: SolidPart) -> Course:
        return cased(part, theirs, 1) if track is None else Tracked(convex(part), track)

    own, its = rows_of(moving), rows_of(fixed)
    out = {}
    for (a, b), ask in asked.items():
        near = least_of_courses(
            [
                (float(bound[i, j]), cased(moving.parts[i], places, len(stops)), other(fixed.parts[j]))
                for i in own[a]
                for j in its[b]
                if bound[i, j] < ask.least
            ],
            stops,
            ask,
            enough,
        )
        if near is not None:
            out[a, b] = near
    return out


def rows_of(bodies: Bodies) -> list[list[int]]:
    """The numbers of each body's parts."""
    out: list[list[int]] = [[] for _ in range(bodies.count)]
    for row, owner in enumerate(bodies.owner.tolist()):
        out[owner].append(row)
    return out
