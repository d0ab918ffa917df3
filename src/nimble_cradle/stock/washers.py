"""Washers under bolts."""

from __future__ import annotations

from nimble_cradle.stock.threads import thread

PLAIN = {
    "M6": (12.0, 1.6),
    "M8": (16.0, 1.6),
    "M10": (20.0, 2.0),
    "M12": (24.0, 2.5),
    "M14": (28.0, 2.5),
    "M16": (30.0, 3.0),
    "M18": (34.0, 3.0),
    "M20": (37.0, 3.0),
}
"""Outside diameter and thickness, mm, of plain washers: ISO 7089:2000 (from memory)."""


def washer_radius(size: str) -> float:
    """Half the room that the washer of a bolt takes, mm: twice the bolt's diameter across, for inch sizes too
    (ISO 7089 within 3 mm). Raises CalcError for a size that there is not."""
    return thread(size).diameter
