"""A piece cut out of a rail or a member, over part of its length, and how it is put back."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from nimble_cradle.job.base import Id, Name, NotNegative, Part, Positive, Words
from nimble_cradle.job.sides import Side
from nimble_cradle.job.stock_names import SteelName

FIRST: dict[str, Any] = {"first": True}
Mend = Literal["open", "cover", "sides", "cover and sides"]


HOLES: dict[str, Any] = {"only_where": ["form", "hole", "hole right through"]}
UNSAID: dict[str, Any] = {"unsaid": "not measured"}


class Across(Part):
    """What was measured at one time between marks on both rails beside a cut: straight across, and from
    corner to corner both ways, mm."""

    across_mm: Positive | None = Field(None, title="Across", json_schema_extra=UNSAID)
    corner_mm: Positive | None = Field(None, title="Front left to rear right", json_schema_extra=UNSAID)
    other_mm: Positive | None = Field(None, title="Front right to rear left", json_schema_extra=UNSAID)


class Opening(Part):
    """What is cut out of a chassis item: all that is within ``deep_mm`` of one side, for ``long_mm`` from
    ``at_mm`` on, counted from the member's front end, or its left one where it runs across. form: or only a
    hole in the wall on that side, ``hole_wide_mm`` across the member, its middle ``hole_at_mm`` from the
    left, front or upper edge of that wall (in its middle where not said); or such a hole and the one behind.
    mend: a plate
    over the open edges, plates on the walls beside the cut, or both, ``mend_mm`` thick and ``lap_mm`` longer
    at each end. braced: whether whoever cuts it has braced it before. want_percent: share of its bending and
    of its twist that must be left there (the user's). welds: whether the welds of its plates and the corners
    of the cut were looked at by whoever makes it; the program does not judge them. before, tacked, welded:
    what was measured across the rails before it was cut, after its plates were tacked, and after they were
    welded."""

    id: Id
    name: Name
    item: Id
    at_mm: NotNegative = Field(200.0, title="Begins from its front or left end", json_schema_extra=FIRST)
    long_mm: Positive = Field(150.0, title="Long", json_schema_extra=FIRST)
    side: Side = Field("top", title="Cut in from the", json_schema_extra=FIRST)
    form: Literal["edge to edge", "hole", "hole right through"] = Field(
        "edge to edge",
        title="What is cut",
        json_schema_extra={
            "words": {
                "edge to edge": "from edge to edge",
                "hole": "a hole in that wall",
                "hole right through": "a hole right through",
            },
            **FIRST,
        },
    )
    deep_mm: Positive = Field(
        30.0, title="Deep", json_schema_extra={"only_where": ["form", "edge to edge"], **FIRST}
    )
    hole_wide_mm: Positive = Field(
        30.0, title="Wide, across the member", json_schema_extra={**HOLES, **FIRST}
    )
    hole_at_mm: NotNegative | None = Field(
        None,
        title="Its middle from the left, front or upper edge",
        json_schema_extra={"unsaid": "in the middle of that side", **HOLES},
    )
    mend: Mend = Field(
        "open",
        title="Put back with",
        json_schema_extra={
            "words": {
                "open": "nothing yet",
                "cover": "a plate over the open edges",
                "sides": "plates on the walls beside it",
                "cover and sides": "plates over and beside it",
            },
            **FIRST,
        },
    )
    mend_mm: Positive = Field(3.0, title="Plates, thick")
    lap_mm: NotNegative = Field(60.0, title="Plates go on beyond the cut by")
    want_percent: Annotated[float, Field(gt=0, le=1000)] = Field(
        100.0, title="Must be left, per cent of bending and twist", json_schema_extra={"quantity": "number"}
    )
    braced: Literal["unsaid", "braced"] = Field(
        "unsaid",
        title="Braced before it is cut",
        json_schema_extra={"words": {"unsaid": "not said", "braced": "braced, and measured across"}},
    )
    welds: Literal["unsaid", "looked at"] = Field(
        "unsaid",
        title="Welds of its plates, corners of the cut",
        json_schema_extra={"words": {"unsaid": "not said", "looked at": "looked at by me"}},
    )
    steel: SteelName = Field("S235", title="Plates of")
    before: Across = Across()
    tacked: Across = Across()
    welded: Across = Across()
    note: Words = ""

    @property
    def is_hole(self) -> bool:
        """Whether the member stays all round it."""
        return self.form != "edge to edge"
