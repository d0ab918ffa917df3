"""What the table of clearances asks of a class of neighbour."""

from __future__ import annotations

from nimble_cradle.job.job import Job

METAL = "metal"
TURNING = "turning"


def class_gap(job: Job, neighbour: str) -> float:
    """The air that a class asks for, mm; of one that is not in the table, the least in it."""
    table = {clearance.id: clearance.required_mm for clearance in job.clearances}
    return table.get(neighbour, min(table.values(), default=0.0))
