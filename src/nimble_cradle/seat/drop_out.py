"""How the crossmember comes out with the engine in: straight ways, ways of two or three legs, one end tipped
down first; each proved by all that is swept, exactly."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.joined import made_to
from nimble_cradle.fit.links import links
from nimble_cradle.fit.made_bodies import MadeBody, made_sides
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Array, Pose, rotation_about
from nimble_cradle.geometry.solid_makers import hull
from nimble_cradle.geometry.solids import ConvexPart, SolidPart, placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job

KISS = 0.5
"""What slides along something may rub by so many mm: paint and a file's stroke (common practice, no
source)."""
OUT = 450.0
"""It is out once it hangs so many mm lower."""
ASIDE = (25.0, 50.0, 80.0, 120.0, 170.0)
ALONG = (40.0, 90.0, 160.0)
TIPS = (8.0, 16.0, 28.0)
"""Legs that are tried: mm to a side, ahead or back; degrees that one end is tipped down by."""
FIRST_DOWN = (60.0, 110.0)
STEP_DEG = 1.0


@dataclass(frozen=True, eq=False)
class Leg:
    """One leg of a way: moved ``by`` (3,) mm, or tipped by ``deg`` about a line along the car through
    ``about``. words: what the hands do."""

    words: str
    by: Array
    deg: float = 0.0
    about: Array | None = None


@dataclass(frozen=True, eq=False)
class DropOut:
    """How it comes out. legs: the way found, none where there is none; tried: how many ways were tried;
    stops: what stopped most of them, by name."""

    legs: tuple[Leg, ...]
    tried: int
    stops: tuple[str, ...]

    @property
    def found(self) -> bool:
        """Whether it comes out."""
        return bool(self.legs)

    @property
    def words(self) -> str:
        """The way, or that none was found."""
        if self.legs:
            return f"{', then '.join(leg.words for leg in self.legs).capitalize()}."
        held = f" What stopped them: {', '.join(self.stops[:3])}." if self.stops else ""
        return f"None of {self.tried} ways was found; there may be others.{held}"


def drop_out(job: Job, say: Callable[[str], None] = lambda _: None) -> DropOut:
    """The first of the ways, the simplest first, on which it meets nothing. The bolts are out, the gearbox
    is held up, what stands on the crossmember goes with it. Raises JobError where there is no
    crossmember."""
    cross = job.crossmember
    if cross is None:
        raise JobError("There is no crossmember to take out.", "crossmember")
    moving, still = _both(job)
    parts: list[SolidPart] = [part for body in moving for part in body.solids]
    names, obstacles = [name for name, _ in still], Bodies([solids for _, solids in still])
    allowed = _start(parts, obstacles)
    stopped: dict[str, int] = {}
    tried = 0
    for way in _ways(np.array(cross.points[0]), np.array(cross.points[-1])):
        tried += 1
        say(f"Way {tried}: {', then '.join(leg.words for leg in way)}")
        hit = _meets(parts, way, obstacles, allowed)
        if hit is None:
            return DropOut(way, tried, ())
        stopped[names[hit]] = stopped.get(names[hit], 0) + 1
    return DropOut((), tried, tuple(sorted(stopped, key=lambda name: -stopped[name])))


def _both(job: Job) -> tuple[list[MadeBody], list[tuple[str, tuple[SolidPart, ...]]]]:
    """What comes out, and everything else with its name."""
    sides, pose = made_sides(job), pose_of(job.position)
    own = [row for row in sides.car.rows if row.owner.kind == "crossmember"]
    goes = [row for row in sides.car.rows if row in own or any(made_to(job, row, o) for o in own)]
    stays = [(row.name, row.solids) for row in sides.car.rows if row not in goes]
    stays += [(row.name, tuple(placed_part(s, pose) for s in row.solids)) for row in sides.engine.rows]
    items, bay = standing_items(job), bay_bodies(job)
    stays += [(item.name, _of(bay, k)) for k, item in enumerate(items)]
    engine = powertrain_bodies(job)
    stays += [
        (piece.name, tuple(placed_part(s, pose) for s in _of(engine, k)))
        for k, piece in enumerate(fitted_pieces(job))
    ]
    for link in links(job):
        shaft, joints = link.solids(pose, 0.0)
        if shaft or joints:
            stays.append((link.name, (*shaft, *joints)))
    return goes, stays


def _of(bodies: Bodies, k: int) -> tuple[SolidPart, ...]:
    return tuple(part for part, owner in zip(bodies.parts, bodies.owner, strict=True) if owner == k)


def _ways(left: Array, right: Array) -> Iterator[tuple[Leg, ...]]:
    """All that are tried, the simplest first. left, right: (3,) ends of its axis."""
    down = Leg("down", np.array([0.0, 0.0, -OUT]))
    yield (down,)
    sides = [("left", 1.0), ("right", -1.0)]
    lengths = [("ahead", 1.0), ("back", -1.0)]
    for mm in ALONG:
        for word, s in lengths:
            yield Leg(f"{mm:.0f} mm {word}", np.array([s * mm, 0.0, 0.0])), down
    for mm in ASIDE:
        for word, s in sides:
            yield Leg(f"{mm:.0f} mm to the {word}", np.array([0.0, s * mm, 0.0])), down
    for deg in TIPS:
        for word, about, s in (("left", right, -1.0), ("right", left, 1.0)):
            yield Leg(f"its {word} end {deg:.0f} deg down", np.zeros(3), s * deg, about), down
    for low in FIRST_DOWN:
        drop = Leg(f"{low:.0f} mm down", np.array([0.0, 0.0, -low]))
        for mm in ASIDE:
            for word, s in sides:
                yield drop, Leg(f"{mm:.0f} mm to the {word}", np.array([0.0, s * mm, 0.0])), down
    for mm in ASIDE[:3]:
        for side, s in sides:
            aside = Leg(f"{mm:.0f} mm to the {side}", np.array([0.0, s * mm, 0.0]))
            far, turn = (right, -1.0) if s < 0 else (left, 1.0)
            word = "left" if s < 0 else "right"
            about = far + aside.by
            yield (
                aside,
                Leg(f"its {word} end {TIPS[1]:.0f} deg down", np.zeros(3), turn * TIPS[1], about),
                down,
            )


def _start(parts: list[SolidPart], obstacles: Bodies) -> Array:
    """(parts, obstacles) how deep each may be in each: KISS, and what it is in at the start."""
    bodies = Bodies([[part] for part in parts])
    allowed = np.full((len(parts), obstacles.count), KISS)
    for near in nearest(bodies, Pose.still(), obstacles, np.full(allowed.shape, 0.05)):
        allowed[near.a, near.b] += max(0.0, -near.distance)
    return allowed


def _meets(parts: list[SolidPart], way: tuple[Leg, ...], obstacles: Bodies, allowed: Array) -> int | None:
    """The number of what a way meets first; None where it meets nothing."""
    for leg in way:
        steps = max(1, int(np.ceil(abs(leg.deg) / STEP_DEG)))
        for _ in range(steps):
            after = [placed_part(part, _step(leg, steps)) for part in parts]
            swept = Bodies([_swept(a, b) for a, b in zip(parts, after, strict=True)])
            for near in nearest(swept, Pose.still(), obstacles, np.full(allowed.shape, 0.05)):
                if -near.distance > allowed[near.a, near.b]:
                    return near.b
            parts = after
    return None


def _step(leg: Leg, steps: int) -> Pose:
    if leg.about is None:
        return Pose(np.eye(3), leg.by / steps)
    r = rotation_about((1.0, 0.0, 0.0), np.radians(leg.deg / steps))
    return Pose(r, leg.about - r @ leg.about)


def _swept(before: SolidPart, after: SolidPart) -> list[SolidPart]:
    """All that a convex part sweeps straight from one place to another."""
    assert isinstance(before, ConvexPart) and isinstance(after, ConvexPart)
    return [hull(np.vstack([before.triangles[0], after.triangles[0]]))]
