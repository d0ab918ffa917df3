"""An adapter plate: two bolt patterns on one crank axis, and the thickness that the input shaft wants.

Each pattern is measured facing its own face, and two faces that meet look at one another: on one sheet,
seen from the gearbox's side (as one faces the engine), the engine's pattern stays as it is and the
gearbox's is its mirror image.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.calc import Q, Worked, calculation
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.pattern import Adapter, Pattern
from nimble_cradle.job.survey import Survey
from nimble_cradle.survey.pattern import found_pattern
from nimble_cradle.survey.pattern_types import FoundPattern

TIP_AIR = 2.0
"""The shaft's tip stays this far off the bottom of the pilot bush, mm (common practice, no source)."""


def adapter_fit(
    thickness: float,
    shaft: float,
    pilot_mouth: float,
    pilot_deep: float,
    pilot_want: float,
    hub_at: float,
    hub: float,
    spline_from: float,
    spline_to: float,
) -> tuple[float, float, float, float, float]:
    """Pilot engagement, air at the tip, splines in the hub, and the least and most thickness, all mm.

    The tip stands shaft - thickness past the engine's face into the engine. Splines run from thickness -
    spline_to to thickness - spline_from from the engine's face, the hub from hub_at to hub_at + hub.
    """
    into = shaft - thickness - pilot_mouth
    engaged = max(min(into, pilot_deep), 0.0)
    air = pilot_deep - into
    low, high = thickness - spline_to, thickness - spline_from
    in_hub = max(min(high, hub_at + hub) - max(low, hub_at), 0.0)
    return engaged, air, in_hub, shaft - pilot_mouth - pilot_deep + TIP_AIR, shaft - pilot_mouth - pilot_want


ADAPTER = calculation(
    "adapter-thickness",
    "Thickness of an adapter plate for the input shaft",
    inputs=(
        Q("thickness", "mm", "of the plate", above=0),
        Q("shaft", "mm", "input shaft past the gearbox face", above=0),
        Q("pilot_mouth", "mm", "mouth of the pilot bush into the engine"),
        Q("pilot_deep", "mm", "its depth", above=0),
        Q("pilot_want", "mm", "engagement wanted", above=0),
        Q("hub_at", "mm", "near end of the clutch hub from the engine's face"),
        Q("hub", "mm", "length of the hub", above=0),
        Q("spline_from", "mm", "splines begin, from the gearbox face", low=0),
        Q("spline_to", "mm", "splines end, likewise", above=0),
    ),
    outputs=(
        Q("engaged", "mm", "of the shaft in the pilot bush"),
        Q("air", "mm", "between its tip and the bottom"),
        Q("in_hub", "mm", "of the splines in the hub"),
        Q("least", "mm", "least thickness, so that the tip does not bottom"),
        Q("most", "mm", "most thickness for the engagement wanted"),
    ),
    formula=(
        "into = shaft - thickness - mouth;  least = shaft - mouth - depth + 2;  most = shaft - mouth - wanted"
    ),
    source="geometry; 2 mm at the tip is common practice, no source",
    leaves_out="end float of crank and shaft, and the clutch's wear",
)(adapter_fit)


@dataclass(frozen=True)
class Ligament:
    """The metal between two holes of the two patterns, mm; below nought they run into each other."""

    engine_hole: int
    gearbox_hole: int
    ligament: float


@dataclass(frozen=True, eq=False)
class AdapterPlate:
    """Both patterns on one axis, seen from the gearbox's side: the engine's as measured, the gearbox's
    mirrored; tightest ligaments first, the thickness's working, and what is not right, in words."""

    engine: FoundPattern
    gearbox: FoundPattern
    ligaments: tuple[Ligament, ...]
    worked: Worked
    questions: tuple[str, ...]


def mirrored(pattern: FoundPattern) -> FoundPattern:
    """A pattern as one sees it through its face from behind: right and left change places."""
    holes = tuple(replace(hole, at=hole.at * np.array([-1.0, 1.0])) for hole in pattern.holes)
    return replace(pattern, holes=holes)


def adapter_plate(job: Job) -> AdapterPlate | None:
    """The adapter of a job; None without one. Raises JobError where a pattern was not taken from the crank
    pin."""
    return _adapter(job.survey)


def _adapter(survey: Survey) -> AdapterPlate | None:
    a = survey.adapter
    if a is None:
        return None
    by_id = {pattern.id: pattern for pattern in survey.patterns}
    engine, gearbox = _from_pin(by_id[a.engine]), mirrored(_from_pin(by_id[a.gearbox]))
    ligaments, worked = _ligaments(engine, gearbox), _thickness(a)
    questions = [
        *_ligament_questions(a, ligaments),
        *_opening_questions(a, (("engine", engine), ("gearbox", gearbox))),
        *([] if a.material != "unsaid" else ["Adapter: say what the plate is made of"]),
        *_dowel_questions(by_id[a.engine], by_id[a.gearbox]),
        *_thickness_questions(a, worked),
    ]
    return AdapterPlate(engine, gearbox, ligaments, worked, tuple(questions))


def _from_pin(pattern: Pattern) -> FoundPattern:
    """A pattern about the crank's axis. Raises JobError where it was not taken from there."""
    found = found_pattern(pattern)
    if not found.from_pin:
        raise JobError(
            f"{pattern.name} was not taken from a pin on the crank centre, so the two patterns have no"
            " common axis.",
            "survey/adapter",
        )
    return found


def _ligaments(engine: FoundPattern, gearbox: FoundPattern) -> tuple[Ligament, ...]:
    """The metal between every two holes of both patterns, tightest first."""
    rows = (
        Ligament(a.number, b.number, float(np.linalg.norm(a.at - b.at)) - (a.hole_mm + b.hole_mm) / 2)
        for a in engine.holes
        for b in gearbox.holes
    )
    return tuple(sorted(rows, key=lambda row: row.ligament))


def _thickness(a: Adapter) -> Worked:
    return ADAPTER.work(
        {"shaft": "measured", "thickness": "job"},
        thickness=a.thickness_mm,
        shaft=a.shaft_mm,
        pilot_mouth=a.pilot_mouth_mm,
        pilot_deep=a.pilot_deep_mm,
        pilot_want=a.pilot_want_mm,
        hub_at=a.hub_at_mm,
        hub=a.hub_mm,
        spline_from=a.spline_from_mm,
        spline_to=a.spline_to_mm,
    )


def _ligament_questions(a: Adapter, ligaments: Sequence[Ligament]) -> Iterator[str]:
    """Holes that run into each other or leave too little metal."""
    for row in ligaments:
        where = f"engine hole {row.engine_hole} and gearbox hole {row.gearbox_hole}"
        if row.ligament < 0:
            yield (
                f"Adapter: {where} run into each other by {-row.ligament:.1f} mm: make one a stud from a"
                " stepped hole, or leave it out"
            )
        elif row.ligament < a.least_ligament_mm:
            yield (
                f"Adapter: only {row.ligament:.1f} mm of metal between {where}; {a.least_ligament_mm:g} mm is"
                " wanted"
            )


def _opening_questions(a: Adapter, patterns: Sequence[tuple[str, FoundPattern]]) -> Iterator[str]:
    """Metal between the holes and the opening for the crank's flange."""
    if a.opening_mm is None:
        yield "Adapter: say how large an opening the crank's flange and flywheel bolts want"
        return
    for word, pattern in patterns:
        for hole in pattern.holes:
            left = float(np.linalg.norm(hole.at)) - (hole.hole_mm + a.opening_mm) / 2
            if left < a.least_ligament_mm:
                yield (
                    f"Adapter: {left:.1f} mm of metal between {word} hole {hole.number} and the crank's"
                    f" opening; {a.least_ligament_mm:g} mm is wanted"
                )


def _dowel_questions(*patterns: Pattern) -> Iterator[str]:
    if not all(any(hole.dowel for hole in pattern.holes) for pattern in patterns):
        yield "Adapter: each side wants its dowels, or the shaft runs out of line with the crank"


LEAST_IN_HUB = 0.8
"""Share of the clutch's hub that must sit on splines (common practice, no source)."""


def _thickness_questions(a: Adapter, worked: Worked) -> Iterator[str]:
    """Whether the thickness suits the input shaft."""
    least, most = worked.value("least"), worked.value("most")
    if not least <= a.thickness_mm <= most:
        wants = (
            f"it wants {least:.1f} to {most:.1f} mm"
            if least <= most
            else "no thickness does: the pilot bush is too shallow for the engagement wanted"
        )
        yield f"Adapter: a {a.thickness_mm:g} mm plate does not suit the shaft; {wants}"
    if worked.value("in_hub") < LEAST_IN_HUB * a.hub_mm:
        yield f"Adapter: only {worked.value('in_hub'):.0f} mm of the clutch hub sits on splines"
