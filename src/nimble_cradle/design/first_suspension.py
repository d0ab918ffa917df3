"""A suspension to begin with, to be typed over with what is measured; the other side's; a rack moved."""

from __future__ import annotations

from typing import Any

import numpy as np

from nimble_cradle.fit.pivots import pivots_of
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.edits import added, free_id, removed, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.suspension import (
    AxleLink,
    Corner,
    LinkedAxle,
    Pivot,
    StrutCorner,
    Suspension,
    WishboneCorner,
)
from nimble_cradle.job.twins import mirrored_name

KINDS: dict[str, str] = {
    "strut left": "Left wheel, strut",
    "strut right": "Right wheel, strut",
    "two wishbones left": "Left wheel, two wishbones",
    "two wishbones right": "Right wheel, two wishbones",
    "live axle": "Live axle on links",
}
"""What can be begun, by key."""
HALF_TRACK = 700.0
"""Half of the track where no hub is said, mm (common practice, no source)."""


def first_suspension(job: Job, kind: str) -> Suspension:
    """One of a kind of KINDS with its points where such points often are, told as guesses."""
    key = free_id("suspension", {one.id for one in job.suspensions})
    if kind == "live axle":
        return _first_axle(job, key)
    side = kind.rpartition(" ")[2]
    hubs = job.vehicle.hubs
    hub = hubs[0 if side == "left" else 1] if hubs is not None else None
    half = HALF_TRACK if hub is None else abs(hub[1])
    y = 1.0 if side == "left" else -1.0
    z = job.vehicle.ground_z_mm + job.vehicle.tyre_radius_mm

    def at(ahead: float, of_half: float, up: float) -> Pivot:
        return Pivot(at=(ahead, y * round(of_half * half), round(z + up)))

    shared: dict[str, Any] = {
        "id": key,
        "name": f"{side.capitalize()} front wheel" if _free(job, f"{side.capitalize()} front wheel") else key,
        "side": side,
        "lower_front": at(120, 0.48, -60),
        "lower_rear": at(-120, 0.48, -60),
        "lower_ball": at(0, 0.92, -80),
        "rod_inner": at(-130, 0.46, -30),
        "rod_outer": at(-130, 0.9, -45),
        "wheel": at(0, 1.0, 0),
    }
    if kind.startswith("strut"):
        return StrutCorner(**shared, strut_low=at(0, 0.86, 60), strut_top=at(-20, 0.78, 480))
    return WishboneCorner(
        **shared, upper_front=at(80, 0.58, 150), upper_rear=at(-120, 0.58, 145), upper_ball=at(-10, 0.87, 165)
    )


def _free(job: Job, name: str) -> bool:
    return all(one.name != name for one in job.suspensions)


def _first_axle(job: Job, key: str) -> LinkedAxle:
    x, z = -job.vehicle.wheelbase_mm, job.vehicle.ground_z_mm + job.vehicle.tyre_radius_mm

    def link(name: str, key: str, car: Vec3, axle: Vec3) -> AxleLink:
        ends = (tuple(float(v) for v in np.add(p, (x, 0, z))) for p in (car, axle))
        return AxleLink(id=key, name=name, car=Pivot(at=next(ends)), axle=Pivot(at=next(ends)))

    return LinkedAxle(
        id=key,
        name="Rear axle",
        left_wheel=Pivot(at=(x, HALF_TRACK, z)),
        right_wheel=Pivot(at=(x, -HALF_TRACK, z)),
        links=(
            link("Lower left link", "lower-left", (550, 420, -40), (10, 480, -60)),
            link("Lower right link", "lower-right", (550, -420, -40), (10, -480, -60)),
            link("Upper link", "upper", (400, 0, 120), (20, 0, 130)),
            link("Cross rod", "cross", (-60, 480, 20), (-60, -480, 10)),
        ),
    )


def mirrored(corner: Corner, key: str) -> Corner:
    """The other side's wheel: every point and move mirrored across the car's middle. Its points are typed,
    for those of the survey are of this side."""

    def across(v: Vec3) -> Vec3:
        return v[0], 0.0 - v[1], v[2]

    changed: dict[str, Any] = {
        path: pivot.model_copy(update={"at": across(pivot.at), "moved": across(pivot.moved), "point": None})
        for path, (_, pivot) in pivots_of(corner).items()
    }
    side = "right" if corner.side == "left" else "left"
    return corner.model_copy(update={**changed, "id": key, "side": side, "name": mirrored_name(corner.name)})


def with_other_side(job: Job, corner: Corner, other: Corner | None) -> Job:
    """The job with the other side moved as this one is; made, as a guess, where it is not there yet."""
    if other is None:
        key = free_id("suspension", {one.id for one in job.suspensions})
        made = mirrored(corner, key).model_copy(update={"measured": "guess", "plus_minus_mm": None})
        return added(job, "suspensions", made)
    for path, (_, pivot) in pivots_of(corner).items():
        x, y, z = pivot.moved
        job = with_value(job, f"suspensions/{other.id}/{path}/moved", (x, 0.0 - y, z))
    return job


def with_rack_up(job: Job, corners: tuple[Corner, ...], by: float) -> Job:
    """The job with the rack, and so the inner ball of every one of these wheels, moved up by so many mm."""
    for corner in corners:
        x, y, z = corner.rod_inner.moved
        job = with_value(job, f"suspensions/{corner.id}/rod_inner/moved", (x, y, round(z + by, 1)))
    return job


def without(job: Job, key: str) -> Job:
    """The job without a suspension. Raises JobError where an item goes with it."""
    riders = [
        i.name for i in job.items if i.motion is not None and getattr(i.motion, "suspension", "") == key
    ]
    if riders:
        raise JobError(f"{riders[0]} goes with it: let it move otherwise first.", "suspensions")
    return removed(job, f"suspensions/{key}")
