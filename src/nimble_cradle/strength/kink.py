"""The mitred kink of a tube."""

from __future__ import annotations

from nimble_cradle.calc import Q, calculation

MOST_PLAIN = 30.0
"""A mitre turns a tube by at most so many degrees without a plate inside (common practice, no source: beyond
it the tube goes oval)."""


def turn_use(turn: float, most: float = MOST_PLAIN) -> float:
    """Share of the turn that a plain mitre makes."""
    return turn / most


KINK_TURN = calculation(
    "kink-turn",
    "How far a tube turns at a plain mitre",
    inputs=(
        Q("turn", "deg", "how far it turns", low=0),
        Q("most", "deg", "the most without a plate inside", MOST_PLAIN, above=0),
    ),
    outputs=(Q("use", "", "share used"),),
    formula="turn / most",
    source="common practice, no source",
    leaves_out="a plate across the inside of the mitre, which lets it turn further",
)(turn_use)
