"""The lowest point of what goes into the car: the powertrain's pieces, the mounts' plates, arms and eyes,
and the gearbox crossmember."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.bodies import fitted_pieces, powertrain_bodies
from nimble_cradle.bay.position import nought, pose_of
from nimble_cradle.calc import Q, calculation
from nimble_cradle.families.part import MadePart
from nimble_cradle.geometry.pose import Array
from nimble_cradle.geometry.solids import ConvexPart, SolidPart
from nimble_cradle.job.job import Job
from nimble_cradle.made.parts import made


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

    @property
    def owner(self) -> str:
        """The stage of what it is: ``mounts`` (cradles too), ``crossmember``, or empty for a piece."""
        kind = self.piece.partition("/")[0]
        return {"mounts": "mounts", "cradles": "mounts", "crossmember": "crossmember"}.get(kind, "")

    def low_words(self) -> list[str]:
        """That it hangs low, in one sentence; nothing where it does not."""
        return [f"{self.piece_name} hangs below the lowest chassis line"] if self.above_line < 0 else []


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


def _told(part: MadePart) -> tuple[str, str]:
    """Id and name of a made part, as the lowest point tells them."""
    if part.owner.kind == "crossmember":
        return "crossmember", "Crossmember"
    if part.owner.kind == "panel":
        return f"panels/{part.owner.id}", part.name
    if part.owner.kind == "cradle":
        return f"cradles/{part.owner.id}", part.name.partition(":")[0]
    return f"mounts/{part.owner.id}", f"{part.name.partition(':')[0]}, {part.role}"


def lowest_point(job: Job) -> LowestPoint | None:
    """The lowest point at the job's position: of the fitted pieces, of every mount's plate, arm and eye
    (of an eye alone where the rest cannot be drawn) and of the crossmember; None without any."""
    pose = pose_of(job.position)
    down = np.array([0.0, 0.0, -1.0])
    ids: list[tuple[str, str]] = []
    heights: list[float] = []
    bodies, pieces = powertrain_bodies(job), fitted_pieces(job)
    for k, reach in enumerate(_reach(bodies.parts, pose.rotation.T @ down)):
        piece = pieces[int(bodies.owner[k])]
        ids.append((piece.id, piece.name))
        heights.append(float(pose.translation[2]) - reach)
    for part in made(job).parts:
        if part.solids and not part.stands_in:
            lows = _reach(part.solids, pose.rotation.T @ down if part.moves else down)
            base = float(pose.translation[2]) if part.moves else 0.0
            ids.append(_told(part))
            heights.append(min(base - low for low in lows))
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
