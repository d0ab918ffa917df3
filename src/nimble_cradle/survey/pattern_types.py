"""A hole pattern as it was found."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.pattern import BETWEEN, HoleReading, Pattern
from nimble_cradle.survey.adjust import State

LEAST = 0.01
"""No reading is taken to be better than this, mm or deg."""
TRIANGLE = 1.7
"""Three sides that no triangle has are so many times their give-or-take (two sigma) out: 3.3 sigma, as for
any reading."""


@dataclass(frozen=True, eq=False)
class FoundHole:
    """A hole: at (2,) mm, plus_minus mm (the larger way), free: not pinned down; slack: what the bolt has
    left in its clearance hole, mm."""

    id: str
    number: int
    at: Array
    plus_minus: float
    free: bool
    hole_mm: float
    slack: float


@dataclass(frozen=True)
class CheckedHoleReading:
    """A reading against all the others; off: how far it is wrong, if it is the wrong one (mm, degrees for
    an angle)."""

    id: str
    words: str
    residual: float
    w: float
    redundancy: float
    state: State
    off: float


@dataclass(frozen=True)
class HoleProposal:
    """A centre distance worth taking, and about what it will read, mm."""

    hole: str
    other: str
    words: str
    value_mm: float
    pins: bool


@dataclass(frozen=True, eq=False)
class FoundPattern:
    """A pattern after adjustment. from_pin: its origin is the crank pin. factor: scatter against the
    give-or-take said."""

    holes: tuple[FoundHole, ...]
    readings: tuple[CheckedHoleReading, ...]
    questions: tuple[str, ...]
    proposals: tuple[HoleProposal, ...]
    from_pin: bool
    factor: float
    dof: int

    @property
    def at(self) -> Array:
        """(n, 2) mm."""
        return np.array([hole.at for hole in self.holes]).reshape(-1, 2)


class Columns:
    """Columns of each hole's x and y in the unknowns; -1 where held at nought (the first hole, and the
    second's y, without a pin)."""

    def __init__(self, pattern: Pattern) -> None:
        self.number = {hole.id: i for i, hole in enumerate(pattern.holes)}
        self.from_pin = any(reading.kind not in BETWEEN and reading.used for reading in pattern.readings)
        held = set() if self.from_pin else {0, 1, 3}
        self.columns: list[int] = []
        n = 0
        for k in range(2 * len(pattern.holes)):
            self.columns.append(-1 if k in held else n)
            n += k not in held
        self.size = n

    def points(self, x: Array) -> Array:
        """All holes (n, 2)."""
        return np.array([x[column] if column >= 0 else 0.0 for column in self.columns]).reshape(-1, 2)

    def of(self, key: str) -> tuple[int, int]:
        """The two columns of a hole."""
        i = 2 * self.number[key]
        return self.columns[i], self.columns[i + 1]


def reading_words(pattern: Pattern, reading: HoleReading) -> str:
    """``1 to 3, centres`` or ``2, radius from the pin``."""
    number = {hole.id: i for i, hole in enumerate(pattern.holes, start=1)}
    a = number[reading.hole]
    if reading.other:
        return f"{a} to {number[reading.other]}, {reading.kind.replace('-', ' ')}"
    return f"{a}, {reading.kind} from the pin"
