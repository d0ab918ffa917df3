"""A tube from a mount's plate to its bush eye."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Direction, Finite, NotNegative, Part, Positive
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
    """A straight tube from the plate to the bush eye. scallop_deep_mm: a flat cut out of it on the side of
    ``scallop_way``, vehicle frame, in the middle at scallop_at of its length; a strip covers it. gussets: at
    its foot, the first one below, then round it; their legs on the tube and on the plate."""

    kind: Literal["tube"] = "tube"
    scallop_deep_mm: NotNegative = Field(0.0, title="Scallop, deep")
    scallop_long_mm: Positive = Field(60.0, title="Scallop, long")
    scallop_at: float = Field(0.5, ge=0.05, le=0.95, title="Scallop, share of the way to the eye")
    cover_mm: Positive = Field(3.0, title="Its cover strip")
    scallop_way: Direction = (0.0, 0.0, -1.0)
    gussets: Literal[0, 1, 2, 4] = Field(0, title="Gussets at its foot")
    gusset_mm: Positive = Field(4.0, title="Gussets, thick")
    gusset_along_mm: Positive = Field(30.0, title="Gussets, leg on the tube")
    gusset_out_mm: Positive = Field(25.0, title="Gussets, leg on the plate")
