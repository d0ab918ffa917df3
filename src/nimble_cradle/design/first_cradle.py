"""A cradle to begin from: a bar under the engine's mounts from rail to rail, a second one behind it, tied on
both sides; and one more point or tube."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.bay.bodies import solid_of, standing_items
from nimble_cradle.bay.corners import powertrain_corners
from nimble_cradle.families.family import eye_of
from nimble_cradle.job.base import JobError
from nimble_cradle.job.cradle import Cradle, CradlePoint, CradleTube
from nimble_cradle.job.edits import added, free_id, with_value
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.job import Job

BEHIND = 220.0
"""The second bar stands so far behind the first, mm."""
UNDER, APART = 40.0, 320.0
"""Bars lie so far under the lowest of the engine there, mm; and reach so far to both sides where there are no
rails."""


def with_cradle(job: Job) -> Job:
    """The job with one more cradle, to be set right. Raises JobError."""
    taken = {i.id for i in (*job.items, *job.mounts, *job.struts, *job.cradles)}  # type: ignore[attr-defined]
    key = free_id("cradle", taken)
    own = [mount.bush for mount in job.mounts if mount.carries == "engine"]
    x = float(np.mean([bush.centre[0] for bush in own])) if own else job.position.x
    low = [bush.centre[2] - eye_of(bush).outside_mm / 2 for bush in own]
    try:
        corners = powertrain_corners(job)
        near = corners[np.abs(corners[:, 0] - x + BEHIND / 2) < BEHIND]
        low += [float(near[:, 2].min())] if len(near) else []
    except JobError:
        pass
    z, wide = (min(low) if low else 0.0) - UNDER, _rails(job)
    spots = {"p1": (x, wide), "p2": (x, -wide), "p3": (x - BEHIND, wide), "p4": (x - BEHIND, -wide)}
    points = tuple(
        CradlePoint(id=name, at=(round(a, 1), round(b, 1), round(z, 1)), held="bolts")
        for name, (a, b) in spots.items()
    )
    pairs = (("p1", "p2"), ("p3", "p4"), ("p1", "p3"), ("p2", "p4"))
    tubes = tuple(CradleTube(id=f"t{k + 1}", start=a, end=b) for k, (a, b) in enumerate(pairs))
    section = HollowSection(shape="rectangle", height_mm=60, width_mm=40, wall_mm=3)
    name = f"Cradle {len(job.cradles) + 1}" if job.cradles else "Cradle"
    return added(job, "cradles", Cradle(id=key, name=name, points=points, tubes=tubes, section=section))


def _rails(job: Job) -> float:
    """How far from the middle the nearest part of the chassis on the left runs, mm."""
    found = []
    for item in standing_items(job):
        if not item.chassis:
            continue
        try:
            points = np.vstack([part.triangles[0] for part in solid_of(item, job.meshes, "items")])
        except JobError:
            continue
        if points[:, 1].min() > 100:  # to one side, no crossmember
            found.append(float(points[:, 1].mean()))
    return min(found, default=APART)


def with_cradle_point(job: Job, key: str) -> Job:
    """One more free point, in the middle of the cradle's first tube, which it parts in two."""
    cradle = _of(job, key)
    point = free_id("p", {p.id for p in cradle.points})
    tube = cradle.tubes[0]
    at = {p.id: np.array(p.at) for p in cradle.points}
    middle = tuple(round(float(c), 1) for c in (at[tube.start] + at[tube.end]) / 2)
    other = free_id("t", {t.id for t in cradle.tubes})
    parted = (
        tube.model_copy(update={"end": point}),
        *cradle.tubes[1:],
        CradleTube(id=other, start=point, end=tube.end, section=tube.section),
    )
    after = cradle.model_copy(
        update={"points": (*cradle.points, CradlePoint(id=point, at=middle)), "tubes": parted}
    )
    return with_value(job, f"cradles/{key}", Cradle.model_validate(after.model_dump()))


def with_cradle_tube(job: Job, key: str) -> Job:
    """One more tube, between the two nearest points that none joins yet. Raises JobError where all are
    joined."""
    cradle = _of(job, key)
    joined = {frozenset((tube.start, tube.end)) for tube in cradle.tubes}
    pairs = [
        (math.dist(a.at, b.at), a.id, b.id)
        for i, a in enumerate(cradle.points)
        for b in cradle.points[:i]
        if frozenset((a.id, b.id)) not in joined and math.dist(a.at, b.at) > 10
    ]
    if not pairs:
        raise JobError(f"{cradle.name}: every point is joined to every other.", f"cradles/{key}/tubes")
    _, a, b = min(pairs)
    tube = CradleTube(id=free_id("t", {t.id for t in cradle.tubes}), start=b, end=a)
    return with_value(job, f"cradles/{key}/tubes", (*cradle.tubes, tube))


def without_cradle_point(job: Job, key: str, point: str) -> Job:
    """The job without a point and its tubes. Raises JobError where too little would be left."""
    cradle = _of(job, key)
    tubes = tuple(t for t in cradle.tubes if point not in (t.start, t.end))
    points = tuple(p for p in cradle.points if p.id != point)
    if not tubes:
        raise JobError(f"{cradle.name}: its last tube would go with that point.", f"cradles/{key}/points")
    after = cradle.model_dump() | {
        "points": [p.model_dump() for p in points],
        "tubes": [t.model_dump() for t in tubes],
    }
    return with_value(job, f"cradles/{key}", Cradle.model_validate(after))


def _of(job: Job, key: str) -> Cradle:
    return next(cradle for cradle in job.cradles if cradle.id == key)
