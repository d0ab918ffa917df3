"""Fatigue of welds: how much of their life a count of load changes takes. N, mm, MPa.

Curves of EN 1993-1-9:2005, 7.1 and figure 7.1 (from memory): slope 3 down to 5 million changes, then 5, and
nothing below the cut-off; category over the partial factor.
"""

from __future__ import annotations

from collections.abc import Sequence

from nimble_cradle.calc import Q, calculation, places

PARTIAL = 1.35
"""Safe life, high consequence (EN 1993-1-9 table 3.1)."""
TOE, ROOT = 40.0, 36.0
"""Categories of a round tube fillet-welded to a plate, and of the root of a fillet as of a rectangular tube
so welded (EN 1993-1-9 tables 8.5 and 8.6)."""
TEE = 71.0
"""Category of a plate welded on edge to another, at the toe on it: a tee joint of table 8.5, which gives 80
where both stand straight."""
KNEE, CUT_OFF = 0.737, 0.549
"""Constant-amplitude limit over the category, and the cut-off over that limit."""


def life(stress_range: float, category: float) -> float:
    """Changes of ``stress_range`` MPa until a detail of a category is used up; inf below the cut-off."""
    own = category / PARTIAL
    knee = KNEE * own
    if stress_range >= knee:
        return 2e6 * (own / stress_range) ** 3
    if stress_range > CUT_OFF * knee:
        return 5e6 * (knee / stress_range) ** 5
    return float("inf")


def damage(ranges: Sequence[float], counts: Sequence[float], category: float) -> float:
    """Miner's sum."""
    return sum(n / life(r, category) for r, n in zip(ranges, counts, strict=True))


def _worked(ranges: str, counts: str, category: float) -> tuple[float, float, float]:
    r, n = ([row[0] for row in places(text, 1)] for text in (ranges, counts))
    total = damage(r, n, category)
    return total ** (1 / 3), total, max(r)


FATIGUE = calculation(
    "weld-fatigue",
    "Life of a weld under repeated loads",
    inputs=(
        Q("ranges", "MPa", "stress range of each kind of change, one after another: 80; 45; 30", many=True),
        Q("counts", "", "how often each comes in the life of the car", many=True),
        Q(
            "category",
            "MPa",
            "detail category: 40 tube on plate at its toe, 71 plate on plate, 36 root of a fillet",
            above=0,
        ),
    ),
    outputs=(
        Q("use", "", "stress used: cube root of the damage"),
        Q("damage", "", "Miner's sum, 1 is used up"),
        Q("most", "MPa", "greatest range"),
    ),
    formula="N = 2e6 (C/1.35/r)^3, below 0.737 C/1.35 slope 5, none under 0.549 of that;  (sum n/N)^(1/3)",
    source="EN 1993-1-9:2005, 7.1, tables 3.1, 8.5 and 8.6; Miner's rule (from memory)",
    leaves_out="rust, poor starts and stops, and welds that were ground, which last longer",
)(_worked)
