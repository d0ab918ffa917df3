"""A torque strut's end on the chassis as what a mount is there: an eye between two cheeks that stand on it.
So its bracket is made, measured and judged as a mount's is."""

from __future__ import annotations

from dataclasses import replace
from typing import TypeVar

from nimble_cradle.findings.finding import Problem
from nimble_cradle.job.base import JobError
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


@of_same()
def on_chassis(strut: Strut) -> Mount:
    """The strut's end on the chassis as a mount, which has nothing on the engine's side."""
    bolt = thread(strut.bolt).diameter
    outside = max(strut.eye_outside_mm, least_eye(strut))  # smaller: told where the bracket is asked about
    return Mount(
        id=strut.id,
        name=strut.name,
        pad=Pad(centre=strut.engine_at, normal=(0.0, 1.0, 0.0), holes=()),
        bush=BondedBush(
            centre=strut.chassis_at,
            axis=strut.bolt_way,
            sleeve_mm=bolt + 6.0,
            sleeve_bore_mm=bolt + 0.2,
            eye_bore_mm=outside - 2 * WALL,
            eye_wall_mm=WALL,
            length_mm=strut.eye_length_mm,
            hardness_shore_a=60.0,
        ),
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
    """What was said of the stand-in, at its place in the strut."""
    old, place = f"mounts/{strut.id}/", said.place
    if not place.startswith(old):
        return said
    rest = place.removeprefix(old)
    field = {"foot": "bracket", "cross_bolt": "", "bush": ""}.get(rest.partition("/")[0], "bracket")
    inner = rest.partition("/")[2]
    own = {"centre": "chassis_at", "axis": "bolt_way", "bolt": "bolt"}.get(inner, inner)
    path = "/".join(part for part in (f"struts/{strut.id}", field, own) if part)
    if isinstance(said, Problem):
        return replace(said, place=path)
    return JobError(said.message, path)
