"""Hole patterns as they were measured: holes, and the caliper and offset readings between them. mm, seen
facing the machined face."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from nimble_cradle.job.base import Finite, Id, Name, NotNegative, Part, Positive, Vec2, Words
from nimble_cradle.job.bay import METHOD_PLUS_MINUS, Method
from nimble_cradle.job.stock_names import BoltSize

OtherId = Annotated[str, StringConstraints(pattern=r"^([a-z0-9][a-z0-9-]{0,39})?$")]
HoleReadingKind = Literal["centres", "outer-edges", "inner-edges", "radius", "angle", "across", "up"]
BETWEEN: frozenset[str] = frozenset({"centres", "outer-edges", "inner-edges"})


class Hole(Part):
    """One hole. diameter: as measured. roughly: about where (across to the right, up), to tell mirror
    images apart."""

    id: Id
    diameter_mm: Positive = 10.0
    bolt: BoltSize = "M10"
    fit: Literal["fine", "medium", "coarse"] = "medium"
    dowel: bool = False
    slot_mm: NotNegative = 0.0
    roughly: Vec2 | None = None


class HoleReading(Part):
    """One reading. centres: between centres; outer-edges, inner-edges: over or between the edges of two
    holes (sizes are allowed for); radius, angle (degrees anticlockwise from the right), across, up: from
    the pin on the crank centre."""

    id: Id
    kind: HoleReadingKind
    hole: Id
    other: OtherId = ""
    value: Finite
    method: Method = "calipers"
    plus_minus: NotNegative | None = None
    used: bool = True
    when: Annotated[str, StringConstraints(max_length=40)] = ""
    note: Words = ""

    @model_validator(mode="after")
    def _makes_sense(self) -> HoleReading:
        if (self.kind in BETWEEN) != bool(self.other):
            raise ValueError(
                "this kind of reading goes from one hole to another"
                if self.kind in BETWEEN
                else "this kind of reading is of one hole only"
            )
        if self.other == self.hole:
            raise ValueError("a reading needs two different holes")
        if self.kind in (*BETWEEN, "radius") and self.value <= 0:
            raise ValueError(f"a distance must be more than nought, not {self.value:g} mm")
        return self

    @property
    def give_or_take(self) -> float:
        """Plus-or-minus: mm, degrees for an angle (0.2 unless said)."""
        if self.plus_minus is not None:
            return self.plus_minus
        return 0.2 if self.kind == "angle" else METHOD_PLUS_MINUS[self.method]


class Pattern(Part):
    """A hole pattern. turn: how holes 1, 2, 3 go round, seen facing the face; it settles which of two
    mirror images it is."""

    id: Id
    name: Name
    holes: Annotated[tuple[Hole, ...], Field(max_length=60)] = ()
    readings: Annotated[tuple[HoleReading, ...], Field(max_length=600)] = ()
    turn: Literal["unknown", "clockwise", "anticlockwise"] = "unknown"
    edge_mm: Positive = 15.0
    plate_mm: Positive = 6.0
    note: Words = ""

    @model_validator(mode="after")
    def _hangs_together(self) -> Pattern:
        holes = [hole.id for hole in self.holes]
        for ids, word in ((holes, "hole"), ([r.id for r in self.readings], "reading")):
            if len(set(ids)) < len(ids):
                raise ValueError(
                    f"{self.name}: two {word}s have the id “{next(i for i in ids if ids.count(i) > 1)}”; ids"
                    " must differ"
                )
        for reading in self.readings:
            for key in (reading.hole, reading.other):
                if key and key not in holes:
                    raise ValueError(
                        f"{self.name}: a reading names the hole “{key}”, which is not in the pattern"
                    )
        return self


class Adapter(Part):
    """A plate between engine and gearbox with both bolt patterns on one crank axis. Lengths from the engine's
    rear face, mm.

    shaft_mm: input shaft past the gearbox face. pilot_mouth_mm: mouth of the pilot bush behind (into) the
    engine's face; pilot_deep_mm: its depth. hub_at_mm: near end of the clutch hub from the engine's face;
    hub_mm: its length. spline_from_mm, spline_to_mm: the splines, from the gearbox face towards the
    shaft's tip. opening_mm: round hole on the crank centre for the crank's flange (None: not said).
    """

    engine: Id
    gearbox: Id
    thickness_mm: Positive = 12.0
    shaft_mm: Positive
    pilot_mouth_mm: Finite = 0.0
    pilot_deep_mm: Positive = 20.0
    pilot_want_mm: Positive = 12.0
    hub_at_mm: Finite = 20.0
    hub_mm: Positive = 25.0
    spline_from_mm: NotNegative = 20.0
    spline_to_mm: Positive = 120.0
    least_ligament_mm: Positive = 6.0
    opening_mm: NotNegative | None = None
    material: Literal["unsaid", "steel", "aluminium"] = "unsaid"
