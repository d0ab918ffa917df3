"""A torque strut: a rod with a rubber eye at each end that keeps the engine from rocking."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Id, Name, NotNegative, Part, Positive, Vec3
from nimble_cradle.job.stock_names import BoltClass, BoltSize, SteelName


class Strut(Part):
    """engine_at: centre of its eye on the engine, powertrain frame; chassis_at: of the other, vehicle frame;
    mm. stiffness_along: of both rubbers together. gap_mm: how far it moves each way before it acts. ends:
    whether what it is bolted to was looked at by whoever makes it; the program does not judge that."""

    id: Id
    name: Name
    engine_at: Vec3
    chassis_at: Vec3
    stiffness_along: Positive = Field(400.0, title="Stiffness of both rubbers along it")
    gap_mm: NotNegative = Field(2.0, title="It moves each way before it acts")
    rod_outside_mm: Positive = Field(22.0, title="Rod outside")
    rod_wall_mm: Positive = Field(3.0, title="Rod wall")
    steel: SteelName = Field("E235", title="Rod's steel")
    bolt: BoltSize = Field("M10", title="Bolts through its eyes")
    bolt_class: BoltClass = Field("8.8", title="Their class of bolt")
    ends: Literal["unsaid", "looked at"] = Field(
        "unsaid",
        title="What it is bolted to",
        json_schema_extra={"words": {"unsaid": "not said", "looked at": "looked at by me"}},
    )

    @model_validator(mode="after")
    def _rod(self) -> Strut:
        if 2 * self.rod_wall_mm >= self.rod_outside_mm:
            raise ValueError(
                f"a {self.rod_outside_mm:g} mm rod cannot have a {self.rod_wall_mm:g} mm wall: nothing is"
                " left inside"
            )
        return self
