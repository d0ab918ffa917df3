"""Which drawn bodies a gap lies between."""

from __future__ import annotations

from nimble_cradle.desk.bay_view.drawers import Key
from nimble_cradle.job.job import Job


def drawn_bodies(job: Job, piece: str, item: str) -> set[Key]:
    """Keys of what is drawn of both ends of a gap, by the ids of its row."""
    return {_drawn(job, piece, "piece"), _drawn(job, item, "item")}


def _drawn(job: Job, body: str, plain: str) -> Key:
    owner, dot, role = body.partition(".")
    if not dot:
        return plain, body
    if role == "room":
        return "piece", owner
    kinds = (("mount", job.mounts), ("strut", job.struts), ("cradle", job.cradles), ("panel", job.panels))
    for kind, rows in kinds:
        if any(row.id == owner for row in rows):
            return kind, owner
    return ("crossmember", "") if owner == "crossmember" else ("shaft", body)
