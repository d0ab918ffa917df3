"""Where the powertrain stands, how it is nudged about a pivot, and the words for it."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from nimble_cradle.bay.bodies import fitted_pieces, powertrain_bodies
from nimble_cradle.geometry.direction import AXIS_WORDS
from nimble_cradle.geometry.pose import Array, Pose, angles_xyz, rotation_about, rotation_xyz, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Position
from nimble_cradle.units import Display, show

Pivot = Literal["crank-nose", "gearbox-mount", "engine-centre"]
PIVOT_NAMES: dict[str, str] = {
    "crank-nose": "the crank nose",
    "gearbox-mount": "the gearbox mount",
    "engine-centre": "the engine's centre",
}


def pose_of(position: Position) -> Pose:
    """Powertrain frame to vehicle frame. Nose up is a right-handed turn by -pitch about y (left)."""
    return Pose(
        rotation_xyz(position.roll_deg, -position.pitch_deg, position.yaw_deg),
        np.array([position.x, position.y, position.z]),
    )


def position_of(pose: Pose, pivot: Pivot) -> Position:
    """The position that a pose stands for, rounded to a thousandth of a millimetre and a ten-thousandth of
    a degree."""
    roll, pitch, yaw = angles_xyz(pose.rotation)
    x, y, z = (round(float(c), 3) + 0.0 for c in pose.translation)
    return Position(
        x=x,
        y=y,
        z=z,
        roll_deg=round(roll, 4) + 0.0,
        pitch_deg=round(-pitch, 4) + 0.0,
        yaw_deg=round(yaw, 4) + 0.0,
        pivot=pivot,
    )


def pivot_point(job: Job) -> Array:
    """The chosen pivot (3,) in the powertrain frame: where turning leaves the powertrain still."""
    pieces = fitted_pieces(job)
    if not pieces:
        raise JobError(
            "The powertrain has no pieces yet, so there is nothing to turn about.", "powertrain/pieces"
        )
    bodies = powertrain_bodies(job)
    low, high = (bodies.centres - np.abs(bodies.axes).sum(2)), (bodies.centres + np.abs(bodies.axes).sum(2))
    if job.position.pivot == "crank-nose":
        return np.array([float(high[:, 0].max()), 0.0, 0.0])
    if job.position.pivot == "gearbox-mount":
        for mount in job.mounts:
            if mount.carries == "gearbox":
                return np.asarray(mount.pad.centre)
        return np.asarray(job.powertrain.gearbox.output)
    ahead = low[:, 0] > -1.0
    if not ahead.any():
        return np.zeros(3)
    return np.asarray((low[ahead].min(0) + high[ahead].max(0)) / 2)


def nudged(
    job: Job, move: ArrayLike = (0, 0, 0), roll: float = 0.0, pitch: float = 0.0, yaw: float = 0.0
) -> Position:
    """The position after a move (mm, vehicle axes) and turns (degrees: top to the right, nose up, nose to
    the left) about the job's pivot."""
    pose = pose_of(job.position)
    about = pose.points(pivot_point(job))
    turn = np.eye(3)
    for axis, angle in (
        (np.array([1.0, 0, 0]), roll),
        (np.array([0, 1.0, 0]), -pitch),
        (np.array([0, 0, 1.0]), yaw),
    ):
        if angle:
            turn = rotation_about(axis, np.radians(angle)) @ turn
    translation = about + turn @ (pose.translation - about) + np.asarray(move, dtype=float)
    return position_of(Pose(turn @ pose.rotation, translation), job.position.pivot)


def levelled(job: Job, which: Literal["across", "along", "straight"]) -> Position:
    """The position with roll, pitch or yaw set to nought about the pivot."""
    position = job.position
    angles = {"roll_deg": position.roll_deg, "pitch_deg": position.pitch_deg, "yaw_deg": position.yaw_deg}
    angles[{"across": "roll_deg", "along": "pitch_deg", "straight": "yaw_deg"}[which]] = 0.0
    point = pivot_point(job)
    about = pose_of(position).points(point)
    rotation = rotation_xyz(angles["roll_deg"], -angles["pitch_deg"], angles["yaw_deg"])
    return position_of(Pose(rotation, about - rotation @ point), position.pivot)


def move_words(move: ArrayLike, display: Display, decimals: int = 1) -> str:
    """A shift (3,) mm in vehicle axes as ``12.0 mm back, 3.0 mm left, 8.0 mm down``; ``nowhere`` for none."""
    least = 0.5 * 10.0**-decimals
    said = [
        f"{show(abs(float(v)), 'length', display, decimals)} {names[0] if v > 0 else names[1]}"
        for v, names in zip(np.asarray(move, dtype=float), AXIS_WORDS, strict=True)
        if abs(v) >= least
    ]
    return ", ".join(said) or "nowhere"


def turn_words(roll: float, pitch: float, yaw: float, places: int = 2) -> str:
    """Angles in degrees as ``nose up 2.5 deg, clocked 1.0 deg to the right, nose 0.3 deg to the left``;
    for an engine across the car as ``across the car, pulleys to the right, leaning back 4.0 deg``. places:
    decimals; what shows as nought is left out.
    """
    nought = 0.5 * 10**-places
    if 45 < abs(yaw) < 135:
        side = "left" if yaw > 0 else "right"
        lean = (
            ""
            if abs(roll) < nought
            else f", leaning {'forward' if (roll > 0) == (yaw > 0) else 'back'} {abs(roll):.{places}f} deg"
        )
        level = (
            ""
            if abs(pitch) < nought
            else f", pulleys {'up' if pitch > 0 else 'down'} {abs(pitch):.{places}f} deg"
        )
        off = abs(yaw) - 90
        turned = (
            ""
            if abs(off) < nought
            else f", turned {abs(off):.{places}f} deg {'back' if off > 0 else 'forward'}"
        )
        return f"across the car, pulleys to the {side}{lean}{level}{turned}"
    said = []
    if abs(pitch) >= nought:
        said.append(f"nose {'up' if pitch > 0 else 'down'} {abs(pitch):.{places}f} deg")
    if abs(roll) >= nought:
        said.append(f"clocked {abs(roll):.{places}f} deg to the {'right' if roll > 0 else 'left'}")
    if abs(yaw) >= nought:
        said.append(f"nose {abs(yaw):.{places}f} deg to the {'left' if yaw > 0 else 'right'}")
    return ", ".join(said) or "level and straight"


def position_words(job: Job) -> tuple[str, ...]:
    """Where the engine is, for a person: the block's rear face on the crank line from the datum, and its
    angles."""
    position, display = job.position, job.show.display
    place = (
        f"{show(abs(position.x), 'length', display)} {'in front of' if position.x > 0 else 'behind'} the"
        " front axle line",
        (
            "on the centre line"
            if abs(position.y) < 0.05
            else f"{show(abs(position.y), 'length', display)} to the {'left' if position.y > 0 else 'right'}"
        ),
        f"{show(abs(position.z), 'length', display)} {'above' if position.z >= 0 else 'below'} the rail tops",
    )
    return (*place, turn_words(position.roll_deg, position.pitch_deg, position.yaw_deg))


NOUGHT = 0.05
"""A margin within so many mm of nought is nought, everywhere: no shape is known better, and words, tables
and stages agree."""


def nought(mm: float) -> float:
    """A margin, nought where it is within NOUGHT of it."""
    return 0.0 if abs(mm) <= NOUGHT else mm


def facing_words(way: Array) -> str:
    """Which way a direction (3,) of the vehicle frame faces: ``front``, ``left and up``, ``rear and
    down``."""
    x, y, z = unit(way)
    parts = (("front", "rear", x), ("left", "right", y), ("up", "down", z))
    told = [plus if c > 0 else minus for plus, minus, c in parts if abs(c) > 0.38]
    return " and ".join(told)
