"""A torque strut's end on the chassis as what a mount is there: an eye between two cheeks that stand on it.
So its bracket is made, measured and judged as a mount's is."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import TypeVar

from nimble_cradle.findings.finding import Problem
from nimble_cradle.job.base import Direction, JobError, Vec3
from nimble_cradle.job.bonded_bush import BondedBush
from nimble_cradle.job.mounts import CrossBolt, Mount, Pad
from nimble_cradle.job.remember import of_same
from nimble_cradle.job.strut import Strut
from nimble_cradle.stock.threads import thread

GAP, EYE_GAP = 0.5, 1.0
"""Between a strut's sleeve and a cheek, and its eye and a cheek, mm (common practice, no source)."""
WALL = 3.0
"""Of a strut's eye, mm: nothing that is told of its bracket depends on it."""
T = TypeVar("T", Problem, JobError)


def least_eye(strut: Strut) -> float:
    """The least that an eye round the strut's bolt can be outside, mm: bolt, its sleeve, rubber, wall."""
    return thread(strut.bolt).diameter + 2 * WALL + 8.0


def strut_bush(strut: Strut, centre: Vec3, axis: Direction) -> BondedBush:
    """One of its eyes as a bush at a place, its bolt along an axis."""
    bolt = thread(strut.bolt).diameter
    outside = max(strut.eye_outside_mm, least_eye(strut))  # smaller: told where what holds it is asked about
    return BondedBush(
        centre=centre,
        axis=axis,
        sleeve_mm=bolt + 6.0,
        sleeve_bore_mm=bolt + 0.2,
        eye_bore_mm=outside - 2 * WALL,
        eye_wall_mm=WALL,
        length_mm=strut.eye_length_mm,
        hardness_shore_a=60.0,
    )


@of_same()
def on_chassis(strut: Strut) -> Mount:
    """The strut's end on the chassis as a mount, which has nothing on the engine's side."""
    return Mount(
        id=strut.id,
        name=strut.name,
        pad=Pad(centre=strut.engine_at, normal=(0.0, 1.0, 0.0), holes=()),
        bush=strut_bush(strut, strut.chassis_at, strut.bolt_way),
        cross_bolt=CrossBolt(
            bolt=strut.bolt,
            bolt_class=strut.bolt_class,
            cheek_mm=strut.cheek_mm,
            cheek_steel=strut.cheek_steel,
            gap_mm=GAP,
            eye_gap_mm=EYE_GAP,
            tightening_nm=strut.tightening_nm,
        ),
        foot=strut.bracket,
    )


def told_of(strut: Strut, said: T) -> T:
    """What was said of the stand-in on the chassis, at its place in the strut."""
    return told_at(strut, said, _CHASSIS)


_CHASSIS = {
    "foot": "bracket",
    "cross_bolt": "",
    "bush/centre": "chassis_at",
    "bush/axis": "bolt_way",
    "bush": "",
    "": "bracket",
}


def told_at(strut: Strut, said: T, places: Mapping[str, str]) -> T:
    """What was said of a stand-in, at its place in the strut. places: paths in a mount and what they are
    called in the strut; the longest that fits is taken."""
    old, place = f"mounts/{strut.id}", said.place
    if place != old and not place.startswith(f"{old}/"):
        return said
    rest = place.removeprefix(old).removeprefix("/")
    fits = [p for p in places if not p or rest == p or rest.startswith(f"{p}/")]
    known = max(fits, key=len)
    inner = rest.removeprefix(known).removeprefix("/")
    path = "/".join(part for part in (f"struts/{strut.id}", places[known], inner) if part)
    if isinstance(said, Problem):
        return replace(said, place=path)
    return JobError(said.message, path)
