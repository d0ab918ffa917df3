"""Threads, bolt classes and structural steels.

Stress areas are computed: ISO 898-1:2013, 9.1.6.1: As = pi/4 ((d2 + d3)/2)^2, which for ISO 68-1 threads
is pi/4 (d - 0.9382 P)^2; ASME B1.1-2003, appendix B: At = pi/4 (D - 0.9743/n)^2. Strengths: ISO 898-1:2013
table 3, SAE J429 (both from memory); EN 10025-2:2004 and EN 10305-1:2010 in +N condition (from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from nimble_cradle.calc import CalcError, Q, calculation
from nimble_cradle.units import IN

METRIC_PITCH = {
    "M6": 1.0,
    "M8": 1.25,
    "M10": 1.5,
    "M12": 1.75,
    "M14": 2.0,
    "M16": 2.0,
    "M18": 2.5,
    "M20": 2.5,
}
FINE_PITCH = {
    "M8x1": 1.0,
    "M10x1.25": 1.25,
    "M12x1.25": 1.25,
    "M12x1.5": 1.5,
    "M14x1.5": 1.5,
    "M16x1.5": 1.5,
    "M18x1.5": 1.5,
    "M20x1.5": 1.5,
}
"""Coarse and fine pitches, mm: ISO 261 and 262 (from memory)."""
INCH_SIZE = {
    "1/4-20": (1 / 4, 20),
    "5/16-18": (5 / 16, 18),
    "3/8-16": (3 / 8, 16),
    "7/16-14": (7 / 16, 14),
    "1/2-13": (1 / 2, 13),
    "1/2-20": (1 / 2, 20),
    "9/16-12": (9 / 16, 12),
    "9/16-18": (9 / 16, 18),
    "5/8-11": (5 / 8, 11),
    "5/8-18": (5 / 8, 18),
}
SIZES = (*METRIC_PITCH, *FINE_PITCH, *INCH_SIZE)


@dataclass(frozen=True)
class Thread:
    """A thread by its nominal diameter and stress area, mm and mm2."""

    name: str
    diameter: float
    stress_area: float

    @property
    def shank_area(self) -> float:
        """Area of the plain shank, mm2."""
        return math.pi / 4 * self.diameter**2


def metric_stress_area(diameter: float, pitch: float) -> float:
    """mm2 from diameter and pitch in mm."""
    return math.pi / 4 * (diameter - 0.9382 * pitch) ** 2


def inch_stress_area(diameter_in: float, threads_per_inch: float) -> float:
    """mm2 from diameter in inches and threads per inch."""
    return math.pi / 4 * (diameter_in - 0.9743 / threads_per_inch) ** 2 * IN**2


def pitch_of(size: str) -> float:
    """Pitch of a thread by its size, mm. Raises CalcError."""
    thread(size)
    pitch = METRIC_PITCH.get(size) or FINE_PITCH.get(size)
    return pitch if pitch is not None else IN / INCH_SIZE[size][1]


def thread(size: str) -> Thread:
    """A thread by its size, M10 or 3/8-16. Raises CalcError."""
    pitch = METRIC_PITCH.get(size) or FINE_PITCH.get(size)
    if pitch is not None:
        d = float(size[1:].partition("x")[0])
        return Thread(size, d, metric_stress_area(d, pitch))
    if size in INCH_SIZE:
        d, n = INCH_SIZE[size]
        return Thread(size, d * IN, inch_stress_area(d, n))
    raise CalcError(f"There is no thread {size!r} in the table; it has {', '.join(SIZES)}.")


STRESS_AREA = calculation(
    "thread-stress-area",
    "Stress area of a bolt's thread",
    inputs=(Q("size", "", "thread", choices=SIZES),),
    outputs=(Q("area", "mm2", "stress area"), Q("diameter", "mm", "nominal diameter")),
    formula="metric: pi/4 (d - 0.9382 P)^2;  inch: pi/4 (d - 0.9743/n)^2",
    source="ISO 898-1:2013, 9.1.6; ASME B1.1-2003, appendix B",
    leaves_out="thread tolerances",
)(lambda size: (thread(size).stress_area, thread(size).diameter))
