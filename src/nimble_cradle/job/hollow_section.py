"""A stock section, by its designation or typed in."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Part, Positive


class HollowSection(Part):
    """A stock section by its designation (``stock``), or typed in: shape and sizes in mm."""

    stock: Annotated[str, Field(max_length=40)] = ""
    shape: Literal["square", "rectangle", "round"] = "square"
    height_mm: Positive = 50.0
    width_mm: Positive = 50.0
    wall_mm: Positive = 3.0

    @property
    def wide_mm(self) -> float:
        """Its width: only that of a rectangle is its own."""
        return self.width_mm if self.shape == "rectangle" else self.height_mm

    @property
    def over_mm(self) -> float:
        """Its width over everything."""
        return self.wide_mm

    @property
    def thin_mm(self) -> float:
        """Its thinnest metal."""
        return self.wall_mm

    @model_validator(mode="after")
    def _wall(self) -> HollowSection:
        if 2 * self.wall_mm >= min(self.height_mm, self.width_mm):
            raise ValueError(
                f"a wall of {self.wall_mm:g} mm leaves nothing inside a section {self.height_mm:g} x"
                f" {self.width_mm:g} mm"
            )
        return self
