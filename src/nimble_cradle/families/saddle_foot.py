"""A saddle folded over a rail and welded to both its sides, with two cheeks on it."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.families.cheeks import CODES, OnFoot
from nimble_cradle.families.family import LoadPath
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.on_wall import host_steel, lean_questions, metal_questions
from nimble_cradle.families.part import Joint, MadePart, Owner, Stock
from nimble_cradle.findings.finding import Finding, Problem
from nimble_cradle.findings.worst import Cases, Check, alone, worst
from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.geometry.solid_makers import box
from nimble_cradle.geometry.solids import SolidPart
from nimble_cradle.job.foot import SaddleFoot
from nimble_cradle.job.loads import Allowables
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.form import Form
from nimble_cradle.stock.steels import DENSITY_STEEL, STEELS
from nimble_cradle.strength.cheek import FLAT
from nimble_cradle.strength.rail_wall import RAIL_WALL, pressed_capacity, wall_use
from nimble_cradle.strength.saddle import SIDE_WALL, side_wall_use
from nimble_cradle.strength.weld import WELD_GROUP, effective_throat, force_per_mm, segments, weld_capacity


def _foot(mount: Mount) -> SaddleFoot:
    assert isinstance(mount.foot, SaddleFoot)
    return mount.foot


def cheeks(mount: Mount, seat: FootSeat) -> OnFoot:
    """Its two cheeks."""
    foot = _foot(mount)
    return OnFoot(mount, seat, foot.plate_mm, STEELS[foot.steel], foot.plate_mm)


def load_path(mount: Mount, seat: FootSeat) -> LoadPath:
    """Its parts on the way to the rail."""
    wall = () if seat.host.section == "solid" else ((f"wall of {seat.host.name}", ("foot-wall",)),)
    return (("cheeks of its saddle", CODES), ("saddle", ("foot-flat", "foot-weld", "foot-top")), *wall)


def questions(mount: Mount, seat: FootSeat) -> list[Problem]:
    """What is open about how it is held."""
    foot = _foot(mount)
    out = metal_questions(mount, seat.host, True, False)
    out += lean_questions(mount, seat, *_size(seat, foot.along_mm, seat.face_mm, 0.0)[:2])
    out += cheeks(mount, seat).questions()
    if seat.side_walls == 1:
        said = f"{mount.name}: one leg of its saddle hangs on the open side of {seat.host.name}"
        tail = "box the rail there, or put it on a foot plate"
        out.append(Problem("mounts", f"mounts/{mount.id}/foot", f"{said}, with no wall to weld to; {tail}."))
    if foot.legs_mm > seat.depth:
        out.append(
            Problem(
                "mounts",
                f"mounts/{mount.id}/foot/legs_mm",
                f"{mount.name}: its saddle reaches {foot.legs_mm:g} mm down and {seat.host.name} is only"
                f" {seat.depth:.0f} mm deep there.",
            )
        )
    return out


def _across(seat: FootSeat) -> int:
    """Which of the seat's axes runs across the rail."""
    return 1 if seat.rail_along_bolt else 0


def _middle(seat: FootSeat) -> float:
    """From the foot's middle to the middle of the rail's face, across the rail, mm."""
    f = seat.face
    return (f.across_fore - f.across_back) / 2 if _across(seat) else (f.along_fore - f.along_back) / 2


def _size(seat: FootSeat, along_rail: float, across_rail: float, out: float) -> tuple[float, float, float]:
    """A size along the seat's own axes."""
    return (along_rail, across_rail, out) if _across(seat) else (across_rail, along_rail, out)


def parts(mount: Mount, seat: FootSeat) -> tuple[MadePart, ...]:
    """Cheeks and saddle. Raises JobError."""
    foot, t = _foot(mount), _foot(mount).plate_mm
    wide, way = seat.face_mm, seat.axes[:, _across(seat)]
    middle = seat.centre + _middle(seat) * way
    out = seat.axes[:, 2]
    solids: list[SolidPart] = [
        box(middle + t / 2 * out, _size(seat, foot.along_mm, wide + 2 * t, t), seat.axes),
        *(
            box(
                middle + s * (wide + t) / 2 * way - foot.legs_mm / 2 * out,
                _size(seat, foot.along_mm, t, foot.legs_mm),
                seat.axes,
            )
            for s in (-1.0, 1.0)
        ),
    ]
    girth = math.ceil(wide + 2 * t + 2 * foot.legs_mm)
    return (
        cheeks(mount, seat).part("saddle"),
        MadePart(
            Owner("mount", mount.id),
            "saddle",
            f"{mount.name}: saddle",
            tuple(solids),
            stock=Stock(
                f"plate {t:g}",
                foot.steel,
                f"{foot.along_mm:g} x {girth}, legs {foot.legs_mm:g}",
                round(foot.along_mm * girth * t * DENSITY_STEEL, 2),
                f"folded over {wide:.0f} mm of rail, or three pieces welded; measure the rail itself",
                Form("sheet", (t,)),
            ),
            joints=(Joint("welded to", "chassis"),),
        ),
    )


def checks(mount: Mount, seat: FootSeat, cases: Cases, allow: Allowables) -> list[Finding]:
    """Cheeks, the saddle's top between the rail's sides, its welds, the side walls."""
    foot = _foot(mount)
    force, moment = seat.loads(mount, cases.forces)
    half, run = seat.face_mm / 2, foot.along_mm / 2
    at = _middle(seat)
    lines = [((-run, at + s * half), (run, at + s * half)) for s in (-1.0, 1.0)]
    if not _across(seat):
        lines = [((q, p), (v, u)) for (p, q), (u, v) in lines]
    group = segments(lines)
    about = moment - crosses(np.array([*group.centroid, 0.0]), force)
    line = force_per_mm(group, force, about)
    gap = seat.lies(*_size(seat, foot.along_mm, seat.face_mm, 0.0)[:2]).open_mm
    return [
        *cheeks(mount, seat).checks(cases),
        alone(
            mount,
            Check("foot-flat", f"saddle flat on {seat.host.name}", "length", "shape it to the rail"),
            gap,
            FLAT,
            {"gap": "the bay"},
            "as drawn",
            gap=gap,
        ),
        _weld(mount, seat, cases, lines, line, force, about),
        _top(mount, seat, cases, force, moment),
        *_side(mount, seat, cases, line),
    ]


def _weld(
    mount: Mount,
    seat: FootSeat,
    cases: Cases,
    lines: list[tuple[tuple[float, float], tuple[float, float]]],
    line: Array,
    force: Array,
    about: Array,
) -> Finding:
    foot = _foot(mount)
    walls = [foot.plate_mm] + ([seat.host.wall_mm] if seat.host.wall_mm else [])
    throat = effective_throat(foot.weld_throat_mm, *walls)
    weaker = min((STEELS[foot.steel], host_steel(seat.host)), key=lambda s: s.tensile / s.weld_beta)
    return worst(
        mount,
        Check("foot-weld", f"welds of the saddle to {seat.host.name}", "line force", "a longer saddle"),
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


def _top(mount: Mount, seat: FootSeat, cases: Cases, force: Array, moment: Array) -> Finding:
    """The saddle's top between the rail's sides, as a wall of its own."""
    foot = _foot(mount)
    along, across = cheeks(mount, seat).footprint
    if not _across(seat):
        along, across = across, along
    tips = (moment[:, 1], moment[:, 0]) if _across(seat) else (moment[:, 0], moment[:, 1])
    given = {
        "face": seat.face_mm,
        "depth": max(foot.legs_mm, 1.0),
        "across": across,
        "along": along,
        "wall": foot.plate_mm,
        "yield_mpa": STEELS[foot.steel].yield_mpa,
    }
    use = wall_use(pressed_capacity(*given.values()), force[:, 2], *tips)
    return worst(
        mount,
        Check("foot-top", "saddle's top between the rail's sides", "force", "a thicker saddle, wider cheeks"),
        cases,
        use,
        np.abs(force[:, 2]),
        RAIL_WALL,
        lambda k: {
            **given,
            "force": float(force[k, 2]),
            "along_moment": float(tips[0][k]),
            "across_moment": float(tips[1][k]),
        },
        {"face": "the bay", "force": "equilibrium"},
    )


def _side(mount: Mount, seat: FootSeat, cases: Cases, line: Array) -> list[Finding]:
    """The rail's side walls in their own plane; none of a solid rail, or one whose wall is not said."""
    host = seat.host
    if host.wall_mm is None or host.section in ("solid", "plate", "unsaid"):
        return []
    given = {"wall": host.wall_mm, "yield_mpa": host.yield_mpa}
    return [
        worst(
            mount,
            Check("foot-wall", f"side walls of {host.name} at the saddle", "line force", "a longer saddle"),
            cases,
            np.array([side_wall_use(float(x), **given)[0] for x in line]),
            line,
            SIDE_WALL,
            lambda k: {"line": float(line[k]), **given},
            {"line": "the saddle's welds", "wall": "its host"},
        )
    ]


def give(mount: Mount, seat: FootSeat) -> Array:
    """(3, 3) mm/N, vehicle frame."""
    return cheeks(mount, seat).give()
