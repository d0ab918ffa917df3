"""What every bush is, whatever its family."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from nimble_cradle.job.base import Direction, NotNegative, Part, Vec3

FIRST: dict[str, Any] = {"first": True, "decimals": 0}
"""The field that is changed most stands before the others on the screen."""


class Bush(Part):
    """centre: vehicle frame, mm. axis: along its bolt. worn, play_mm: a used one has sagged, and may be
    loose. creep_percent: how much further it settles for every tenfold of time."""

    centre: Vec3
    axis: Direction
    loss_factor: float = Field(0.1, ge=0, le=1, title="Loss factor")
    dynamic_ratio: float = Field(1.3, ge=1, le=5, title="Stiffer when shaken, times")
    worn: Literal["new", "used"] = Field(
        "new", title="It is", json_schema_extra={"words": {"new": "new", "used": "used, from a car"}}
    )
    play_mm: NotNegative = Field(0.0, title="Play found in it")
    creep_percent: float = Field(3.0, ge=0, le=20, title="Settles further, % a tenfold of time")
