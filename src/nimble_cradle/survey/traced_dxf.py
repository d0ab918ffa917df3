"""Traced drawings in DXF."""

from __future__ import annotations

import io
from collections import Counter
from itertools import islice
from typing import Any

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.survey.traced_limits import (
    CHORD,
    MOST_POINTS,
    MOST_REACH,
    MOST_THINGS,
    TOO_FAR,
    TOO_MANY,
    TracedLines,
)
from nimble_cradle.survey.traced_lines import joined, split_line

_DXF_UNITS = {4: (1.0, "mm"), 1: (25.4, "inch"), 5: (10.0, "cm"), 6: (1000.0, "m"), 2: (304.8, "foot")}
_DXF_WORDS = {
    "TEXT": "text", "MTEXT": "text", "ATTRIB": "text", "ATTDEF": "text", "HATCH": "hatch", "IMAGE": "picture",
    "POINT": "point", "3DFACE": "3-D face", "MESH": "3-D body", "3DSOLID": "3-D body", "BODY": "3-D body",
}  # fmt: skip


def _dxf_document(data: bytes) -> Any:
    """The drawing, from text or the binary kind; what can be saved of a damaged one."""
    import ezdxf
    from ezdxf import recover
    from ezdxf.document import Drawing
    from ezdxf.lldxf.tagger import binary_tags_loader

    if data[20:22] == b"\x1a\0":  # how the binary kind's first line ends
        return Drawing.load(binary_tags_loader(data))
    try:
        return ezdxf.read(io.StringIO(data.decode("utf-8").replace("\r\n", "\n")))
    except (UnicodeDecodeError, ezdxf.DXFError):
        document, _ = recover.read(io.BytesIO(data))
        if not len(document.modelspace()):
            raise ValueError("nothing of it could be recovered") from None
        return document


class _Lines:
    """Lines as they are met, closed and loose; counted before they are kept."""

    def __init__(self) -> None:
        self.closed: list[Array] = []
        self.loose: list[Array] = []
        self.points = 0

    def add(self, line: Array) -> None:
        """One line (n, 2). Raises ShapeError where they come to more points than are read."""
        self.points += len(line)
        if self.points > MOST_POINTS:
            raise ShapeError(TOO_MANY)
        if len(line) > 1:
            split_line(line, self.closed, self.loose)


_READ = ("LINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE", "LWPOLYLINE", "POLYLINE")
"""Kinds of things that are lines."""


def read_dxf(data: bytes, unit_mm: float | None) -> TracedLines:
    """The lines of a DXF drawing. Raises ShapeError."""
    left_out: Counter[str] = Counter()
    lines = _Lines()
    try:
        document = _dxf_document(data)
        scale, unit = _DXF_UNITS.get(document.units, (None, "none"))
        one = unit_mm or scale or 1.0
        hidden = {layer.dxf.name.lower() for layer in document.layers if layer.is_off() or layer.is_frozen()}
        for thing in _things(document):
            kind = thing.dxftype()
            if str(thing.dxf.get("layer", "0")).lower() in hidden:
                left_out["thing on a hidden layer"] += 1
            elif kind in _READ:
                _follow(thing, one, lines)
            elif kind != "VIEWPORT":
                left_out[_DXF_WORDS.get(kind, f"{kind.lower()[:30]} that is not read")] += 1
        open_ = joined(lines.loose, lines.closed, 0.05 / one)
    except (ShapeError, MemoryError):
        raise
    except Exception:  # any reader's failure on a foreign file means the same to the user
        raise ShapeError("could not be read as DXF.") from None
    return TracedLines(lines.closed, open_, scale, unit, left_out)


def _things(document: Any) -> list[Any]:
    """Everything in a drawing, blocks taken apart. Raises ShapeError for more than is read."""
    from ezdxf import disassemble

    space = document.modelspace()
    if any(e.mcount > MOST_THINGS for e in space.query("INSERT")):
        raise ShapeError(TOO_MANY)
    things = list(islice(disassemble.recursive_decompose(space), MOST_THINGS + 1))
    if len(things) > MOST_THINGS:
        raise ShapeError(TOO_MANY)
    return things


def _follow(thing: Any, one: float, lines: _Lines) -> None:
    """The lines of one thing, curves as chords. one: mm to the drawing's unit. Raises ShapeError."""
    from ezdxf import path as dxf_path

    whole = dxf_path.make_path(thing)
    if any(not abs(c) * one <= MOST_REACH for v in whole.control_vertices() for c in (v.x, v.y)):
        raise ShapeError(TOO_FAR)
    for part in whole.sub_paths():
        lines.add(np.array([(v.x, v.y) for v in part.flattening(CHORD / one, 16)]).reshape(-1, 2))
