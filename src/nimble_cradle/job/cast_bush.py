"""Polyurethane halves that are cast for the job in moulds of one's own."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Positive
from nimble_cradle.job.greased_bush import GreasedBush

Percent = Annotated[float, Field(ge=0, le=100)]


class CastBush(GreasedBush):
    """Two halves of two-part polyurethane, each a body with a flange, pressed in from both ends; body_mm,
    hole_mm, half_long_mm as they leave the mould. squeeze_n, squeeze_mm: a test piece of the same pour, a
    plain cylinder between greased plates, and how far that load squeezed it; None: no test."""

    kind: Literal["cast"] = "cast"  # type: ignore[assignment]
    body_mm: Positive = Field(57.0, title="Body outside, as cast")
    hole_mm: Positive = Field(16.0, title="Hole, as cast")
    half_long_mm: Positive = Field(23.0, title="Body of each half, as cast")
    flange_outside_mm: Positive = Field(70.0, title="Flange outside")
    shrink_percent: Percent = Field(0.8, title="It shrinks, %")
    waste_percent: Percent = Field(15.0, title="Left in the cup, % of the pour")
    parts_a: Positive = Field(1.0, title="Parts of A")
    parts_b: Positive = Field(1.0, title="Parts of B")
    mixed_by: Literal["weight", "volume"] = Field(
        "weight", title="Mixed by", json_schema_extra={"words": {"weight": "weight", "volume": "volume"}}
    )
    cure_hours: Positive = Field(24.0, title="Hours to cure")
    test_outside_mm: Positive = Field(30.0, title="Test piece, outside")
    test_high_mm: Positive = Field(30.0, title="Test piece, height")
    squeeze_n: Positive | None = Field(
        None, title="Test load", json_schema_extra={"unsaid": "not tested", "quantity": "force"}
    )
    squeeze_mm: Positive | None = Field(
        None, title="It was squeezed by", json_schema_extra={"unsaid": "not tested"}
    )

    @model_validator(mode="after")
    def _made(self) -> CastBush:
        if self.hole_mm >= self.body_mm:
            raise ValueError(f"a hole of {self.hole_mm:g} mm leaves nothing of a body of {self.body_mm:g} mm")
        if self.flange_outside_mm <= self.body_mm:
            raise ValueError(
                f"a flange of {self.flange_outside_mm:g} mm is no wider than its body of {self.body_mm:g} mm"
            )
        if self.squeeze_mm is not None and self.squeeze_mm >= 0.6 * self.test_high_mm:
            raise ValueError(
                f"a test piece {self.test_high_mm:g} mm high cannot be squeezed by {self.squeeze_mm:g} mm"
            )
        return self

    @property
    def tested(self) -> bool:
        """Whether its modulus follows from a squeeze test."""
        return self.squeeze_n is not None and self.squeeze_mm is not None

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        soft = ("squeeze_mm", "squeeze test of its bush") if self.tested else super().facts()[-1]
        return (*super().facts()[:-1], soft)
