"""Another kind of gearbox, with what it needs to begin from."""

from __future__ import annotations

from typing import Literal

import numpy as np

from nimble_cradle.bay.bodies import powertrain_bodies
from nimble_cradle.bay.position import pose_of
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Gearbox

BEHIND = 60.0
"""How far behind the pieces a half-shaft is put to begin with, mm."""


def with_gearbox_kind(job: Job, kind: Literal["gearbox", "transaxle", "transfer case"]) -> Job:
    """The job with another kind of gearbox; a transaxle gets seats for its half-shafts behind all its pieces,
    and outer joints where there are none, to be typed over. Raises JobError."""
    box = job.powertrain.gearbox
    seats = (box.seats or _first_seats(job)) if kind == "transaxle" else None
    kept = {k: getattr(box, k) for k in Gearbox.model_fields}
    after = with_value(job, "powertrain/gearbox", Gearbox(**{**kept, "kind": kind, "seats": seats}))
    return with_hubs(after) if kind == "transaxle" and job.vehicle.hubs is None else after


def _first_seats(job: Job) -> tuple[Vec3, Vec3]:
    """Seats left and right of the gearbox's output as the car stands, BEHIND mm behind all pieces, powertrain
    frame: a shaft from there runs through nothing. Raises JobError."""
    pose, bodies = pose_of(job.position), powertrain_bodies(job)
    centres, half = bodies.boxes(pose)
    output = pose.points(job.powertrain.gearbox.output)
    rear = float((centres - half)[:, 0].min(initial=float(output[0])))
    out: list[Vec3] = []
    for side in (1.0, -1.0):
        x, y, z = (
            pose.inverse().points(np.array([rear - BEHIND, output[1] + 90.0 * side, output[2]])).tolist()
        )
        out.append((round(x, 1), round(y, 1), round(z, 1)))
    return out[0], out[1]


def with_hubs(job: Job) -> Job:
    """The job with outer joints of the half-shafts straight out from their seats, 380 mm to each side and
    40 down, to be typed over. Raises JobError."""
    seats = job.powertrain.gearbox.seats
    if seats is None:
        raise JobError("Only a transaxle has half-shafts.", "powertrain/gearbox/kind")
    pose = pose_of(job.position)
    hubs = []
    for seat, side in zip(seats, (1.0, -1.0), strict=True):
        x, y, z = (round(float(c), 1) for c in pose.points(seat) + (0.0, 380.0 * side, -40.0))
        hubs.append((x, y, z))
    return with_value(job, "vehicle/hubs", tuple(hubs))
