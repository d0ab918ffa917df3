"""Load cases of the powertrain: forces (N) and moments (N mm) at its centre of gravity, vehicle frame.

Signs: a crank that turns clockwise seen from the pulley end is pushed round the other way by the propshaft
it drives, so its left side rises under power. A transaxle drives the wheels itself: it is pushed round
backwards by gear times final drive.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from nimble_cradle.calc import Q, Worked, calculation
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.job.job import Job
from nimble_cradle.units import G_STANDARD

CaseKind = Literal["rest", "everyday", "rare"]


@dataclass(frozen=True, eq=False)
class Case:
    """One load case. kind: at rest (rubber creeps), everyday (comes thousands of times, the larger
    factor), or rare."""

    id: str
    name: str
    force: Array
    moment: Array
    kind: CaseKind

    @property
    def everyday(self) -> bool:
        """Whether it is judged with the larger factor."""
        return self.kind != "rare"


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
    stall_ratio: float = 1.0,
    low_ratio: float = 1.0,
    way: str = "forward",
) -> tuple[float, float, float]:
    """Torque in Nm on the propshaft (of both propshafts together, where both axles are driven), and its two
    limits: by the engine and by the tyres.

    The driven axle gains (rear) or loses (front) load under its own drive forward: F = grip (W + F h / L)
    for rear drive; in reverse it is the other way round. Both axles driven: grip on the whole weight,
    whichever way it moves.
    """
    by_engine = torque_nm * ratio * stall_ratio * low_ratio
    if driven == "both":
        force = grip * total_kg * G_STANDARD
    else:
        sign = (1.0 if driven == "rear" else -1.0) * (1.0 if way == "forward" else -1.0)
        lever = 1 - sign * grip * cog_height / wheelbase
        if lever <= 0.05:
            raise ValueError(
                "with this grip, height and wheelbase the vehicle would stand on its driven axle alone"
            )
        force = min(grip * driven_kg * G_STANDARD / lever, grip * total_kg * G_STANDARD)
    by_grip = force * tyre_radius / 1000 / final_drive
    return min(by_engine, by_grip), by_engine, by_grip


def _reacted(kind: str, **given: Any) -> tuple[float, float, float, float, float]:
    """The same, then what the mounts react (a transaxle drives the wheels itself, so times the final
    drive), and how hard the vehicle is driven, in g."""
    torque, by_engine, by_grip = first_gear_torque(**given)
    drive = torque * given["final_drive"] / (given["tyre_radius"] / 1000)
    along = drive / (given["total_kg"] * G_STANDARD)
    return torque, by_engine, by_grip, torque * (given["final_drive"] if kind == "transaxle" else 1.0), along


FIRST_GEAR = calculation(
    "first-gear-torque",
    "Torque that the mounts react in first gear or reverse",
    inputs=(
        Q("torque_nm", "Nm", "engine torque", above=0),
        Q("ratio", "", "first gear, or reverse", above=0),
        Q("driven_kg", "kg", "load on the driven axle at rest", above=0),
        Q("total_kg", "kg", "mass of the vehicle", above=0),
        Q("cog_height", "mm", "height of its centre of gravity over the road", low=0),
        Q("wheelbase", "mm", "wheelbase", above=0),
        Q("grip", "", "tyre grip (coefficient of friction)", above=0),
        Q("tyre_radius", "mm", "rolling radius", above=0),
        Q("final_drive", "", "final drive ratio", above=0),
        Q("driven", "", "driven axle", "rear", choices=("rear", "front", "both")),
        Q(
            "kind",
            "",
            "what is behind the engine",
            "gearbox",
            choices=("gearbox", "transaxle", "transfer case"),
        ),
        Q("stall_ratio", "", "torque converter at stall (1: a clutch)", 1.0, low=1, high=4),
        Q("low_ratio", "", "low range of a transfer case", 1.0, low=1, high=10),
        Q("way", "", "which way it is driven", "forward", choices=("forward", "reverse")),
    ),
    outputs=(
        Q("torque", "Nm", "torque before the final drive"),
        Q("by_engine", "Nm", "what the engine could give"),
        Q("by_grip", "Nm", "what the tyres can hold"),
        Q("reacted", "Nm", "what the mounts react"),
        Q("along_g", "g", "how hard that drives the vehicle"),
    ),
    formula=(
        "by engine = T i (stall) (low);  by grip = mu W / (1 - mu h / L) r / i_final (rear drive forward;"
        " front drive and reverse each turn the sign; both axles mu m g);  the smaller of the two, times"
        " i_final for a transaxle"
    ),
    source=(
        "statics; load transfer as in Gillespie, Fundamentals of Vehicle Dynamics (1992), ch. 2 (from"
        " memory); converter 2.0 at stall: common practice, no source"
    ),
    leaves_out=(
        "gearbox losses, and what the axle's own torque does to the springs; a dropped clutch is a case of"
        " its own"
    ),
)(_reacted)


def torque_of(job: Job, front_kg: float, rear_kg: float, height_mm: float, way: str = "forward") -> Worked:
    """First-gear or reverse torque of a job. front_kg, rear_kg, height_mm: axle loads and height of the
    centre of gravity over the road of the same car: with its powertrain in."""
    v, engine, box = job.vehicle, job.powertrain.engine, job.powertrain.gearbox
    return FIRST_GEAR.work(
        {
            "torque_nm": "engine",
            "ratio": (
                "gearbox" if way == "forward" or box.reverse_ratio else "first gear's: reverse is not said"
            ),
            "driven_kg": "axle loads with this engine",
            "cog_height": "vehicle with this engine",
            "grip": "load settings",
        },
        torque_nm=engine.torque_nm,
        ratio=box.ratios[0] if way == "forward" else box.reverse_ratio or box.ratios[0],
        driven_kg={"rear": rear_kg, "front": front_kg, "both": front_kg + rear_kg}[v.driven],
        total_kg=front_kg + rear_kg,
        cog_height=height_mm,
        wheelbase=v.wheelbase_mm,
        grip=job.loads.tyre_grip,
        tyre_radius=v.tyre_radius_mm,
        final_drive=v.final_drive,
        driven=v.driven,
        kind=box.kind,
        stall_ratio=engine.stall_ratio if engine.converter else 1.0,
        low_ratio=box.low_ratio,
        way=way,
    )


@dataclass(frozen=True)
class Drive:
    """What first gear and reverse ask of the mounts: torque Nm and how hard the vehicle is driven, g, each
    way."""

    first_nm: float
    first_g: float
    reverse_nm: float
    reverse_g: float


def load_cases(job: Job, pose: Pose, mass_kg: float, drive: Drive) -> tuple[Case, ...]:
    """All load cases of a job. The weight is in every case; forces of inertia point against what speeds the
    vehicle up.

    Everyday: at rest; first gear, reverse and engine braking; braking, bends, and both together; first
    gear and reverse in a bend; each of them also on a rough road, up and down. Rare: a dropped clutch,
    bump, rebound, a pothole, a kerb, a tow, and braking, a bend or a dropped clutch over a bump.
    """
    loads = job.loads
    weight = mass_kg * G_STANDARD
    down = np.array([0.0, 0.0, -weight])
    ahead, left = np.array([weight, 0.0, 0.0]), np.array([0.0, weight, 0.0])
    still = np.zeros(3)
    turn = 1.0 if job.powertrain.engine.clockwise_from_front else -1.0
    if job.powertrain.gearbox.kind == "transaxle":
        unit_reaction = np.array([0.0, -1000.0, 0.0])
    else:
        unit_reaction = -turn * unit(pose.vectors(job.powertrain.gearbox.output_direction)) * 1000.0
    first, reverse = unit_reaction * drive.first_nm, -unit_reaction * drive.reverse_nm
    driven, backed = -drive.first_g * ahead, drive.reverse_g * ahead
    brake, bend = loads.brake_g * ahead, loads.corner_g * left
    share = loads.together
    sides = (("left", -1.0), ("right", 1.0))  # in a left-hand bend the engine is thrown to the right
    steady: list[tuple[str, str, Array, Array]] = [
        ("weight", "at rest on its bushes", still, still),
        ("first-gear", "full torque in first gear", driven, first),
        ("reverse", "full torque in reverse", backed, reverse),
        ("overrun", "engine braking, first gear", still, -loads.overrun_share * first),
        ("braking", f"braking at {loads.brake_g:g} g", brake, still),
    ]
    for side, s in sides:
        at = f"{side}-hand bend at {loads.corner_g:g} g"
        steady += [
            (f"{side}-bend", at, s * bend, still),
            (f"{side}-brake-bend", f"braking in a {side}-hand bend", share * (brake + s * bend), still),
            (f"{side}-first-bend", f"first gear in a {side}-hand bend", driven + share * s * bend, first),
            (f"{side}-reverse-bend", f"reverse in a {side}-hand bend", backed + share * s * bend, reverse),
        ]
    cases = [
        Case(key, name, down + force, moment, "rest" if key == "weight" else "everyday")
        for key, name, force, moment in steady
    ]
    for word, g in (("down", 1.0 + loads.rough_g), ("up", 1.0 - loads.rough_g)):
        cases += [
            Case(f"{key}-{word}", f"{name}, rough road {word}", g * down + force, moment, "everyday")
            for key, name, force, moment in steady
        ]
    snatch = loads.snatch_factor
    rare: list[tuple[str, str, float, Array, Array]] = [
        ("snatch", "dropped clutch in first gear", 1.0, driven, snatch * first),
        ("bump", f"bump at {loads.bump_g:g} g", loads.bump_g, still, still),
        ("rebound", f"rebound at {loads.rebound_g:g} g", -loads.rebound_g, still, still),
        (
            "pothole",
            f"pothole, {loads.bump_g:g} g with {loads.pothole_g:g} g back",
            loads.bump_g,
            loads.pothole_g * ahead,
            still,
        ),
        ("tow-ahead", f"towed with a jerk of {loads.tow_g:g} g ahead", 1.0, -loads.tow_g * ahead, still),
        ("tow-back", f"towed with a jerk of {loads.tow_g:g} g back", 1.0, loads.tow_g * ahead, still),
        ("brake-bump", "braking over a bump", 2.0, brake, still),
        ("snatch-bump", "dropped clutch over a bump", 2.0, driven, snatch * first),
    ]
    for side, s in sides:
        rare += [
            (
                f"kerb-{side}",
                f"kerb at {loads.kerb_g:g} g on the {side}",
                1.0,
                -s * loads.kerb_g * left,
                still,
            ),
            (f"{side}-bend-bump", f"{side}-hand bend over a bump", 2.0, s * bend, still),
        ]
    return (
        *cases,
        *(Case(key, name, g * down + force, moment, "rare") for key, name, g, force, moment in rare),
    )
