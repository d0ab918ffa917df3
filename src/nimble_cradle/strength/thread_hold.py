"""How well a thread in the block holds its bolt. N, mm, MPa."""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation
from nimble_cradle.stock.bolts import bolt_class
from nimble_cradle.stock.threads import SIZES, pitch_of, thread
from nimble_cradle.strength.bolts import CLASSES

TENSILE = {"grey iron": 250.0, "cast aluminium": 240.0, "steel": 500.0, "insert in aluminium": 240.0}
"""Tensile strength MPa of what a thread is cut in: EN-GJL-250 (EN 1561), EN AC-46000 (EN 1706), a carbon
steel (from memory)."""
SHEAR = 0.6
"""Shear over tensile strength (VDI 2230, from memory)."""
INSERT_MORE = 1.3
"""A wire insert's own thread is so many pitches larger than the bolt (a maker's usual size, from memory)."""
LOST = 0.8
"""Pitches at the thread's mouth and the bolt's tip that hold nothing."""


def strip_load(size: str, into: str, deep: float) -> float:
    """Load N at which the thread in the block shears off along the bolt's outside."""
    pitch, d = pitch_of(size), thread(size).diameter
    if into == "insert in aluminium":
        d += INSERT_MORE * pitch
    turns = max(deep / pitch - LOST, 0.0)
    pitch_diameter = d - 0.6495 * pitch
    area = math.pi * d * turns * (pitch / 2 + (d - pitch_diameter) / math.sqrt(3))
    return SHEAR * TENSILE[into] * area


def thread_use(size: str, grade: str, into: str, deep: float) -> tuple[float, float, float]:
    """Use: the bolt's proof load over what the thread holds, so that the bolt gives first; both loads, N."""
    t = thread(size)
    proof = bolt_class(grade, t.diameter).proof * t.stress_area
    holds = strip_load(size, into, deep)
    return proof / max(holds, 1e-9), holds, proof


THREAD_HOLD = calculation(
    "thread-in-block",
    "How well a thread in the block holds its bolt",
    inputs=(
        Q("size", "", "thread", choices=SIZES),
        Q("grade", "", "property class", "8.8", choices=CLASSES),
        Q("into", "", "what the thread is in", choices=tuple(TENSILE)),
        Q("deep", "mm", "how deep the bolt is screwed in", above=0),
    ),
    outputs=(
        Q("use", "", "proof load of the bolt / what the thread holds"),
        Q("holds", "N", "load at which the thread strips"),
        Q("proof", "N", "proof load of the bolt"),
    ),
    formula="F = 0.6 Rm pi d (le/P) (P/2 + (d - d2)/sqrt 3), le less 0.8 P;  the bolt shall give first",
    source="form of VDI 2230 part 1 (2015), 5.5.5 (from memory); Rm: EN 1561, EN 1706 (from memory)",
    leaves_out="threads that were stripped, mended or worn before, and the boss being thin",
)(thread_use)
