"""A tube from a mount's plate to its bush eye."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Finite, Part, Positive
from nimble_cradle.job.stock_names import SteelName


class Tube(Part):
    """A tube, welded all round at the plate. offset_mm: its axis past the eye's axis.

    most_slope_deg: so far off square at the plate a fillet round it still counts; least_eye_deg: nearer to
    the eye's axis it peels the eye (EN 1993-1-8:2005, 4.3.2.1 and 7.1.2, from memory)."""

    most_slope_deg: ClassVar[float] = 60.0
    least_eye_deg: ClassVar[float] = 30.0

    outside_mm: Positive = Field(title="Outside")
    wall_mm: Positive = Field(title="Wall")
    steel: SteelName = Field("E235", title="Arm steel")
    weld_throat_mm: Positive = Field(3.0, title="Weld throat")
    offset_mm: Finite = Field(0.0, title="Axis past the eye's axis")

    @model_validator(mode="after")
    def _wall(self) -> Tube:
        if 2 * self.wall_mm >= self.outside_mm:
            raise ValueError(
                f"a {self.outside_mm:g} mm tube cannot have a {self.wall_mm:g} mm wall: nothing is left"
                " inside"
            )
        return self

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        return (("outside_mm", "tube of its arm"), ("steel", "steel of its arm"))


class TubeArm(Tube):
    """A straight tube from the plate to the bush eye."""

    kind: Literal["tube"] = "tube"
