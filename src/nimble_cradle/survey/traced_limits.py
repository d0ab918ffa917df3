"""What is read of a traced drawing at most, and what a reader gives."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from nimble_cradle.geometry.pose import Array

MOST_REACH = 1e5
"""A traced outline never reaches further from its nought, mm."""
MOST_POINTS = 2_000_000
"""Points along all lines of one file."""
MOST_THINGS = 50_000
"""Lines, arcs and the like in one file, blocks and repeats counted out."""
CHORD = 0.01
"""Curves are followed to within so many mm."""
ROUND = 0.01
"""A closed line is a circle where no point of it is off by more than this share of its radius."""
TOO_MANY = f"holds over {MOST_THINGS:,} lines: too many for a traced outline."
TOO_FAR = "reaches over 100 m: its unit is not what it says."
UNITS = {"px": 25.4 / 96, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6}


@dataclass(frozen=True, eq=False)
class TracedLines:
    """Lines of a file in its own unit, y up: each (n, 2) points; closed ones do not repeat their first
    point."""

    closed: list[Array]
    open: list[Array]
    scale: float | None
    unit: str
    left_out: Counter[str]
