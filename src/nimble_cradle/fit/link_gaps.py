"""Gaps of shafts and rods to everything else: through the wheels' travel, and with the engine moved.

In a load case its near end moves no further than the engine does, and no gap changes by more: what keeps
enough however the engine moves is not measured."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from nimble_cradle.bay.bodies import fitted_pieces, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.gap import Gap, point_of
from nimble_cradle.fit.gaps import item_doubt, most_moved
from nimble_cradle.fit.link_around import Around, Key, Others, others_of
from nimble_cradle.fit.links import Link, links
from nimble_cradle.fit.made_bodies import MADE_DOUBT
from nimble_cradle.geometry.distance import Nearest
from nimble_cradle.geometry.least_through import Asked
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered, shape_of

RIDE = 500.0
"""At ride height what comes near in the wheels' travel is measured up to so many mm beyond what it needs."""
LISTED = 30.0
"""Links are listed up to so many mm beyond what they need."""
SHALLOW = 2.0
"""So deep in one another at rest, mm, a link and something else are still looked at in every load case."""


def _where(*words: str) -> str:
    return ", ".join(part for part in words if part) or "at rest"


def link_gaps(
    job: Job, poses: Sequence[tuple[str, Pose]], only: Collection[tuple[str, str]] | None = None
) -> tuple[Gap, ...]:
    """Every shaft and rod against everything else at rest, through the wheels' travel and in load cases
    (name, pose of the powertrain). only: pairs by the two ids of a row, where only those are asked for.
    Raises JobError."""
    still = _still(job) if only is None else _looked_at(job, only)
    out: list[Gap] = []
    for link, around, found in still:
        rows = dict(found)
        if poses and rows:
            _through(link, around, around.others, pose_of(job.position), poses, rows)
        out += rows.values()
    return tuple(sorted(out, key=lambda g: g.margin))


class _Still(NamedTuple):
    """A link among everything else with the engine still: its rows by what is near it."""

    link: Link
    around: Around
    rows: dict[Key, Gap]


@remembered(
    *("powertrain", "position", "vehicle", "items", "survey", "meshes", "openings", "mounts", "crossmember"),
    *("struts", "cradles", "panels", "suspensions", "propshaft", "half_shafts", "clearances", "setting"),
    of_mount=shape_of,
)
def _still(job: Job) -> tuple[_Still, ...]:
    """All links, which no load and no rubber changes. Raises JobError."""
    return _looked_at(job, None)


def _looked_at(job: Job, only: Collection[tuple[str, str]] | None) -> tuple[_Still, ...]:
    every = links(job)
    if not every:
        return ()
    others, rest = others_of(job), pose_of(job.position)
    out = []
    for link in every:
        around = Around(job, link, others)
        listed = {
            key: need + LISTED
            for key, need in around.need.items()
            if only is None or {(link.id, others.ids[key]), (others.ids[key], link.id)} & set(only)
        }
        if not listed:
            continue
        found = around.swept([rest], {key: Asked(far) for key, far in listed.items()})
        far = {key: around.need[key] + RIDE for key in found}
        ride = around.look(rest, link.bodies(rest, 0.0), far, movers=True)
        rows = {
            key: _row(job, link, around, key, ride.get(key), near, around.where(key, travel))
            for key, (near, _, travel) in found.items()
        }
        out.append(_Still(link, around, rows))
    return tuple(out)


def _through(
    link: Link,
    around: Around,
    others: Others,
    rest: Pose,
    poses: Sequence[tuple[str, Pose]],
    rows: dict[Key, Gap],
) -> None:
    """Write into the rows what load cases leave of the gaps that they may take up. What is in one another by
    more than SHALLOW mm with the engine still is no further looked at."""
    start = link.ends(rest, 0.0)[0]
    shifts = []
    moved = most_moved(others.engine, rest, [pose for _, pose in poses])
    for (_, pose), theirs in zip(poses, moved, strict=True):
        own = float(np.linalg.norm(link.ends(pose, 0.0)[0] - start))
        shifts.append({k: own + (float(theirs[k[1]]) if k[0] == "engine" else 0.0) for k in rows})
    asked = {}
    for key, row in rows.items():
        if row.still <= -SHALLOW:
            continue
        least = row.still - max(shift[key] for shift in shifts)
        if least - row.required - row.give_or_take > 0:
            rows[key] = replace(row, running=least, at_least=True)
        else:
            floor = row.still - np.array([shift[key] for shift in shifts])
            asked[key] = Asked(row.still, floor, np.array([row.way]))
    found = around.swept([pose for _, pose in poses], asked)
    for key in asked:
        running, where = rows[key].still, rows[key].travel_at or "at rest"
        if key in found:
            near, case, travel = found[key]
            running, where = near.distance, _where(poses[case][0], around.where(key, travel))
        rows[key] = replace(rows[key], running=running, running_case=where)


def _row(
    job: Job, link: Link, around: Around, key: Key, ride: Nearest | None, near: Nearest, where: str
) -> Gap:
    kind, k = key
    others, need = around.others, around.need[key]
    items, pieces = standing_items(job), fitted_pieces(job)
    doubt = MADE_DOUBT
    if kind == "car" and k < len(items):
        doubt = item_doubt(job, items[k], near)
    elif kind == "engine" and k < len(pieces):
        doubt = pieces[k].give_or_take
    moves = link.span[1] > link.span[0]
    row = Gap(
        link.id,
        others.ids[key],
        link.name,
        others.names[key],
        near.distance if not moves else need + RIDE if ride is None else ride.distance,
        need,
        math.hypot(MADE_DOUBT, doubt),
        point_of(near.on_a),
        point_of(near.on_b),
        point_of(near.way),
        travel=near.distance if moves else None,
        travel_at=_where(where) if moves else "",
        stage=link.stage if link.stage != "position" else others.stages[key],
    )
    return row.turned() if kind == "engine" and k < len(pieces) else row
