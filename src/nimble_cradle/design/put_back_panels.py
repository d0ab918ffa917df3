"""Panels that put a member back where it was cut, or hold its shape: a patch over a hole, doublers beside a
cut, a cap on an end, a rib under a mount. Each is seen from outside the member, a rib from its front end."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from nimble_cradle.bay.member import Member, members_of, open_way
from nimble_cradle.fit.opened_member import OpenedMember, hole_span, opened_member
from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.job.base import JobError, Vec2, Vec3
from nimble_cradle.job.foot import CROSSMEMBER
from nimble_cradle.job.job import Job
from nimble_cradle.job.panel import Lip, Panel, PanelRole
from nimble_cradle.made.foot_seats import foot_seats

TAPER = math.tan(math.radians(30.0))
"""The ends of a doubler grow narrower by so much a mm, to a third of its width (common practice, no
source)."""
ROW_IN, ROW_HOLE = 12.0, 8.0
"""A row of plug welds: from the edge, and its holes, mm (common practice, no source)."""
LIP = 25.0
"""A lip of a cap or a rib, outside, mm (common practice, no source)."""
FREE = 0.5
"""A rib is so much smaller than the room for it on each side, mm."""
ROUND = 1 - 1 / math.sqrt(2)
"""Inside a bend is round, and the edges that it lies on are square: it stands off by this share of its
radius."""
BOTH_SKINS = "Through the outer skin at every plug, so that it holds both."
DISC = 48
"""A cap of a tube is drawn with so many sides."""


def put_back_panels(job: Job) -> dict[str, str]:
    """What can be begun: key -> what it is called."""
    out: dict[str, str] = {}
    for o in job.openings:
        if o.is_hole:
            out[f"patch {o.id}"] = f"Patch over: {o.name}"
            if o.form == "hole right through":
                out[f"patch-behind {o.id}"] = f"Patch behind: {o.name}"
        elif "sides" in o.mend:
            out[f"doublers {o.id}"] = f"Doublers beside: {o.name}"
    try:
        members = [m for m in members_of(job)[0] if m.item.host.wall_mm is not None]
    except JobError:  # the bay is not to be read, which is said there
        members = []
    names = {m.item.id: m.item.name for m in members if m.item.host.section == "open C"}
    for mount in job.mounts:
        if mount.foot is not None and mount.foot.host in names:
            out[f"rib {mount.id}"] = f"Rib in {names[mount.foot.host]} under {mount.name}"
    cut = {o.item for o in job.openings}
    for m in members:
        if m.item.id in cut:
            first, last = end_words(m)
            out[f"cap-first {m.item.id}"] = f"Cap on the {first} end of {m.item.name}"
            out[f"cap-last {m.item.id}"] = f"Cap on the {last} end of {m.item.name}"
    return out


def end_words(member: Member) -> tuple[str, str]:
    """What its two ends are called."""
    run = np.abs(member.end - member.start)
    return ("front", "rear") if run[0] >= run[1] else ("left", "right")


def put_back_panel(job: Job, kind: str, keys: Sequence[str]) -> tuple[Panel, ...]:
    """The panel or panels of a kind of ``put_back_panels``, with ids from ``keys``. Raises JobError."""
    word, _, of = kind.partition(" ")
    if word.startswith("cap-"):
        return (_cap(_member(job, of), word == "cap-first", keys[0]),)
    if word == "rib":
        return (_rib(job, of, keys[0]),)
    opening = next((o for o in job.openings if o.id == of), None)
    if opening is None:
        raise JobError("That cut is not in the job.", "openings")
    found = opened_member(job, opening)
    if word == "doublers":
        return _doublers(found, keys)
    return (_patch(found, word == "patch-behind", keys[0]),)


def _member(job: Job, item_id: str) -> Member:
    found = next((m for m in members_of(job)[0] if m.item.id == item_id), None)
    if found is None or found.item.host.wall_mm is None:
        raise JobError("That member is not in the bay, or its wall is not measured.", "items")
    return found


def tapered(wide: float, long: float, lap: float) -> tuple[Vec2, ...]:
    """A plate ``wide`` and ``long`` whose ends grow narrower within ``lap`` mm of them, from 0, 0 on."""
    run = min(0.8 * lap, wide / 3 / TAPER)
    if run < 2.0:
        return (0.0, 0.0), (wide, 0.0), (wide, long), (0.0, long)
    dx, t = round(run * TAPER, 1), round(run, 1)
    right = (wide - dx, 0.0), (wide, t), (wide, long - t), (wide - dx, long)
    return (dx, 0.0), *right, (dx, long), (0.0, long - t), (0.0, t)


def _flat_on(
    found: OpenedMember,
    key: str,
    name: str,
    axis: int,
    sign: float,
    span: tuple[float, float],
    face: float,
    role: PanelRole,
) -> Panel:
    """A flat plate on the outside of one wall: axis and sign of the way out of it, ``span`` along the other
    axis, its own outer side ``face`` mm from the member's middle; as long as its cut and both laps."""
    member, opening = found.member, found.opening
    item = member.item
    along = (member.end - member.start) / member.length
    ways = member.across, member.up
    out = sign * ways[axis]
    right = crosses(along, out)  # as one faces it: up along the member
    turn = float(np.sign(right @ ways[1 - axis]))
    first = max(opening.at_mm - opening.lap_mm, 0.0)
    last = min(opening.at_mm + opening.long_mm + opening.lap_mm, member.length)
    lap = min(opening.at_mm - first, last - opening.at_mm - opening.long_mm)
    low = min(turn * span[0], turn * span[1])
    thick = opening.mend_mm
    single = item.material == "single skin" or item.host.second_skin_mm > 0
    return Panel(
        id=key,
        name=name,
        outline=tapered(round(span[1] - span[0], 1), round(last - first, 1), lap),
        thick_mm=thick,
        radius_mm=thick,
        metal=opening.steel,
        at=_vec(member.start + first * along + (face + thick) * out + low * right),
        normal=_vec(out),
        up=_vec(along),
        on=item.id,
        over=opening.id,
        role=role,
        held="plug welded" if single else "welded",
        seam="round the edge" if single else "none",
        seam_hole_mm=ROW_HOLE,
        seam_in_mm=ROW_IN,
        sealed="not a firewall",
        note=BOTH_SKINS if item.host.second_skin_mm else "",
    )


def _patch(found: OpenedMember, behind: bool, key: str) -> Panel:
    """A plate over a hole, and beyond it by its lap as far as the wall goes."""
    member, opening = found.member, found.opening
    axis, sign = member.way(opening.side)
    name = f"{opening.name[:60]}: patch{' behind' if behind else ''}"
    sign = -sign if behind else sign
    span, face = hole_span(opening, member, axis), (member.wide, member.tall)[axis] / 2
    return _flat_on(found, key, name, axis, sign, span, face, "sheet")


def _doublers(found: OpenedMember, keys: Sequence[str]) -> tuple[Panel, ...]:
    """A plate on each wall beside a cut, its ends tapered. Raises JobError where there is none."""
    member, opening = found.member, found.opening
    axis, _ = member.way(opening.side)
    out: list[Panel] = []
    for wall in found.cut.walls:
        run = np.subtract(wall.end, wall.start)
        if abs(run[axis]) <= 0.8 * float(np.hypot(*run)):
            continue
        place = (wall.start[1 - axis] + wall.end[1 - axis]) / 2
        sign = 1.0 if place >= 0 else -1.0
        # a wall's line is drawn in its middle, from middle to middle of those that it meets
        whole = (member.wide, member.tall)[axis] / 2
        low, high = sorted((wall.start[axis], wall.end[axis]))
        grown = wall.thickness / 2 + 1e-3
        low, high = (-whole if low - grown <= -whole else low), (whole if high + grown >= whole else high)
        side = _side_word(member, 1 - axis, sign)
        name = f"{opening.name[:50]}: doubler on the {side}"
        face = abs(place) + wall.thickness / 2
        out.append(_flat_on(found, keys[len(out)], name, 1 - axis, sign, (low, high), face, "doubler"))
    if not out:
        raise JobError(
            f"{opening.name}: there is no wall beside it that a doubler could go on.",
            f"openings/{opening.id}/mend",
        )
    return tuple(out)


def _side_word(member: Member, axis: int, sign: float) -> str:
    way = sign * (member.across, member.up)[axis]
    k = int(np.abs(way).argmax())
    return (("front", "back"), ("left", "right"), ("top", "bottom"))[k][0 if way[k] > 0 else 1]


def _cap(member: Member, first: bool, key: str) -> Panel:
    """A plate over the end of a member, with a lip on each of its walls; a disc on a tube."""
    item = member.item
    wall = item.host.wall_mm
    assert wall is not None
    thick = max(wall, 1.0)
    along = (member.end - member.start) / member.length
    out = -along if first else along
    end = member.start if first else member.end
    up = member.up
    right = crosses(up, out)
    name = f"Cap, {end_words(member)[0 if first else 1]} end of {item.name[:50]}"
    single = item.material == "single skin"
    plain = {
        "id": key,
        "name": name,
        "thick_mm": thick,
        "radius_mm": thick,
        "normal": _vec(out),
        "up": _vec(up),
        "on": item.id,
        "sealed": "not a firewall",
    }
    if item.host.section == "tube":
        angles = 2 * math.pi * np.arange(DISC) / DISC
        ring = member.wide / 2 * (1 + np.column_stack([np.cos(angles), np.sin(angles)]))
        at = end + thick * out - member.wide / 2 * (right + up)
        outline = tuple((round(float(x), 2), round(float(y), 2)) for x, y in ring)
        return Panel(outline=outline, at=_vec(at), held="welded", **plain)
    ease = ROUND * thick
    across, high = (size + 2 * (thick + ease) for size in (member.wide, member.tall))
    at = end + (thick + ease) * out - across / 2 * right - high / 2 * up
    bare = _without_wall(member, right)
    off = math.ceil(2 * thick + ease)
    edges = ((1, 0.0), (3, 0.0), (2, off), (0, off))
    lips = tuple(
        Lip(id=f"lip-{k}", edge=edge, long_mm=LIP + thick, first_mm=by, last_mm=by)
        for k, (edge, by) in enumerate(edges, 1)
        if edge != bare
    )
    return Panel(
        outline=_box(round(across, 1), round(high, 1)),
        at=_vec(at),
        lips=lips,
        held="plug welded" if single else "welded",
        seam="along the lips" if single else "none",
        seam_hole_mm=ROW_HOLE,
        seam_in_mm=ROW_IN,
        **plain,
    )


def _without_wall(member: Member, right: Array) -> int | None:
    """The edge of a cap at which its member has no wall, counted from the lower one round by the right."""
    if member.item.host.section not in ("open C", "hat on skin"):
        return None
    axis, sign = open_way(member, member.item.host)
    if axis == 1:
        return 2 if sign > 0 else 0
    return 1 if sign * float(member.across @ right) > 0 else 3


def _rib(job: Job, mount_id: str, key: str) -> Panel:
    """A plate across an open C where a mount stands on it, with a lip along its open edge. Raises
    JobError."""
    mount = next((m for m in job.mounts if m.id == mount_id), None)
    seat = None if mount is None else foot_seats(job).of(mount.id)
    if mount is None or mount.foot is None or seat is None or mount.foot.host == CROSSMEMBER:
        raise JobError("That mount does not stand on a member.", "mounts")
    member = _member(job, mount.foot.host)
    host, item = member.item.host, member.item
    if host.section != "open C":
        raise JobError(f"{item.name} is no open C: a rib does not go in.", f"items/{item.id}/host/section")
    wall = host.wall_mm or 0.0
    thick = max(wall, 2.0)
    along = (member.end - member.start) / member.length
    station = float((seat.centre - member.start) @ along)
    axis, sign = open_way(member, host)
    ways, size = (member.across, member.up), (member.wide, member.tall)
    open_out = sign * ways[axis]
    # seen from the member's front or left end, its open side to the right
    normal = -along
    up = crosses(normal, open_out)
    deep, high = size[axis] - wall - FREE, size[1 - axis] - 2 * (wall + FREE)
    corner = round(2 * wall, 1)
    web = size[axis] / 2 - wall - FREE
    at = member.start + station * along + thick / 2 * normal - web * open_out - high / 2 * up
    deep, high = round(deep, 1), round(high, 1)
    outline = (corner, 0.0), (deep, 0.0), (deep, high), (corner, high), (0.0, high - corner), (0.0, corner)
    lip = Lip(id="lip-1", edge=1, long_mm=min(LIP, high / 2), first_mm=thick, last_mm=thick)
    return Panel(
        id=key,
        name=f"Rib under {mount.name[:60]}",
        outline=outline,
        thick_mm=thick,
        radius_mm=thick,
        lips=(lip,),
        at=_vec(at),
        normal=_vec(normal),
        up=_vec(up),
        on=item.id,
        role="rib",
        held="welded",
        sealed="not a firewall",
    )


def _box(wide: float, high: float) -> tuple[Vec2, ...]:
    return (0.0, 0.0), (wide, 0.0), (wide, high), (0.0, high)


def _vec(v: Array) -> Vec3:
    x, y, z = (float(round(float(c), 3)) for c in v)
    return (x, y, z)
