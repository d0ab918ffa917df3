"""Another kind of gearbox, with what it needs to begin from."""

from __future__ import annotations

from typing import Literal

from nimble_cradle.bay.position import pose_of
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Gearbox


def with_gearbox_kind(job: Job, kind: Literal["gearbox", "transaxle", "transfer case"]) -> Job:
    """The job with another kind of gearbox; a transaxle gets seats for its half-shafts beside its output,
    and outer joints where there are none, to be typed over. Raises JobError."""
    box = job.powertrain.gearbox
    x, y, z = box.output
    seats = (box.seats or ((x, y + 90.0, z), (x, y - 90.0, z))) if kind == "transaxle" else None
    kept = {k: getattr(box, k) for k in Gearbox.model_fields}
    after = with_value(job, "powertrain/gearbox", Gearbox(**{**kept, "kind": kind, "seats": seats}))
    return with_hubs(after) if kind == "transaxle" and job.vehicle.hubs is None else after


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
