"""A pressed-in polyurethane bush that turns on a greased sleeve."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import NotNegative, Positive
from nimble_cradle.job.bush import FIRST, Bush


class GreasedBush(Bush):
    """Two halves with flanges, pressed into an eye; the sleeve turns in them. modulus_mpa: Young's modulus by
    the maker or by a squeeze test; None: by hardness, beyond 80 Shore a guess. Vehicle frame, mm."""

    kind: Literal["greased"] = "greased"
    sleeve_mm: Positive = Field(title="Sleeve outside")
    sleeve_bore_mm: Positive = Field(title="Sleeve bore")
    eye_bore_mm: Positive = Field(title="Eye bore")
    eye_wall_mm: Positive = Field(title="Eye wall")
    length_mm: Positive = Field(title="Length in the eye")
    flange_mm: Positive = Field(6.0, title="Each flange")
    flange_gap_mm: NotNegative = Field(0.5, title="Each flange to its cheek")
    hardness_shore_a: float = Field(80.0, ge=20, le=98, title="Hardness, Shore A", json_schema_extra=FIRST)
    modulus_mpa: Positive | None = Field(
        None, title="Young's modulus, as measured", json_schema_extra={"unsaid": "from its hardness"}
    )

    @model_validator(mode="after")
    def _fits(self) -> GreasedBush:
        if not self.sleeve_bore_mm < self.sleeve_mm < self.eye_bore_mm:
            raise ValueError(
                f"bore {self.sleeve_bore_mm:g}, sleeve {self.sleeve_mm:g} and eye {self.eye_bore_mm:g} mm"
                " must each be smaller than the next"
            )
        return self

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        soft = (
            ("modulus_mpa", "modulus of its bush")
            if self.modulus_mpa
            else ("hardness_shore_a", "hardness of its bush")
        )
        return (
            ("centre", "place of its bush"),
            ("eye_bore_mm", "bore of its eye"),
            ("sleeve_mm", "sleeve of its bush"),
            soft,
        )
