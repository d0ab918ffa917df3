"""A rod with a rod end screwed into each end, that is made longer or shorter by its threads."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Id, Name, NotNegative, Part, Positive, Words
from nimble_cradle.job.stock_names import BoltSize

FIRST: dict[str, Any] = {"first": True}


class AdjustableRod(Part):
    """long_mm: from eye to eye as it is set. body_mm: the tube or bar with its tapped ends, without the rod
    ends. end_mm: from an eye's middle to the end of its shank; thread_mm: how much of that is thread;
    tapped_mm: how deep the body is tapped; the same at both ends. wall_mm: nought for a solid body.
    rating_kn: what the maker says a rod end holds standing still. load_kn: the most along it."""

    id: Id
    name: Name
    long_mm: Positive = Field(320.0, title="From eye to eye, as set", json_schema_extra=FIRST)
    body_mm: Positive = Field(240.0, title="Body without the rod ends", json_schema_extra=FIRST)
    thread: BoltSize = Field("5/8-18", title="Thread")
    hands: Literal["left and right", "both right"] = Field(
        "left and right",
        title="Its two threads",
        json_schema_extra={
            "words": {"left and right": "one left-hand, one right-hand", "both right": "both right-hand"}
        },
    )
    end_mm: Positive = Field(63.0, title="Rod end: eye's middle to the end of its shank")
    thread_mm: Positive = Field(40.0, title="Rod end: thread on its shank")
    tapped_mm: Positive = Field(45.0, title="Body is tapped, deep")
    outside_mm: Positive = Field(25.0, title="Body outside")
    wall_mm: NotNegative = Field(5.0, title="Body wall, nought where solid")
    of: Literal["steel", "aluminium"] = Field(
        "steel", title="Body is of", json_schema_extra={"words": {"steel": "steel", "aluminium": "aluminium"}}
    )
    yield_mpa: Positive = Field(235.0, title="Body's yield strength")
    load_kn: Positive = Field(5.0, title="Most along it, kN", json_schema_extra={"quantity": "number"})
    rating_kn: Positive | None = Field(
        None,
        title="A rod end holds, standing, kN",
        json_schema_extra={"quantity": "number", "unsaid": "not known"},
    )
    jam_nuts: Literal["unsaid", "both"] = Field(
        "unsaid",
        title="Jam nuts",
        json_schema_extra={"words": {"unsaid": "not said", "both": "at both ends"}},
    )
    note: Words = ""

    @model_validator(mode="after")
    def _body(self) -> AdjustableRod:
        if 2 * self.wall_mm >= self.outside_mm:
            raise ValueError(
                f"a {self.outside_mm:g} mm body cannot have a {self.wall_mm:g} mm wall: nothing is left"
                " inside"
            )
        if self.thread_mm > self.end_mm:
            raise ValueError(
                f"a shank of {self.end_mm:g} mm from its eye cannot have {self.thread_mm:g} mm of thread"
            )
        return self
