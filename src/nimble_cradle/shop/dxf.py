"""A drawing as DXF (R2010, mm) with layers CUT, MARK, FOLD and NOTE; a section with BAY, ENGINE, GHOST and
NOTE."""

from __future__ import annotations

import io

from nimble_cradle.shop.page import Circle, Drawing, Path

COLOURS = {"CUT": 7, "MARK": 5, "FOLD": 30, "NOTE": 8}
SECTION_COLOURS = {"BAY": 7, "ENGINE": 4, "GHOST": 9}


def _text(words: str) -> str:
    """Words as DXF holds them: two per cent signs, or a backslash with U+, would be read as another
    letter."""
    return words.replace("%%", "% %").replace("\\U+", "\\ U+")


def dxf(drawing: Drawing) -> str:
    """The drawing as DXF text."""
    import ezdxf
    from ezdxf.units import MM

    document = ezdxf.new("R2010")
    document.units = MM
    section = {m.layer for m in drawing.marks} & set(SECTION_COLOURS)
    for layer, colour in ({"NOTE": 8, **SECTION_COLOURS} if section else COLOURS).items():
        document.layers.add(layer, color=colour)
    space = document.modelspace()
    for mark in drawing.marks:
        attributes = {"layer": mark.layer}
        if isinstance(mark, Path):
            space.add_lwpolyline(mark.points, close=mark.closed, dxfattribs=attributes)
        elif isinstance(mark, Circle):
            space.add_circle(mark.centre, mark.radius, dxfattribs=attributes)
        else:
            space.add_text(
                _text(mark.text), height=mark.height, rotation=mark.turn_deg, dxfattribs=attributes
            ).set_placement(mark.at)
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue()
