"""A crack, or a place that has rusted thin, and how far its mending has come."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from nimble_cradle.job.base import Day, Direction, Id, Name, NotNegative, Part, Positive, Vec3, Words
from nimble_cradle.job.survey import FileName

FIRST: dict[str, Any] = {"first": True}
Done = Literal["found", "stopped", "vee", "welded", "dressed", "plated", "seen once", "sound"]
DONE_WORDS: dict[str, Any] = {
    "found": "found, nothing done",
    "stopped": "stop holes drilled",
    "vee": "ground to a vee",
    "welded": "welded",
    "dressed": "dressed flush",
    "plated": "plated",
    "seen once": "looked at again once",
    "sound": "looked at again twice, sound",
}


class Crack(Part):
    """at: its middle, vehicle frame, mm; run: the way it goes. hole_mm: from the edge of the nearest hole.
    left_mm: wall that is left where it has rusted. welded_km: what the car had run when it was welded;
    welded_on: the day. photo: a picture of it that the job keeps."""

    id: Id
    name: Name
    item: Id
    kind: Literal["crack", "rust"] = Field(
        "crack", title="It is", json_schema_extra={"words": {"crack": "a crack", "rust": "rust"}, **FIRST}
    )
    at: Vec3 = (0.0, 0.0, 0.0)
    run: Direction = (1.0, 0.0, 0.0)
    long_mm: Positive = Field(20.0, title="Long", json_schema_extra=FIRST)
    done: Done = Field("found", title="So far", json_schema_extra={"words": DONE_WORDS, **FIRST})
    edge: Literal["unsaid", "no", "yes"] = Field(
        "unsaid",
        title="It runs to the edge of a flange",
        json_schema_extra={"words": {"unsaid": "not said", "no": "no", "yes": "yes"}},
    )
    hole_mm: NotNegative | None = Field(
        None, title="From the edge of the nearest hole", json_schema_extra={"unsaid": "not measured"}
    )
    left_mm: NotNegative | None = Field(
        None, title="Wall that is left, where it has rusted", json_schema_extra={"unsaid": "not measured"}
    )
    welded_km: Annotated[float, Field(ge=0, le=9_999_999)] | None = Field(
        None,
        title="The car had run when it was welded, km",
        json_schema_extra={"quantity": "number", "decimals": 0, "unsaid": "not said"},
    )
    welded_on: Day = ""
    photo: FileName = ""
    cause: Words = ""
    note: Words = ""
