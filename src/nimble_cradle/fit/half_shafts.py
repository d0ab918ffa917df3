"""The half-shafts of a transaxle."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.joints import half_shaft
from nimble_cradle.fit.shafts import STATIONS
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job


@dataclass(frozen=True, eq=False)
class HalfShafts:
    """Both half-shafts through the wheels' travel. states: (travel, left deg, right deg, left length,
    right length); plunge: (longer, shorter) of each."""

    states: tuple[tuple[float, float, float, float, float], ...]
    plunge: tuple[tuple[float, float], tuple[float, float]]
    lengths: tuple[float, float]


def half_shafts(job: Job) -> HalfShafts:
    """Both half-shafts through the wheels' travel: angles and plunge. Raises JobError."""
    seats, hubs, vehicle = job.powertrain.gearbox.seats, job.vehicle.hubs, job.vehicle
    if seats is None or hubs is None:
        raise JobError("The half-shafts' outer joints (hubs) are not measured yet.", "vehicle/hubs")
    pose = pose_of(job.position)
    inner = pose.points(seats)
    rows = []
    for travel in np.linspace(-vehicle.wheel_down_mm, vehicle.wheel_up_mm, STATIONS):
        both = [
            half_shaft(x, y, z, h[0], h[1], h[2] + float(travel), 0.0, 0.0)
            for (x, y, z), h in zip(inner.tolist(), hubs, strict=True)
        ]
        rows.append((float(travel), both[0][0], both[1][0], both[0][2], both[1][2]))
    whole = [
        half_shaft(x, y, z, *h, vehicle.wheel_up_mm, vehicle.wheel_down_mm)
        for (x, y, z), h in zip(inner.tolist(), hubs, strict=True)
    ]
    return HalfShafts(
        tuple(rows), ((whole[0][3], whole[0][4]), (whole[1][3], whole[1][4])), (whole[0][2], whole[1][2])
    )
