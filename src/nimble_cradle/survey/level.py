"""How the car stands: lean from level readings, what to lift at which stand, and the way that is truly up."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from nimble_cradle.calc import Q, Worked, calculation
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.survey import AxleStand, Level, LevelReading
from nimble_cradle.survey.adjust import COVER, Observed, linear
from nimble_cradle.survey.blunders import suspects
from nimble_cradle.units import UnitError, parse


def stand_lift(forward: float, left: float, across_deg: float, along_deg: float) -> float:
    """Height mm of a place on the car's own level plane over the datum point: x tan(along) + y
    tan(across)."""
    return forward * math.tan(math.radians(along_deg)) + left * math.tan(math.radians(across_deg))


STAND_HEIGHT = calculation(
    "stand-height",
    "How high the car stands at one of its stands",
    inputs=(
        Q("forward", "mm", "stand, forward of the datum"),
        Q("left", "mm", "stand, left of the datum"),
        Q("across_deg", "deg", "lean across, left side high", low=-30, high=30),
        Q("along_deg", "deg", "lean along, front high", low=-30, high=30),
    ),
    outputs=(
        Q(
            "height",
            "mm",
            "height over the level through the datum; the highest stand stays, the others are lifted by the"
            " difference",
        ),
    ),
    formula="h = x tan(along) + y tan(across);  lift = max(h) - h",
    source="plane geometry; lifting only, common practice, no source",
    leaves_out="the sag of springs, tyres and a soft floor: read the level again after trimming",
)(stand_lift)


@dataclass(frozen=True)
class Trim:
    """What to do at one stand: lift it by mm."""

    stand: AxleStand
    lift: float
    worked: Worked


@dataclass(frozen=True)
class Lean:
    """How the car leans, degrees (left side high, front high), each with its plus-or-minus (None: not
    read). own_fault_deg: what the level itself reads wrong, where it was turned end for end. odd: readings
    that do not agree with the rest, in words.
    """

    across_deg: float | None
    along_deg: float | None
    across_plus_minus: float
    along_plus_minus: float
    own_fault_deg: float | None
    odd: tuple[str, ...]

    @property
    def up(self) -> Array:
        """The way that is truly up (3,), in the frame that stands as the car stands."""
        slopes = (self.along_deg or 0.0, self.across_deg or 0.0)
        way = np.array([*(math.tan(math.radians(slope)) for slope in slopes), 1.0])
        return np.asarray(way / np.linalg.norm(way))


def _axis(readings: list[LevelReading], index: int) -> list[Observed]:
    rows = []
    for reading in readings:
        own = linear((index, 2), (1.0, -1.0 if reading.turned else 1.0))
        doubt = reading.plus_minus_deg / COVER
        rows.append(Observed(reading.id, reading.reads_deg, doubt, own))
    return rows


def lean_of(level: Level) -> Lean:
    """The car's lean from all used readings. Where none was turned, the level itself is taken to be true."""
    used = [reading for reading in level.readings if reading.used]
    across, along = ([r for r in used if r.way == way] for way in ("across", "along"))
    own = any(r.turned for r in used) and any(not r.turned for r in used)
    rows = _axis(across, 0) + _axis(along, 1)
    if not own:
        rows.append(Observed("the level itself", 0.0, 1e-6, linear((2,), (1.0,))))
    result, found = suspects(rows, np.zeros(3))
    sigma = np.sqrt(np.maximum(result.covariance.diagonal(), 0.0))
    by_id = {r.id: r for r in used}
    odd = tuple(
        f"{by_id[rows[k].id].where} reads {rows[k].measured:.2f} deg, the others say "
        f"{rows[k].measured - result.residuals[k] / result.redundancy[k]:.2f}: read it again"
        for k, rivals in found
        if rows[k].id in by_id and not rivals
    )
    if found and found[0][1]:
        odd += ("The level readings do not agree with one another; take one more.",)
    return Lean(
        float(result.x[0]) if across else None,
        float(result.x[1]) if along else None,
        COVER * float(sigma[0]),
        COVER * float(sigma[1]),
        float(result.x[2]) if own else None,
        odd,
    )


def trims(level: Level) -> tuple[Trim, ...]:
    """What to lift at each stand so that the car is level; the highest stays. Empty without stands or
    readings of both ways."""
    lean = lean_of(level)
    if not level.stands or lean.across_deg is None or lean.along_deg is None:
        return ()
    worked = [
        STAND_HEIGHT.work(
            {"across_deg": "level readings", "along_deg": "level readings"},
            forward=stand.at[0],
            left=stand.at[1],
            across_deg=lean.across_deg,
            along_deg=lean.along_deg,
        )
        for stand in level.stands
    ]
    heights = [w.value("height") for w in worked]
    return tuple(
        Trim(stand, max(heights) - h, w) for stand, h, w in zip(level.stands, heights, worked, strict=True)
    )


SIDES = {"across": ("left", "right"), "along": ("front", "rear")}


def read_level(typed: str, way: Literal["across", "along"]) -> tuple[float, float, float]:
    """What was typed from a level as (angle deg, rise mm, over mm): ``0.8``, ``0.8 right`` (that side is
    high), ``6 over 600 left``. Raises UnitError with a sentence."""
    text, sign = typed.strip().lower(), 1.0
    for side, factor in zip(SIDES[way], (1.0, -1.0), strict=True):
        if text.endswith(side):
            text, sign = text.removesuffix(side).strip(), factor
    if " over " in text:
        rise, _, over = text.partition(" over ")
        length = parse(over, "length")
        if length <= 0:
            raise UnitError(f"“{typed}”: the length under the level must be more than nought.")
        return 0.0, sign * parse(rise, "length"), length
    return sign * parse(text, "angle"), 0.0, 0.0


def level_words(reading: LevelReading) -> str:
    """``left 0.80 deg high``, with the rise over the length where that was read."""
    side = SIDES[reading.way][0 if reading.reads_deg >= 0 else 1]
    how = f"{abs(reading.rise_mm):g} over {reading.over_mm:g} mm: " if reading.over_mm else ""
    return (
        f"{how}{side} {abs(reading.reads_deg):.2f} deg high"
        if abs(reading.reads_deg) >= 0.005
        else f"{how}level"
    )


def lean_words(lean: Lean) -> str:
    """``left side 0.80 deg high, front 0.40 deg low``; what was not read is said."""
    said = []
    for value, doubt, high, low, word in (
        (lean.across_deg, lean.across_plus_minus, "left side", "right side", "across"),
        (lean.along_deg, lean.along_plus_minus, "front", "rear", "along"),
    ):
        if value is None:
            said.append(f"not read {word} yet")
        elif abs(value) <= doubt:
            said.append(f"level {word} (± {doubt:.2f} deg)")
        else:
            said.append(f"{high if value > 0 else low} {abs(value):.2f} deg high (± {doubt:.2f} deg)")
    return ", ".join(said)


@remembered("survey")
def job_lean(job: Job) -> Lean:
    """The lean of a job's car."""
    return lean_of(job.survey.level)


def true_up(job: Job) -> Array:
    """The way that heights by level are taken along: upright in the datum frame, or corrected for the lean
    where the car was left as it is."""
    return job_lean(job).up if job.survey.level.what == "correct" else np.array([0.0, 0.0, 1.0])
