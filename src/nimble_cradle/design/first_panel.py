"""Panels to begin with: over a cut, a strip, a cover with rivets, a plain sheet."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from nimble_cradle.bay.cut_solids import solid_of
from nimble_cradle.bay.member import members_of
from nimble_cradle.design.put_back_panels import put_back_panel, put_back_panels
from nimble_cradle.fit.frame_parts import sorted_members
from nimble_cradle.fit.opened_member import opened_member
from nimble_cradle.geometry.bend import setback
from nimble_cradle.geometry.pose import Array, crosses, unit
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.crack import Crack
from nimble_cradle.job.edits import added, free_id
from nimble_cradle.job.job import Job
from nimble_cradle.job.opening import Opening
from nimble_cradle.job.panel import Duty, Lip, Panel
from nimble_cradle.judge.cracks import crack_plate, item_of
from nimble_cradle.judge.panel_duty import duty_verdict

ROUND = 1 - 1 / math.sqrt(2)
"""Inside a bend is round, and the edges that it lies on are square: it stands off by this share of its
radius."""
MOST_AT_ONCE = 4
"""So many panels are begun at once at most: one on each wall."""
FREE = 0.5
"""A plate in a cut is shorter than it by so much at each end, mm."""
ROW_IN, ROW_HOLE = 12.0, 8.0
"""A row of plug welds: from the edge, and its holes, mm (common practice, no source)."""
TIE_WIDE, TIE_END, TIE_OFF = 160.0, 50.0, 10.0
"""A tie from rail to rail: along the car, its lips at the rails, and how far its other lips stay from its
corners, mm (common practice, no source)."""
TIE_SHEETS, TIE_LIPS = (4.0, 5.0, 6.0, 8.0), (30.0, 45.0, 60.0, 80.0)
"""Sheets and lips that are tried for one, mm."""
LIP = 25.0
"""A lip of a boxing plate, outside, mm (common practice, no source)."""
COVER, RIVETS = 20.0, 25.0
"""A cover goes over its opening by so many mm all round; rivets are so far apart (common practice, no
source)."""


def first_panels(job: Job) -> dict[str, str]:
    """What can be begun: key -> what it is called."""
    over = {f"over {o.id}": f"Boxing plate over: {o.name}" for o in job.openings if not o.is_hole}
    cracked = {f"crack {c.id}": f"Plate over: {c.name}" for c in job.cracks if c.kind == "crack"}
    return {
        **over,
        **put_back_panels(job),
        **cracked,
        "cover": "Cover for an opening, riveted",
        "strip": "Strip, skin to skin",
        "sheet": "Plain sheet with a lip",
        "tie": "Tie from rail to rail, under rack and sump",
    }


def with_first_panels(job: Job, kind: str) -> tuple[Job, Panel]:
    """The job with the panel or panels of one of the kinds of ``first_panels``, and the first of them.
    Raises JobError."""
    if kind not in first_panels(job):
        raise JobError("That is not to be made of what there is now.", "panels")
    if kind not in put_back_panels(job):
        panel = first_panel(job, kind)
        return added(job, "panels", panel), panel
    taken = {panel.id for panel in job.panels}
    keys: list[str] = []
    for _ in range(MOST_AT_ONCE):
        keys.append(free_id("panel", taken | set(keys)))
    panels = put_back_panel(job, kind, keys)
    for panel in panels:
        job = added(job, "panels", panel)
    return job, panels[0]


def first_panel(job: Job, kind: str) -> Panel:
    """One of the kinds of ``first_panels`` that is one panel by itself. Raises JobError."""
    key = free_id("panel", {panel.id for panel in job.panels})
    names = {panel.name for panel in job.panels}

    def named(name: str) -> str:
        return next(n for n in (name, *(f"{name} {k}" for k in range(2, 99))) if n not in names)

    if kind.startswith("over "):
        opening = next((o for o in job.openings if o.id == kind[5:]), None)
        if opening is None or opening.is_hole:
            why = "is not in the job" if opening is None else "is a hole; a flat plate goes over it"
            raise JobError(f"That cut {why}.", "openings")
        return _over(job, opening, key, named(f"{opening.name[:60]}: plate"))
    if kind.startswith("crack "):
        crack = next((c for c in job.cracks if c.id == kind[6:]), None)
        if crack is None:
            raise JobError("That crack is not in the job.", "cracks")
        return _over_crack(job, crack, key, named(f"{crack.name[:60]}: plate"))
    if kind == "cover":
        return Panel(
            id=key,
            name=named("Cover"),
            outline=_box(120 + 2 * COVER, 80 + 2 * COVER),
            thick_mm=1.0,
            radius_mm=1.0,
            held="riveted",
            seam="round the edge",
            seam_hole_mm=4.1,
            seam_pitch_mm=RIVETS,
            seam_in_mm=COVER / 2,
            normal=(1.0, 0.0, 0.0),
            up=(0.0, 0.0, 1.0),
        )
    if kind == "strip":
        return Panel(
            id=key,
            name=named("Strip"),
            outline=_box(40, 160),
            thick_mm=2.0,
            radius_mm=2.0,
            held="plug welded",
            seam="round the edge",
            seam_in_mm=20.0,
            sealed="not a firewall",
        )
    if kind == "tie":
        return _tie(job, key, named("Tie under the rack"))
    lip = Lip(id="lip-1", edge=2)
    return Panel(id=key, name=named("Sheet"), outline=_box(200, 100), lips=(lip,), sealed="not a firewall")


def _tie(job: Job, key: str, name: str) -> Panel:
    """Between both rails where the front axle is, a lip up along each edge: those at the ends are bolted to
    the rails. Raises JobError where there are not two rails of known section."""
    rails, _, _ = sorted_members(job)
    ends = [rail.at_station(0.0) for rail in rails]
    members = {m.item.id: m for m in members_of(job)[0]}
    inner = [
        float(bar.place(t)[1]) - side * members[bar.item].wide / 2
        for (bar, t), side in zip(ends, (1, -1), strict=True)
    ]
    low = min(float(bar.place(t)[2]) - members[bar.item].tall / 2 for bar, t in ends)
    x = float(ends[0][0].place(ends[0][1])[0])
    wide = inner[0] - inner[1] - 2 * FREE
    plain = Panel(
        id=key,
        name=name,
        outline=_box(round(wide, 1), TIE_WIDE),
        at=(round(x - TIE_WIDE / 2, 1), round(inner[1] + FREE, 1), round(low + 2.0, 1)),
        # as one lies under it: forward up, right at the car's left
        normal=(0.0, 0.0, -1.0),
        up=(1.0, 0.0, 0.0),
        held="bolted",
        sealed="not a firewall",
        duty=Duty(),
    )
    tried = [_with_lips(plain, thick, high) for thick in TIE_SHEETS for high in TIE_LIPS]
    bare = job.model_copy(update={"panels": ()})
    for panel in tried:
        found = duty_verdict(added(bare, "panels", panel)).findings
        if found and all(finding.use <= 1 for finding in found):
            return panel
    return tried[-1]


def _with_lips(plain: Panel, thick: float, high: float) -> Panel:
    """A tie with a lip up along each edge; those at the rails are as high as two bolts need."""
    edges = ((1, TIE_END, 0.0), (3, TIE_END, 0.0), (2, high, TIE_OFF), (0, high, TIE_OFF))
    lips = tuple(
        Lip(id=f"lip-{k}", edge=edge, long_mm=long, first_mm=off, last_mm=off)
        for k, (edge, long, off) in enumerate(edges, 1)
    )
    return plain.model_copy(update={"thick_mm": thick, "radius_mm": thick, "lips": lips})


def _box(wide: float, high: float) -> tuple[tuple[float, float], ...]:
    return (0.0, 0.0), (wide, 0.0), (wide, high), (0.0, high)


def _over(job: Job, opening: Opening, key: str, name: str) -> Panel:
    """A plate in a cut, over its open edges, where it is to lie: a lip down each wall beside it; at both
    ends, where the sheet can be bent so, up the end of the cut and on over the skin beyond it."""
    found = opened_member(job, opening)
    member = found.member
    axis, sign = member.way(opening.side)
    out = sign * (member.across, member.up)[axis]
    along = (member.end - member.start) / member.length
    deep = (member.wide, member.tall)[axis]
    wide = (member.tall, member.wide)[axis]
    level = deep / 2 - opening.deep_mm
    long = opening.long_mm - 2 * FREE
    thick = opening.mend_mm
    # as one faces it from the cut's side: up along the member, right across it
    right = crosses(along, out)
    ease = ROUND * thick
    across = wide + 2 * (thick + ease)
    at = member.start + (opening.at_mm + FREE) * along + (level + thick + ease) * out - across / 2 * right
    long_lip = max(LIP, math.ceil(ROW_IN + ROW_HOLE / 2 + 2 * thick + 2 * thick))
    lips = [Lip(id=f"lip-{k}", edge=edge, long_mm=long_lip) for k, edge in enumerate((1, 3), 1)]
    high = opening.deep_mm + thick - ease
    ends = high > 2 * setback(thick, thick, 90.0) + 1.0 and opening.lap_mm > 2 * thick
    for k, edge in enumerate((0, 2), 3) if ends else ():
        up, over = f"lip-{k}", f"lip-{k + 2}"
        lips.append(Lip(id=up, edge=edge, long_mm=high, way="towards"))
        lips.append(Lip(id=over, on=up, edge=2, long_mm=opening.lap_mm + thick, way="away"))
    single = member.item.material == "single skin"
    held: Any = "plug welded" if single else "welded"
    open_ends = (
        "" if ends else "Too thick to be bent up the ends of the cut: close those with pieces of their own."
    )
    return Panel(
        id=key,
        name=name,
        outline=_box(round(across, 1), round(long, 1)),
        thick_mm=thick,
        radius_mm=thick,
        metal=opening.steel,
        lips=tuple(lips),
        at=_vec(at),
        normal=_vec(out),
        up=_vec(along),
        on=opening.item,
        over=opening.id,
        held=held,
        seam="along the lips" if single else "none",
        seam_hole_mm=ROW_HOLE,
        seam_in_mm=ROW_IN,
        sealed="not a firewall",
        note=open_ends,
    )


def _over_crack(job: Job, crack: Crack, key: str, name: str) -> Panel:
    """A flat plate on a crack, its ends tapered, on the side of its item that it is at."""
    item = item_of(job, crack)
    if item is None:
        raise JobError(f"{crack.name}: what it is in is not in the bay.", f"cracks/{crack.id}/item")
    if item.host.wall_mm is None:
        raise JobError(
            f"{crack.name}: the wall of {item.name} is not measured.", f"items/{item.id}/host/wall_mm"
        )
    plate = crack_plate(crack, item.host.wall_mm)
    solids = [part for part in solid_of(item, job.meshes, "items") if isinstance(part, ConvexPart)]
    run, at = unit(crack.run), np.asarray(crack.at, dtype=float)
    out = _face_at(solids, at, run)
    single = item.material == "single skin"
    return Panel(
        id=key,
        name=name,
        outline=tuple((round(u, 1), round(v, 1)) for u, v in plate.outline),
        thick_mm=plate.thick,
        radius_mm=plate.thick,
        at=_vec(at + plate.thick * out),
        normal=_vec(out),
        up=_vec(run),
        on=crack.item,
        held="plug welded" if single else "welded",
        seam="round the edge" if single else "none",
        seam_hole_mm=ROW_HOLE,
        seam_in_mm=ROW_IN,
        sealed="not a firewall",
    )


def _face_at(solids: list[ConvexPart], at: Array, run: Array) -> Array:
    """Which way the face looks that a place lies on, made square to the crack's run; up where no solid is."""
    best, found = np.inf, np.array([0.0, 0.0, 1.0])
    for part in solids:
        normals, offsets = part.sides
        own = (at - part.pose.translation) @ part.pose.rotation
        away = np.abs(normals @ own - offsets)
        k = int(np.argmin(away))
        if away[k] < best:
            best, found = float(away[k]), part.pose.rotation @ normals[k]
    square = found - (found @ run) * run
    return unit(square) if np.linalg.norm(square) > 0.1 else unit(found)


def _vec(v: Any) -> Vec3:
    return float(round(v[0], 3)), float(round(v[1], 3)), float(round(v[2], 3))
