"""What the mounts must live through, and how much strength is kept in hand. The user's to change."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from nimble_cradle.job.base import NotNegative, Part, Positive
from nimble_cradle.job.own_case import OwnCase

Times = Annotated[float, Field(ge=0, le=1e9)]
Factor = Annotated[float, Field(ge=1, le=20)]


class Loads(Part):
    """Load cases. Bump and rebound are whole vertical load factors in g: bump 3 is three times the weight
    downwards with the weight in it; rebound 1.5 is one and a half times the weight upwards net.
    snatch_factor: a dropped clutch or driveline snatch, times first gear's torque (2; automatic 1.3; drag
    start 3). kerb_g: sideways; pothole_g: backwards, with bump_g; tow_g: the vehicle's own jerk along,
    either way. together: share of each where two things come at once (braking in a bend). rough_g: up and
    down on the weight with every everyday case. times: how often in the life of the car it goes from one to
    the other, for fatigue. own_cases: the
    user's own. crash: so hard is the powertrain thrown ahead, to a side, back,
    and must be held on metal, once. All common practice, no source."""

    tyre_grip: Annotated[float, Field(gt=0, le=3)] = 0.9
    overrun_share: Annotated[float, Field(ge=0, le=1)] = 0.3
    brake_g: NotNegative = 1.0
    corner_g: NotNegative = 1.0
    bump_g: NotNegative = 3.0
    rebound_g: NotNegative = 1.5
    snatch_factor: Annotated[float, Field(ge=1, le=5)] = 2.0
    kerb_g: NotNegative = 2.0
    pothole_g: NotNegative = 2.0
    tow_g: NotNegative = 2.0
    crash_ahead_g: NotNegative = 8.0
    crash_side_g: NotNegative = 6.0
    crash_back_g: NotNegative = 4.0
    together: Annotated[float, Field(ge=0, le=1)] = 0.7
    rough_g: Annotated[float, Field(ge=0, le=1)] = 1.0
    first_overrun_times: Times = 1e5
    first_reverse_times: Times = 2e4
    bends_times: Times = 1e5
    rough_times: Times = 1e6
    bumps_times: Times = 1e3
    own_cases: Annotated[tuple[OwnCase, ...], Field(max_length=20)] = ()


class Allowables(Part):
    """Factors kept in hand (common practice, no source) and limits for rubber: the share of its wall that
    a movement may be every day, at rest (it creeps) and rarely (then it is nearly solid). ``everyday``
    cases come thousands of times. bare_way_mm: as far an eye may go with its rubber gone (common practice, no
    source)."""

    everyday_factor: Factor = 2.5
    rare_factor: Factor = 1.5
    bush_pressure_mpa: Positive = 3.5
    bush_strain: Annotated[float, Field(gt=0, le=1)] = 0.3
    bush_strain_rest: Annotated[float, Field(gt=0, le=1)] = 0.15
    bush_strain_rare: Annotated[float, Field(gt=0, le=1)] = 0.55
    bare_way_mm: Positive = 40.0
    nut_factor: Annotated[float, Field(gt=0.05, le=0.5)] = 0.2
    idle_transmitted: Annotated[float, Field(gt=0, le=5)] = 0.5
