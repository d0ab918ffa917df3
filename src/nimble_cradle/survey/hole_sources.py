"""Hole patterns from a traced drawing or a photograph, and a pattern put on a mount's pad: edits, a job to
the next job."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.pattern import Hole, HoleReading, Pattern
from nimble_cradle.survey.pattern import found_pattern
from nimble_cradle.survey.traced import Traced

MOST_HOLES = 60
"""Holes that are taken from a drawing or a photograph."""


def with_traced(job: Job, name: str, traced: Traced) -> Job:
    """The job with the circles of a drawing as a pattern, offsets from the drawing's own nought. Raises
    JobError where there is none."""
    if not len(traced.holes):
        raise JobError(f"“{name}” has no circles, so no holes.")
    return _added(job, name, traced.holes[:MOST_HOLES, :2], 0.5, traced.holes[:MOST_HOLES, 2])


def with_photographed(job: Job, name: str, at: Array, plus_minus: float, when: str = "") -> Job:
    """The job with holes picked on a photograph, (n, 2) mm from the square's first corner, each good to
    ``plus_minus`` mm."""
    return _added(job, name, at[:MOST_HOLES], max(plus_minus, 0.05), None, when)


def _added(job: Job, name: str, at: Array, plus_minus: float, diameters: Array | None, when: str = "") -> Job:
    holes, readings = [], []
    for k, place in enumerate(at, start=1):
        key = f"hole-{k}"
        holes.append(
            Hole(id=key) if diameters is None else Hole(id=key, diameter_mm=round(float(diameters[k - 1]), 3))
        )
        readings += [
            HoleReading(
                id=f"{key}-across",
                kind="across",
                hole=key,
                value=round(float(place[0]), 4),
                method="drawing",
                plus_minus=round(plus_minus, 3),
                when=when,
            ),
            HoleReading(
                id=f"{key}-up",
                kind="up",
                hole=key,
                value=round(float(place[1]), 4),
                method="drawing",
                plus_minus=round(plus_minus, 3),
                when=when,
            ),
        ]
    key = free_id("pattern", {pattern.id for pattern in job.survey.patterns})
    return added(
        job,
        "survey/patterns",
        Pattern(id=key, name=name[:60] or "Pattern", holes=tuple(holes), readings=tuple(readings)),
    )


def with_pattern_on(job: Job, pattern: Pattern, mount: Mount) -> Job:
    """The job with a pattern's holes, centred, as those of a mount's plate, as one faces it. Raises
    JobError where a hole is not pinned down."""
    found = found_pattern(pattern)
    if not found.holes or any(hole.free for hole in found.holes):
        raise JobError("Not every hole is pinned down yet.", f"survey/patterns/{pattern.id}")
    centred = found.at - (found.at.max(0) + found.at.min(0)) / 2
    holes = tuple((round(float(x), 2) + 0.0, round(float(y), 2) + 0.0) for x, y in centred)
    size = round(float(np.max([hole.hole_mm for hole in found.holes])), 2)
    for name, value in (
        ("holes", holes),
        ("bolt", pattern.holes[0].bolt),
        ("hole_mm", size),
        ("edge_mm", pattern.edge_mm),
        ("plate_mm", pattern.plate_mm),
    ):
        job = with_value(job, f"mounts/{mount.id}/pad/{name}", value)
    return job
