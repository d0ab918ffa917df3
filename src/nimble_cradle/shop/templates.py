"""The templates of a job: one for every name that a made part gives, and those of the survey."""

from __future__ import annotations

from collections.abc import Callable

from nimble_cradle.families.strut_ears import on_engine
from nimble_cradle.families.strut_stand import on_chassis
from nimble_cradle.job.base import JobError
from nimble_cradle.job.cross_section import FoldedSection
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.strut import Strut
from nimble_cradle.made.parts import made
from nimble_cradle.shop.arm_templates import (
    cope_drawing,
    eye_drawing,
    foot_drawing,
    kink_drawing,
    kinkeye_drawing,
)
from nimble_cradle.shop.bar_template import bars_drawing
from nimble_cradle.shop.channel_template import channel_drawing
from nimble_cradle.shop.end_plate_template import end_plate_drawing
from nimble_cradle.shop.foot_templates import base_drawing, cheek_drawing, ear_drawing
from nimble_cradle.shop.mould_template import mould_drawing
from nimble_cradle.shop.page import Drawing
from nimble_cradle.shop.panel_template import panel_drawing
from nimble_cradle.shop.patterns import survey_templates
from nimble_cradle.shop.plate_template import plate_drawing

TEMPLATES: dict[str, Callable[[Mount, Job], Drawing]] = {
    "plate": plate_drawing,
    "cope": cope_drawing,
    "foot": foot_drawing,
    "eye": eye_drawing,
    "arm": bars_drawing,
    "kink": kink_drawing,
    "kinkeye": kinkeye_drawing,
    "mould": mould_drawing,
    "cheek": cheek_drawing,
    "ear": ear_drawing,
    "base": base_drawing,
}
"""What draws a template, by the first word of its name. A new one is a row here, and its name at the part
that is made from it."""


def templates(job: Job) -> tuple[tuple[Drawing, ...], tuple[JobError, ...]]:
    """All templates of a job, and for those that could not be drawn the reason."""
    drawn: list[Drawing] = []
    refused: list[JobError] = []
    mounts = {mount.id: mount for mount in job.mounts}
    struts = {strut.id: strut for strut in job.struts}
    every = made(job)
    for owner in dict.fromkeys(p.owner for p in every.parts if p.owner.kind in ("mount", "strut")):
        if owner in every.faults:
            refused.append(every.faults[owner])
            continue
        names = [name for part in every.of(owner) for name in part.templates]
        try:
            for name in names:
                kind = name.partition("-")[0]
                stand_in = mounts.get(owner.id) or _end_of(struts[owner.id], kind)
                drawn.append(TEMPLATES[kind](stand_in, job))
        except JobError as error:
            refused.append(error)
    if job.crossmember is not None and job.crossmember.plates is not None:
        drawn.append(end_plate_drawing(job.crossmember, job.crossmember.plates))
    if job.crossmember is not None and isinstance(job.crossmember.section, FoldedSection):
        drawn.append(channel_drawing(job.crossmember, job.crossmember.section))
    for panel in job.panels:
        try:
            drawn.append(panel_drawing(panel, job))
        except JobError as error:
            refused.append(error)
    more, not_drawn = survey_templates(job)
    return (*drawn, *more), (*refused, *not_drawn)


def _end_of(strut: Strut, kind: str) -> Mount:
    """The end of a strut that a template of it is of, as a mount. Raises JobError."""
    return on_engine(strut)[0] if kind in ("plate", "ear") else on_chassis(strut)
