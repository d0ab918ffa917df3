"""Spacers under a bolted plate: a stack of washers is no column. mm."""

from __future__ import annotations

from nimble_cradle.calc import Q, calculation

PIECES = 3
"""So many pieces at most lie on one another (common practice, no source)."""


def spacer_use(high: float, diameter: float) -> float:
    """Share used of a height of one bolt's diameter."""
    return high / diameter


SPACER = calculation(
    "spacer",
    "Spacers under a bolted plate",
    inputs=(Q("high", "mm", "between block and plate", low=0), Q("diameter", "mm", "of the bolt", above=0)),
    outputs=(Q("use", "", "share of what may be"),),
    formula=f"height / bolt; at most {PIECES} pieces on one another",
    source="common practice, no source",
    leaves_out="a sleeve turned in one piece and as wide as the boss, which may be higher",
)(spacer_use)
