"""A cut line at 1:1: what must go from a sheet of the bay, as one faces it from the engine."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from nimble_cradle.fit.cut_lines import CutLine
from nimble_cradle.fit.cut_surface import MOST_STRETCH, SurfaceCut
from nimble_cradle.geometry.pose import Array
from nimble_cradle.shop.page import Drawing, Mark, Text, cross, path
from nimble_cradle.units import Display, show

WARNING = "Cut inside the line first and try; what ties the car together is braced before."


def cut_line_drawing(line: CutLine | SurfaceCut, display: Display) -> Drawing:
    """What must go from a sheet, or from what is no flat one, at 1:1."""
    return _laid_flat(line, display) if isinstance(line, SurfaceCut) else _on_sheet(line, display)


def _laid_flat(line: SurfaceCut, display: Display) -> Drawing:
    """Each piece of what must go laid flat, side by side, the car's up upwards."""
    marks: list[Mark] = []
    name, worst, x = line.item.name, 0.0, 0.0
    notes = [
        f"As one faces {name} from the engine, laid flat, the car's up (or forward) upwards; where the thing"
        " itself ends is drawn lightly."
    ]
    for k, piece in enumerate(line.flat, 1):
        u = piece.up
        turn = np.array([[u[1], u[0]], [-u[0], u[1]]])
        turned = [ring @ turn for ring in piece.rings]
        low, high = np.vstack(turned).min(0), np.vstack(turned).max(0)
        for ring in turned:
            closed = float(np.linalg.norm(ring[0] - ring[-1])) < 1.0
            at = ring - low + [x, 0.0]
            marks.append(path(at[:-1] if closed else at, closed=closed))
        for edge in piece.edges:
            end = edge @ turn - low + [x, 0.0]
            if (end.max(0) > [x - 40, -40]).all() and (end.min(0) < high - low + [x + 40, 40]).all():
                marks.append(path(end, closed=False, layer="NOTE"))
        middle = piece.mark @ turn - low + [x, 0.0]
        marks += [
            *cross((float(middle[0]), float(middle[1])), 6),
            Text((float(middle[0]) + 4, float(middle[1]) + 3), f"{k}", 4.0),
        ]
        size = " x ".join(show(float(v), "length", display, 0) for v in high - low)
        notes.append(
            f"{k}: {size}, its outline true to {show(piece.off, 'length', display)}, the paper drawn by"
            f" {100 * piece.strain:.1f} % at most; its cross is"
            f" {_place(piece.at, display)}."
        )
        worst = max(worst, piece.off)
        x += float(high[0] - low[0]) + 30.0
    notes.append(_asked(line.why))
    warnings = [WARNING]
    if worst > MOST_STRETCH:
        warnings.append(
            f"{name} cannot be laid flat to {show(MOST_STRETCH, 'length', display)}: use the paper to find"
            " the place, and trace the line on the car from the engine."
        )
    return Drawing(
        f"cut-line-{line.item.id}", f"{name}: cut line", tuple(marks), tuple(notes), tuple(warnings)
    )


def _place(at: Array, display: Display) -> str:
    """A place in the car, in words."""
    ways = (("forward of", "behind"), ("left of", "right of"), ("above", "below"))
    x, y, z = (
        f"{show(abs(float(v)), 'length', display, 0)} {pair[0 if v >= 0 else 1]}"
        for v, pair in zip(at, ways, strict=True)
    )
    return f"{x} the datum, {y} it, {z} it"


def _asked(why: Sequence[str]) -> str:
    return (
        f"For the room of: {', '.join(why)}; at rest and in every load case; shafts and what is screwed in"
        " are not in it."
    )


def _on_sheet(line: CutLine, display: Display) -> Drawing:
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
        notes.append(_asked(line.why))
    name = f"cut-line-{sheet.item.id}"
    return Drawing(name, f"{sheet.item.name}: cut line", tuple(marks), tuple(notes), (WARNING,))
