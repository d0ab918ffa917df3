"""A first mount to begin from, and an eye set straight on its plate."""

from __future__ import annotations

from typing import Literal

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.family import eye_of
from nimble_cradle.geometry.pose import frame, unit
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.bonded_bush import BondedBush
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount, Pad
from nimble_cradle.job.tube_arm import TubeArm
from nimble_cradle.stock.rack import NOTHING, Rack, first_bush, nearest_tube


def first_mount(job: Job, key: str, rack: Rack = NOTHING) -> Mount:
    """A mount with the id ``key``: on the side of the block that has fewer, the third and later ones under
    the gearbox output; of the bush and the tube that are at hand, else of usual sizes."""
    engine = [mount for mount in job.mounts if mount.carries == "engine"]
    under_gearbox = len(engine) >= 2
    side = 1.0 if sum(np.sign(m.pad.normal[1]) for m in engine) <= 0 else -1.0
    centre: Vec3 = job.powertrain.gearbox.output if under_gearbox else (200.0, side * 120.0, 0.0)
    away = np.array([0.0, 0.0, -70.0]) if under_gearbox else np.array([0.0, side * 160.0, -60.0])
    x, y, z = (round(float(c), 1) for c in pose_of(job.position).points(np.array(centre) + away))
    carries: Literal["engine", "gearbox"] = "gearbox" if under_gearbox else "engine"
    pad = Pad(
        centre=centre,
        normal=(0.0, 0.0, -1.0) if under_gearbox else (0.0, side, 0.0),
        up=(1.0, 0.0, 0.0) if under_gearbox else (0.0, 0.0, 1.0),
        holes=((-40, -28), (40, -28), (40, 28), (-40, 28)),
    )
    bush = BondedBush(centre=(x, y, z), axis=(1.0, 0.0, 0.0), **first_bush(rack)._asdict())
    name = "Gearbox mount" if under_gearbox else f"{'Left' if side > 0 else 'Right'} engine mount"
    return Mount(
        id=key,
        name=name,
        carries=carries,
        pad=pad,
        arm=None if under_gearbox else _first_arm(rack),
        bush=bush,
    )


def _first_arm(rack: Rack) -> TubeArm:
    """A tube of 50 x 4, or the nearest at hand."""
    tube = nearest_tube(rack, "round", 50.0, 4.0)
    if tube is None:
        return TubeArm(outside_mm=50.0, wall_mm=4.0)
    return TubeArm(outside_mm=tube.height_mm, wall_mm=tube.wall_mm, steel=tube.steel)


def with_eye_on_plate(job: Job, mount: Mount) -> Job:
    """The job with the eye of a mount without an arm set straight on the cross of its plate, its axis laid
    along the plate; a crossmember that carries it goes with it. Raises JobError."""
    if mount.arm is not None:
        raise JobError(
            f"{mount.name} has an arm: its eye does not stand on the plate.", f"mounts/{mount.id}/arm"
        )
    pad, bush = mount.pad, mount.bush
    pose = pose_of(job.position)
    axes = pose.rotation @ frame(pad.normal, pad.up)
    along = np.asarray(bush.axis) - (np.asarray(bush.axis) @ axes[:, 2]) * axes[:, 2]
    if float(np.linalg.norm(along)) < 1e-6:
        raise JobError(
            f"{mount.name}: the bush's axis stands square on the plate; turn it.",
            f"mounts/{mount.id}/bush/axis",
        )
    radius = eye_of(bush).outside_mm / 2
    at = pose.points(pad.centre) + axes @ np.array([*pad.arm_at, pad.out_mm + radius])
    x, y, z = (round(float(c), 1) for c in at)
    i, j, k = (round(float(c), 4) for c in unit(along))
    base = f"mounts/{mount.id}/bush"
    moved = with_value(with_value(job, f"{base}/centre", (x, y, z)), f"{base}/axis", (i, j, k))
    cross = job.crossmember
    if cross is None or cross.carries != mount.id:
        return moved
    by = np.subtract((x, y, z), bush.centre)
    ends = {0, len(cross.points) - 1}
    points = tuple(
        (
            round(point[0] + float(by[0]), 1),
            point[1],
            point[2] if n in ends else round(point[2] + float(by[2]), 1),
        )
        for n, point in enumerate(cross.points)
    )
    return with_value(moved, "crossmember/points", points)
