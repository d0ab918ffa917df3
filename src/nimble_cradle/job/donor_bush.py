"""The donor's own rubber, kept as it is."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Finite, Positive
from nimble_cradle.job.bush import Bush


class DonorBush(Bush):
    """A rubber of which its height with nothing on it and with the old engine's share on it are measured, or
    a table of movement and load. Its axis points the way in which it is squeezed. table: (mm, N), squeezed
    counts plus. sideways_share: stiffness across over that along."""

    kind: Literal["donor"] = "donor"
    outside_mm: Positive = Field(title="Outside")
    height_free_mm: Positive = Field(title="Height with nothing on it", json_schema_extra={"first": True})
    height_loaded_mm: Positive = Field(title="Height with the old load on it")
    loaded_kg: Positive = Field(title="The old load")
    table: Annotated[tuple[tuple[Finite, Finite], ...], Field(max_length=30)] = ()
    sideways_share: float = Field(0.5, ge=0.05, le=5, title="Across, over along")
    stud_mm: Positive = Field(10.2, title="Hole for its bolt")
    seat_wall_mm: Positive = Field(4.0, title="Cup that it sits in, wall")
    travel_mm: Positive = Field(12.0, title="Travel until metal meets")

    captured: bool = Field(
        False, title="If it tears, metal holds", json_schema_extra={"words": {"yes": "yes", "no": "no"}}
    )

    @model_validator(mode="after")
    def _measured(self) -> DonorBush:
        if self.table:
            pairs = sorted(self.table)
            if len(pairs) < 2 or any(
                b[0] - a[0] < 1e-6 or b[1] <= a[1] for a, b in zip(pairs, pairs[1:], strict=False)
            ):
                raise ValueError("its table needs two rows or more, and more load with more movement")
        elif self.height_loaded_mm >= self.height_free_mm:
            raise ValueError(
                f"it is {self.height_loaded_mm:g} mm high with its load and {self.height_free_mm:g} mm"
                " without: a load makes it lower"
            )
        return self

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        return (
            ("centre", "place of its rubber"),
            ("height_free_mm", "height of its rubber"),
            ("height_loaded_mm", "height of its rubber under load"),
            ("loaded_kg", "load that its rubber was measured with"),
        )
