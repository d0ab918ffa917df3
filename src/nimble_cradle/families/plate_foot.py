"""A foot plate with two cheeks, welded or bolted to its host: its parts and checks."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from nimble_cradle.families.cheeks import CODES, OnFoot
from nimble_cradle.families.family import LoadPath
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.on_wall import (
    host_steel,
    lean_questions,
    metal_questions,
    wall_finding,
    wall_gives,
    wall_path,
)
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import Cases, Check, alone, worst
from nimble_cradle.geometry.footprint import Footprint
from nimble_cradle.geometry.plate import Plate
from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.geometry.solid_makers import box
from nimble_cradle.job.base import JobError
from nimble_cradle.job.foot import PlateFoot
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import DENSITY_STEEL, STEELS
from nimble_cradle.stock.threads import thread
from nimble_cradle.strength.bolts import (
    BOLT,
    EDGE,
    FRICTION,
    LOW_CLAMP,
    PRELOAD_USE,
    SLIP,
    GroupLoads,
    bolt_capacity,
    group_loads,
    preload,
)
from nimble_cradle.strength.cheek import FLAT, OVERHANG, plate_overhang
from nimble_cradle.strength.plate import PLATE_LINE, plate_lines
from nimble_cradle.strength.rail_wall import spread
from nimble_cradle.strength.weld import WELD_GROUP, effective_throat, force_per_mm, segments, weld_capacity

BOLT_CODES = ("foot-bolts", "foot-slip", "foot-tightening", "foot-edge", "foot-plate-line", "foot-pulled")
WASHER_OVER = 1.0
"""A washer's corner may be ground off by so much, mm (common practice, no source)."""
HOLLOW = ("box", "hat on skin", "tube", "open C")


def _foot(mount: Mount) -> PlateFoot:
    assert isinstance(mount.foot, PlateFoot)
    return mount.foot


def _welded(foot: PlateFoot) -> bool:
    return foot.fixing in ("welded", "both")


def _bolted(foot: PlateFoot) -> bool:
    return foot.fixing in ("bolted", "both")


def cheeks(mount: Mount, seat: FootSeat) -> OnFoot:
    """Its two cheeks."""
    foot = _foot(mount)
    return OnFoot(mount, seat, foot.plate_mm + foot.patch_mm, STEELS[foot.steel], foot.plate_mm)


def load_path(mount: Mount, seat: FootSeat) -> LoadPath:
    """Its parts on the way to the rail, and the findings that each must have. Of a foot that is bolted and
    welded the weld alone is counted."""
    foot = _foot(mount)
    held = ("foot-weld", "foot-overhang") if _welded(foot) else BOLT_CODES[:-1]
    codes = ("foot-wall",) if _welded(foot) else ("foot-wall", "foot-pulled")
    return (("cheeks of its foot", CODES), ("foot", ("foot-flat", *held)), *wall_path(seat, *codes))


def questions(mount: Mount, seat: FootSeat) -> list[Problem]:
    """What is open about how it is held."""
    foot, place = _foot(mount), f"mounts/{mount.id}/foot"
    out = metal_questions(mount, seat.host, _welded(foot), foot.insulated)
    out += lean_questions(mount, seat, foot.along_mm, foot.across_mm)
    out += cheeks(mount, seat).questions()
    if _bolted(foot):
        if len(foot.holes) < 2:
            out.append(
                Problem(
                    "mounts",
                    f"{place}/holes",
                    f"{mount.name}: its foot is bolted and has fewer than two bolts.",
                )
            )
        if seat.host.section in HOLLOW and not foot.sleeves and foot.nut == "loose":
            out.append(
                Problem(
                    "mounts",
                    f"{place}/sleeves",
                    f"{mount.name}: bolts right through {seat.host.name} crush it; put crush sleeves in,"
                    " or nuts caged behind its wall.",
                )
            )
        if foot.sleeves and not seat.far_wall:
            said = f"{mount.name}: {seat.host.name} is open behind the wall its foot stands on"
            tail = "a crush sleeve has nothing to stand on; nuts caged behind the wall, or box the rail"
            out.append(Problem("mounts", f"{place}/sleeves", f"{said}: {tail}."))
        out += _bolts_on_face(mount, seat)
    return out


def _bolts_on_face(mount: Mount, seat: FootSeat) -> list[Problem]:
    """Bolts past the edge of the face, holes that run into a side wall of a hollow host, and washers inside
    that find no room beside one."""
    foot, host = _foot(mount), seat.host
    far = [max((abs(h[k]) for h in foot.holes), default=0.0) for k in (0, 1)]

    def over(more: float) -> float:
        """How far they reach past the edge, mm, with so much beside each bolt across the host."""
        beside = (0.0, more) if seat.rail_along_bolt else (more, 0.0)
        return seat.off_face(2 * (far[0] + beside[0]), 2 * (far[1] + beside[1]))

    wall = host.wall_mm if host.section in HOLLOW and host.wall_mm is not None else 0.0
    said = ""
    if over(0.0) > 0:
        said = f"a bolt of its foot is {over(0.0):.0f} mm past the edge of {host.name}"
    elif wall and over(foot.hole_mm / 2 + wall) > 0:
        said = f"a hole of its foot runs into a side wall of {host.name}"
    elif wall and not foot.sleeves and over(foot.washer_mm / 2 + wall) > WASHER_OVER:
        said = (
            f"inside {host.name} there is no room for the washer of a bolt beside the side wall, it is"
            f" {over(foot.washer_mm / 2 + wall):.0f} mm too wide; a smaller nut plate, or move the bolt"
        )
    return [Problem("mounts", f"mounts/{mount.id}/foot/holes", f"{mount.name}: {said}.")] if said else []


def parts(mount: Mount, seat: FootSeat) -> tuple[MadePart, ...]:
    """Cheeks, foot plate, doubler, bolts. Raises JobError."""
    foot, owner = _foot(mount), Owner("mount", mount.id)
    out = [cheeks(mount, seat).part("foot"), _plate(mount, seat)]
    if foot.patch_mm:
        out.append(_patch(mount, seat))
    if _bolted(foot) and foot.holes:
        long = foot.plate_mm + foot.patch_mm
        out.append(
            MadePart(
                owner,
                "foot-bolts",
                f"{mount.name}: foot bolts",
                stock=Stock(
                    foot.bolt,
                    foot.bolt_class,
                    f"grip {long:g} and the rail" if foot.sleeves else f"grip {long:g} and the wall",
                    0.0,
                    f"tighten to {foot.tightening_nm:g} Nm in passes"
                    + ("; a crush sleeve each" if foot.sleeves else ""),
                    Form("bolt", name=foot.bolt),
                    len(foot.holes),
                ),
                joints=(Joint("bolted to", "chassis"),),
            )
        )
    return tuple(out)


def _plate(mount: Mount, seat: FootSeat) -> MadePart:
    foot = _foot(mount)
    corner = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * [foot.along_mm / 2, foot.across_mm / 2]
    bolted = _bolted(foot)
    holes = np.asarray(foot.holes if bolted else (), dtype=float).reshape(-1, 2)
    area = foot.along_mm * foot.across_mm - len(holes) * math.pi / 4 * foot.hole_mm**2
    flat = Plate(corner, holes, np.full(len(holes), foot.hole_mm), area)
    held = ("bolted to",) if foot.fixing == "bolted" else ("welded to",)
    return MadePart(
        Owner("mount", mount.id),
        "foot",
        f"{mount.name}: foot plate",
        (_slab(seat, foot.along_mm, foot.across_mm, foot.patch_mm, foot.plate_mm),),
        flat=flat,
        stock=Stock(
            f"plate {foot.plate_mm:g}",
            foot.steel,
            f"{foot.along_mm:g} x {foot.across_mm:g}",
            round(area * foot.plate_mm * DENSITY_STEEL, 2),
            _grind(seat, f"template base-{mount.id}"),
            Form("sheet", (foot.plate_mm,)),
        ),
        joints=tuple(Joint(how, "doubler" if foot.patch_mm else "chassis") for how in held),  # type: ignore[arg-type]
        templates=(f"base-{mount.id}",),
    )


def _grind(seat: FootSeat, words: str) -> str:
    if seat.host.coating == "galvanised":
        return f"{words}; grind the zinc off 25 mm round the weld, mind its fumes"
    return words


def _patch(mount: Mount, seat: FootSeat) -> MadePart:
    foot = _foot(mount)
    along, across = foot.along_mm + 2 * foot.patch_more_mm, foot.across_mm + 2 * foot.patch_more_mm
    return MadePart(
        Owner("mount", mount.id),
        "doubler",
        f"{mount.name}: doubler",
        (_slab(seat, along, across, 0.0, foot.patch_mm),),
        stock=Stock(
            f"plate {foot.patch_mm:g}",
            foot.steel,
            f"{along:g} x {across:g}",
            round(along * across * foot.patch_mm * DENSITY_STEEL, 2),
            "corners round or ends tapered, weld not across the rail's edges",
            Form("sheet", (foot.patch_mm,)),
        ),
        joints=(Joint("welded to", "chassis"), Joint("stands on", "chassis")),
    )


def _slab(seat: FootSeat, along: float, across: float, over: float, thick: float) -> Any:
    return box(seat.centre + (over + thick / 2) * seat.axes[:, 2], (along, across, thick), seat.axes)


def _pressed(foot: PlateFoot) -> tuple[float, float]:
    """How wide it presses on the wall along the bolt and across it, through its doubler, mm."""
    one, two = (spread(s, foot.patch_mm, foot.patch_more_mm) for s in (foot.along_mm, foot.across_mm))
    return one, two


def checks(mount: Mount, seat: FootSeat, cases: Cases, allow: Allowables) -> list[Finding]:
    """Cheeks, weld or bolts, foot plate, wall. Raises JobError where the bolts cannot hold it."""
    foot = _foot(mount)
    stand = cheeks(mount, seat)
    force, moment = seat.loads(mount, cases.forces)
    wide = _pressed(foot)
    found = [*stand.checks(cases), _flat(mount, seat)]
    if _welded(foot):
        found += _weld(mount, seat, stand, cases, force, moment)
    elif len(foot.holes) >= 2:
        found += _bolts(mount, seat, stand, cases, allow, force, moment)
    return [*found, *wall_finding(mount, seat, cases, force[:, 2], moment, wide[0], wide[1])]


def _flat(mount: Mount, seat: FootSeat) -> Finding:
    foot = _foot(mount)
    gap = seat.lies(foot.along_mm, foot.across_mm).open_mm
    return alone(
        mount,
        Check("foot-flat", f"foot flat on {seat.host.name}", "length", "turn it, or shape it to its host"),
        gap,
        FLAT,
        {"gap": "the bay"},
        "as drawn",
        gap=gap,
    )


def _sides(size: float, back: float, fore: float) -> tuple[float, float]:
    """Where a weld along the edges of a foot, or of the face under it, runs."""
    return max(-size / 2, -back), min(size / 2, fore)


def _weld(
    mount: Mount, seat: FootSeat, stand: OnFoot, cases: Cases, force: Array, moment: Array
) -> list[Finding]:
    """The weld round the foot, as far as it is on the face, and the plate between it and the cheeks."""
    foot, f = _foot(mount), seat.face
    a0, a1 = _sides(foot.along_mm, f.along_back, f.along_fore)
    c0, c1 = _sides(foot.across_mm, f.across_back, f.across_fore)
    ring = [(a0, c0), (a1, c0), (a1, c1), (a0, c1)]
    lines = list(zip(ring, [*ring[1:], ring[0]], strict=True))
    group = segments(lines)
    lever = np.array([*group.centroid, 0.0])
    about = moment - crosses(lever, force)
    line = force_per_mm(group, force, about)
    walls = [foot.plate_mm] + ([seat.host.wall_mm] if seat.host.wall_mm else [])
    throat = effective_throat(foot.weld_throat_mm, *walls)
    weaker = min((STEELS[foot.steel], host_steel(seat.host)), key=lambda s: s.tensile / s.weld_beta)
    weld = worst(
        mount,
        Check("foot-weld", f"weld of the foot to {seat.host.name}", "line force", "a larger foot"),
        cases,
        line / weld_capacity(throat, weaker.tensile, weaker.weld_beta),
        line,
        WELD_GROUP,
        lambda k: {
            "lines": "; ".join(",".join(f"{x:.2f}" for x in (*p, *q)) for p, q in lines),
            "throat": throat,
            **{f"force_{w}": float(force[k, i]) for i, w in enumerate("uvn")},
            **{f"moment_{w}": float(about[k, i]) for i, w in enumerate("uvn")},
            "tensile": weaker.tensile,
            "beta": weaker.weld_beta,
        },
        {"throat": "no thicker than the wall", "force_n": "equilibrium"},
    )
    wide, deep = stand.footprint
    shift = -np.asarray(foot.shift)
    reach = max(
        *(abs(edge - (shift[0] + s * wide / 2)) for edge, s in ((a0, -1), (a1, 1))),
        *(abs(edge - s * deep / 2) for edge, s in ((c0, -1), (c1, 1))),
    )
    fy = STEELS[foot.steel].yield_mpa
    bent = np.array([plate_overhang(float(x), reach, foot.plate_mm, fy) for x in line])
    return [
        weld,
        worst(
            mount,
            Check(
                "foot-overhang",
                "foot plate between cheeks and weld",
                "line force",
                "a thicker foot, wider cheeks",
            ),
            cases,
            bent[:, 0],
            line,
            OVERHANG,
            lambda k: {"line": float(line[k]), "reach": reach, "thick": foot.plate_mm, "yield_mpa": fy},
            {"line": "the weld round it", "reach": "the bay"},
        ),
    ]


def _bolts(
    mount: Mount, seat: FootSeat, stand: OnFoot, cases: Cases, allow: Allowables, force: Array, moment: Array
) -> list[Finding]:
    """Its bolts, their grip and edges, the plate between them and the cheeks, the wall under their
    washers."""
    foot = _foot(mount)
    holes = np.asarray(foot.holes)
    edges = np.array([foot.along_mm, foot.across_mm]) / 2 - np.abs(holes)
    edge = float(edges.min())
    try:
        loads = group_loads(holes, max(edge, 1.0), False, force, moment)
    except ValueError as error:
        raise JobError(f"{mount.name}, foot: {error}.", f"mounts/{mount.id}/foot/holes") from None
    return [
        _bolt(mount, cases, loads),
        *_grip(mount, cases, allow, force, loads),
        alone(
            mount,
            Check("foot-edge", "edge round the foot's holes", "length", "more edge, or smaller holes"),
            edge,
            EDGE,
            {"edge": "mount"},
            "as drawn",
            edge=edge,
            hole=foot.hole_mm,
        ),
        _plate_line(mount, seat, stand, cases, loads, force, moment),
        *_pulled(mount, seat, cases, loads),
    ]


def _bolt(mount: Mount, cases: Cases, loads: GroupLoads) -> Finding:
    foot, tension, shear = _foot(mount), loads.tension, loads.shear
    ft, fv, _ = bolt_capacity(foot.bolt, foot.bolt_class)
    each = np.maximum(shear / fv + tension / (1.4 * ft), tension / ft)
    hard, rows = each.argmax(1), np.arange(len(each))
    return worst(
        mount,
        Check("foot-bolts", "bolts of the foot", "force", "larger bolts, or farther apart"),
        cases,
        each.max(1),
        np.hypot(tension, shear)[rows, hard],
        BOLT,
        lambda k: {
            "tension": float(tension[k, hard[k]]),
            "shear": float(shear[k, hard[k]]),
            "size": foot.bolt,
            "grade": foot.bolt_class,
        },
        {"tension": "elastic bolt group", "shear": "elastic bolt group"},
    )


def _grip(mount: Mount, cases: Cases, allow: Allowables, force: Array, loads: GroupLoads) -> list[Finding]:
    foot, n = _foot(mount), len(_foot(mount).holes)
    diameter = thread(foot.bolt).diameter
    clamp = preload(foot.tightening_nm, diameter, allow.nut_factor)
    pull = np.maximum(force[:, 2], 0.0)
    most = loads.most_shear
    holds = np.maximum(FRICTION * (LOW_CLAMP * clamp - pull / n), 1e-9)
    return [
        worst(
            mount,
            Check("foot-slip", "foot held by friction", "force", "more torque, more or larger bolts"),
            cases,
            most / holds,
            most,
            SLIP,
            lambda k: {
                "shear": float(most[k]),
                "tension": float(pull[k]),
                "bolts": n,
                "clamp": clamp,
                "friction": FRICTION,
            },
            {"clamp": "from the tightening torque"},
        ),
        alone(
            mount,
            Check("foot-tightening", "tightening of the foot's bolts", "force", "less torque"),
            clamp,
            PRELOAD_USE,
            {"torque_nm": "mount", "nut_factor": "job"},
            "when tightened",
            torque_nm=foot.tightening_nm,
            diameter=diameter,
            nut_factor=allow.nut_factor,
            proof=bolt_capacity(foot.bolt, foot.bolt_class)[2],
        ),
    ]


def _plate_line(
    mount: Mount, seat: FootSeat, stand: OnFoot, cases: Cases, loads: GroupLoads, force: Array, moment: Array
) -> Finding:
    foot = _foot(mount)
    wide, deep = stand.footprint
    under = Footprint(np.array([-foot.shift[0], 0.0]), np.array([1.0, 0.0]), wide / 2, deep / 2, oval=False)
    corner = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * [foot.along_mm / 2, foot.across_mm / 2]
    fy = STEELS[foot.steel].yield_mpa
    line = plate_lines(
        corner,
        np.asarray(foot.holes),
        foot.hole_mm,
        under,
        loads.tension,
        moment[:, :2],
        force[:, 2],
        foot.plate_mm,
        fy,
    )
    return worst(
        mount,
        Check(
            "foot-plate-line",
            "foot plate bent right across",
            "torque",
            "a thicker foot, bolts nearer the cheeks",
        ),
        cases,
        line.use,
        line.moment / 1000,
        PLATE_LINE,
        lambda k: {
            "moment": float(line.moment[k]),
            "chord": float(max(line.chord[k], 1e-6)),
            "thickness": foot.plate_mm,
            "yield_mpa": fy,
        },
        {"moment": "bolts beyond the line", "chord": "outline less holes"},
    )


def _pulled(mount: Mount, seat: FootSeat, cases: Cases, loads: GroupLoads) -> list[Finding]:
    """The wall under the washer or nut plate of the bolt that pulls hardest."""
    foot = _foot(mount)
    pulled = loads.tension.max(1)
    none = np.zeros((len(pulled), 3))
    return wall_finding(
        mount,
        seat,
        cases,
        pulled,
        none,
        foot.washer_mm,
        foot.washer_mm,
        "foot-pulled",
        f"wall of {seat.host.name} under a bolt's washer",
    )


def give(mount: Mount, seat: FootSeat) -> Array:
    """(3, 3) mm/N, vehicle frame: its cheeks, and the wall under it unless sleeves go right through."""
    foot, own = _foot(mount), cheeks(mount, seat).give()
    return own if foot.sleeves and not _welded(foot) else own + wall_gives(seat, *_pressed(foot))
