"""Open members: what stands on their open side, ribs in them, and whether each stands as one."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.bay.member import NEAR, Member, members_of, open_side, open_way, whole_items
from nimble_cradle.geometry.pose import Array, frame
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.panel import Panel

UNDER = 30.0
"""A rib holds a member's shape where something stands on it within so many mm along it (common practice, no
source)."""
ASKEW = 5.0
"""It stands square to its member within so many degrees."""
ALONG = 0.5
"""Along this share of each wall it lies at least (common practice, no source)."""
SHORT = 4.0
"""It reaches each wall within so many mm: what a weld fills, and the round of the corner."""


def rib_faults(member: Member, panel: Panel) -> list[str]:
    """Why a panel is no rib of its member, in words without a full stop; none where it is one."""
    host = member.item.host
    if host.section != "open C" or host.wall_mm is None:
        return [f"{member.item.name} is no open member, or its wall is not measured: a rib does not go in"]
    along = (member.end - member.start) / member.length
    axes = frame(panel.normal, panel.up)
    askew = math.degrees(math.acos(min(abs(float(axes[:, 2] @ along)), 1.0)))
    if askew > ASKEW:
        return [f"as a rib it stands {askew:.0f} deg off square to {member.item.name}"]
    corners = np.asarray(panel.at) + np.asarray(panel.outline) @ axes[:, :2].T - member.start
    station = corners @ along
    if station.max() < 0 or station.min() > member.length:
        return [f"as a rib it stands beyond the end of {member.item.name}"]
    try:
        axis, sign = open_way(member, host)
    except JobError as error:  # an end of it: asked where its section is said
        return [error.message.rstrip(".")]
    ways, size = (member.across, member.up), (member.wide, member.tall)
    deep, high = size[axis] - host.wall_mm, size[1 - axis] - 2 * host.wall_mm
    # from the middle of the web's inside: towards the open side, and along the web
    own = np.column_stack(
        [sign * (corners @ ways[axis]) + size[axis] / 2 - host.wall_mm, corners @ ways[1 - axis]]
    )
    return [*_reaches(own, deep, high, member.item.name), *_held(panel)]


def _reaches(outline: Array, deep: float, high: float, name: str) -> list[str]:
    """Whether a plate, its outline (n, 2) from the middle of the web's inside, lies along web and flanges of
    the room of an open member, ``deep`` to the open side and ``high`` between the flanges, and in none."""
    from shapely.geometry import Polygon, box

    plate = Polygon(outline)
    if not plate.is_valid:
        return ["its outline crosses itself"]
    low_x, low_y, _, high_y = plate.bounds
    over = max(high_y - high / 2, -high / 2 - low_y, -low_x)
    if over > 0.1:
        return [f"it runs {over:.1f} mm into a wall of {name}"]
    bands = (
        (box(-SHORT, -high, SHORT, high), 1, high),
        (box(-deep, high / 2 - SHORT, 2 * deep, high), 0, deep),
        (box(-deep, -high, 2 * deep, SHORT - high / 2), 0, deep),
    )
    for band, along, long in bands:
        part = plate.intersection(band)
        reach = 0.0 if part.is_empty else part.bounds[along + 2] - part.bounds[along]
        if reach < ALONG * long:
            said = f"as a rib it lies along {reach:.0f} mm of a wall of {name}"
            return [f"{said}; half of its {long:.0f} mm at least"]
    return []


def _held(panel: Panel) -> list[str]:
    return [] if panel.held == "welded" else ["a rib is welded in"]


def rib_at(job: Job, item_id: str, place: Array) -> bool:
    """Whether a rib stands in a member where something stands on it: place (3,), vehicle frame."""
    ribs = [panel for panel in job.panels if panel.role == "rib" and panel.on == item_id]
    if not ribs:
        return False
    member = next((m for m in members_of(job)[0] if m.item.id == item_id), None)
    if member is None:
        return False
    along = (member.end - member.start) / member.length
    near = [rib for rib in ribs if abs(float((np.asarray(rib.at) - place) @ along)) <= UNDER]
    return any(not rib_faults(member, rib) for rib in near)


def on_open_side(job: Job, item_id: str, out: Array) -> bool:
    """Whether what stands on a member stands where that has no wall: out (3,) unit, the way off the face it
    stands on. A member that is said to be boxed there has one."""
    item = next((item for item in whole_items(job) if item.id == item_id), None)
    way = None if item is None else open_side(item, job.meshes)
    return way is not None and float(np.asarray(way) @ out) > NEAR
