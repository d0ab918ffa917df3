"""What stands in the heat where something is welded in the car: lines, hoses, wires."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, standing_items
from nimble_cradle.findings.finding import Problem
from nimble_cradle.fit.made_bodies import MadeBody, made_on_car
from nimble_cradle.fit.made_gaps import STAGE_OF
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.foot import CROSSMEMBER
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.units import show

HEAT = 150.0
"""What burns or melts stands out of the heat of a weld so many mm away (common practice, no source)."""
LINES = ("hose",)
"""Classes of neighbour that burn or melt: hoses, pipes with what is in them, wires."""


class InHeat(NamedTuple):
    """An item in the heat of a weld: its id and name, what is welded and in which stage, how far, mm."""

    item: str
    name: str
    weld: str
    stage: str
    away: float


@remembered("mounts", "struts", "items", "survey", "meshes", "crossmember", "cradles", "panels", "openings")
def in_heat(job: Job) -> tuple[InHeat, ...]:
    """Every line, hose or wire within HEAT mm of what is welded in the car, the nearest first, each with the
    weld that is nearest to it. Raises JobError."""
    rows = [row for row in made_on_car(job).rows if _welded_in_car(job, row)]
    items = standing_items(job)
    lines = [k for k, item in enumerate(items) if item.neighbour in LINES]
    if not rows or not lines:
        return ()
    welds, bay = Bodies([row.solids for row in rows]), bay_bodies(job)
    reach = np.full((welds.count, bay.count), -np.inf)
    reach[:, lines] = HEAT
    found: dict[int, InHeat] = {}
    for near in nearest(welds, Pose.still(), bay, reach):
        away, row = max(near.distance, 0.0), rows[near.a]
        if near.b not in found or away < found[near.b].away:
            item = items[near.b]
            stage = STAGE_OF.get(row.owner.kind, "mounts")
            found[near.b] = InHeat(item.id, item.name, row.name, stage, away)
    return tuple(sorted(found.values(), key=lambda row: row.away))


def _welded_in_car(job: Job, body: MadeBody) -> bool:
    """Whether a part is welded onto the chassis; onto the crossmember that is done on the bench."""
    mount = next((m for m in job.mounts if m.id == body.owner.id), None)
    if mount is not None and mount.foot is not None and mount.foot.host == CROSSMEMBER:
        return False
    return any(joint.how == "welded to" and joint.to == "chassis" for joint in body.part.joints)


def heat_questions(job: Job, stage: str) -> tuple[Problem, ...]:
    """What of it nobody has said is out of the way while it is welded. Raises JobError."""
    said = {item.id: item.when_welding for item in job.items}
    return tuple(
        Problem(
            row.stage,
            f"items/{row.item}/when_welding",
            f"{row.name} is {show(row.away, 'length', job.show.display, 0)} from where"
            f" {row.weld.replace(', ', ': ')} is welded: take it off or shield it from heat and sparks, and"
            " say so.",
        )
        for row in in_heat(job)
        if row.stage == stage and said.get(row.item) == "unsaid"
    )
