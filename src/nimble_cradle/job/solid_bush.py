"""No rubber: metal on metal."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Positive
from nimble_cradle.job.bush import Bush

FIRST: dict[str, Any] = {"first": True}


class SolidBush(Bush):
    """A plain metal bush in an eye. Vehicle frame, mm."""

    kind: Literal["solid"] = "solid"
    sleeve_bore_mm: Positive = Field(title="Bore")
    eye_bore_mm: Positive = Field(title="Eye bore", json_schema_extra=FIRST)
    eye_wall_mm: Positive = Field(title="Eye wall")
    length_mm: Positive = Field(title="Length")

    @model_validator(mode="after")
    def _fits(self) -> SolidBush:
        if self.sleeve_bore_mm >= self.eye_bore_mm:
            raise ValueError(
                f"the bore ({self.sleeve_bore_mm:g} mm) must be smaller than the eye's"
                f" ({self.eye_bore_mm:g} mm)"
            )
        return self

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        return (("centre", "place of its bush"), ("eye_bore_mm", "bore of its eye"))
