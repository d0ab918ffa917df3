"""The crossmember's end plate at 1:1."""

from __future__ import annotations

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.cross_section import FoldedSection
from nimble_cradle.job.end_plate import EndPlates
from nimble_cradle.job.mounts import Crossmember
from nimble_cradle.made.end_plates import end_holes
from nimble_cradle.shop.page import Circle, Drawing, Mark, Text, cross, path


def end_plate_drawing(crossmember: Crossmember, plates: EndPlates) -> Drawing:
    """Both plates, which are alike: along the rail to the right, up upwards where it is beside the rail, else
    outwards. Dashed: the tube."""
    x, y = plates.along_mm / 2, plates.other_mm / 2
    marks: list[Mark] = [path([(-x, -y), (x, -y), (x, y), (-x, y)], closed=True)]
    for k, (u, v) in enumerate(end_holes(plates), 1):
        if plates.slot_mm > 0:
            marks.append(path(_slot(u, v, plates.hole_mm / 2, plates.slot_mm / 2), closed=True))
        else:
            marks.append(Circle((u, v), plates.hole_mm / 2))
        marks += [
            *cross((u, v), plates.hole_mm / 2 + 3),
            Text((u + plates.hole_mm / 2 + 1.5, v + plates.slot_mm / 2 + 1.5), f"{k}", 3.2),
        ]
    section = crossmember.section
    wide = section.wide_mm
    if plates.where == "beside":
        high, at = section.height_mm / 2, -plates.up_mm
        if section.shape == "round":
            marks.append(Circle((0.0, at), section.height_mm / 2, "MARK"))
        elif isinstance(section, FoldedSection):
            lip = section.over_mm / 2
            line = [(-lip, at - high), (-wide / 2, at - high), (-wide / 2, at + high)]
            marks.append(path([*line, *((-u, v) for u, v in reversed(line))], layer="MARK"))
        else:
            ring = [
                (-wide / 2, at - high),
                (wide / 2, at - high),
                (wide / 2, at + high),
                (-wide / 2, at + high),
            ]
            marks.append(path(ring, closed=True, layer="MARK"))
    else:
        marks += [path([(s * wide / 2, -y), (s * wide / 2, y)], layer="MARK") for s in (-1, 1)]
    marks.append(
        Text((-x, -y - 7), f"Crossmember: end plate, {plates.plate_mm:g} mm {plates.steel}, two", 3.5)
    )
    notes = (
        f"{len(end_holes(plates))} holes {plates.hole_mm:g} mm for {plates.bolt} {plates.bolt_class},"
        f" {plates.pitch_mm:g} mm apart along the rail, tightened to {plates.tightening_nm:g} Nm in passes.",
        "Bolts by hand first, all of them; then drill the rail through the plate.",
    )
    return Drawing("end-plate", "Crossmember: end plate", tuple(marks), notes)


def _slot(u: float, v: float, radius: float, half: float) -> Array:
    """A hole made longer up and down by ``half`` each way."""
    t = np.linspace(0.0, np.pi, 13)
    upper = np.column_stack([u + radius * np.cos(t), v + half + radius * np.sin(t)])
    return np.vstack([upper, 2 * np.array([u, v]) - upper])
