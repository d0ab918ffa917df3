"""Pressure of a bolt's head on what it is tightened against. N, mm, MPa."""

from __future__ import annotations

import math

from nimble_cradle.calc import Q, calculation
from nimble_cradle.stock.threads import SIZES, thread

HEAD_SHARE, LARGE_SHARE = 1.45, 1.38
"""Bearing face of a hexagon head over the thread, up to 11 mm and over: 11.6 mm of M8, 14.6 of M10, 16.6 of
M12, 22.5 of M16 (ISO 4014, from memory)."""
WASHER = 1.6 * 0.15
"""A plain washer widens that by 1.6 of its thickness (VDI 2230-1, 5.5.4), which is 0.15 thread at least (ISO
7089; both from memory)."""
PRESSED = 490.0 / 360.0
"""Pressure that a steel bears over its tensile strength: 490 MPa on S235 (VDI 2230 table A9, from memory)."""


def bearing_diameter(size: str) -> float:
    """Of what presses on the plate under a hexagon head with its plain washer, mm."""
    d = thread(size).diameter
    return d * (WASHER + (HEAD_SHARE if d < 11.5 else LARGE_SHARE))


def head_bearing(clamp: float, size: str, hole: float, tensile: float) -> tuple[float, float, float]:
    """Share used, pressure MPa, and what the steel bears, MPa."""
    face = math.pi / 4 * max(bearing_diameter(size) ** 2 - hole**2, 1.0)
    pressure, most = clamp / face, PRESSED * tensile
    return pressure / most, pressure, most


HEAD_BEARING = calculation(
    "head-bearing",
    "A bolt's head and its washer on the plate",
    inputs=(
        Q("clamp", "N", "what it clamps with", above=0),
        Q("size", "", "bolt", choices=SIZES),
        Q("hole", "mm", "hole under it", above=0),
        Q("tensile", "MPa", "tensile strength of the plate", 360.0, above=0),
    ),
    outputs=(
        Q("use", "", "share used"),
        Q("pressure", "MPa", "under the head"),
        Q("most", "MPa", "that the plate bears"),
    ),
    formula="p = C/(pi/4 (dw^2 - dh^2));  dw = 1.45 d (1.38 from M12 on) + 0.24 d of washer;  most = 1.36 Rm",
    source="VDI 2230-1:2015, 5.5.4 and table A9; ISO 4014 for the head (all from memory)",
    leaves_out="harder or wider washers, flanged heads, which help; a bolt without a washer",
)(head_bearing)
