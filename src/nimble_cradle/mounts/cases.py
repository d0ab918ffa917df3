"""Load cases of the powertrain: forces (N) and moments (N mm) at its centre of gravity, vehicle frame.

Signs: a crank that turns clockwise seen from the pulley end is pushed round the other way by the propshaft
it drives, so its left side rises under power. A transaxle drives the wheels itself: it is pushed round
backwards by gear times final drive.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from nimble_cradle.calc import Q, Worked, calculation
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.job.job import Job
from nimble_cradle.units import G_STANDARD


@dataclass(frozen=True, eq=False)
class Case:
    """One load case. ``everyday``: comes thousands of times, and is judged with the larger factor."""

    id: str
    name: str
    force: Array
    moment: Array
    everyday: bool


def first_gear_torque(
    torque_nm: float,
    ratio: float,
    driven_kg: float,
    total_kg: float,
    cog_height: float,
    wheelbase: float,
    grip: float,
    tyre_radius: float,
    final_drive: float,
    driven: str = "rear",
) -> tuple[float, float, float]:
    """Torque in Nm on the propshaft in first gear, and its two limits: by the engine and by the tyres.

    The driven axle gains (rear) or loses (front) load under its own drive: F = grip (W + F h / L) for rear
    drive.
    """
    by_engine = torque_nm * ratio
    sign = 1.0 if driven == "rear" else -1.0
    lever = 1 - sign * grip * cog_height / wheelbase
    if lever <= 0.05:
        raise ValueError(
            "with this grip, height and wheelbase the vehicle would stand on its driven axle alone"
        )
    force = min(grip * driven_kg * G_STANDARD / lever, grip * total_kg * G_STANDARD)
    by_grip = force * tyre_radius / 1000 / final_drive
    return min(by_engine, by_grip), by_engine, by_grip


def _reacted(kind: str, **given: Any) -> tuple[float, float, float, float]:
    """The same, then what the mounts react: a transaxle drives the wheels itself, so times the final
    drive."""
    torque, by_engine, by_grip = first_gear_torque(**given)
    return torque, by_engine, by_grip, torque * (given["final_drive"] if kind == "transaxle" else 1.0)


FIRST_GEAR = calculation(
    "first-gear-torque",
    "Torque that the mounts react in first gear",
    inputs=(
        Q("torque_nm", "Nm", "engine torque", above=0),
        Q("ratio", "", "first gear", above=0),
        Q("driven_kg", "kg", "load on the driven axle at rest", above=0),
        Q("total_kg", "kg", "mass of the vehicle", above=0),
        Q("cog_height", "mm", "height of its centre of gravity over the road", low=0),
        Q("wheelbase", "mm", "wheelbase", above=0),
        Q("grip", "", "tyre grip (coefficient of friction)", above=0),
        Q("tyre_radius", "mm", "rolling radius", above=0),
        Q("final_drive", "", "final drive ratio", above=0),
        Q("driven", "", "driven axle", "rear", choices=("rear", "front")),
        Q(
            "kind",
            "",
            "what is behind the engine",
            "gearbox",
            choices=("gearbox", "transaxle", "transfer case"),
        ),
    ),
    outputs=(
        Q("torque", "Nm", "torque before the final drive"),
        Q("by_engine", "Nm", "what the engine could give"),
        Q("by_grip", "Nm", "what the tyres can hold"),
        Q("reacted", "Nm", "what the mounts react"),
    ),
    formula=(
        "by engine = T i1;  by grip = mu W / (1 - mu h / L) r / i_final (rear drive);  the smaller of the"
        " two, times i_final for a transaxle"
    ),
    source=(
        "statics; load transfer as in Gillespie, Fundamentals of Vehicle Dynamics (1992), ch. 2 (from memory)"
    ),
    leaves_out=(
        "gearbox losses, a dropped clutch (twice the torque for a moment), and what the axle's own torque"
        " does to the springs"
    ),
)(_reacted)


def torque_of(job: Job, mass_kg: float, front_kg: float, rear_kg: float) -> Worked:
    """First-gear torque of a job with its powertrain in. front_kg, rear_kg: axle loads with it in."""
    v, engine = job.vehicle, job.powertrain.engine
    return FIRST_GEAR.work(
        {"torque_nm": "engine", "ratio": "gearbox", "driven_kg": "front-axle share", "grip": "load settings"},
        torque_nm=engine.torque_nm,
        ratio=job.powertrain.gearbox.ratios[0],
        driven_kg=rear_kg if v.driven == "rear" else front_kg,
        total_kg=front_kg + rear_kg,
        cog_height=v.cog_height_mm,
        wheelbase=v.wheelbase_mm,
        grip=job.loads.tyre_grip,
        tyre_radius=v.tyre_radius_mm,
        final_drive=v.final_drive,
        driven=v.driven,
        kind=job.powertrain.gearbox.kind,
    )


def load_cases(job: Job, pose: Pose, mass_kg: float, torque_nm: float) -> tuple[Case, ...]:
    """All load cases of a job. torque_nm: what the mounts react in first gear. The weight is in every
    case."""
    loads = job.loads
    weight = mass_kg * G_STANDARD
    down = np.array([0.0, 0.0, -weight])
    still = np.zeros(3)
    turn = 1.0 if job.powertrain.engine.clockwise_from_front else -1.0
    if job.powertrain.gearbox.kind == "transaxle":
        reaction = np.array([0.0, -1.0, 0.0]) * torque_nm * 1000
    else:
        reaction = -turn * unit(pose.vectors(job.powertrain.gearbox.output_direction)) * torque_nm * 1000
    return (
        Case("weight", "at rest on its bushes", down, still, True),
        Case("first-gear", "full torque in first gear", down, reaction, True),
        Case("overrun", "engine braking, first gear", down, -loads.overrun_share * reaction, True),
        Case(
            "braking", f"braking at {loads.brake_g:g} g", down + [loads.brake_g * weight, 0, 0], still, True
        ),
        Case(
            "left-bend",
            f"left-hand bend at {loads.corner_g:g} g",
            down + [0, -loads.corner_g * weight, 0],
            still,
            True,
        ),
        Case(
            "right-bend",
            f"right-hand bend at {loads.corner_g:g} g",
            down + [0, loads.corner_g * weight, 0],
            still,
            True,
        ),
        Case("bump", f"bump at {loads.bump_g:g} g", loads.bump_g * down, still, False),
        Case("rebound", f"rebound at {loads.rebound_g:g} g", -loads.rebound_g * down, still, False),
    )
