"""One or two rubber pucks squeezed along a bolt."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import NotNegative, Positive
from nimble_cradle.job.bush import FIRST, Bush


class PuckBush(Bush):
    """A ring with a web on a puck; its axis points from the web to the puck that carries. rebound_mm: the
    second puck, on the web's other side; 0: none. sleeve_long_mm: length of the sleeve that the bolt seats
    on, which sets how far both are squeezed. centre: the middle of the web."""

    kind: Literal["puck"] = "puck"
    outside_mm: Positive = Field(title="Puck outside")
    hole_mm: Positive = Field(title="Puck hole")
    thickness_mm: Positive = Field(title="Puck that carries, thick")
    rebound_mm: NotNegative = Field(0.0, title="Puck on the other side, thick, 0 for none")
    web_mm: Positive = Field(6.0, title="Web between them")
    ring_wall_mm: Positive = Field(4.0, title="Ring wall")
    sleeve_mm: Positive = Field(title="Sleeve outside")
    sleeve_bore_mm: Positive = Field(title="Sleeve bore")
    sleeve_long_mm: Positive = Field(title="Sleeve, long")
    hardness_irhd: float = Field(55.0, ge=40, le=75, title="Hardness, IRHD", json_schema_extra=FIRST)
    side_gap_mm: Positive = Field(4.0, title="Web to the sleeve, each side")

    @model_validator(mode="after")
    def _fits(self) -> PuckBush:
        if not self.sleeve_bore_mm < self.sleeve_mm <= self.hole_mm < self.outside_mm:
            raise ValueError(
                f"bore {self.sleeve_bore_mm:g}, sleeve {self.sleeve_mm:g}, hole {self.hole_mm:g} and puck"
                f" {self.outside_mm:g} mm must each fit into the next"
            )
        squeeze = self.stack_mm - self.sleeve_long_mm
        least = min(t for t in (self.thickness_mm, self.rebound_mm or self.thickness_mm))
        if self.rebound_mm and not 0 <= squeeze <= least:
            raise ValueError(
                f"a sleeve of {self.sleeve_long_mm:g} mm squeezes a stack of {self.stack_mm:g} mm by"
                f" {squeeze:g} mm: choose one a little shorter than the stack"
            )
        return self

    @property
    def stack_mm(self) -> float:
        """Height of pucks and web, loose."""
        return self.thickness_mm + self.web_mm + self.rebound_mm

    @property
    def squeezed_mm(self) -> float:
        """How far each puck is squeezed when the bolt is tight."""
        return (self.stack_mm - self.sleeve_long_mm) / 2 if self.rebound_mm else 0.0

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        return (
            ("centre", "place of its pucks"),
            ("outside_mm", "outside of its puck"),
            ("thickness_mm", "thickness of its puck"),
            ("hardness_irhd", "hardness of its puck"),
        )
