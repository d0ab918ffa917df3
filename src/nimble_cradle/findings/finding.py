"""What a strength check says: never raised, always collected."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from nimble_cradle.calc import Worked
from nimble_cradle.units import Kind


@dataclass(frozen=True)
class Finding:
    """One check of one part of a stage. use: load with its factor over capacity; over 1 it does not hold.
    case: name of the load case that governs."""

    code: str
    stage: str
    part: str
    part_name: str
    what: str
    load: float
    capacity: float
    kind: Kind
    use: float
    case: str
    factor: float
    worked: Worked
    cure: str = ""

    @property
    def state(self) -> Literal["holds", "near", "does not hold"]:
        """The word for it: near from nine tenths of what it can carry."""
        return "does not hold" if self.use > 1 else ("near" if self.use > 0.9 else "holds")

    def fails_words(self) -> str:
        """That it does not hold, in words."""
        return f"{self.part_name}, {self.what}: does not hold, {100 * self.use:.0f} %"


@dataclass(frozen=True)
class Problem:
    """Something that keeps a part of the job from being judged: one sentence, and the path of the fault."""

    stage: str
    place: str
    sentence: str
