"""A cradle or subframe of several tubes on given places of the chassis, which carries mounts."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nimble_cradle.job.base import Id, Name, Part, Positive, Vec3, told_apart
from nimble_cradle.job.hollow_section import HollowSection
from nimble_cradle.job.stock_names import BoltClass, BoltSize, SteelName

Held = Literal["free", "one bolt", "bolts", "rubber"]


class CradlePoint(Part):
    """Where tubes meet or end. at: vehicle frame, mm. held: how the chassis holds it: by nothing, by one bolt
    (it turns), by a plate with ``bolts`` bolts ``pitch_mm`` apart (it does not turn), or on a rubber."""

    id: Id
    at: Vec3
    held: Held = Field(
        "free",
        title="Held",
        json_schema_extra={
            "words": {
                "free": "by its tubes alone",
                "one bolt": "by one bolt",
                "bolts": "by a plate with bolts",
                "rubber": "on a rubber",
            }
        },
    )
    bolt: BoltSize = Field("M12", title="Bolts there")
    bolt_class: BoltClass = Field("8.8", title="Their class")
    bolts: Literal[2, 4] = Field(2, title="How many in the plate")
    pitch_mm: Positive = Field(80.0, title="Apart in the plate")
    stiffness_up: Positive = Field(3000.0, title="Rubber, up and down")
    stiffness_flat: Positive = Field(1500.0, title="Rubber, level")


class CradleTube(Part):
    """A tube between two points. section: its own; None is the cradle's."""

    id: Id
    start: Id
    end: Id
    section: HollowSection | None = None


class Cradle(Part):
    """Tubes that are welded together. most_move_mm: a mount on it moves at most so far every day by its give.
    looked_at: whether what it is bolted to, its rubbers, and the walls where tubes meet in no plain joint,
    were looked at by whoever makes it; the program does not judge that."""

    id: Id
    name: Name
    points: Annotated[tuple[CradlePoint, ...], Field(min_length=2, max_length=24)]
    tubes: Annotated[tuple[CradleTube, ...], Field(min_length=1, max_length=40)]
    section: HollowSection = HollowSection()
    steel: SteelName = Field("S235", title="Its steel")
    weld_throat_mm: Positive = Field(3.0, title="Throat of its welds")
    most_move_mm: Positive = Field(1.5, title="A mount on it moves at most")
    looked_at: Literal["unsaid", "looked at"] = Field(
        "unsaid",
        title="What it is bolted to, its rubbers, joints not judged",
        json_schema_extra={"words": {"unsaid": "not said", "looked at": "looked at by me"}},
    )

    @model_validator(mode="after")
    def _hangs_together(self) -> Cradle:
        told_apart("point", [point.id for point in self.points])
        told_apart("tube", [tube.id for tube in self.tubes])
        at = {point.id: point.at for point in self.points}
        for tube in self.tubes:
            for end in (tube.start, tube.end):
                if end not in at:
                    raise ValueError(f"the tube “{tube.id}” ends at “{end}”, which is no point of the cradle")
            if sum((a - b) ** 2 for a, b in zip(at[tube.start], at[tube.end], strict=True)) < 100.0:
                raise ValueError(f"the tube “{tube.id}” is shorter than 10 mm")
        return self

    def section_of(self, tube: CradleTube) -> HollowSection:
        """The section of one of its tubes."""
        return tube.section or self.section
