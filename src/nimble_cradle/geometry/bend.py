"""A bend in sheet: what it takes of the sheet's length."""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation


def neutral_factor(radius: float, thick: float) -> float:
    """k of DIN 6935: the neutral fibre runs k t/2 outside the inside radius."""
    return min(1.0, max(0.0, 0.65 + 0.5 * math.log10(radius / thick))) if radius < 5 * thick else 1.0


def bend_allowance(radius: float, thick: float, turned_deg: float) -> float:
    """Length of the neutral fibre in a bend, mm."""
    return math.radians(turned_deg) * (radius + neutral_factor(radius, thick) * thick / 2)


def setback(radius: float, thick: float, turned_deg: float) -> float:
    """From where the outsides of both legs would meet to where the bend begins, mm."""
    return (radius + thick) * math.tan(math.radians(turned_deg) / 2)


BEND = calculation(
    "bend-allowance",
    "Length of sheet in a bend, and what two legs lose to it",
    inputs=(
        Q("radius", "mm", "inside radius", above=0),
        Q("thick", "mm", "sheet", above=0),
        Q("turned", "deg", "angle it is turned by", above=0, high=170),
    ),
    outputs=(
        Q("allowance", "mm", "of the neutral fibre in the bend"),
        Q("setback", "mm", "from the outside corner to where the bend begins"),
        Q("less", "mm", "the flat is shorter than both outside legs together"),
    ),
    formula="allowance = angle (R + k t/2), k = 0.65 + 0.5 log10(R/t), at most 1;"
    "  setback = (R + t) tan(angle/2);  less = 2 setback - allowance",
    source="DIN 6935:2011 (from memory)",
    leaves_out="how a sheet springs back; tools that draw it in",
)(
    lambda radius, thick, turned: (
        bend_allowance(radius, thick, turned),
        setback(radius, thick, turned),
        2 * setback(radius, thick, turned) - bend_allowance(radius, thick, turned),
    )
)
