"""Where an arm runs: from the plate's root to the bush eye, for the powertrain at a pose. Vehicle frame,
mm."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from nimble_cradle.geometry.plate import Plate, plate_round
from nimble_cradle.geometry.pose import Array, Pose, cross, frame, unit
from nimble_cradle.geometry.solids import ConvexPart, SolidPart, bar, box, pushed
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Crossmember, Mount
from nimble_cradle.strength.plate import Footprint, oval_footprint

TOUCHES = 0.05
"""An eye that stands in its plate by no more than so many mm, as rounded figures leave it, touches it."""
MOST_SLOPE, LEAST_EYE_ANGLE = 60.0, 30.0
"""Degrees off square at the plate beyond which a fillet round the tube is none, and between arm and eye
axis under which it peels the eye (EN 1993-1-8:2005, 4.3.2.1 and 7.1.2, from memory)."""


@dataclass(frozen=True, eq=False)
class ArmRun:
    """An arm's axis. root: (3,) on the plate's outer face; aim: (3,) where it comes nearest the eye's axis,
    past it by the offset; way: (3,) unit.

    length: root to aim. axes: (3, 3) columns u, v, normal of the pad. eye_angle_deg: between arm and eye
    axis, 90 is square. plate_angle_deg: between arm and the plate's normal, 0 is square on.
    """

    root: Array
    aim: Array
    way: Array
    length: float
    axes: Array
    pad_centre: Array
    eye_radius: float
    eye_angle_deg: float
    plate_angle_deg: float


def arm_run(mount: Mount, pose: Pose) -> ArmRun:
    """The arm of a mount, or for a mount without one the line from plate to bush. Raises JobError where it
    cannot be."""
    pad, bush = mount.pad, mount.bush
    axes = pose.rotation @ frame(pad.normal, pad.up)
    centre = pose.points(pad.centre)
    root = centre + axes @ np.array([pad.arm_at[0], pad.arm_at[1], pad.plate_mm])
    eye = np.asarray(bush.centre, dtype=float)
    axis = unit(bush.axis)
    eye_radius = bush.eye_bore_mm / 2 + bush.eye_wall_mm
    line = eye - root
    if np.linalg.norm(line) < eye_radius - TOUCHES:
        raise JobError(
            f"{mount.name}: the bush eye stands in the plate; move the bush away from the block.",
            f"mounts/{mount.id}/bush/centre",
        )
    aim = eye
    if mount.arm is not None and mount.arm.offset_mm:
        aim = eye + mount.arm.offset_mm * _past(line, axis, mount)
    line = aim - root
    length = float(np.linalg.norm(line))
    way = line / length
    eye_angle = math.degrees(math.acos(min(1.0, abs(float(way @ axis)))))
    plate_angle = math.degrees(math.acos(float(np.clip(way @ axes[:, 2], -1.0, 1.0))))
    if mount.arm is not None:
        if eye_angle < LEAST_EYE_ANGLE:
            raise JobError(
                f"{mount.name}: the arm meets the bush at {eye_angle:.0f} deg to its axis and would peel it;"
                " turn the bush across the arm.",
                f"mounts/{mount.id}/bush/axis",
            )
        if plate_angle > MOST_SLOPE:
            raise JobError(
                f"{mount.name}: the arm leaves the plate at {plate_angle:.0f} deg from square and cannot be"
                " welded; move the bush or the arm's root.",
                f"mounts/{mount.id}/pad/arm_at",
            )
    return ArmRun(root, aim, way, length, axes, centre, eye_radius, eye_angle, plate_angle)


def _past(line: Array, axis: Array, mount: Mount) -> Array:
    """The way (3,) in which an arm passes its eye's axis: the common normal of arm and axis, on which the arm
    ends.

    Square to the axis and to the arm itself, which runs to where it ends: with rho the distance of the
    root from the axis and l the way from the root to it, way . l = -offset / rho.
    """
    assert mount.arm is not None
    level = line - (line @ axis) * axis
    rho = float(np.linalg.norm(level))
    if rho < 1e-6:
        raise JobError(
            f"{mount.name}: the arm runs along the bush's axis; turn the bush.",
            f"mounts/{mount.id}/bush/axis",
        )
    towards = -mount.arm.offset_mm / rho
    if abs(towards) >= 1:
        raise JobError(
            f"{mount.name}: the arm's offset is more than its length.", f"mounts/{mount.id}/arm/offset_mm"
        )
    return towards * level / rho + math.sqrt(1 - towards**2) * cross(axis, level / rho)


def eye_spacing(mount: Mount) -> float:
    """Between the two welds of an eye that stands straight on its plate: half the eye's outside, mm."""
    return (mount.bush.eye_bore_mm + 2 * mount.bush.eye_wall_mm) / 2


def eye_along(mount: Mount, run: ArmRun) -> Array | None:
    """The way (3,) of the welds of an eye that stands straight on its plate; None where it stands square
    on it."""
    normal, axis = run.axes[:, 2], np.asarray(mount.bush.axis, dtype=float)
    along = axis - axis @ normal * normal
    return unit(along) if float(np.linalg.norm(along)) > 1e-6 * float(np.linalg.norm(axis)) else None


def footprint(mount: Mount, run: ArmRun, more: float | None = None) -> Footprint:
    """Where arm or eye stands on the plate, with the toe of its weld: 0.8 of its leg, as EN 1993-1-8
    measures the distance to a bolt, or ``more`` mm instead."""
    pad, arm = mount.pad, mount.arm
    at = np.asarray(pad.arm_at, dtype=float)
    if arm is not None:
        toe = 0.8 * math.sqrt(2) * arm.weld_throat_mm if more is None else more
        return oval_footprint(at, run.axes[:, :2].T @ run.way, arm.outside_mm / 2, run.plate_angle_deg, toe)
    toe = 0.8 * math.sqrt(2) * mount.eye_weld_throat_mm if more is None else more
    along = eye_along(mount, run)
    way = np.array([1.0, 0.0]) if along is None else unit(run.axes[:, :2].T @ along)
    return Footprint(at, way, mount.bush.length_mm / 2, eye_spacing(mount) / 2 + toe, oval=False)


@lru_cache(maxsize=64)
def _plate_round(
    holes: tuple[tuple[float, float], ...], hole_mm: float, edge_mm: float, landing: bytes
) -> Plate:
    return plate_round(holes, hole_mm, edge_mm, np.frombuffer(landing).reshape(-1, 2))


def plate_of(mount: Mount, run: ArmRun) -> Plate:
    """The plate of a mount round its holes and the landing of its arm or eye: the whole weld and 3 mm
    more. Raises JobError."""
    pad = mount.pad
    throat = mount.arm.weld_throat_mm if mount.arm else mount.eye_weld_throat_mm
    landing = footprint(mount, run, throat * math.sqrt(2) + 3.0).outline()
    try:
        return _plate_round(pad.holes, pad.hole_mm, pad.edge_mm, landing.tobytes())
    except ValueError as error:
        raise JobError(f"{mount.name}: {error}.", f"mounts/{mount.id}/pad/holes") from None


def mount_plate(mount: Mount, pose: Pose) -> Plate:
    """The plate of a mount for the powertrain at ``pose``. Raises JobError."""
    return plate_of(mount, arm_run(mount, pose))


def _plate_solid(mount: Mount, run: ArmRun) -> ConvexPart:
    """The plate on its pad, powertrain frame; its rounded corners within 0.1 mm."""
    pad = mount.pad
    from shapely.geometry import Polygon

    plain = Polygon(plate_of(mount, run).outline).simplify(0.1)
    assert isinstance(plain, Polygon)
    outline = np.asarray(plain.exterior.coords)[:-1]
    axes = frame(pad.normal, pad.up)
    flat = np.column_stack([outline, np.zeros(len(outline))])
    return pushed(np.asarray(pad.centre) + flat @ axes.T, axes[:, 2] * pad.plate_mm)


def bolt_places(mount: Mount, pose: Pose) -> Array:
    """Where the bolts' heads sit, (n, 3) on the plate's outer face, vehicle frame, for the powertrain at
    ``pose``."""
    pad = mount.pad
    flat = np.column_stack([np.asarray(pad.holes).reshape(-1, 2), np.full(len(pad.holes), pad.plate_mm)])
    return pose.points(np.asarray(pad.centre) + flat @ frame(pad.normal, pad.up).T)


def eye_solid(mount: Mount) -> ConvexPart:
    """The outside of a mount's eye, in the vehicle frame."""
    bush = mount.bush
    half = unit(bush.axis) * bush.length_mm / 2
    centre = np.asarray(bush.centre, dtype=float)
    return bar(centre - half, centre + half, bush.eye_bore_mm + 2 * bush.eye_wall_mm)


def mount_solids(mount: Mount, pose: Pose) -> tuple[ConvexPart, ...]:
    """What moves with the powertrain of a mount (plate, arm, eye) for the powertrain at ``pose``, in the
    powertrain frame.

    Raises JobError where the mount cannot be drawn.
    """
    run = arm_run(mount, pose)
    back = pose.inverse()
    eye = eye_solid(mount).placed(back)
    if mount.arm is None:
        return _plate_solid(mount, run), eye
    return (
        _plate_solid(mount, run),
        bar(
            back.points(run.root), back.points(run.aim - 0.9 * run.eye_radius * run.way), mount.arm.outside_mm
        ),
        eye,
    )


def crossmember_solids(cross: Crossmember | None) -> list[SolidPart]:
    """The crossmember's tube, a box or bar from point to point, in the vehicle frame."""
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
