"""A load case of the user's own, beside those that every job has."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from nimble_cradle.job.base import Id, Name, Part

G = Annotated[float, Field(ge=-20, le=20)]
Share = Annotated[float, Field(ge=-5, le=5)]
Often = Annotated[float, Field(ge=0, le=1e9)]


class OwnCase(Part):
    """weight_g: how many times its weight is felt, 1 at rest. thrown_ahead_g, thrown_left_g: what throws the
    engine that way (braking throws it ahead). first_share: of first gear's torque, below nought engine
    braking. times: how often it comes in the life of the car, from rest and back, for the life of welds."""

    id: Id
    name: Name
    kind: Literal["everyday", "rare"] = Field(
        "rare", title="It comes", json_schema_extra={"words": {"everyday": "every day", "rare": "rarely"}}
    )
    weight_g: G = Field(1.0, title="Weight felt, times")
    thrown_ahead_g: G = Field(0.0, title="Thrown ahead, g")
    thrown_left_g: G = Field(0.0, title="Thrown to the left, g")
    first_share: Share = Field(0.0, title="Of first gear's torque, times")
    times: Often = Field(0.0, title="How often in its life, from rest and back")
