"""What the mounts must live through, and how much strength is kept in hand. The user's to change."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from nimble_cradle.job.base import NotNegative, Part, Positive

Factor = Annotated[float, Field(ge=1, le=20)]


class Loads(Part):
    """Load cases. Bump and rebound are whole vertical load factors in g: bump 3 is three times the weight
    downwards with the weight in it; rebound 1.5 is one and a half times the weight upwards net (common
    practice, no source)."""

    tyre_grip: Annotated[float, Field(gt=0, le=3)] = 0.9
    overrun_share: Annotated[float, Field(ge=0, le=1)] = 0.3
    brake_g: NotNegative = 1.0
    corner_g: NotNegative = 1.0
    bump_g: NotNegative = 3.0
    rebound_g: NotNegative = 1.5


class Allowables(Part):
    """Factors kept in hand (common practice, no source) and limits for rubber. ``everyday`` cases come
    thousands of times."""

    everyday_factor: Factor = 2.5
    rare_factor: Factor = 1.5
    bush_pressure_mpa: Positive = 3.5
    bush_strain: Annotated[float, Field(gt=0, le=1)] = 0.3
    nut_factor: Annotated[float, Field(gt=0.05, le=0.5)] = 0.2
    idle_transmitted: Annotated[float, Field(gt=0, le=5)] = 0.5
