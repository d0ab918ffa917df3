"""One shaft or rod among everything else: what is looked at round it, and how near it comes.

Through the wheels' travel what is measured is all that it sweeps at once.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.links import Link
from nimble_cradle.fit.made_bodies import made_sides
from nimble_cradle.fit.made_gaps import STAGE_OF
from nimble_cradle.fit.needs import METAL, TURNING, class_gap
from nimble_cradle.fit.travel import MovingItem, least_through_travel, moving_items
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import Nearest, nearest
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.job.job import Job

FAR = 60.0
"""Beyond what a pair needs, so many mm are as good as any more."""
RISES = 5.0
"""An item whose middle rises by more than so many mm over its travel goes with a wheel."""
TOGETHER = 9
"""Places of the wheels' travel at which a link and something that rises with it are looked at first."""
Key = tuple[str, int]
"""``engine`` or ``car`` with the number of the body there."""


@dataclass(frozen=True, eq=False)
class Others:
    """Everything that links are measured from. engine: in the powertrain frame, car: in the vehicle frame;
    ids, names and what they are (class of neighbour, own need) of each."""

    engine: Bodies
    car: Bodies
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
        [p for p, o in zip(b.parts, b.owner, strict=True) if o == k]
        for b in (engine, car)
        for k in range(b.count)
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
    return Others(
        Bodies([*solids[: engine.count], *(row.solids for row in sides.engine.rows)]),
        Bodies([*solids[engine.count :], *(row.solids for row in sides.car.rows)]),
        ids,
        names,
        stages,
        classes,
        {mover.column: mover for mover in moving_items(job)},
    )


class Around:
    """One link among everything else."""

    def __init__(self, job: Job, link: Link, others: Others) -> None:
        self.job, self.link, self.others = job, link, others
        self.need = {key: self._need(key) for key in others.ids}
        held = {("engine", i) for i in link.held_by[0]} | {("car", i) for i in link.held_by[1]}
        self.joint_held = {key for key, name in others.ids.items() if (key[0], name) in held}
        self.with_wheel = {k: self._goes_with(m) for k, m in others.movers.items()}

    def _need(self, key: Key) -> float:
        neighbour, own = self.others.classes[key]
        mine = class_gap(self.job, TURNING if self.link.turns else METAL)
        if own is not None:
            return own
        if key[0] == "car" and key[1] in self.others.movers:
            return mine  # both are looked at through their travel: what a rising link asks for is in it
        return max(mine, class_gap(self.job, neighbour))

    def _goes_with(self, mover: MovingItem) -> tuple[float, float] | None:
        """Where a moving item is with this link's wheel down and up; None where it moves otherwise."""
        low, high = mover.span
        points = np.vstack([part.triangles[0] for part in mover.bodies.parts])
        one, two = (mover.pose(at).points(points).mean(0) for at in (low, high))
        end = self.link.ends(pose_of(self.job.position), 0.0)[1]
        if abs(two[2] - one[2]) < RISES or self.link.span[0] == self.link.span[1] or one[1] * end[1] < 0:
            return None
        return (low, high) if two[2] > one[2] else (high, low)

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
        self, pose: Pose, within: dict[Key, float], roughly: bool = True
    ) -> dict[Key, tuple[Nearest, float]]:
        """The nearest approach of each pair through the wheels' travel, and where on it that is. roughly:
        most pairs are thought to be far, and are sorted out first."""
        out = {}
        fixed = {key: far for key, far in within.items() if not self._moves(key)}
        if roughly:
            near_by = self.look(pose, self.link.held_within([pose], False), fixed)
            fixed = {key: fixed[key] for key in near_by}
        for key, near in self.look(pose, self.link.fan(pose), fixed).items() if fixed else ():
            at = self.link.travel_at(pose, near.on_a)
            if near.distance <= 0:  # how deep, at its deepest place, not for all of what is swept
                near, at = self._deepest(pose, key, at, near)
            out[key] = near, at
        for k, mover in self.others.movers.items():
            if ("car", k) in within:
                found = self._moving(pose, k, mover, within["car", k])
                if found is not None:
                    out["car", k] = found
        return out

    def at_least(self, poses: Sequence[Pose], keys: Collection[Key]) -> dict[Key, float]:
        """Of some pairs, what is left at least, mm, wherever the wheels and the engine are at those poses: as
        far as what holds all the places of the link, seen from the other body, is from it. A pair with what
        moves on its own is left out."""
        out: dict[Key, float] = {}
        for kind, bodies in (("engine", self.others.engine), ("car", self.others.car)):
            wanted = [k for of, k in keys if of == kind and not (of == "car" and k in self.others.movers)]
            if not wanted:
                continue
            held = self.link.held_within(poses, kind == "engine")
            reach = np.full((2, bodies.count), -np.inf)
            for k in wanted:
                out[kind, k] = reach[0, k] = self.need[kind, k] + FAR
                if (kind, k) not in self.joint_held:
                    reach[1, k] = reach[0, k]
            for n in nearest(held, Pose.still(), bodies, reach, np.full(reach.shape, -np.inf)):
                out[kind, n.b] = min(out[kind, n.b], n.distance)
        return out

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

    def _moving(self, pose: Pose, k: int, mover: MovingItem, far: float) -> tuple[Nearest, float] | None:
        """One item that moves: with this wheel it is where the wheel puts it, otherwise anywhere."""
        reach = np.array([far, -np.inf if ("car", k) in self.joint_held else far])
        ends, (low, high) = self.with_wheel[k], self.link.span
        if ends is None:
            swept = least_through_travel(self.link.fan(pose), Pose.still(), mover, reach)
            best = min((near for near, _ in swept.values()), key=lambda n: n.distance, default=None)
            return None if best is None else (best, self.link.travel_at(pose, best.on_a))

        middle = (low + high) / 2
        far_off = mover.speed * (mover.span[1] - mover.span[0]) / 2 + self.link.rise * (high - low) / 2
        if self._with_wheel(pose, k, middle, reach + far_off) is None:
            return None
        return _least_of(lambda t: self._with_wheel(pose, k, t, reach), low, high)

    def _with_wheel(self, pose: Pose, k: int, travel: float, reach: Array) -> Nearest | None:
        """One item that goes with this link's wheel, at one place of the wheel's travel."""
        mover, ends, (low, high) = self.others.movers[k], self.with_wheel[k], self.link.span
        assert ends is not None
        shift = mover.pose(ends[0] + (travel - low) / (high - low) * (ends[1] - ends[0]))
        found = nearest(self.link.bodies(pose, travel), shift.inverse(), mover.bodies, reach[:, None])
        n = min(found, key=lambda n: n.distance, default=None)
        if n is None:
            return None
        on_a, on_b, way = shift.points(n.on_a), shift.points(n.on_b), shift.vectors(n.way)
        return Nearest(n.a, k, n.distance, on_a, on_b, way)

    def near_at(self, pose: Pose, key: Key, travel: float, far: float) -> float:
        """How near a pair is at one place of the wheels' travel; ``far`` where it is farther. What moves
        otherwise than with the wheel is looked at through all of its own travel."""
        if not self._moves(key):
            near = self.look(pose, self.link.bodies(pose, travel), {key: far}).get(key)
        elif self.with_wheel[key[1]] is not None:
            reach = np.array([far, -np.inf if key in self.joint_held else far])
            near = self._with_wheel(pose, key[1], travel, reach)
        else:
            found = self._moving(pose, key[1], self.others.movers[key[1]], far)
            near = None if found is None else found[0]
        return far if near is None else near.distance


def _keep(out: dict[Key, Nearest], key: Key, near: Nearest) -> None:
    if key not in out or near.distance < out[key].distance:
        out[key] = near


def _least_of(at: Callable[[float], Nearest | None], low: float, high: float) -> tuple[Nearest, float] | None:
    """The least of a distance over a travel: at TOGETHER places, and by halves beside the least of them.
    Two things that rise together come near one another once, seldom twice, and not within a few mm of
    travel."""
    stops = np.linspace(low, high, TOGETHER).tolist()
    looks = [(n, t) for t in stops if (n := at(t)) is not None]
    if not looks:
        return None
    best, where = min(looks, key=lambda row: row[0].distance)
    step = (high - low) / (TOGETHER - 1) / 2
    while step > 0.5 and best.distance > 0:
        for t in (where - step, where + step):
            found = at(t) if low <= t <= high else None
            if found is not None and found.distance < best.distance:
                best, where = found, t
        step /= 2
    return best, where
