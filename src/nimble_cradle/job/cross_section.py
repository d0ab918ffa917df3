"""What a crossmember is made of: a hollow section, a flat bar, or a channel folded from sheet."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from nimble_cradle.job.base import NotNegative, Part, Positive
from nimble_cradle.job.hollow_section import HollowSection


class BarSection(Part):
    """A flat bar, lying or on edge: height and width in mm."""

    shape: Literal["bar"] = "bar"
    height_mm: Positive = Field(12.0, title="Height")
    width_mm: Positive = Field(60.0, title="Width")

    @property
    def wide_mm(self) -> float:
        """Its width."""
        return self.width_mm

    @property
    def over_mm(self) -> float:
        """Its width over everything."""
        return self.width_mm

    @property
    def thin_mm(self) -> float:
        """Its thinnest metal."""
        return min(self.height_mm, self.width_mm)


class FoldedSection(Part):
    """A channel folded from sheet, its web above, open below. height_mm, width_mm: outside, over the web and
    both legs; lip_mm: outside size of a lip outwards from each leg's lower edge, 0 none; radius_mm: inside
    the bends; ribbed: whether a rib stands in it under the mount."""

    shape: Literal["folded"] = "folded"
    height_mm: Positive = Field(45.0, title="Height")
    width_mm: Positive = Field(60.0, title="Width over its web")
    wall_mm: Positive = Field(4.0, title="Sheet")
    radius_mm: Positive = Field(4.0, title="Inside radius of its bends")
    lip_mm: NotNegative = Field(0.0, title="Lips outwards, outside; nought: none")
    ribbed: bool = Field(
        False,
        title="A rib in it under the mount",
        json_schema_extra={"words": {"yes": "welded in", "no": "none"}},
    )

    @property
    def wide_mm(self) -> float:
        """Its width over the web."""
        return self.width_mm

    @property
    def over_mm(self) -> float:
        """Its width over everything, lips too."""
        return self.width_mm + 2 * max(self.lip_mm - self.wall_mm, 0.0)

    @property
    def thin_mm(self) -> float:
        """Its thinnest metal."""
        return self.wall_mm

    @model_validator(mode="after")
    def _folds(self) -> FoldedSection:
        taken = self.wall_mm + self.radius_mm
        if self.width_mm < 2 * taken + 1.0:
            raise ValueError(f"a web {self.width_mm:g} mm wide leaves nothing between its two bends")
        if self.height_mm < (2 if self.lip_mm else 1) * taken + 1.0:
            raise ValueError(f"legs {self.height_mm:g} mm high leave nothing beside their bends")
        if 0 < self.lip_mm < taken + 1.0:
            raise ValueError(f"lips of {self.lip_mm:g} mm leave nothing beside their bends")
        return self


SHAPES = ("square", "rectangle", "round", "bar", "folded")


def _shape(value: Any) -> str | None:
    shape = value.get("shape", "square") if isinstance(value, dict) else getattr(value, "shape", "")
    if shape not in SHAPES:
        return None
    return str(shape) if shape in ("bar", "folded") else "hollow"


CrossSection = Annotated[
    Annotated[HollowSection, Tag("hollow")]
    | Annotated[BarSection, Tag("bar")]
    | Annotated[FoldedSection, Tag("folded")],
    Discriminator(
        _shape,
        custom_error_type="section",
        custom_error_message="A section is square, rectangle, round, bar or folded",
    ),
]
"""Which one it is, is told by ``shape``; without that word it is a hollow section, which files from before
there were others hold."""


def told_of(section: CrossSection) -> str:
    """Its name as stock is named, or its sizes: ``square 40x40x3``."""
    if isinstance(section, HollowSection):
        sizes = f"{section.height_mm:g}x{section.width_mm:g}x{section.wall_mm:g}"
        return section.stock or f"{section.shape} {sizes}"
    if isinstance(section, BarSection):
        lies = "on edge" if section.height_mm > section.width_mm else "lying"
        wide, thick = max(section.width_mm, section.height_mm), min(section.width_mm, section.height_mm)
        return f"flat bar {wide:g}x{thick:g} {lies}"
    lips = f", lips {section.lip_mm:g}" if section.lip_mm else ""
    rib = ", a rib under the mount" if section.ribbed else ""
    return f"folded {section.height_mm:g}x{section.width_mm:g}x{section.wall_mm:g}{lips}{rib}"


def reshaped(section: CrossSection, shape: str) -> CrossSection:
    """A section of another shape, with the height, width and wall of the present one where it can have
    them. Raises ValueError."""
    if shape not in SHAPES:
        raise ValueError(f"there is no section “{shape}”")
    if shape == section.shape:
        return section
    height, width = section.height_mm, section.wide_mm
    if shape == "bar":
        return BarSection(height_mm=min(height, 12.0), width_mm=width)
    wall = 3.0 if isinstance(section, BarSection) else section.wall_mm
    if shape == "folded":
        radius = max(wall, 1.0)
        taken = wall + radius
        return FoldedSection(
            height_mm=max(height, taken + 10.0),
            width_mm=max(width, 2 * taken + 10.0),
            wall_mm=wall,
            radius_mm=radius,
        )
    height, width = max(height, 5 * wall), max(width, 5 * wall)
    return HollowSection.model_validate(
        {"shape": shape, "height_mm": height, "width_mm": width, "wall_mm": wall}
    )
