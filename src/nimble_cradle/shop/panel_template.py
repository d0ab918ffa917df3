"""The flat pattern of a panel at 1:1: outline, holes, where it is bent and which way."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.bend import bend_allowance
from nimble_cradle.job.job import Job
from nimble_cradle.job.panel import Panel
from nimble_cradle.made.panel import dimple_rim, made_panel
from nimble_cradle.shop.page import Circle, Drawing, Mark, Text, cross, path
from nimble_cradle.units import show


def panel_drawing(panel: Panel, job: Job) -> Drawing:
    """A panel's flat pattern as one faces it. Raises JobError."""
    found, display = made_panel(panel), job.show.display
    ring = np.asarray(found.folded.pattern.exterior.coords)[:-1]
    marks: list[Mark] = [path(ring, closed=True)]
    lips = {lip.id: lip for lip in panel.lips}
    for k, (key, ends) in enumerate(found.folded.folds, 1):
        lip = lips[key]
        marks.append(path(ends, layer="FOLD"))
        way = "away" if lip.way == "away" else "towards you"
        middle, along = ends.mean(0), ends[1] - ends[0]
        turn = float(np.degrees(np.arctan2(along[1], along[0])))
        turn = (turn + 90.0) % 180.0 - 90.0
        said = f"{k}: {lip.turn_deg:g}° {way}"
        marks.append(Text((float(middle[0]), float(middle[1]) + 1.0), said, 3.0, turn_deg=turn, middle=True))
    for hole in found.holes:
        at = (float(hole.flat[0]), float(hole.flat[1]))
        marks += [Circle(at, hole.diameter / 2), *cross(at, hole.diameter / 2 + 2)]
        if panel.dimple_mm and not hole.seam:
            marks.append(Circle(at, dimple_rim(panel), layer="MARK"))
    low = ring.min(0)
    marks.append(
        Text((float(low[0]), float(low[1]) - 7), f"{panel.name}, {panel.thick_mm:g} mm {panel.metal}", 3.5)
    )
    sizes = " x ".join(show(v, "length", display, 1) for v in found.flat_size)
    bends = ", ".join(
        f"{k}: {show(bend_allowance(panel.radius_mm, panel.thick_mm, lip.turn_deg), 'length', display, 2)}"
        for k, lip in enumerate(panel.lips, 1)
    )
    row = [hole for hole in found.holes if hole.seam]
    notes = [f"Flat {sizes}; as one faces the sheet. Dashed lines are the middle of each bend."]
    if panel.lips:
        radius = show(panel.radius_mm, "length", display, 1)
        notes.append(f"Inside radius {radius}; length of sheet in each bend {bends} (DIN 6935, from memory).")
        notes.append("Bend a strip of the same sheet first and measure what your folder really takes.")
    if row:
        notes.append(f"{len(row)} holes of {show(row[0].diameter, 'length', display, 1)} in the row.")
    if panel.dimple_mm and panel.holes:
        deep = show(panel.dimple_mm, "length", display, 1)
        way = "away from you" if panel.dimple_way == "away" else "towards you"
        notes.append(
            f"Edges of the {len(panel.holes)} further holes are pressed {deep} {way}; dashed: where the sheet"
            " is flat again. Cut each to the size that your die asks for. What they stiffen is in no sum."
        )
    return Drawing(f"panel-{panel.id}", f"{panel.name}: flat pattern", tuple(marks), tuple(notes))
