"""What is joined to what: made parts among themselves by the list of their joints, to the pieces they are
bolted to, and to what of the chassis they stand on.

Two parts that are joined touch, and no gap between them is asked for. A part that is welded or bolted
*flat* on another may lie SEAT mm in it, as shapes are no better; a part that is set into another (an arm
coped to an eye, a bolt in its hole, a sleeve in its rubber) is left out."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.families.plate import pad_spots
from nimble_cradle.families.strut_stand import on_chassis
from nimble_cradle.fit.made_bodies import MadeBody
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.geometry.solid_makers import box
from nimble_cradle.job.foot import CROSSMEMBER
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.remember import remembered

SEAT = 3.0
"""A part may lie so many mm in what it is welded or bolted flat on (common practice, no source)."""
MEETS = 8.0
"""A plate or an end plate stands on something within so many mm: shapes are as good as a tape (common
practice, no source)."""
FLAT = {"plate", "spacers", "foot", "saddle", "doubler"}
"""Parts that lie flat on what they are joined to outside of their mount."""
IN_RUBBER = {"sleeve", "cheeks"}
"""Parts of the fixed half that meet the eye over its rubber: the bush's own law has the room between them."""


def near_spots(bodies: Bodies, spots: Sequence[Array], within: float) -> frozenset[int]:
    """The bodies of a standing set that are within so many mm of any of some points of its frame."""
    if not bodies.count or not len(spots):
        return frozenset()
    points = Bodies([[box(spot, (0.1, 0.1, 0.1))] for spot in spots])
    found = nearest(points, Pose.still(), bodies, np.full((points.count, bodies.count), within))
    return frozenset(near.b for near in found)


@remembered("powertrain", "meshes", "mounts", "struts")
def bolted_pieces(job: Job) -> dict[str, frozenset[str]]:
    """The pieces that the plate of each mount, and of each strut that has one, is bolted to, by its id.
    Raises JobError."""
    pieces, bodies = fitted_pieces(job), powertrain_bodies(job)
    return {
        key: frozenset(pieces[k].id for k in near_spots(bodies, pad_spots(pad), MEETS))
        for key, pad in (
            *((mount.id, mount.pad) for mount in job.mounts),
            *((strut.id, strut.ears.pad) for strut in job.struts if strut.ears is not None),
        )
    }


@remembered("items", "survey", "meshes", "crossmember", "openings")
def rails_of_crossmember(job: Job) -> frozenset[str]:
    """The items that the crossmember's ends stand at. Raises JobError."""
    if job.crossmember is None:
        return frozenset()
    ends = [np.asarray(job.crossmember.points[k], dtype=float) for k in (0, -1)]
    items = standing_items(job)
    return frozenset(items[k].id for k in near_spots(bay_bodies(job), ends, MEETS) if items[k].chassis)


@remembered("items", "survey", "meshes", "cradles", "openings")
def held_cradle_items(job: Job) -> dict[str, frozenset[str]]:
    """The items that the points of each cradle that are held stand at, by the cradle's id. Raises
    JobError."""
    items, bay = standing_items(job), bay_bodies(job)
    out = {}
    for cradle in job.cradles:
        held = [np.asarray(point.at, dtype=float) for point in cradle.points if point.held != "free"]
        out[cradle.id] = frozenset(items[k].id for k in near_spots(bay, held, MEETS))
    return out


def panel_items(job: Job) -> dict[str, frozenset[str]]:
    """The item that each panel is put on, by the panel's id."""
    return {panel.id: frozenset(() if panel.on is None else (panel.on,)) for panel in job.panels}


def ribs_in(job: Job) -> dict[str, frozenset[str]]:
    """The item that each panel stands inside of as a rib, by the panel's id."""
    inside = (panel for panel in job.panels if panel.role == "rib" and panel.on is not None)
    return {panel.id: frozenset((panel.on,)) for panel in inside if panel.on}


def mount_of(job: Job, body: MadeBody) -> Mount | None:
    """The mount that a made part belongs to; of a strut's bracket what stands for it."""
    if body.owner.kind == "strut":
        return next((on_chassis(strut) for strut in job.struts if strut.id == body.owner.id), None)
    if body.owner.kind != "mount":
        return None
    return next((mount for mount in job.mounts if mount.id == body.owner.id), None)


def joined_parts(one: MadeBody, other: MadeBody) -> bool:
    """Whether two parts of one owner are joined, or have the rubber between them: they are left out."""
    if one.owner != other.owner:
        return False
    if one.owner.kind not in ("mount", "strut"):
        return True  # the tubes of one cradle, welded where they meet
    roles = one.role, other.role
    named = {joint.to for joint in one.part.joints} | {joint.to for joint in other.part.joints}
    if any(joint.to == other.role for joint in one.part.joints) or any(
        joint.to == one.role for joint in other.part.joints
    ):
        return True
    if "eye" in roles and (IN_RUBBER & set(roles)):
        return True
    if roles[0] == roles[1]:
        return True
    # a sleeve lies within the eye, and what is welded to the eye does not reach it but through the eye
    return "sleeve" in roles and "eye" in named


def made_to(job: Job, one: MadeBody, other: MadeBody) -> bool:
    """Whether one of two parts is of a mount that stands on what the other is of: a crossmember, a cradle."""
    for part, host in ((one, other), (other, one)):
        mount = mount_of(job, part)
        if mount is None:
            continue
        cross = job.crossmember
        if host.owner.kind == "crossmember" and cross is not None and cross.carries == mount.id:
            return True
        if mount.foot is not None:
            key = CROSSMEMBER if host.owner.kind == "crossmember" else host.owner.id
            if host.owner.kind in ("crossmember", "cradle") and mount.foot.host == key:
                return True
    return False


def stands_through(job: Job, one: MadeBody, other: MadeBody) -> float | None:
    """What a part needs off another made part that its mount stands on: nought where a foot is between them,
    SEAT mm of overlap for the foot; None where it does not stand on it."""
    if one.part.moves or not made_to(job, one, other):
        return None
    return _on_host(one if one.owner.kind in ("mount", "strut") else other)


def on_item(job: Job, body: MadeBody, item_id: str) -> float | None:
    """The same for a made part and an item: what it needs off an item that it is joined to; None where it is
    not."""
    if body.owner.kind == "crossmember":
        return -SEAT if item_id in rails_of_crossmember(job) else None
    if body.owner.kind == "panel":
        if item_id in ribs_in(job).get(body.owner.id, ()):
            return float("nan")  # a member is drawn without its hollow
        return -SEAT if item_id in panel_items(job).get(body.owner.id, ()) else None
    if body.owner.kind == "cradle":
        return -SEAT if item_id in held_cradle_items(job).get(body.owner.id, ()) else None
    mount = mount_of(job, body)
    if mount is None or body.part.moves or mount.foot is None or mount.foot.host != item_id:
        return None
    return _on_host(body)


def _on_host(body: MadeBody) -> float:
    joined = body.role in FLAT or any(joint.to == "chassis" for joint in body.part.joints)
    return -SEAT if joined else 0.0
