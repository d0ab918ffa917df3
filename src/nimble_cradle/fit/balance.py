"""Front-axle share with the powertrain in: moments about the axles."""

from __future__ import annotations

import math
from dataclasses import dataclass

from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.bay.position import pose_of
from nimble_cradle.calc import Q, Worked, calculation
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered


def front_share(
    front_kg: float, rear_kg: float, powertrain_kg: float, x: float, wheelbase: float
) -> tuple[float, float, float]:
    """Share of the front axle in per cent and both axle loads in kg. x: centre of gravity forward of the
    front axle, mm."""
    on_rear = -x / wheelbase * powertrain_kg
    front, rear = front_kg + powertrain_kg - on_rear, rear_kg + on_rear
    return 100 * front / (front + rear), front, rear


SHARE = calculation(
    "front-axle-share",
    "Share of the front axle with the powertrain in",
    inputs=(
        Q("front_kg", "kg", "front axle without the powertrain, weighed", low=0),
        Q("rear_kg", "kg", "rear axle likewise", low=0),
        Q("powertrain_kg", "kg", "mass of the powertrain", low=0),
        Q("x", "mm", "its centre of gravity in front of the front axle (behind: negative)"),
        Q("wheelbase", "mm", "wheelbase", above=0),
    ),
    outputs=(
        Q("share", "%", "share of the front axle", low=0, high=100),
        Q("front", "kg", "front axle load", low=0),
        Q("rear", "kg", "rear axle load", low=0),
    ),
    formula="rear = rear0 + m (-x) / L;  front = front0 + m - (m (-x) / L)",
    source="moments about the front axle (statics)",
    leaves_out="driver, load and fuel unless they were on board when the axles were weighed",
)(front_share)


def joined(
    front_kg: float, rear_kg: float, height: float, kg: float, x: float, z: float, wheelbase: float
) -> tuple[float, float, float, float]:
    """A vehicle (axle loads kg, height of its centre of gravity over the road mm) with a mass put in (kg >
    0) or taken out (kg < 0) at x forward of the front axle and z over the road: front and rear axle kg,
    share of the front axle in per cent, height of the centre of gravity mm.
    """
    share, front, rear = front_share(front_kg, rear_kg, kg, x, wheelbase)
    whole = front_kg + rear_kg
    if whole + kg <= 0:
        raise ValueError("more is taken out than the vehicle weighs")
    return front, rear, share, (whole * height + kg * z) / (whole + kg)


BALANCE = calculation(
    "balance",
    "Axle loads and height of the centre of gravity with a mass put in or taken out",
    inputs=(
        Q("front_kg", "kg", "front axle before, weighed", low=0),
        Q("rear_kg", "kg", "rear axle before", low=0),
        Q("height", "mm", "centre of gravity over the road before", above=0),
        Q("kg", "kg", "mass put in (taken out: negative)"),
        Q("x", "mm", "its centre of gravity in front of the front axle (behind: negative)"),
        Q("z", "mm", "its height over the road"),
        Q("wheelbase", "mm", "wheelbase", above=0),
    ),
    outputs=(
        Q("front", "kg", "front axle load", low=0),
        Q("rear", "kg", "rear axle load", low=0),
        Q("share", "%", "share of the front axle", low=0, high=100),
        Q("cog", "mm", "centre of gravity over the road"),
    ),
    formula="moments about the front axle;  h = (M h0 + m z) / (M + m)",
    source="statics: moments of weights",
    leaves_out="driver, load and fuel unless they were weighed",
)(joined)


@dataclass(frozen=True)
class Share:
    """Front-axle share with the powertrain in, per cent, its working, and give or take of what was
    weighed, per cent."""

    percent: float
    worked: Worked
    plus_minus: float = 0.0


@remembered("powertrain", "meshes", "position", "vehicle")
def axle_share(job: Job) -> Share:
    """Front-axle share. Raises JobError."""
    mass = powertrain_mass(job)
    centre = pose_of(job.position).points(mass.centre)
    vehicle = job.vehicle
    worked = SHARE.work(
        {"front_kg": "weighed", "rear_kg": "weighed", "powertrain_kg": "pieces", "x": "pieces and position"},
        front_kg=vehicle.front_axle_kg,
        rear_kg=vehicle.rear_axle_kg,
        powertrain_kg=mass.mass_kg,
        x=float(centre[0]),
        wheelbase=vehicle.wheelbase_mm,
    )
    return Share(worked.value("share"), worked, _share_doubt(job, worked))


def _share_doubt(job: Job, worked: Worked) -> float:
    """How far the give or take of the weighed mass and of its centre moves the share, per cent; nought
    where it was not weighed."""
    weighed = job.powertrain.weighed
    if weighed is None:
        return 0.0
    given = {quantity.name: float(v) for quantity, v, _ in worked.inputs}
    total = 0.0
    for name, step in (("powertrain_kg", weighed.mass_plus_minus_kg), ("x", weighed.centre_plus_minus_mm)):
        ends = [
            float(SHARE.work(None, **{**given, name: given[name] + s * step}).value("share")) for s in (-1, 1)
        ]
        total += ((ends[1] - ends[0]) / 2) ** 2
    return math.sqrt(total)


@dataclass(frozen=True)
class Balance:
    """The car in one condition: name, axle loads kg, share of the front axle %, height of the centre of
    gravity over the road mm."""

    name: str
    front_kg: float
    rear_kg: float
    share: float
    height_mm: float

    @property
    def total_kg(self) -> float:
        """Whole mass, kg."""
        return self.front_kg + self.rear_kg


def balances(job: Job) -> tuple[Balance, ...]:
    """With the old powertrain (where what came out was told), without one, and with the new one. Raises
    JobError."""
    vehicle = job.vehicle
    bare = Balance(
        "without an engine",
        vehicle.front_axle_kg,
        vehicle.rear_axle_kg,
        100 * vehicle.front_axle_kg / (vehicle.front_axle_kg + vehicle.rear_axle_kg),
        vehicle.cog_height_mm,
    )
    out = []
    if vehicle.came_out is not None:
        x, _, z = vehicle.came_out.centre
        worked = BALANCE.work(
            front_kg=vehicle.front_axle_kg,
            rear_kg=vehicle.rear_axle_kg,
            height=vehicle.cog_height_mm,
            kg=vehicle.came_out.mass_kg,
            x=x,
            z=z - vehicle.ground_z_mm,
            wheelbase=vehicle.wheelbase_mm,
        )
        out.append(
            Balance(
                "as it was",
                worked.value("front"),
                worked.value("rear"),
                worked.value("share"),
                worked.value("cog"),
            )
        )
    out.append(bare)
    mass = powertrain_mass(job)
    at = pose_of(job.position).points(mass.centre)
    worked = BALANCE.work(
        front_kg=vehicle.front_axle_kg,
        rear_kg=vehicle.rear_axle_kg,
        height=vehicle.cog_height_mm,
        kg=mass.mass_kg,
        x=float(at[0]),
        z=float(at[2]) - vehicle.ground_z_mm,
        wheelbase=vehicle.wheelbase_mm,
    )
    return (
        *out,
        Balance(
            "with this engine",
            worked.value("front"),
            worked.value("rear"),
            worked.value("share"),
            worked.value("cog"),
        ),
    )
