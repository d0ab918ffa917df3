"""The corners of the powertrain where it stands."""

from __future__ import annotations

import numpy as np

from nimble_cradle.bay.bodies import fitted_pieces, solid_of
from nimble_cradle.bay.position import pose_of
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered


@remembered("powertrain", "meshes", "position")
def powertrain_corners(job: Job) -> Array:
    """(n, 3) corners of the solids of all pieces where the powertrain stands, vehicle frame. Raises
    JobError."""
    pose = pose_of(job.position)
    corners = [
        part.triangles[0]
        for piece in fitted_pieces(job)
        for part in solid_of(piece, job.meshes, "powertrain/pieces")
    ]
    if not corners:
        raise JobError("There is no piece of the powertrain yet.", "powertrain/pieces")
    return pose.points(np.vstack(corners))
