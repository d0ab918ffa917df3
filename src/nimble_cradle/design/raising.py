"""The engine raised or lowered at its mounts: each by its own, or all by as much; and what that asks of every
chassis side."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.position import pose_of, position_of
from nimble_cradle.geometry.pose import Array, Pose, rotation_about
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.foot import FactoryFoot, PlateFoot, SaddleFoot, TabsFoot
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.threads import thread
from nimble_cradle.strength.spacer import PIECES

MOST = 120.0
"""An engine is raised or lowered by at most so many mm at a time."""


@dataclass(frozen=True)
class Raised:
    """The job so changed; and by mount, how far it went up, mm, and what that asks, in sentences. tilt_deg:
    how much its left side and its nose go up."""

    job: Job
    by: Mapping[str, float]
    done: tuple[str, ...]
    tilt_deg: tuple[float, float]


def raised(job: Job, by: Mapping[str, float]) -> Raised:
    """The engine with its mounts so many mm higher (lower below nought), by their ids; those not named stay.
    Bushes go with the engine; chassis sides follow. Raises JobError."""
    known = {mount.id for mount in job.mounts}
    for key in by:
        if key not in known:
            raise JobError(f"There is no mount “{key}” to raise.", "mounts")
    rows = [(mount, float(by.get(mount.id, 0.0))) for mount in job.mounts]
    if not rows:
        raise JobError("There is no mount to raise the engine by.", "mounts")
    if max(abs(mm) for _, mm in rows) > MOST:
        raise JobError(f"At most {MOST:g} mm at a time.", "mounts")
    pose, (roll, pitch) = _moved(job, rows)
    places = {
        m.id: _at(pose @ pose_of(job.position).inverse(), np.asarray(m.bush.centre, dtype=float))
        for m, _ in rows
    }
    after = with_value(job, "position", position_of(pose, job.position.pivot))
    done = []
    for mount, _ in rows:
        up = places[mount.id][2] - mount.bush.centre[2]
        after = with_value(after, f"mounts/{mount.id}/bush/centre", places[mount.id])
        after, words = _chassis_side(after, mount, up)
        if words:
            done.append(words)
    cross = after.crossmember
    if cross is not None and cross.carries in places:
        done.append(_crossmember(next(m for m, _ in rows if m.id == cross.carries), places[cross.carries]))
    told = {m.id: round(places[m.id][2] - m.bush.centre[2], 2) for m, _ in rows}
    return Raised(after, told, tuple(done), (round(roll, 3), round(pitch, 3)))


def _at(move: Pose, place: Array) -> tuple[float, float, float]:
    x, y, z = (round(float(c), 2) for c in move.points(place))
    return x, y, z


def _moved(job: Job, rows: list[tuple[Mount, float]]) -> tuple[Pose, tuple[float, float]]:
    """Where the powertrain then stands: up, rolled and pitched as the mounts ask, least squares where there
    are more than three; and by how many degrees its left side and its nose go up."""
    places = np.array([m.bush.centre for m, _ in rows], dtype=float)
    want = np.array([mm for _, mm in rows])
    middle = places.mean(0)
    off = places - middle
    system = np.column_stack([np.ones(len(rows)), off[:, 1], -off[:, 0]])
    up, roll, pitch = np.linalg.lstsq(system, want, rcond=1e-9)[0]
    turn = np.array([roll, pitch, 0.0])
    angle = float(np.linalg.norm(turn))
    spun = np.eye(3) if angle < 1e-12 else rotation_about(turn / angle, angle)
    # about the middle of the mounts, which goes straight up
    move = Pose(spun, middle + np.array([0.0, 0.0, float(up)]) - spun @ middle)
    return move @ pose_of(job.position), (float(np.degrees(roll)), float(-np.degrees(pitch)))


def _chassis_side(job: Job, mount: Mount, up: float) -> tuple[Job, str]:
    """The job with its chassis side for a bush that went ``up`` mm, and what is made or cut."""
    if abs(up) < 0.05:
        return job, ""
    foot, word = mount.foot, f"{mount.name}, {abs(up):.1f} mm {'up' if up > 0 else 'down'}"
    path = f"mounts/{mount.id}/foot"
    if foot is None:
        return job, f"{word}: what holds its bush on the chassis is not described."
    if isinstance(foot, PlateFoot) and foot.fixing == "bolted":
        thick = round(foot.patch_mm + up, 2)
        if thick >= 0.05 or (thick > -0.05 and foot.patch_mm):
            thick = max(thick, 0.0)
            job = with_value(job, f"{path}/patch_mm", thick)
            diameter = thread(foot.bolt).diameter
            stack = (
                f"{PIECES} washers at most on one another"
                if thick <= diameter
                else f"one plate, no washers: over {diameter:g} mm they are a column"
            )
            bolts = f"{foot.bolt} bolts {abs(up):.1f} mm {'longer' if up > 0 else 'shorter'}"
            return job, f"{word}: {thick:g} mm under its foot, {stack}; its {bolts}."
    if isinstance(foot, FactoryFoot):
        tail = "a spacer on the factory bracket and longer bolts" if up > 0 else "nothing can be taken off it"
        return job, f"{word}: {tail}."
    assert isinstance(foot, PlateFoot | SaddleFoot | TabsFoot)
    cut = (
        f"cut {-up:.1f} mm off the foot of its cheeks"
        if up < 0
        else f"make its cheeks {up:.1f} mm higher, or cut them off and weld a piece between"
    )
    return job, f"{word}: {cut}; template cheek-{mount.id}."


def _crossmember(mount: Mount, place: tuple[float, float, float]) -> str:
    up = place[2] - mount.bush.centre[2]
    return f"The crossmember stays; what stands on it for {mount.name} changes by {up:+.1f} mm." if up else ""
