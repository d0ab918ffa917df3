"""What an item of the chassis is made of where a mount stands on it: its section, wall and skins."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import NotNegative, Part, Positive
from nimble_cradle.job.sides import SideOrNot

Section = Literal["unsaid", "box", "open C", "hat on skin", "tube", "plate", "solid"]
FIRST: dict[str, Any] = {"first": True}
OF_AN_OPEN: dict[str, Any] = {"words": {"yes": "yes", "no": "no"}, "only_where": ["section", "open C"]}


class Host(Part):
    """The section of a chassis item. wall_mm: of the face that a mount stands on, by calipers at a hole;
    None: not said. second_skin_mm: a skin right behind that face, 0 where there is none. ribbed, boxed: an
    open section has a rib where the mount stands, or a plate over its open side there. opens: where an open
    section is open, or the skin of a hat lies; not said: the inside of a rail, the top of a hat. looked_at:
    whether an item that the frame cannot tell as a beam was looked at, and what it is fixed to."""

    section: Section = Field("unsaid", title="Section", json_schema_extra=FIRST)
    wall_mm: Positive | None = Field(
        None, title="Wall under the mount", json_schema_extra={"unsaid": "not said", **FIRST}
    )
    second_skin_mm: NotNegative = Field(0.0, title="Second skin right behind it")
    opens: SideOrNot = "unsaid"
    ribbed: bool = Field(False, title="A rib in it at the mount", json_schema_extra=OF_AN_OPEN)
    boxed: bool = Field(False, title="Boxed at the mount", json_schema_extra=OF_AN_OPEN)
    yield_mpa: Positive = Field(200.0, title="Yield strength of its steel")
    coating: Literal["unsaid", "bare", "painted", "galvanised"] = Field("unsaid", title="Coating")
    looked_at: Literal["unsaid", "looked at"] = Field(
        "unsaid",
        title="As a beam, where that is not judged",
        json_schema_extra={"words": {"unsaid": "not said", "looked at": "looked at by me"}},
    )

    @model_validator(mode="after")
    def _is_sheet(self) -> Host:
        if self.wall_mm is not None and self.wall_mm > 25:
            raise ValueError(f"a wall of {self.wall_mm:g} mm is no wall; say that the section is solid")
        return self
