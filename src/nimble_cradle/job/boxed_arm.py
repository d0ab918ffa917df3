"""A boxed arm from a mount's plate to its bush eye: of four plates, or of a hollow section."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from nimble_cradle.job.bar_arm import BarArm
from nimble_cradle.job.base import Positive


class BoxedArm(BarArm):
    """Two sides, each cut round the eye, and two strips between them; or a hollow section, which tapers by a
    wedge cut out of both its sides."""

    kind: Literal["boxed"] = "boxed"
    wide_mm: Positive = Field(40.0, title="Width along the eye")
    wall_mm: Positive = Field(3.0, title="Wall")
    made: Literal["plates", "section"] = Field(
        "plates",
        title="Made of",
        json_schema_extra={"words": {"plates": "four plates", "section": "a hollow section"}},
    )

    @model_validator(mode="after")
    def _wall(self) -> BoxedArm:
        if 2 * self.wall_mm >= min(self.wide_mm, self.tall_mm, self.tall_at_eye_mm):
            raise ValueError(
                f"a wall of {self.wall_mm:g} mm leaves nothing inside a box {self.wide_mm:g} mm wide and"
                f" {min(self.tall_mm, self.tall_at_eye_mm):g} mm high"
            )
        return self

    def facts(self) -> tuple[tuple[str, str], ...]:
        """Its figures that findings rest on, by field, and their names in a sentence."""
        return (("tall_mm", "height of its box"), ("wall_mm", "wall of its box"))
