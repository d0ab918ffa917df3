"""Holes for bolts: ISO 273 and ASME B18.2.8."""

from __future__ import annotations

from typing import Literal

from nimble_cradle.calc import CalcError, Q, calculation
from nimble_cradle.stock.threads import SIZES
from nimble_cradle.units import IN

Fit = Literal["fine", "medium", "coarse"]
_ORDER = ("fine", "medium", "coarse")
METRIC: dict[str, tuple[float, float, float]] = {
    "M6": (6.4, 6.6, 7.0),
    "M8": (8.4, 9.0, 10.0),
    "M10": (10.5, 11.0, 12.0),
    "M12": (13.0, 13.5, 14.5),
    "M14": (15.0, 15.5, 16.5),
    "M16": (17.0, 17.5, 18.5),
    "M18": (19.0, 20.0, 21.0),
    "M20": (21.0, 22.0, 24.0),
}
"""ISO 273:1979 (from memory)."""
INCH: dict[str, tuple[float, float, float, float]] = {
    "1/4-20": (1 / 4, 0.266, 0.281, 0.297),
    "5/16-18": (5 / 16, 0.328, 0.344, 0.359),
    "3/8-16": (3 / 8, 0.391, 0.406, 0.422),
    "7/16-14": (7 / 16, 0.453, 0.469, 0.484),
    "1/2-13": (1 / 2, 0.531, 0.562, 0.609),
    "1/2-20": (1 / 2, 0.531, 0.562, 0.609),
    "9/16-12": (9 / 16, 0.594, 0.625, 0.672),
    "9/16-18": (9 / 16, 0.594, 0.625, 0.672),
    "5/8-11": (5 / 8, 0.656, 0.688, 0.734),
    "5/8-18": (5 / 8, 0.656, 0.688, 0.734),
}
"""Nominal and close, normal, loose holes in inches: ASME B18.2.8 (from memory); 9/16 is not in it: common
practice, no source."""


def clearance_hole(size: str, fit: Fit = "medium") -> tuple[float, float]:
    """Hole and bolt diameter mm. Raises CalcError."""
    plain = size.partition("x")[0]  # a fine pitch needs the same hole
    if plain in METRIC and size in SIZES:
        return METRIC[plain][_ORDER.index(fit)], float(plain[1:])
    if size in INCH:
        nominal, *holes = INCH[size]
        return holes[_ORDER.index(fit)] * IN, nominal * IN
    raise CalcError(f"There is no bolt {size!r} in the table; it has {', '.join(SIZES)}.")


CLEARANCE_HOLE = calculation(
    "clearance-hole",
    "Hole for a bolt",
    inputs=(Q("size", "", "thread", choices=SIZES), Q("fit", "", "series", "medium", choices=_ORDER)),
    outputs=(Q("hole", "mm", "hole diameter"), Q("bolt", "mm", "bolt diameter")),
    formula="table",
    source="ISO 273:1979; ASME B18.2.8 (both from memory)",
    leaves_out="deburring and paint",
)(clearance_hole)
