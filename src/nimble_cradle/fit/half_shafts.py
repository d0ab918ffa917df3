"""The half-shafts of a transaxle, and what they come near to."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.joints import half_shaft
from nimble_cradle.fit.shafts import SHAFT_MM, STATIONS
from nimble_cradle.fit.travel import motion_pose, moving_items
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job


@dataclass(frozen=True, eq=False)
class HalfShafts:
    """Both half-shafts through the wheels' travel. states: (travel, left deg, right deg, left length,
    right length); plunge: (longer, shorter) of each; least_gap: to what moves or stands beside them, mm
    and where, (left, right)."""

    states: tuple[tuple[float, float, float, float, float], ...]
    plunge: tuple[tuple[float, float], tuple[float, float]]
    least_gap: tuple[tuple[float, str] | None, tuple[float, str] | None]
    lengths: tuple[float, float]


def half_shafts(job: Job) -> HalfShafts:
    """Both half-shafts through the wheels' travel: angles, plunge, and the least gap to the bay, the arms
    moved with the wheel. Raises JobError."""
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
    gaps = tuple(_shaft_gap(job, at, np.asarray(h)) for at, h in zip(inner, hubs, strict=True))
    return HalfShafts(
        tuple(rows),
        ((whole[0][3], whole[0][4]), (whole[1][3], whole[1][4])),
        (gaps[0], gaps[1]),
        (whole[0][2], whole[1][2]),
    )


def _shaft_gap(job: Job, inner: Array, hub: Array) -> tuple[float, str] | None:
    """Least gap of one half-shaft's bar to the bay through the travel, items that move going with the
    wheel, and where."""
    vehicle = job.vehicle
    movers = moving_items(job)
    swings = {mover.column for mover in movers}
    items = standing_items(job)
    best: tuple[float, str] | None = None
    for share in np.linspace(0.0, 1.0, 9):
        travel = -vehicle.wheel_down_mm + share * (vehicle.wheel_up_mm + vehicle.wheel_down_mm)
        outer = hub + np.array([0.0, 0.0, travel])
        way = unit(outer - inner)
        shaft = Bodies([[bar(inner + 40.0 * way, outer - 60.0 * way, SHAFT_MM)]])
        reach = np.full((1, len(items)), 80.0)
        reach[0, list(swings)] = -np.inf
        found = [
            (near.distance, items[near.b].name)
            for near in nearest(shaft, Pose.still(), bay_bodies(job), reach)
        ]
        for m in movers:
            low, high = m.span
            wheel = np.vstack([part.triangles[0] for part in m.bodies.parts])
            rising = (
                motion_pose(m.motion, high).points(wheel)[:, 2].mean()
                > motion_pose(m.motion, low).points(wheel)[:, 2].mean()
            )
            at = low + (share if rising else 1 - share) * (high - low)
            shift = motion_pose(m.motion, at)
            found += [
                (near.distance, m.name)
                for near in nearest(shaft, shift.inverse(), m.bodies, np.full((1, 1), 80.0))
            ]
        for d, name in found:
            if best is None or d < best[0]:
                best = d, f"{name}, wheel {abs(travel):.0f} mm {'up' if travel > 0 else 'down'}"
    return best
