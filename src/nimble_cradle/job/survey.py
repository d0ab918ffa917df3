"""What was measured, reading by reading: levels, taped points, temporary datums. Vehicle frame, mm and
degrees.

A plus-or-minus is taken as two standard deviations everywhere (about 95 of 100 readings fall within it).
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from nimble_cradle.job.base import (
    Finite,
    Id,
    Name,
    NotNegative,
    Part,
    Positive,
    Vec2,
    Vec3,
    Words,
    told_apart,
)
from nimble_cradle.job.bay import METHOD_PLUS_MINUS, Method
from nimble_cradle.job.pattern import Adapter, Pattern

FileName = Annotated[str, StringConstraints(pattern=r"^([A-Za-z0-9][A-Za-z0-9_.-]{0,79})?$")]
When = Annotated[str, StringConstraints(max_length=40)]

ReadingKind = Literal[
    "forward", "left", "up", "distance", "rise", "plumb", "from-left-wall", "from-right-wall"
]
ALONE: frozenset[str] = frozenset({"forward", "left", "up", "from-left-wall", "from-right-wall"})
"""Kinds that need one point only; the others go from one point to another."""


class LevelReading(Part):
    """One reading of the level. An angle, or a rise over a length (``over_mm``) where the level shows that.

    Positive: the left side is high (across), the front is high (along). turned: the level was turned end
    for end.
    """

    id: Id
    where: Name
    way: Literal["across", "along"]
    angle_deg: Annotated[float, Field(ge=-30, le=30)] = 0.0
    rise_mm: Finite = 0.0
    over_mm: NotNegative = 0.0
    turned: bool = False
    plus_minus_deg: Annotated[float, Field(gt=0, le=5)] = 0.1
    used: bool = True
    when: When = ""
    note: Words = ""

    @model_validator(mode="after")
    def _not_steeper_than_it_can_be(self) -> LevelReading:
        if self.over_mm and abs(self.rise_mm) > self.over_mm:
            raise ValueError(f"a rise of {self.rise_mm:g} mm over {self.over_mm:g} mm is steeper than 45 deg")
        return self

    @property
    def reads_deg(self) -> float:
        """What it reads, degrees."""
        return math.degrees(math.atan2(self.rise_mm, self.over_mm)) if self.over_mm else self.angle_deg


class AxleStand(Part):
    """A stand or hoist foot under the car, by its place from the datum: forward, left (mm)."""

    id: Id
    name: Name
    at: Vec2


class Level(Part):
    """How the car stands. what: trim the stands until it is level, or leave it and correct every height."""

    readings: Annotated[tuple[LevelReading, ...], Field(max_length=600)] = ()
    stands: Annotated[tuple[AxleStand, ...], Field(max_length=60)] = ()
    what: Literal["trim", "correct"] = "trim"
    good_enough_deg: Annotated[float, Field(gt=0, le=5)] = 0.1


class SurveyPoint(Part):
    """A numbered point. given: known from elsewhere, with its plus-or-minus. roughly: about where it is,
    to tell mirror images apart."""

    id: Id
    name: Name
    given: Vec3 | None = None
    given_plus_minus_mm: NotNegative = 0.5
    roughly: Vec3 | None = None
    note: Words = ""
    photo: FileName = ""


class Reading(Part):
    """One measurement: offsets from the datum (forward, left, up, from a wall), or between two points
    (distance; rise: how far the point is above the other; plumb: the point is straight above or below the
    other). datum: a temporary one, else the main.
    """

    id: Id
    kind: ReadingKind
    point: Id
    other: Annotated[str, StringConstraints(pattern=r"^([a-z0-9][a-z0-9-]{0,39})?$")] = ""
    value_mm: Finite = 0.0
    method: Method = "tape"
    plus_minus_mm: NotNegative | None = None
    datum: Annotated[str, StringConstraints(pattern=r"^([a-z0-9][a-z0-9-]{0,39})?$")] = ""
    used: bool = True
    when: When = ""
    note: Words = ""
    photo: FileName = ""

    @model_validator(mode="after")
    def _makes_sense(self) -> Reading:
        if (self.kind in ALONE) == bool(self.other):
            raise ValueError(
                "this kind of reading is of one point only"
                if self.other
                else "this kind of reading goes from one point to another"
            )
        if self.other == self.point:
            raise ValueError("a reading needs two different points")
        if self.kind in ("distance", "from-left-wall", "from-right-wall") and self.value_mm <= 0:
            raise ValueError(f"a distance must be more than nought, not {self.value_mm:g} mm")
        if self.datum and self.kind not in ("forward", "left", "up"):
            raise ValueError("only offsets are taken from a temporary datum")
        return self

    @property
    def give_or_take(self) -> float:
        """Plus-or-minus, mm."""
        return METHOD_PLUS_MINUS[self.method] if self.plus_minus_mm is None else self.plus_minus_mm


class TemporaryDatum(Part):
    """A second datum that some offsets were taken from; tied in by three or more points that were measured
    from both."""

    id: Id
    name: Name
    note: Words = ""


class DatumFit(Part):
    """The datum fitted to measured points: rail tops (three or more) give the level plane, pairs of left
    and right points the centre line, front points the nought of forward and back."""

    tops: Annotated[tuple[Id, ...], Field(min_length=3, max_length=60)]
    pairs: Annotated[tuple[tuple[Id, Id], ...], Field(min_length=2, max_length=60)]
    front: Annotated[tuple[Id, ...], Field(min_length=1, max_length=60)]


class Survey(Part):
    """Everything measured on the car. width_mm: wall to wall (or rail to rail), which the centre line
    halves."""

    level: Level = Level()
    width_mm: Positive | None = None
    width_plus_minus_mm: NotNegative = 1.5
    points: Annotated[tuple[SurveyPoint, ...], Field(max_length=400)] = ()
    readings: Annotated[tuple[Reading, ...], Field(max_length=2000)] = ()
    datums: Annotated[tuple[TemporaryDatum, ...], Field(max_length=60)] = ()
    fit: DatumFit | None = None
    patterns: Annotated[tuple[Pattern, ...], Field(max_length=40)] = ()
    adapter: Adapter | None = None

    @model_validator(mode="after")
    def _hangs_together(self) -> Survey:
        for word, rows in (
            ("point", self.points),
            ("reading", self.readings),
            ("datum", self.datums),
            ("hole pattern", self.patterns),
            ("level reading", self.level.readings),
            ("stand", self.level.stands),
        ):
            told_apart(word, [r.id for r in rows])
        for reading in self.readings:
            _known_ends(self, reading)
        if self.adapter is not None:
            _known(
                self.patterns,
                (self.adapter.engine, self.adapter.gearbox),
                "the adapter joins the hole pattern",
            )
        if self.fit is not None:
            pairs = (key for pair in self.fit.pairs for key in pair)
            keys = (*self.fit.tops, *self.fit.front, *pairs)
            _known(self.points, keys, "the datum is fitted to the point")
        return self


def _known(rows: Sequence[Part], keys: Iterable[str], words: str) -> None:
    """Raises ValueError, which begins with ``words``, for a key that no row has."""
    ids = {getattr(row, "id", None) for row in rows}
    for key in keys:
        if key not in ids:
            raise ValueError(f"{words} “{key}”, which is not in the survey")


def _known_ends(survey: Survey, reading: Reading) -> None:
    """Raises ValueError for a reading of a point, from a datum or a wall that is not there."""
    named = f"the reading “{reading.id}”"
    _known(survey.points, [k for k in (reading.point, reading.other) if k], f"{named} names the point")
    _known(survey.datums, [k for k in (reading.datum,) if k], f"{named} is from the datum")
    if reading.kind.startswith("from-") and survey.width_mm is None:
        raise ValueError(f"{named} is taken from a wall, but the width from wall to wall is not there")
