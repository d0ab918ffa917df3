"""Templates of surveyed hole patterns and of the adapter plate, at 1:1, seen facing the face."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.plate import plate_round
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.pattern import Pattern
from nimble_cradle.shop.page import Circle, Drawing, Mark, Text, cross, path
from nimble_cradle.survey.adapter import adapter_plate
from nimble_cradle.survey.pattern import found_pattern
from nimble_cradle.survey.pattern_types import FoundHole, FoundPattern
from nimble_cradle.units import Display, show

LEAST_EDGE = 1.2
"""Least edge distance in hole diameters: EN 1993-1-8:2005 table 3.3 (from memory)."""


def pattern_drawing(pattern: Pattern, display: Display) -> Drawing:
    """A surveyed pattern as a plate. Raises JobError where holes are not pinned down or the plate cannot
    be."""
    found = found_pattern(pattern)
    loose = [str(hole.number) for hole in found.holes if hole.free]
    if loose or not found.holes:
        raise JobError(
            (
                f"{pattern.name} is not drawn: hole{'s' if len(loose) > 1 else ''} {', '.join(loose)} not"
                " pinned down yet."
                if loose
                else f"{pattern.name} has no holes yet."
            ),
            f"survey/patterns/{pattern.id}",
        )
    widest = max(hole.hole_mm for hole in found.holes)
    try:
        plate = plate_round(found.at, widest, pattern.edge_mm)
    except ValueError as error:
        raise JobError(f"{pattern.name}: {error}.", f"survey/patterns/{pattern.id}") from None
    marks: list[Mark] = [path(plate.outline, closed=True), *_holes(pattern, found.holes)]
    if found.from_pin:
        marks += [*cross((0, 0), 8), Circle((0.0, 0.0), 4.0, "MARK"), Text((5.0, -6.0), "crank centre", 3.0)]
    low = plate.outline.min(0)
    marks.append(Text((float(low[0]), float(low[1]) - 7), f"{pattern.name}, {pattern.plate_mm:g} mm", 3.5))
    sides = ", ".join(
        f"{i + 1}–{i + 2}: {show(float(np.linalg.norm(a - b)), 'length', display)}"
        for i, (a, b) in enumerate(zip(found.at, found.at[1:], strict=False))
    )
    notes = (
        f"Centre to centre {sides}. Seen facing the face, as measured.",
        "Drill a cheap trial pattern from this first and try it on the face; then the real plate.",
    )
    warnings = list(found.questions)
    if pattern.edge_mm < LEAST_EDGE * widest:
        warnings.append(
            f"Edge distance {pattern.edge_mm:g} mm is under 1.2 hole diameters (EN 1993-1-8 table 3.3, from"
            " memory)."
        )
    return Drawing(
        f"pattern-{pattern.id}", f"{pattern.name}: trial pattern", tuple(marks), notes, tuple(warnings)
    )


def _holes(pattern: Pattern, holes: tuple[FoundHole, ...], prefix: str = "") -> list[Mark]:
    marks: list[Mark] = []
    for h, hole in zip(pattern.holes, holes, strict=True):
        x, y = float(hole.at[0]), float(hole.at[1])
        r = hole.hole_mm / 2
        if h.slot_mm > 0:
            t = np.linspace(-np.pi / 2, np.pi / 2, 13)
            right = np.column_stack([x + h.slot_mm / 2 + r * np.cos(t), y + r * np.sin(t)])
            left = np.column_stack([x - h.slot_mm / 2 - r * np.cos(t), y - r * np.sin(t)])
            marks.append(path(np.vstack([right, left]), closed=True))
        else:
            marks.append(Circle((x, y), r))
        marks += [
            *cross((x, y), r + 3),
            Text((x + r + 1.5, y + 1.5), f"{prefix}{hole.number}{' dowel' if h.dowel else ''}", 3.2),
        ]
    return marks


def adapter_drawing(job: Job) -> Drawing | None:
    """The adapter plate with both patterns; None without one. Raises JobError."""
    plate = adapter_plate(job)
    adapter = job.survey.adapter
    if plate is None or adapter is None:
        return None
    by_id = {pattern.id: pattern for pattern in job.survey.patterns}
    engine, gearbox = by_id[adapter.engine], by_id[adapter.gearbox]
    everything = _joined(plate.engine, plate.gearbox)
    outline = plate_round(everything, 0.1, max(engine.edge_mm, gearbox.edge_mm)).outline
    marks: list[Mark] = [
        path(outline, closed=True),
        *([Circle((0.0, 0.0), adapter.opening_mm / 2)] if adapter.opening_mm else []),
        *_holes(engine, plate.engine.holes, "E"),
        *_holes(gearbox, plate.gearbox.holes, "G"),
        *cross((0, 0), 12),
        Circle((0.0, 0.0), 6.0, "MARK"),
        Text((8.0, -7.0), "crank centre", 3.0),
    ]
    display = job.show.display
    tight = plate.ligaments[0] if plate.ligaments else None
    opening = "not said" if adapter.opening_mm is None else show(adapter.opening_mm, "length", display)
    notes = [
        (
            f"E: {engine.name}; G: {gearbox.name}. Plate {show(adapter.thickness_mm, 'length', display)}"
            f" thick, {'material not said' if adapter.material == 'unsaid' else adapter.material};"
            " opening for"
            f" the crank {opening}."
        ),
        (
            "Seen from the gearbox's side, as you face the engine: E as measured, G turned over (it was"
            " measured facing the other way)."
        ),
        (
            f"Holes: {_sizes(engine, plate.engine, 'E', display)};"
            f" {_sizes(gearbox, plate.gearbox, 'G', display)}."
        ),
        "Drill and try a cheap trial pattern before the real plate is cut.",
    ]
    if tight is not None:
        notes.insert(
            3,
            f"Least metal between holes: {show(tight.ligament, 'length', display)}, E{tight.engine_hole} and"
            f" G{tight.gearbox_hole}.",
        )
    return Drawing("adapter", "Adapter plate", tuple(marks), tuple(notes), plate.questions)


def _sizes(pattern: Pattern, found: FoundPattern, prefix: str, d: Display) -> str:
    """Hole sizes by group: ``E1, E2 11.0 mm for M10; E5 dowel, ream 12.2 mm H7 (+0.018)``."""
    groups: dict[str, list[str]] = {}
    for h, hole in zip(pattern.holes, found.holes, strict=True):
        size = show(hole.hole_mm, "length", d)
        what = f"dowel, ream {size} H7 (+{_h7(hole.hole_mm):.3f} mm)" if h.dowel else f"{size} for {h.bolt}"
        groups.setdefault(what, []).append(f"{prefix}{hole.number}")
    return "; ".join(f"{', '.join(numbers)} {what}" for what, numbers in groups.items())


def _h7(diameter: float) -> float:
    """Upper limit of an H7 hole, mm (ISO 286-2:2010, from memory); its lower limit is nought."""
    return next(
        up
        for most, up in ((6, 0.012), (10, 0.015), (18, 0.018), (30, 0.021), (1e9, 0.025))
        if diameter <= most
    )


def _joined(a: FoundPattern, b: FoundPattern) -> np.ndarray:
    rows = list(a.at)
    for p in b.at:
        if all(np.linalg.norm(p - q) > 0.2 for q in rows):
            rows.append(p)
    return np.array(rows)


def survey_templates(job: Job) -> tuple[list[Drawing], list[JobError]]:
    """Templates of all surveyed patterns and the adapter, and what could not be drawn."""
    drawn: list[Drawing] = []
    refused: list[JobError] = []
    for pattern in job.survey.patterns:
        try:
            drawn.append(pattern_drawing(pattern, job.show.display))
        except JobError as error:
            refused.append(error)
    try:
        plate = adapter_drawing(job)
        if plate is not None:
            drawn.append(plate)
    except JobError as error:
        refused.append(error)
    return drawn, refused
