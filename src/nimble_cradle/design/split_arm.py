"""An arm led round what stands between its plate and its eye: the shortest kinked one that is clear."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies
from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import clearance
from nimble_cradle.geometry.pose import Array, Pose, crosses, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import SolidPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.kinked_arm import KinkedArm
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.tube_arm import Tube, TubeArm

ITEM_AIR, PIECE_AIR = 15.0, 6.0
"""Air to the bay, for the engine's rocking, and to the engine's own pieces, mm (common practice, no
source)."""
STATIONS = (0.2, 0.35, 0.5, 0.65, 0.8)
RADII = (12.0, 25.0, 40.0, 60.0, 85.0, 115.0, 150.0)
TURNS = 16
"""Kinks that are tried: places along the straight way, how far off it, ways round it."""
LEAVES = 3.0
"""A leg is measured from so many mm past where its whole round has left the plate."""
MOST_TURN = 30.0


class _Way(NamedTuple):
    length: float
    kink: Array


def with_split_arm(job: Job, mount: Mount) -> Job:
    """The job with a mount's arm straight where that is clear, else kinked once, the shortest of those tried.
    Raises JobError where none is clear."""
    arm = mount.arm
    if not isinstance(arm, Tube):
        raise JobError(
            f"{mount.name}: only an arm of tube is led round what is in the way.", f"mounts/{mount.id}/arm"
        )
    pose = pose_of(job.position)
    path = f"mounts/{mount.id}/arm"
    straight = with_value(job, path, _straight(arm))
    around = _Around.of(job, mount, pose)
    try:
        run = arm_run(_mount(straight, mount.id), pose)
        if around.clear([(run.root, run.aim)], run.way, mount):
            return straight
    except JobError:
        pass
    for way in _ways(job, mount, pose):
        kink = tuple(round(float(c), 1) for c in pose.inverse().points(way.kink))
        trial = with_value(job, path, _kinked(arm, kink))
        try:
            run = arm_run(_mount(trial, mount.id), pose)
        except JobError:
            continue
        if run.kink_deg <= MOST_TURN and around.clear(
            [(run.root, run.aim), (run.at_eye.root, run.at_eye.aim)], run.way, mount
        ):
            return trial
    raise JobError(
        f"{mount.name}: no arm with one kink is clear of what is in the way; move the bush or the arm's"
        " root.",
        path,
    )


def _mount(job: Job, key: str) -> Mount:
    return next(m for m in job.mounts if m.id == key)


def _fields(arm: Tube) -> dict[str, Any]:
    return {name: getattr(arm, name) for name in Tube.model_fields}


def _straight(arm: Tube) -> TubeArm:
    return TubeArm(**_fields(arm))


def _kinked(arm: Tube, kink: tuple[float, ...]) -> KinkedArm:
    return KinkedArm(**_fields(arm), kink=kink)


def _ways(job: Job, mount: Mount, pose: Pose) -> list[_Way]:
    """Kinks to try, the shortest way first."""
    start, end = _joins(mount, pose)
    along = end - start
    other = np.eye(3)[int(np.abs(along).argmin())]
    u = unit(crosses(along, other))
    v = crosses(unit(along), u)
    out = []
    for share in STATIONS:
        for radius in RADII:
            for k in range(TURNS):
                a = 2 * math.pi * k / TURNS
                kink = start + share * along + radius * (math.cos(a) * u + math.sin(a) * v)
                out.append(_Way(math.dist(start, kink) + math.dist(kink, end), kink))
    return sorted(out, key=lambda way: way.length)


def _joins(mount: Mount, pose: Pose) -> tuple[Array, Array]:
    """The root on the plate and the eye's centre, (3,) each, vehicle frame: what an arm joins."""
    bare = mount.model_copy(update={"arm": None})
    run = arm_run(bare, pose)
    return run.root, run.aim


class _Around(NamedTuple):
    """What an arm has to keep clear of: the bay, and the engine's pieces but those its plate stands on."""

    bay: Bodies
    pieces: Bodies
    pose: Pose

    @classmethod
    def of(cls, job: Job, mount: Mount, pose: Pose) -> _Around:
        pieces = powertrain_bodies(job)
        spot = Bodies([[bar(c, c + [0.0, 0.0, 0.1], 0.1)] for c in [np.asarray(mount.pad.centre)]])
        near = set()
        solids: list[list[SolidPart]] = []
        for k, _ in enumerate(fitted_pieces(job)):
            own = Bodies(
                [[part for part, owner in zip(pieces.parts, pieces.owner, strict=True) if owner == k]]
            )
            if clearance(spot, Pose.still(), own, 9.0)[0] <= 8.0:
                near.add(k)
            solids.append(list(own.parts))
        others = [rows for k, rows in enumerate(solids) if k not in near]
        return cls(bay_bodies(job), Bodies(others), pose)

    def clear(self, legs: Sequence[tuple[Array, Array]], way: Array, mount: Mount) -> bool:
        """Whether legs from the plate keep their air."""
        arm = mount.arm
        assert isinstance(arm, Tube)
        start = legs[0][0] + (arm.outside_mm / 2 + LEAVES) * way
        rows = [(start, legs[0][1]), *legs[1:]]
        tubes: list[SolidPart] = [
            bar(a, b, arm.outside_mm) for a, b in rows if float(np.linalg.norm(b - a)) > 1.0
        ]
        if not tubes:
            return True
        if clearance(Bodies([tubes]), Pose.still(), self.bay, ITEM_AIR)[0] < ITEM_AIR:
            return False
        back = self.pose.inverse()
        own: list[SolidPart] = [tube.placed(back) for tube in tubes]  # type: ignore[union-attr]
        return self.pieces.count == 0 or (
            clearance(Bodies([own]), Pose.still(), self.pieces, PIECE_AIR)[0] >= PIECE_AIR
        )
