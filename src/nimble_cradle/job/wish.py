"""What is wished of the powertrain's seat, what may be given up for it, and at what price of trouble."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from nimble_cradle.job.base import Finite, Id, Name, NotNegative, Part, Positive, Vec2, Vec3, Words
from nimble_cradle.job.sides import Side

Weight = Annotated[float, Field(ge=0, le=10)]


class Window(Part):
    """A range that a value of the position must stay in, ends included."""

    low: Finite
    high: Finite

    @model_validator(mode="after")
    def _not_empty(self) -> Window:
        if self.low > self.high:
            raise ValueError(
                f"the window is empty: from {self.low:g} to {self.high:g}; its first end must be the"
                " lower one"
            )
        return self


class ShifterHole(Part):
    """The hole that the shifter comes up through: an outline in plan (forward, left) at a height from the
    datum."""

    height_mm: Finite
    outline: Annotated[tuple[Vec2, ...], Field(min_length=3, max_length=60)]


class Sale(Part):
    """Something that may be given up for a better seat, and what trouble that is, in the user's own units.

    trim, cut: ``depth_mm`` off one ``side`` of an item; remove: an item goes; move: an item goes ``by``
    mm; delete: a piece of the powertrain goes; swap: the piece called ``instead`` takes a piece's place
    (another sump, another manifold).
    """

    id: Id
    name: Name
    what: Literal["trim", "cut", "remove", "move", "delete", "swap"]
    of: Id
    side: Side = "top"
    depth_mm: Positive = 20.0
    by: Vec3 = (0.0, 0.0, 0.0)
    instead: Annotated[str, StringConstraints(pattern=r"^([a-z0-9][a-z0-9-]{0,39})?$")] = ""
    trouble: NotNegative = 1.0
    note: Words = ""

    @model_validator(mode="after")
    def _says_enough(self) -> Sale:
        if self.what == "move" and not any(self.by):
            raise ValueError("say how far and which way it would be moved")
        if self.what == "swap" and not self.instead:
            raise ValueError("say which piece would take its place")
        return self


class Wish(Part):
    """How the seat is judged, the windows that it must keep (those of the position as it is told), and what
    is for sale.

    Weights: one mm lower (or higher, as ``upwise`` says) or further back (or forward, as ``lengthwise``
    says) of the centre of gravity counts ``low`` and ``back``; so does one mm off the wanted side, and one
    degree off the wanted angles counts as 7 mm of it.
    """

    low: Weight = 1.0
    back: Weight = 0.6
    upwise: Literal["low", "high"] = "low"
    lengthwise: Literal["back", "forward"] = "back"
    central: Weight = 0.1
    level: Weight = 0.1
    fore_aft: Window
    side: Window
    height: Window
    nose_up: Window
    clocked: Window
    yaw: Window
    wanted_side: Finite = 0.0
    wanted_nose_up: Finite = 0.0
    wanted_clocked: Finite = 0.0
    wanted_yaw: Finite = 0.0
    joints: bool = True
    share: bool = False
    made: Literal["stays", "comes along"] = Field(
        "stays",
        title="Mounts and crossmember",
        json_schema_extra={
            "words": {
                "stays": "stay where they are",
                "comes along": "come along: bushes slide on what they stand on",
            }
        },
    )
    over_line: bool = True
    over_line_mm: Finite = 0.0
    shifter_hole: ShifterHole | None = None
    sales: Annotated[tuple[Sale, ...], Field(max_length=60)] = ()

    @model_validator(mode="after")
    def _hangs_together(self) -> Wish:
        if max(self.low, self.back, self.central, self.level) <= 0:
            raise ValueError("nothing is wished: give at least one wish a weight")
        ids = [sale.id for sale in self.sales]
        if len(set(ids)) < len(ids):
            raise ValueError(
                f"two things for sale have the id “{next(i for i in ids if ids.count(i) > 1)}”; ids must"
                " differ"
            )
        return self
