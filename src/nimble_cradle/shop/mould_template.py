"""The template of a mould for cast bush halves: its half section at 1:1."""

from __future__ import annotations

import math

from nimble_cradle.families.cast_bush import mould_scale, poured
from nimble_cradle.job.base import JobError
from nimble_cradle.job.cast_bush import CastBush
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.shop.page import Drawing, Mark, Text, path
from nimble_cradle.units import show

DRAFT_DEG = 1.0
"""A core and a body draw out of the mould so much aslant (common practice, no source)."""


def mould_drawing(mount: Mount, job: Job) -> Drawing:
    """The hollow of the mould cut through its middle, flange below: one half, larger by what it shrinks. The
    core stands in the middle. Raises JobError."""
    bush = mount.bush
    if not isinstance(bush, CastBush):
        raise JobError(f"{mount.name}: its bush is not cast.", f"mounts/{mount.id}/bush")
    times = mould_scale(bush)
    body, hole, flange = (times * d / 2 for d in (bush.body_mm, bush.hole_mm, bush.flange_outside_mm))
    low, high = times * bush.flange_mm, times * (bush.flange_mm + bush.half_long_mm)
    lean = math.tan(math.radians(DRAFT_DEG)) * (high - low)
    core = math.tan(math.radians(DRAFT_DEG)) * high
    right = [(hole, 0.0), (flange, 0.0), (flange, low), (body, low), (body - lean, high), (hole - core, high)]
    left = [(-x, y) for x, y in right]
    marks: list[Mark] = [
        path(right, closed=True),
        path(left, closed=True),
        path([(0.0, -6.0), (0.0, high + 8.0)], layer="MARK"),
        path([(-flange - 6, low), (flange + 6, low)], layer="MARK"),
        Text((flange + 2.0, low + 1.0), "the mould parts here", 2.6),
        Text((body + 1.0, high - 3.0), "vents", 2.6),
        Text((-flange, -8.0), f"{mount.name}: mould for its cast halves", 3.5),
    ]
    _, pour, a, b = poured(bush)
    display = job.show.display
    notes = (
        f"Hollow of the mould, {bush.shrink_percent:g} % larger than the half:"
        f" body {show(2 * body, 'length', display)}, core {show(2 * hole, 'length', display)}, flange"
        f" {show(2 * flange, 'length', display)}; {DRAFT_DEG:g} deg of draft, the core thinner at the top."
        " Two shells parted at the flange, a core, vents at the highest place; release agent on all.",
        f"For two halves mix {pour:.0f} ml: {a:.0f} g of A, {b:.0f} g of B by weight at"
        f" {bush.parts_a:g} : {bush.parts_b:g}; draw the air out, pour slowly, cure {bush.cure_hours:g} h.",
        "Isocyanates: gloves, glasses, fresh air, no skin. Never burn an old bush out.",
    )
    return Drawing(f"mould-{mount.id}", f"{mount.name}: mould", tuple(marks), notes)
