"""The room round the crossmember: pieces of the powertrain that come nearer to its tube than they need."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from nimble_cradle.bay.bodies import fitted_pieces, powertrain_bodies
from nimble_cradle.bay.position import nought, pose_of
from nimble_cradle.families.part import Owner
from nimble_cradle.findings.finding import Problem
from nimble_cradle.fit.gaps import most_moved
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.job.job import Job
from nimble_cradle.made.parts import made


def pieces_too_near(job: Job, poses: Sequence[tuple[str, Pose]]) -> tuple[Problem, ...]:
    """Pieces that come nearer to the crossmember than they need. poses: where the powertrain stands in load
    cases (name, pose), besides at rest."""
    tube = [s for part in made(job).of(Owner("crossmember")) for s in part.solids]
    pieces = fitted_pieces(job)
    if not tube or not pieces:
        return ()
    need = _needs(job)
    return tuple(
        _problem(pieces[k].name, gap, name, float(need[k, 0]))
        for k, (gap, name) in sorted(_least(job, Bodies([tube]), need, poses).items())
        if nought(gap - need[k, 0]) < 0
    )


def _needs(job: Job) -> Array:
    """(n, 1) mm that each piece keeps off metal."""
    table = {clearance.id: clearance.required_mm for clearance in job.clearances}
    metal = table.get("metal", min(table.values()))
    kinds = [piece.neighbour for piece in fitted_pieces(job)]
    return np.array([[max(table.get(kind, metal), metal)] for kind in kinds])


def _least(
    job: Job, tube: Bodies, need: Array, poses: Sequence[tuple[str, Pose]]
) -> dict[int, tuple[float, str]]:
    """Of each piece that comes near, the least distance mm, and where that is."""
    rest, moving = pose_of(job.position), powertrain_bodies(job)
    moved = [most_moved(moving, rest, pose)[:, None] for _, pose in poses]
    reach = need + np.max(moved, axis=0) if moved else need
    least = {n.a: (n.distance, "at rest") for n in nearest(moving, rest, tube, reach)}
    still = np.array([[least[k][0] if k in least else np.inf] for k in range(len(need))])
    for (name, pose), far in zip(poses, moved, strict=True):
        near = still - far < need
        for n in nearest(moving, pose, tube, np.where(near, need, -np.inf)) if near.any() else ():
            if n.distance < least[n.a][0]:
                least[n.a] = n.distance, name
    return least


def _problem(piece: str, gap: float, when: str, need: float) -> Problem:
    comes = (
        f"comes {gap:.1f} mm from the crossmember"
        if gap >= 0
        else f"comes into the crossmember by {-gap:.1f} mm"
    )
    return Problem("crossmember", "crossmember/points", f"{piece} {comes} ({when}); it needs {need:g} mm.")
