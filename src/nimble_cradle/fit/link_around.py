"""One shaft or rod among everything else: what is looked at round it, and how near it comes.

Through the wheels' travel what is measured is all that it sweeps at once.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.link_course import BarCourse, Ends, FromCourse, bars_of, ends_of, swept_bars
from nimble_cradle.fit.links import Link
from nimble_cradle.fit.made_bodies import made_sides
from nimble_cradle.fit.made_gaps import STAGE_OF
from nimble_cradle.fit.needs import METAL, TURNING, class_gap
from nimble_cradle.fit.travel import (
    MISSED,
    MovingItem,
    least_through_travel,
    moving_items,
    near_enough,
    nearest_of,
    of_meshes,
)
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.courses import Course, Places, Track, Tracked, cased, convex
from nimble_cradle.geometry.distance import Nearest, nearest
from nimble_cradle.geometry.least_through import Asked, Closest, least_of_courses, rows_of
from nimble_cradle.geometry.overlap import SIX
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.job.job import Job

CLOSELY = 0.05
"""To so many mm a least gap is found where it is no overlap."""
RISES = 5.0
"""An item whose middle rises by more than so many mm over its travel goes with a wheel."""
_HERE = Places([Pose.still()])
Key = tuple[str, int]
"""``engine`` or ``car`` with the number of the body there."""


@dataclass(frozen=True, eq=False)
class Others:
    """Everything that links are measured from. engine: in the powertrain frame, car: in the vehicle frame;
    ids, names and what they are (class of neighbour, own need) of each; rows: the parts of each; of_mesh:
    which have a mesh in them."""

    engine: Bodies
    car: Bodies
    rows: dict[str, list[list[int]]]
    of_mesh: dict[str, NDArray[np.bool_]]
    ids: dict[Key, str]
    names: dict[Key, str]
    stages: dict[Key, str]
    classes: dict[Key, tuple[str, float | None]]
    movers: dict[int, MovingItem]


def others_of(job: Job) -> Others:
    """Everything that links are measured from. Raises JobError."""
    pieces, items, sides = fitted_pieces(job), standing_items(job), made_sides(job)
    engine, car = powertrain_bodies(job), bay_bodies(job)
    solids = [
        *([engine.parts[row] for row in rows] for rows in rows_of(engine)),
        *([car.parts[row] for row in rows] for rows in rows_of(car)),
    ]
    ids: dict[Key, str] = {}
    names: dict[Key, str] = {}
    stages: dict[Key, str] = {}
    classes: dict[Key, tuple[str, float | None]] = {}
    for k, piece in enumerate(pieces):
        ids["engine", k], names["engine", k], stages["engine", k] = piece.id, piece.name, "position"
        classes["engine", k] = piece.neighbour, None
    for k, item in enumerate(items):
        ids["car", k], names["car", k], stages["car", k] = item.id, item.name, "position"
        classes["car", k] = item.neighbour, item.required_mm
    for kind, first, made in (("engine", len(pieces), sides.engine), ("car", len(items), sides.car)):
        for k, body in enumerate(made.rows, first):
            ids[kind, k], names[kind, k] = body.id, body.name
            stages[kind, k] = STAGE_OF.get(body.owner.kind, "mounts")
            classes[kind, k] = METAL, None
    every = {
        "engine": Bodies([*solids[: engine.count], *(row.solids for row in sides.engine.rows)]),
        "car": Bodies([*solids[engine.count :], *(row.solids for row in sides.car.rows)]),
    }
    return Others(
        every["engine"],
        every["car"],
        {kind: rows_of(bodies) for kind, bodies in every.items()},
        {kind: of_meshes(bodies) for kind, bodies in every.items()},
        ids,
        names,
        stages,
        classes,
        {mover.column: mover for mover in moving_items(job)},
    )


class Around:
    """One link among everything else."""

    def __init__(self, job: Job, link: Link, others: Others) -> None:
        self.link, self.others, self.rest = link, others, pose_of(job.position)
        made_gap = job.setting.made_gap_mm
        self.need = {key: self._need(job, key, made_gap) for key in others.ids}
        held = {("engine", i) for i in link.held_by[0]} | {("car", i) for i in link.held_by[1]}
        self.joint_held = {key for key, name in others.ids.items() if (key[0], name) in held}
        self.with_wheel = {k: self._goes_with(m) for k, m in others.movers.items()}

    def _need(self, job: Job, key: Key, made_gap: float) -> float:
        held = self.link.held_by[0 if key[0] == "engine" else 1]
        if "." in self.others.ids[key] and self.others.ids[key] in held:  # a strut between its own cheeks
            return made_gap
        neighbour, own = self.others.classes[key]
        mine = class_gap(job, TURNING if self.link.turns else METAL)
        if own is not None:
            return own
        if key[0] == "car" and key[1] in self.others.movers:
            return mine  # both are looked at through their travel: what a rising link asks for is in it
        return max(mine, class_gap(job, neighbour))

    def _goes_with(self, mover: MovingItem) -> tuple[float, float] | None:
        """Where a moving item is with this link's wheel down and up; None where it moves otherwise."""
        low, high = mover.rises
        points = np.vstack([part.triangles[0] for part in mover.bodies.parts])
        one, two = (mover.pose(at).points(points).mean(0) for at in (low, high))
        end = self.link.ends(self.rest, 0.0)[1]
        if abs(two[2] - one[2]) < RISES or self.link.span[0] == self.link.span[1] or one[1] * end[1] < 0:
            return None
        return (low, high) if two[2] > one[2] else (high, low)

    def steered(self, key: Key) -> bool:
        """Whether the other body goes with this link's wheel and with the steering too: then where they are
        is told by its own way, over all of travel and lock."""
        follows = self.others.movers[key[1]].follows if self._moves(key) else None
        return follows is not None and follows.steered is not None and self.with_wheel[key[1]] is not None

    def where(self, key: Key, at: float) -> str:
        """Where on the travel a pair is nearest, in words; empty at ride height."""
        if self.steered(key):
            mover = self.others.movers[key[1]]
            return "" if abs(at) < 0.5 else mover.words(at)
        return "" if abs(at) < 0.5 else f"wheels {abs(at):.0f} mm {'up' if at > 0 else 'down'}"

    def look(
        self, pose: Pose, bodies: Bodies, within: dict[Key, float], movers: bool = False
    ) -> dict[Key, Nearest]:
        """How near some bodies of the link (the shaft, its joints) are to others: what is within some mm,
        by key. movers: what moves on its own too, where it rests."""
        out: dict[Key, Nearest] = {}
        engine, car = (np.full((2, b.count), -np.inf) for b in (self.others.engine, self.others.car))
        for (kind, k), far in within.items():
            reach = engine if kind == "engine" else car
            if kind == "car" and k in self.others.movers and not movers:
                continue
            reach[0, k] = far
            if (kind, k) not in self.joint_held:
                reach[1, k] = far
        if np.isfinite(engine).any():
            for n in nearest(self.others.engine, pose, bodies, engine.T):
                _keep(out, ("engine", n.a), Nearest(n.b, n.a, n.distance, n.on_b, n.on_a, -n.way))
        if np.isfinite(car).any():
            for n in nearest(bodies, Pose.still(), self.others.car, car):
                _keep(out, ("car", n.b), n)
        return out

    def swept(
        self, poses: Sequence[Pose], asked: Mapping[Key, Asked]
    ) -> dict[Key, tuple[Nearest, int, float]]:
        """The nearest approach of each pair through the wheels' travel in all cases, where it is under what
        is asked: with the number of its case, and where on the travel it is (mm up)."""
        ends = ends_of(self.link, list(poses))
        mine = [_Bar(joint, bar) for joint, bar in bars_of(ends)]
        out: dict[Key, tuple[Nearest, int, float]] = {}
        for kind, bodies, places in (
            ("engine", self.others.engine, Places(poses)),
            ("car", self.others.car, _HERE),
        ):
            wanted = {k: ask for (of, k), ask in asked.items() if of == kind and not self._apart(kind, k)}
            low, high = places.boxes(bodies.centres, bodies.axes)
            off = [one.off(low, high).tolist() for one in mine]
            for k, ask in wanted.items():
                rows = self.others.rows[kind][k]
                pairs: list[tuple[float, Course, Course]] = [
                    (bounds[row], one.bar, cased(bodies.parts[row], places, len(ends.stops)))
                    for one, bounds in zip(mine, off, strict=True)
                    if not (one.joint and (kind, k) in self.joint_held)
                    for row in rows
                    if bounds[row] < ask.least
                ]
                self._keep(out, (kind, k), least_of_courses(pairs, ends.stops, ask, closely))
        for (kind, k), ask in asked.items():
            if not self._apart(kind, k):
                continue
            if self.others.of_mesh[kind][k]:
                self._by_mesh(out, poses, mine, (kind, k), ask)
            elif self.with_wheel[k] is not None:
                self._keep(out, ("car", k), self._with_wheel(ends, mine, k, ask))
            else:
                self._keep(out, ("car", k), self._otherwise(ends, k, ask), otherwise=True)
        return out

    def _apart(self, kind: str, k: int) -> bool:
        """Whether the other body is looked at by itself: it moves on its own, or is a mesh."""
        return bool(self.others.of_mesh[kind][k]) or (kind == "car" and k in self.others.movers)

    def _keep(
        self,
        out: dict[Key, tuple[Nearest, int, float]],
        key: Key,
        near: Closest | None,
        otherwise: bool = False,
    ) -> None:
        if near is None:
            return
        at = near.at
        if otherwise:  # the travel is the other's: where on its own the link is nearest
            at = self.link.travel_at(self.rest, near.on_a)
        out[key] = nearest_of(near, 0, key[1]), near.case, at

    def _with_wheel(self, ends: Ends, mine: Sequence[_Bar], k: int, ask: Asked) -> Closest | None:
        """One item that goes with this link's wheel."""
        mover, over = self.others.movers[k], self.with_wheel[k]
        assert over is not None
        if self.steered(("car", k)):
            track = mover.track
            ends = Ends(along_way(self.link, mover), ends.starts, track.at)
            mine = [_Bar(joint, bar) for joint, bar in bars_of(ends)]
        else:
            track = mover.along(ends.stops, *over)
        seen = [_Bar(one.joint, FromCourse(one.bar, track)) for one in mine if isinstance(one.bar, BarCourse)]
        near = self._beside(seen, None, mover.bodies, ("car", k), ask, ends.stops)
        if near is None:
            return None
        there = track.pose(near.at)
        on_a, on_b, way = there.points(near.on_a), there.points(near.on_b), there.vectors(near.way)
        return replace(near, on_a=on_a, on_b=on_b, way=way)

    def _otherwise(self, ends: Ends, k: int, ask: Asked) -> Closest | None:
        """One item that moves otherwise: it may be anywhere wherever the wheel is."""
        mover = self.others.movers[k]
        mine = [_Bar(joint, bar) for joint, bar in swept_bars(ends, len(mover.track.at))]
        return self._beside(mine, mover.track, mover.bodies, ("car", k), ask, mover.track.at)

    def _beside(
        self,
        mine: Sequence[_Bar],
        track: Track | None,
        bodies: Bodies,
        key: Key,
        ask: Asked,
        stops: tuple[float, ...],
    ) -> Closest | None:
        """One thing that goes along a track, or that everything is seen from (None)."""
        places = _HERE if track is None else track.places
        low, high = places.boxes(bodies.centres, bodies.axes)
        bent = 0.0 if track is None else float(track.bent.max(initial=0.0))
        pairs: list[tuple[float, Course, Course]] = [
            (
                bound - bent,
                one.bar,
                cased(part, _HERE, len(stops)) if track is None else Tracked(convex(part), track),
            )
            for one in mine
            if not (one.joint and key in self.joint_held)
            for bound, part in zip(one.off(low, high).tolist(), bodies.parts, strict=True)
        ]
        return least_of_courses(pairs, stops, ask, near_enough)

    def _by_mesh(
        self,
        out: dict[Key, tuple[Nearest, int, float]],
        poses: Sequence[Pose],
        mine: Sequence[_Bar],
        key: Key,
        ask: Asked,
    ) -> None:
        """A mesh, case by case: all that the link sweeps against it where it stands, and where it moves on
        its own through all of that travel."""
        least, bodies = ask.least, self.others.engine if key[0] == "engine" else self.others.car
        places = Places(poses) if key[0] == "engine" else _HERE
        low, high = places.boxes(bodies.centres, bodies.axes)
        far = self.others.movers[key[1]].farthest if self._moves(key) else 0.0
        rows = self.others.rows[key[0]][key[1]]
        off = min((float(bar.off(low[rows], high[rows]).min()) for bar in mine), default=np.inf)
        if off - far >= least:
            return
        floor = np.full(len(poses), -np.inf) if ask.floor is None else ask.floor
        for case in np.argsort(floor).tolist():
            if floor[case] >= least:
                break
            swept = self.link.fan(poses[case])
            if self._moves(key):
                reach = np.array([least, -np.inf if key in self.joint_held else least])
                found = least_through_travel(swept, Pose.still(), self.others.movers[key[1]], reach)
                near_by = [near for near, _ in found.values()]
            else:
                near_by = list(self.look(poses[case], swept, {key: least}).values())
            for near in near_by:
                if near.distance < least:
                    least = near.distance
                    at = self.link.travel_at(poses[case], near.on_a)
                    if near.distance <= 0:  # how deep at its deepest place, not for all of what is swept
                        near, at = self._deepest(poses[case], key, at, near)
                    out[key] = near, case, at

    def _moves(self, key: Key) -> bool:
        """Whether the other body moves on its own."""
        return key[0] == "car" and key[1] in self.others.movers

    def _deepest(self, pose: Pose, key: Key, at: float, near: Nearest) -> tuple[Nearest, float]:
        low, high = self.link.span
        looks = []
        for t in sorted({at, low, (low + high) / 2, high}):
            found = self.look(pose, self.link.bodies(pose, t), {key: 1.0}).get(key)
            if found is not None:
                looks.append((found, t))
        return min(looks, key=lambda row: row[0].distance, default=(near, at))


def along_way(link: Link, mover: MovingItem) -> Link:
    """A link by the way of what goes with its wheel and with the steering: where on that way both are tells
    how far up the wheel is."""
    follows = mover.follows
    assert follows is not None
    low, high = link.span

    def ends(pose: Pose, at: float) -> tuple[Array, Array]:
        return link.ends(pose, min(max(follows.stop(at)[0], low), high))

    return replace(link, ends=ends, span=mover.span)


class _Bar:
    """One bar of a link with the upright box that holds it in all its places. joint: it is one of its
    joints."""

    def __init__(self, joint: bool, bar: Course) -> None:
        self.joint, self.bar = joint, bar
        reach = bar.reach(SIX).max((1, 2)) + float(bar.bent.max(initial=0.0))
        self.low, self.high = -reach[1::2], reach[::2]

    def off(self, low: Array, high: Array) -> Array:
        """(n,) no nearer than so many mm to what is within upright boxes (n, 3); below nought: how deep at
        most."""
        off = np.maximum(self.low - high, low - self.high)
        outside = np.maximum(off, 0.0)
        return np.asarray(np.where((off > 0).any(1), np.sqrt((outside**2).sum(1)), off.max(1)))


def closely(distance: float) -> float:
    """To how much a least gap of a link is found, mm: an overlap less closely, see ``near_enough``."""
    return near_enough(distance) - MISSED + CLOSELY


def _keep(out: dict[Key, Nearest], key: Key, near: Nearest) -> None:
    if key not in out or near.distance < out[key].distance:
        out[key] = near
