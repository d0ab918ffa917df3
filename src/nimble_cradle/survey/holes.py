"""How much of the clearance of a hole its doubt uses up."""

from __future__ import annotations

from nimble_cradle.calc import Q, calculation


def hole_slack(hole: float, bolt: float, doubt: float) -> float:
    """What is left of the radial clearance of a hole after the doubt of its place, mm; below nought the
    bolt may not go in."""
    return (hole - bolt) / 2 - doubt


SLACK = calculation(
    "hole-slack",
    "Room left for a bolt in its hole",
    inputs=(
        Q("hole", "mm", "hole diameter", above=0),
        Q("bolt", "mm", "bolt diameter", above=0),
        Q("doubt", "mm", "plus-or-minus of the hole's place", low=0),
    ),
    outputs=(
        Q(
            "slack",
            "mm",
            "left of the radial clearance; below nought slot the hole, use the next series, or take another"
            " reading",
        ),
    ),
    formula="slack = (hole - bolt) / 2 - doubt",
    source="geometry",
    leaves_out="the doubt of the holes in the other part, and drilling itself",
)(hole_slack)
