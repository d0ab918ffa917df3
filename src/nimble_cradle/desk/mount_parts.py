"""Mount plates, arms and eyes as solids for the 3-D view, from the same figures as the templates."""

from __future__ import annotations

import numpy as np

from nimble_cradle.fit.position import pose_of
from nimble_cradle.geometry.pose import unit
from nimble_cradle.geometry.solids import ConvexPart, SolidPart, bar
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.strength.arms import mount_solids


def drawn_mount(mount: Mount, job: Job) -> list[SolidPart]:
    """Plate, arm, eye and sleeve in the vehicle frame; what cannot be drawn is left out."""
    bush = mount.bush
    axis = unit(bush.axis) * bush.length_mm / 2
    centre = np.asarray(bush.centre)
    out: list[SolidPart] = [bar(centre - 1.25 * axis, centre + 1.25 * axis, bush.sleeve_mm)]
    pose = pose_of(job.position)
    try:
        parts = mount_solids(mount, pose)
    except JobError:
        return [*out, bar(centre - axis, centre + axis, bush.eye_bore_mm + 2 * bush.eye_wall_mm)]
    return [
        *out,
        *(ConvexPart(p.kind, pose @ p.pose, p.size, p.hull_vertices, p.hull_triangles) for p in parts),
    ]
