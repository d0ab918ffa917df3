"""A pair of flat bars on edge from a mount's plate to its bush eye."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from nimble_cradle.job.bar_arm import BarArm
from nimble_cradle.job.base import Positive


class FlatsArm(BarArm):
    """Two flat bars side by side along the eye, each cut round it; battens tie them to one another at equal
    distances."""

    kind: Literal["flats"] = "flats"
    thick_mm: Positive = Field(5.0, title="Thickness of each bar")
    apart_mm: Positive = Field(30.0, title="Between the two bars")
    battens: Literal[0, 1, 2, 3] = Field(1, title="Battens between them")

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        return (("tall_mm", "height of its bars"), ("thick_mm", "thickness of its bars"))
