"""Open members: what stands on their open side, ribs in them, and whether each stands as one."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.bay.member import Member, members_of
from nimble_cradle.fit.opened_member import open_way
from nimble_cradle.geometry.pose import Array, frame
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.panel import Panel

UNDER = 30.0
"""A rib holds a member's shape where something stands on it within so many mm along it (common practice, no
source)."""
ASKEW = 5.0
"""It stands square to its member within so many degrees."""
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
    out = []
    axis, sign = open_way(member, host)
    ways, size = (member.across, member.up), (member.wide, member.tall)
    inside = size[1 - axis] / 2 - host.wall_mm, size[axis] / 2 - host.wall_mm
    high = corners @ ways[1 - axis]
    web = sign * (corners @ ways[axis])
    off = max(inside[0] - float(high.max()), inside[0] + float(high.min()), inside[1] + float(web.min()))
    over = max(float(high.max()) - inside[0], -inside[0] - float(high.min()), -inside[1] - float(web.min()))
    if off > SHORT:
        out.append(f"as a rib it ends {off:.0f} mm from a wall that it is to be welded to")
    if over > 0.1:
        out.append(f"it runs {over:.1f} mm into a wall of {member.item.name}")
    if panel.held != "welded":
        out.append("a rib is welded in")
    return out


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
    item = next((item for item in job.items if item.id == item_id), None)
    if item is None or item.host.section != "open C" or item.host.ribbed:
        return False
    member = next((m for m in members_of(job)[0] if m.item.id == item_id), None)
    if member is None:
        return False
    try:
        axis, sign = open_way(member, member.item.host)
    except JobError:  # an end of it: asked where its section is said
        return False
    return float(sign * (member.across, member.up)[axis] @ out) > 0.7
