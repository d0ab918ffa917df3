"""A bonded bush: rubber between an inner sleeve and an outer eye."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Positive
from nimble_cradle.job.bush import FIRST, Bush


class BondedBush(Bush):
    """A bonded bush: rubber between an inner sleeve and an outer eye. Vehicle frame, mm.

    stiffness_*: measured or maker's figures in N/mm override the formulas where given.
    """

    kind: Literal["bonded"] = "bonded"
    sleeve_mm: Positive = Field(title="Sleeve outside")
    sleeve_bore_mm: Positive = Field(title="Sleeve bore")
    eye_bore_mm: Positive = Field(title="Eye bore")
    eye_wall_mm: Positive = Field(title="Eye wall")
    length_mm: Positive = Field(title="Rubber length")
    hardness_shore_a: float = Field(ge=20, le=98, title="Hardness, Shore A", json_schema_extra=FIRST)
    ends: Literal["finite", "short", "long"] = Field(
        "finite",
        title="Radial stiffness for",
        json_schema_extra={
            "words": {
                "finite": "its real length",
                "short": "free ends, softest",
                "long": "closed ends, hardest",
            }
        },
    )
    stiffness_radial: Positive | None = Field(
        None, title="Stiffness across its bolt, as measured", json_schema_extra={"unsaid": "from its sizes"}
    )
    stiffness_axial: Positive | None = Field(
        None, title="Stiffness along its bolt, as measured", json_schema_extra={"unsaid": "from its sizes"}
    )

    @model_validator(mode="after")
    def _fits(self) -> BondedBush:
        if self.sleeve_mm >= self.eye_bore_mm:
            raise ValueError(
                f"the sleeve ({self.sleeve_mm:g} mm) does not go into the eye ({self.eye_bore_mm:g} mm bore);"
                " make the sleeve smaller or the eye larger"
            )
        if self.sleeve_bore_mm >= self.sleeve_mm:
            raise ValueError(
                f"the sleeve's bore ({self.sleeve_bore_mm:g} mm) must be smaller than its outside "
                f"({self.sleeve_mm:g} mm)"
            )
        return self

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        softness = (
            ("stiffness_radial", "stiffness of its bush")
            if self.stiffness_radial
            else ("hardness_shore_a", "hardness of its rubber")
        )
        return (
            ("centre", "place of its bush"),
            ("eye_bore_mm", "bore of its eye"),
            ("sleeve_mm", "sleeve of its bush"),
            softness,
        )
