"""Nuts."""

from __future__ import annotations

HEXAGON = {
    "M6": (5.2, 10.0),
    "M8": (6.8, 13.0),
    "M10": (8.4, 16.0),
    "M12": (10.8, 18.0),
    "M14": (12.8, 21.0),
    "M16": (14.8, 24.0),
    "M18": (15.8, 27.0),
    "M20": (18.0, 30.0),
}
"""Height and width across flats, mm, of hexagon nuts: ISO 4032:2012 (from memory)."""
