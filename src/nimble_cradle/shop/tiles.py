"""Cutting a drawing into sheets of A4 or Letter with an overlap and register marks. mm."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from nimble_cradle.shop.page import Drawing

Paper = Literal["A4", "Letter"]
PAPER: dict[str, tuple[float, float]] = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}
MARGIN = 12.0
"""White round a sheet, mm: what a printer cannot print."""
HEAD = 34.0
"""Room for the title of a sheet, mm."""
FOOT = 30.0
"""Room for ruler and notes of a sheet, mm."""
OVERLAP = 10.0
"""What two sheets side by side have in common, mm: enough to tape them."""


@dataclass(frozen=True)
class Tile:
    """One sheet: its name (A1, A2, B1 ...), and the window of the drawing it shows: left, bottom, width,
    height in mm."""

    name: str
    left: float
    bottom: float
    width: float
    height: float


def window(paper: Paper) -> tuple[float, float]:
    """Width and height of the part of a sheet that shows the drawing."""
    w, h = PAPER[paper]
    return w - 2 * MARGIN, h - 2 * MARGIN - HEAD - FOOT


def tiles(drawing: Drawing, paper: Paper) -> tuple[Tile, ...]:
    """The sheets that cover a drawing with 10 mm of overlap, in rows from the top. A drawing that fits is
    one sheet, centred."""
    x0, y0, x1, y1 = drawing.extent()
    w, h = window(paper)
    pad = 3.0
    x0, y0, x1, y1 = x0 - pad, y0 - pad, x1 + pad, y1 + pad

    def count(size: float, sheet: float) -> int:
        return 1 if size <= sheet else math.ceil((size - OVERLAP) / (sheet - OVERLAP))

    columns, rows = count(x1 - x0, w), count(y1 - y0, h)
    left = (x0 + x1) / 2 - (columns * w - (columns - 1) * OVERLAP) / 2
    top = (y0 + y1) / 2 + (rows * h - (rows - 1) * OVERLAP) / 2
    return tuple(
        Tile(f"{chr(65 + r)}{c + 1}", left + c * (w - OVERLAP), top - (r + 1) * h + r * OVERLAP, w, h)
        for r in range(rows)
        for c in range(columns)
    )
