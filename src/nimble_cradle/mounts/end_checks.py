"""Checks of the crossmember's end plates: bolts, their grip, plate, weld to the tube, the rail's wall,
sleeves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from nimble_cradle.families.arm_loads import told_lines
from nimble_cradle.families.bar_arm import all_round
from nimble_cradle.families.tube_extras import round_lines
from nimble_cradle.findings.finding import Finding
from nimble_cradle.findings.worst import Cases, Check, MountCase, alone, worst
from nimble_cradle.geometry.footprint import Footprint
from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.cross_section import FoldedSection
from nimble_cradle.job.end_plate import EndPlates
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.made.end_plates import EndSeat, end_holes
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.threads import thread
from nimble_cradle.stock.washers import washer_radius
from nimble_cradle.strength.beam import ends_under
from nimble_cradle.strength.bolts import (
    BEARING,
    BOLT,
    EDGE,
    FRICTION,
    LOW_CLAMP,
    PRELOAD_USE,
    SLIP,
    GroupLoads,
    bolt_capacity,
    group_loads,
    hole_bearing,
    preload,
)
from nimble_cradle.strength.plate import PLATE_LINE, plate_lines
from nimble_cradle.strength.rail_wall import RAIL_WALL, pressed_capacity, two_skins, wall_use
from nimble_cradle.strength.sleeve import CRUSH_SLEEVE
from nimble_cradle.strength.weld import WELD_GROUP, effective_throat, force_per_mm, segments, weld_capacity

CODES = (
    "end-bolts",
    "end-bearing",
    "end-plate",
    "end-weld",
    "end-wall",
    "end-pulled",
    "end-edge",
    "end-tightening",
)
"""The findings that each end has; one more of sleeves, and of slots."""
OF_A_WALL = ("end-wall", "end-pulled")
HOST_TENSILE = 1.4
"""Tensile over yield strength of a rail whose steel is told by its yield alone (common practice, no
source)."""
BOLT_TENSILE = {"8.8": 800.0, "10.9": 1000.0, "12.9": 1200.0, "grade 5": 827.0, "grade 8": 1034.0}
"""Tensile strength of bolts, MPa (ISO 898-1, SAE J429, from memory)."""


@dataclass(frozen=True)
class _End:
    id: str
    name: str


@dataclass(frozen=True, eq=False)
class EndLoads:
    """What an end plate passes to its rail in every case, factors in it: force (k, 3) N and moment (k, 3) N
    mm about the plate's middle on the rail; in its axes."""

    force: Array
    moment: Array


def end_loads(cross: Crossmember, seats: Sequence[EndSeat], mount: Vec3, cases: Cases) -> list[EndLoads]:
    """Of every seat. Raises JobError where the frame cannot be solved."""
    both = ends_under(cross, mount, -cases.forces)
    out = []
    for seat in seats:
        at = both[0 if seat.word == "left" else 1]
        force, moment = at[:, :3], at[:, 3:]
        moment = moment + crosses(seat.node - seat.centre, force)
        out.append(EndLoads(force @ seat.axes, moment @ seat.axes))
    return out


def end_checks(
    cross: Crossmember, seats: Sequence[EndSeat], mount: Vec3, rows: Sequence[MountCase], allow: Allowables
) -> list[Finding]:
    """Findings of both ends under all cases of the mount on the crossmember. Raises JobError."""
    plates = cross.plates
    assert plates is not None
    cases = Cases.of(rows, allow)
    found: list[Finding] = []
    for seat, loads in zip(seats, end_loads(cross, seats, mount, cases), strict=True):
        end, before = _End("crossmember", f"Crossmember, {seat.word} end"), len(found)
        found += _bolts(end, plates, seat, cases, loads, cross, allow)
        found += [_weld(end, plates, seat, cases, loads, cross), *_wall(end, plates, seat, cases, loads)]
        found[before:] = [
            replace(f, stage="crossmember", what=f"{seat.word} end: {f.what}") for f in found[before:]
        ]
    return found


Seam = tuple[tuple[float, float], tuple[float, float]]


def _footprint(plates: EndPlates, cross: Crossmember, seat: EndSeat) -> Footprint:
    """Where the tube is on the plate, in its axes: its end, or its side where the plate lies on it."""
    section = cross.section
    wide = section.wide_mm
    if plates.where == "beside":
        middle = ((seat.node - seat.centre) @ seat.axes)[:2]
        high = section.height_mm
    else:
        middle, high = np.zeros(2), plates.other_mm
    oval = section.shape == "round" and plates.where == "beside"
    return Footprint(middle, np.array([1.0, 0.0]), wide / 2, high / 2, oval=oval)


def _bolts(
    end: _End,
    plates: EndPlates,
    seat: EndSeat,
    cases: Cases,
    on: EndLoads,
    cross: Crossmember,
    allow: Allowables,
) -> list[Finding]:
    holes = np.asarray(end_holes(plates))
    size = np.array([plates.along_mm, plates.other_mm]) / 2
    slot = np.array([0.0, plates.slot_mm / 2])
    edge = float((size - np.abs(holes) - slot).min())
    try:
        loads = group_loads(holes, max(edge, 1.0), False, on.force, on.moment)
    except ValueError as error:
        raise JobError(f"{end.name}: {error}.", "crossmember/plates/pitch_mm") from None
    diameter = thread(plates.bolt).diameter
    clamp = preload(plates.tightening_nm, diameter, allow.nut_factor)
    steel = STEELS[plates.steel]
    return [
        _bolt(end, plates, cases, loads),
        _bearing(end, plates, seat, cases, loads, edge),
        worst(
            end,
            Check("end-plate", "end plate beside the crossmember", "torque", "a thicker plate"),
            cases,
            *_lined(plates, _footprint(plates, cross, seat), holes, size, loads, on, steel.yield_mpa),
        ),
        alone(
            end,
            Check("end-edge", "edge round the end plate's holes", "length", "more edge, or smaller holes"),
            edge,
            EDGE,
            {"edge": "job"},
            "as drawn",
            edge=max(edge, 0.01),
            hole=plates.hole_mm,
        ),
        alone(
            end,
            Check("end-tightening", "tightening of the end's bolts", "force", "less torque"),
            clamp,
            PRELOAD_USE,
            {"torque_nm": "job", "nut_factor": "job"},
            "when tightened",
            torque_nm=plates.tightening_nm,
            diameter=diameter,
            nut_factor=allow.nut_factor,
            proof=bolt_capacity(plates.bolt, plates.bolt_class)[2],
        ),
        *_sleeve(end, plates, clamp, diameter),
        *_pulled(end, plates, seat, cases, loads),
        *_slip(end, plates, cases, loads, on, clamp),
    ]


def _pulled(end: _End, plates: EndPlates, seat: EndSeat, cases: Cases, loads: GroupLoads) -> list[Finding]:
    """The rail's wall under the washer, or a nut plate as large, of the bolt that pulls hardest."""
    host, pulled = seat.item.host, loads.tension.max(1)
    if host.wall_mm is None or host.section in ("unsaid", "plate", "solid"):
        return []
    wide = 2 * washer_radius(plates.bolt)
    given = {
        "face": seat.face,
        "depth": max(seat.depth, 1.0),
        "across": wide,
        "along": wide,
        "wall": two_skins(host.wall_mm, host.second_skin_mm),
        "yield_mpa": host.yield_mpa,
        "side": host.wall_mm,
        "walls": seat.side_walls,
    }
    none = np.zeros(len(pulled))
    return [
        worst(
            end,
            Check("end-pulled", f"wall of {seat.item.name} under a washer", "force", "four bolts"),
            cases,
            wall_use(pressed_capacity(*given.values()), pulled, none, none),
            pulled,
            RAIL_WALL,
            lambda k: {**given, "force": float(pulled[k]), "along_moment": 0.0, "across_moment": 0.0},
            {"face": "the bay", "depth": "the bay", "wall": "its host", "force": "elastic bolt group"},
        )
    ]


def _slip(
    end: _End, plates: EndPlates, cases: Cases, loads: GroupLoads, on: EndLoads, clamp: float
) -> list[Finding]:
    """A slotted plate is held along its slots by friction alone; all of the shear is asked of it."""
    if plates.slot_mm <= 0:
        return []
    pull = np.maximum(on.force[:, 2], 0.0)
    most, n = loads.most_shear, len(end_holes(plates))
    holds = np.maximum(FRICTION * (LOW_CLAMP * clamp - pull / n), 1e-9)
    return [
        worst(
            end,
            Check("end-slip", "slotted end held by friction", "force", "more torque, four bolts, no slots"),
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
        )
    ]


def _lined(
    plates: EndPlates,
    footprint: Footprint,
    holes: Array,
    size: Array,
    loads: GroupLoads,
    on: EndLoads,
    yield_mpa: float,
) -> tuple[Any, ...]:
    corner = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * size
    line = plate_lines(
        corner,
        holes,
        plates.hole_mm,
        footprint,
        loads.tension,
        on.moment[:, :2],
        on.force[:, 2],
        plates.plate_mm,
        yield_mpa,
    )

    def given(k: int) -> dict[str, float]:
        chord = float(line.chord[k])
        return {
            "moment": float(line.moment[k]),
            "chord": max(chord, 1e-6),
            "thickness": plates.plate_mm,
            "yield_mpa": yield_mpa,
        }

    return (
        line.use,
        line.moment / 1000,
        PLATE_LINE,
        given,
        {"moment": "elastic bolt group", "chord": "worst straight line"},
    )


def _bolt(end: _End, plates: EndPlates, cases: Cases, loads: GroupLoads) -> Finding:
    tension, shear = loads.tension, loads.shear
    ft, fv, _ = bolt_capacity(plates.bolt, plates.bolt_class)
    each = np.maximum(shear / fv + tension / (1.4 * ft), tension / ft)
    hard, rows = each.argmax(1), np.arange(len(each))
    return worst(
        end,
        Check("end-bolts", "bolts to the rail", "force", "larger bolts, four of them"),
        cases,
        each.max(1),
        np.hypot(tension, shear)[rows, hard],
        BOLT,
        lambda k: {
            "tension": float(tension[k, hard[k]]),
            "shear": float(shear[k, hard[k]]),
            "size": plates.bolt,
            "grade": plates.bolt_class,
        },
        {"tension": "elastic bolt group", "shear": "elastic bolt group"},
    )


def _bearing(
    end: _End, plates: EndPlates, seat: EndSeat, cases: Cases, loads: GroupLoads, edge: float
) -> Finding:
    """The softer of plate and rail wall round a bolt; a bolt through the rail bears on both of its walls, of
    which one is counted."""
    diameter, bolt = thread(plates.bolt).diameter, BOLT_TENSILE[plates.bolt_class]
    steel = STEELS[plates.steel]
    wall = seat.item.host.wall_mm
    rows: list[tuple[float, float, float, str]] = [(plates.plate_mm, steel.tensile, edge, "the end plate")]
    if wall is not None:
        rail = HOST_TENSILE * seat.item.host.yield_mpa
        holes = np.abs(np.asarray(end_holes(plates))[:, 1]).max()
        rows.append((wall, rail, max(seat.face / 2 - abs(seat.off) - holes, 1.0), seat.item.name))
    most = loads.most_shear

    def used(thick: float, tensile: float, far: float) -> float:
        return hole_bearing(1.0, diameter, plates.hole_mm, far, thick, tensile, bolt)[0]

    thick, tensile, far, name = max(rows, key=lambda row: used(row[0], row[1], row[2]))
    return worst(
        end,
        Check("end-bearing", f"bearing of a bolt in {name}", "force", "larger bolts, four of them"),
        cases,
        most * used(thick, tensile, far),
        most,
        BEARING,
        lambda k: {
            "shear": float(most[k]),
            "diameter": diameter,
            "hole": plates.hole_mm,
            "edge": far,
            "thickness": thick,
            "tensile": tensile,
            "bolt_tensile": bolt,
        },
        {"shear": "elastic bolt group", "thickness": name},
    )


def _weld(
    end: _End, plates: EndPlates, seat: EndSeat, cases: Cases, on: EndLoads, cross: Crossmember
) -> Finding:
    """All round the tube's end, or along both sides of a tube that the plate lies on."""
    section, steel = (
        cross.section,
        min((STEELS[plates.steel], STEELS[cross.steel]), key=lambda s: s.tensile / s.weld_beta),
    )
    foot = _footprint(plates, cross, seat)
    if foot.oval:
        lines = round_lines(section.height_mm / 2, 24)
    elif plates.where == "beside" and isinstance(section, FoldedSection):
        lines = _round_a_channel(foot, section, 1.0 if seat.axes[2, 1] >= 0 else -1.0)
    elif plates.where == "beside":
        lines = all_round(2 * foot.along, 2 * foot.across)
    else:
        x, y = foot.along, foot.across
        lines = [((-x, -y), (-x, y)), ((x, -y), (x, y))]
    group = segments(lines)
    throat = effective_throat(plates.throat_mm, section.thin_mm, plates.plate_mm)
    at = np.array([*foot.at, plates.plate_mm])  # from the plate's middle on the rail to the weld
    about = on.moment - crosses(at, on.force)
    line = np.asarray(force_per_mm(group, on.force, about))
    return worst(
        end,
        Check(
            "end-weld",
            "weld of the crossmember to its end plate",
            "line force",
            "a thicker weld, a larger section",
        ),
        cases,
        line / weld_capacity(throat, steel.tensile, steel.weld_beta),
        line,
        WELD_GROUP,
        lambda k: {
            "lines": told_lines(lines),
            "throat": throat,
            **{f"force_{w}": float(on.force[k, i]) for i, w in enumerate("uvn")},
            **{f"moment_{w}": float(about[k, i]) for i, w in enumerate("uvn")},
            "tensile": steel.tensile,
            "beta": steel.weld_beta,
        },
        {"throat": "no thicker than crossmember and plate", "force_n": "space frame"},
    )


def _round_a_channel(foot: Footprint, section: FoldedSection, up: float) -> list[Seam]:
    """Along the outside of its web and legs, and under its lips, about its middle; the first axis is along
    the rail, the second up (``up`` 1) or down (-1)."""
    x, y, lip = foot.along, up * foot.across, (section.over_mm - section.width_mm) / 2
    out: list[Seam] = [((-x, y), (x, y)), ((-x, y), (-x, -y)), ((x, y), (x, -y))]
    if lip > 0:
        out += [((-x - lip, -y), (-x, -y)), ((x, -y), (x + lip, -y))]
    return out


def _wall(end: _End, plates: EndPlates, seat: EndSeat, cases: Cases, on: EndLoads) -> list[Finding]:
    """The rail's wall under the plate; nothing where it is not said, which is asked."""
    host = seat.item.host
    if host.wall_mm is None or host.section in ("unsaid", "plate"):
        return []
    if host.section == "solid":
        return []
    reach = 2 * max(seat.face / 2 - abs(seat.off), 1.0)  # as much as lies evenly about the plate's middle
    given = {
        "face": seat.face,
        "depth": max(seat.depth, 1.0),
        "across": min(plates.other_mm, reach),
        "along": plates.along_mm,
        "wall": two_skins(host.wall_mm, host.second_skin_mm),
        "yield_mpa": host.yield_mpa,
        "side": host.wall_mm,
        "walls": seat.side_walls,
    }
    use = wall_use(pressed_capacity(*given.values()), on.force[:, 2], on.moment[:, 1], on.moment[:, 0])
    return [
        worst(
            end,
            Check(
                "end-wall",
                f"wall of {seat.item.name} under its end plate",
                "force",
                "a larger plate, a doubler",
            ),
            cases,
            use,
            np.abs(on.force[:, 2]),
            RAIL_WALL,
            lambda k: {
                **given,
                "force": float(on.force[k, 2]),
                "along_moment": float(on.moment[k, 1]),
                "across_moment": float(on.moment[k, 0]),
            },
            {"face": "the bay", "depth": "the bay", "wall": "its host", "force": "space frame"},
        )
    ]


def _sleeve(end: _End, plates: EndPlates, clamp: float, diameter: float) -> list[Finding]:
    if plates.through != "sleeves":
        return []
    return [
        alone(
            end,
            Check("end-sleeve", "crush sleeves in the rail", "force", "larger sleeves, less torque"),
            clamp,
            CRUSH_SLEEVE,
            {"clamp": "from the tightening torque"},
            "when tightened",
            clamp=clamp,
            outside=plates.sleeve_mm,
            inside=diameter + 0.5,
            yield_mpa=STEELS["S235"].yield_mpa,
        )
    ]


def needed(plates: EndPlates, seats: Sequence[EndSeat]) -> int:
    """How many findings both ends have where all is known; a solid rail has no wall that bends."""
    solid = sum(seat.item.host.section == "solid" for seat in seats)
    return 2 * (len(CODES) + (plates.through == "sleeves") + (plates.slot_mm > 0)) - len(OF_A_WALL) * solid
