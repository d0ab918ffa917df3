"""A cut line at 1:1: what must go from a sheet of the bay, as one faces it from the engine."""

from __future__ import annotations

import numpy as np

from nimble_cradle.fit.cut_lines import CutLine
from nimble_cradle.shop.page import Drawing, Mark, Text, cross, path
from nimble_cradle.units import Display, show


def cut_line_drawing(line: CutLine, display: Display) -> Drawing:
    """The sheet's edge and what is cut out of it, with distances from the edges. The sheet's middle is at
    0, 0."""
    sheet = line.sheet
    marks: list[Mark] = []
    outer = sheet.outline
    marks.append(path(np.asarray(outer.exterior.coords)[:-1], closed=True, layer="NOTE"))
    notes = [
        f"As one faces {sheet.item.name} from the engine, up upwards; the sheet's edge is drawn lightly."
    ]
    left, low, right, high = outer.bounds
    for k, piece in enumerate(line.pieces, 1):
        for ring in (piece.exterior, *piece.interiors):
            marks.append(path(np.asarray(ring.coords)[:-1], closed=True))
        x0, y0, x1, y1 = piece.bounds
        middle = piece.representative_point()
        marks += [*cross((middle.x, middle.y), 6), Text((middle.x + 4, middle.y + 3), f"{k}", 4.0)]
        far = [show(v, "length", display, 0) for v in (x0 - left, right - x1, y0 - low, high - y1)]
        size = " x ".join(show(v, "length", display, 0) for v in (x1 - x0, y1 - y0))
        notes.append(
            f"{k}: {size}; from the sheet's left edge {far[0]}, right {far[1]}, lower {far[2]}, upper"
            f" {far[3]}."
        )
    if line.why:
        notes.append(
            f"For the room of: {', '.join(line.why)}; at rest and in every load case; shafts and"
            " what is screwed in are not in it."
        )
    warnings = ("Cut inside the line first and try; a sheet that ties the car together is braced before.",)
    name = f"cut-line-{sheet.item.id}"
    return Drawing(name, f"{sheet.item.name}: cut line", tuple(marks), tuple(notes), warnings)
