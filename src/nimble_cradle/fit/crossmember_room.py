"""The room round crossmember and cradles: pieces of the powertrain that come nearer to their tubes than they
need."""

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
    """Pieces that come nearer to the crossmember or a cradle than they need. poses: where the powertrain
    stands in load cases (name, pose), besides at rest."""
    pieces, parts = fitted_pieces(job), made(job)
    if not pieces:
        return ()
    need = _needs(job)
    rows = [("crossmember", "crossmember/points", "the crossmember", Owner("crossmember"))]
    rows += [("mounts", f"cradles/{c.id}/points", c.name, Owner("cradle", c.id)) for c in job.cradles]
    out = []
    for stage, place, name, owner in rows:
        tubes = [s for part in parts.of(owner) for s in part.solids]
        if not tubes:
            continue
        for k, (gap, when) in sorted(_least(job, Bodies([tubes]), need, poses).items()):
            if nought(gap - need[k, 0]) < 0:
                sentence = _words(pieces[k].name, name, gap, when, float(need[k, 0]))
                out.append(Problem(stage, place, sentence))
    return tuple(out)


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


def _words(piece: str, tube: str, gap: float, when: str, need: float) -> str:
    comes = f"comes {gap:.1f} mm from {tube}" if gap >= 0 else f"comes into {tube} by {-gap:.1f} mm"
    return f"{piece} {comes} ({when}); it needs {need:g} mm."
