"""The lowest point of what goes into the car: the powertrain's pieces, the mounts' plates, arms and eyes,
and the gearbox crossmember."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.fit.bodies import fitted_pieces, powertrain_bodies
from nimble_cradle.fit.position import nought, pose_of
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ConvexPart, SolidPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.strength.arms import crossmember_solids, eye_solid, mount_solids


@dataclass(frozen=True)
class LowestPoint:
    """The lowest point of all that goes in and how it stands to the lowest chassis line. mm; above_line
    negative hangs below.

    piece: the id of a piece, ``mounts/`` and the id of a mount, or ``crossmember``; piece_name: its name.
    """

    piece: str
    piece_name: str
    z: float
    line_z: float
    to_ground: float

    @property
    def above_line(self) -> float:
        """Height over the lowest chassis line, mm."""
        return nought(self.z - self.line_z)


def _reach(parts: Sequence[SolidPart], down: Array) -> list[float]:
    """How far each part reaches along ``down`` (3,), its owner's frame, mm."""
    return [
        (
            float(part.support(down[None])[0])
            if isinstance(part, ConvexPart)
            else float((part.vertices @ down).max())
        )
        for part in parts
    ]


def lowest_point(job: Job) -> LowestPoint | None:
    """The lowest point at the job's position: of the fitted pieces, of every mount's plate, arm and eye
    (of an eye alone where the rest cannot be drawn) and of the crossmember; None without any."""
    pose = pose_of(job.position)
    down = np.array([0.0, 0.0, -1.0])
    here = pose.rotation.T @ down
    ids: list[tuple[str, str]] = []
    heights: list[float] = []
    bodies, pieces = powertrain_bodies(job), fitted_pieces(job)
    for k, reach in enumerate(_reach(bodies.parts, here)):
        piece = pieces[int(bodies.owner[k])]
        ids.append((piece.id, piece.name))
        heights.append(float(pose.translation[2]) - reach)
    for mount in job.mounts:
        words: tuple[str, ...] = ("plate", "arm", "eye") if mount.arm is not None else ("plate", "eye")
        try:
            lows = [float(pose.translation[2]) - r for r in _reach(mount_solids(mount, pose), here)]
        except JobError:
            words, lows = ("eye",), [-r for r in _reach([eye_solid(mount)], down)]
        ids += [(f"mounts/{mount.id}", f"{mount.name}, {word}") for word in words]
        heights += lows
    tube = crossmember_solids(job.crossmember)
    ids += [("crossmember", "Crossmember")] * len(tube)
    heights += [-r for r in _reach(tube, down)]
    if not heights:
        return None
    k = int(np.argmin(heights))
    z = heights[k]
    return LowestPoint(*ids[k], z, job.vehicle.lowest_line_z_mm, z - job.vehicle.ground_z_mm)


def height_over(z: float, line_z: float) -> float:
    """Height of a point over a line, mm."""
    return z - line_z


LOWEST = calculation(
    "lowest-point",
    "Lowest point of all that goes in over the lowest chassis line",
    inputs=(
        Q("z", "mm", "height of the lowest point of all that goes in from the datum"),
        Q("line_z", "mm", "height of the lowest chassis line from the datum"),
    ),
    outputs=(Q("height", "mm", "height over the line; below nought it hangs under the chassis"),),
    formula="height = z - line_z",
    source="definition",
    leaves_out="the weight sag of the bushes, which lowers the powertrain further",
)(height_over)
