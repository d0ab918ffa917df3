"""Mount plates, arms, eyes and the crossmember as solids for the 3-D view, from the same figures as the templates."""

from __future__ import annotations

import numpy as np

from nimble_cradle.fit.position import pose_of
from nimble_cradle.geometry.pose import Pose, unit
from nimble_cradle.geometry.solids import ConvexPart, SolidPart, bar, box
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
    return [*out, *(ConvexPart(p.kind, pose @ p.pose, p.size, p.hull_vertices, p.hull_triangles) for p in parts)]


def crossmember_solids(job: Job) -> list[SolidPart]:
    """The crossmember's tube, a box or bar from point to point, in the vehicle frame."""
    cross = job.crossmember
    if cross is None:
        return []
    section = cross.section
    out: list[SolidPart] = []
    for a, b in zip(cross.points, cross.points[1:], strict=False):
        start, end = np.asarray(a), np.asarray(b)
        if section.shape == "round":
            out.append(bar(start, end, section.height_mm))
            continue
        along = unit(end - start)
        up = np.array([0.0, 0.0, 1.0]) - along[2] * along
        if np.linalg.norm(up) < 1e-6:
            up = np.array([1.0, 0.0, 0.0])
        up = unit(up)
        rotation = np.column_stack([along, np.cross(up, along), up])
        width = section.height_mm if section.shape == "square" else section.width_mm
        size = np.array([np.linalg.norm(end - start), width, section.height_mm])
        made = box((start + end) / 2, size)
        out.append(ConvexPart("box", Pose(rotation, made.pose.translation), made.size))
    return out
