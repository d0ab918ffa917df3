"""Load cases of the powertrain: forces (N) and moments (N mm) at its centre of gravity, vehicle frame.

Signs: a crank that turns clockwise seen from the pulley end is pushed round the other way by the propshaft
it drives, so its left side rises under power. A transaxle drives the wheels itself: it is pushed round
backwards by gear times final drive.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

import numpy as np

from nimble_cradle.calc import Q, Worked, calculation
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.job.job import Job
from nimble_cradle.job.loads import Loads
from nimble_cradle.job.own_case import OwnCase
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
    vehicle, engine, box = job.vehicle, job.powertrain.engine, job.powertrain.gearbox
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
        driven_kg={"rear": rear_kg, "front": front_kg, "both": front_kg + rear_kg}[vehicle.driven],
        total_kg=front_kg + rear_kg,
        cog_height=height_mm,
        wheelbase=vehicle.wheelbase_mm,
        grip=job.loads.tyre_grip,
        tyre_radius=vehicle.tyre_radius_mm,
        final_drive=vehicle.final_drive,
        driven=vehicle.driven,
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


class Push(NamedTuple):
    """What a case adds to the weight: id, name, force N and moment N mm at the centre of gravity, and how
    many times the weight is felt. Forces of inertia point against what speeds the vehicle up."""

    id: str
    name: str
    force: Array
    moment: Array
    g: float = 1.0


SIDES = (("left", -1.0), ("right", 1.0))
"""In a left-hand bend the engine is thrown to the right."""


@dataclass(frozen=True, eq=False)
class _Pushes:
    """The pushes of which the cases are made, N and N mm, vehicle frame."""

    loads: Loads
    ahead: Array
    left: Array
    driven: Array
    backed: Array
    first: Array
    reverse: Array

    @property
    def brake(self) -> Array:
        """Braking."""
        return self.loads.brake_g * self.ahead

    @property
    def bend(self) -> Array:
        """A bend, thrown to the left."""
        return self.loads.corner_g * self.left

    @property
    def snatch(self) -> Array:
        """The moment of a dropped clutch."""
        return self.loads.snatch_factor * self.first


STILL = np.zeros(3)


def load_cases(job: Job, pose: Pose, mass_kg: float, drive: Drive) -> tuple[Case, ...]:
    """All load cases of a job. The weight is in every case.

    Everyday: at rest; first gear, reverse and engine braking; braking, bends, and both together; first
    gear and reverse in a bend; each of them also on a rough road, up and down. Rare: a dropped clutch,
    bump, rebound, a pothole, a kerb, a tow, and braking, a bend or a dropped clutch over a bump.
    """
    pushes = _pushes(job, pose, mass_kg, drive)
    down = np.array([0.0, 0.0, -mass_kg * G_STANDARD])

    def case(push: Push, kind: CaseKind) -> Case:
        return Case(push.id, push.name, push.g * down + push.force, push.moment, kind)

    steady = [*_straight(pushes), *_bends(pushes)]
    return (
        *(case(p, "rest" if p.id == "weight" else "everyday") for p in steady),
        *(case(p, "everyday") for p in _rough(steady, job.loads.rough_g)),
        *(case(p, "rare") for p in (*_rare(pushes), *_rare_sideways(pushes))),
        *(case(_own(pushes, own), own.kind) for own in job.loads.own_cases),
    )


def _own(p: _Pushes, own: OwnCase) -> Push:
    """A case of the user's own."""
    force = own.thrown_ahead_g * p.ahead + own.thrown_left_g * p.left
    return Push(own_id(own), own.name, force, own.first_share * p.first, own.weight_g)


def own_id(own: OwnCase) -> str:
    """The id of a user's own case among all."""
    return f"own-{own.id}"


def _pushes(job: Job, pose: Pose, mass_kg: float, drive: Drive) -> _Pushes:
    weight = mass_kg * G_STANDARD
    ahead = np.array([weight, 0.0, 0.0])
    reaction = _unit_reaction(job, pose)
    return _Pushes(
        job.loads,
        ahead,
        np.array([0.0, weight, 0.0]),
        -drive.first_g * ahead,
        drive.reverse_g * ahead,
        reaction * drive.first_nm,
        -reaction * drive.reverse_nm,
    )


def _unit_reaction(job: Job, pose: Pose) -> Array:
    """(3,) N mm: what pushes the powertrain round for each Nm that it gives, driving forward."""
    box = job.powertrain.gearbox
    if box.kind == "transaxle":
        return np.array([0.0, -1000.0, 0.0])
    turn = 1.0 if job.powertrain.engine.clockwise_from_front else -1.0
    return -turn * unit(pose.vectors(box.output_direction)) * 1000.0


def _straight(p: _Pushes) -> list[Push]:
    """Everyday cases straight on."""
    loads = p.loads
    return [
        Push("weight", "at rest on its bushes", STILL, STILL),
        Push("first-gear", "full torque in first gear", p.driven, p.first),
        Push("reverse", "full torque in reverse", p.backed, p.reverse),
        Push("overrun", "engine braking, first gear", STILL, -loads.overrun_share * p.first),
        Push("braking", f"braking at {loads.brake_g:g} g", p.brake, STILL),
    ]


def _bends(p: _Pushes) -> list[Push]:
    """Everyday cases in bends; of two things at once a share of each counts."""
    share, out = p.loads.together, []
    for side, s in SIDES:
        at = f"{side}-hand bend at {p.loads.corner_g:g} g"
        out += [
            Push(f"{side}-bend", at, s * p.bend, STILL),
            Push(
                f"{side}-brake-bend", f"braking in a {side}-hand bend", share * (p.brake + s * p.bend), STILL
            ),
            Push(
                f"{side}-first-bend",
                f"first gear in a {side}-hand bend",
                p.driven + share * s * p.bend,
                p.first,
            ),
            Push(
                f"{side}-reverse-bend",
                f"reverse in a {side}-hand bend",
                p.backed + share * s * p.bend,
                p.reverse,
            ),
        ]
    return out


def _rough(steady: Sequence[Push], rough_g: float) -> list[Push]:
    """The same on a rough road, down and up."""
    return [
        Push(f"{p.id}-{word}", f"{p.name}, rough road {word}", p.force, p.moment, g)
        for word, g in (("down", 1.0 + rough_g), ("up", 1.0 - rough_g))
        for p in steady
    ]


def _rare(p: _Pushes) -> list[Push]:
    """Rare cases straight on."""
    loads = p.loads
    tow = f"towed with a jerk of {loads.tow_g:g} g"
    pothole = f"pothole, {loads.bump_g:g} g with {loads.pothole_g:g} g back"
    return [
        Push("snatch", "dropped clutch in first gear", p.driven, p.snatch),
        Push("bump", f"bump at {loads.bump_g:g} g", STILL, STILL, loads.bump_g),
        Push("rebound", f"rebound at {loads.rebound_g:g} g", STILL, STILL, -loads.rebound_g),
        Push("pothole", pothole, loads.pothole_g * p.ahead, STILL, loads.bump_g),
        Push("tow-ahead", f"{tow} ahead", -loads.tow_g * p.ahead, STILL),
        Push("tow-back", f"{tow} back", loads.tow_g * p.ahead, STILL),
        Push("brake-bump", "braking over a bump", p.brake, STILL, 2.0),
        Push("snatch-bump", "dropped clutch over a bump", p.driven, p.snatch, 2.0),
    ]


def _rare_sideways(p: _Pushes) -> list[Push]:
    """Rare cases to a side."""
    kerb, out = p.loads.kerb_g, []
    for side, s in SIDES:
        out += [
            Push(f"kerb-{side}", f"kerb at {kerb:g} g on the {side}", -s * kerb * p.left, STILL),
            Push(f"{side}-bend-bump", f"{side}-hand bend over a bump", s * p.bend, STILL, 2.0),
        ]
    return out
