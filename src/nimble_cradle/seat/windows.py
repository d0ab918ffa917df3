"""What is measured of a place besides its gaps, and the windows that it must stay in: the position as it is
told, the driveline, the front-axle share, the shifter in its hole."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

import numpy as np

from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.arm_run import TOUCHES
from nimble_cradle.families.family import eye_of
from nimble_cradle.fit.balance import front_share
from nimble_cradle.fit.joints import half_shaft
from nimble_cradle.fit.shafts import STEEPEST, axle_at, critical_speed, joint_angles, top_speed
from nimble_cradle.geometry.pose import Array, Pose, angles_xyz, frame, unit
from nimble_cradle.job.job import Job
from nimble_cradle.job.wish import Wish
from nimble_cradle.motion.aims import AimRow, Aims, aims_of
from nimble_cradle.motion.seat_problem import LEVER
from nimble_cradle.seat.along import slide_of

DEGREE = LEVER * math.pi / 180
"""A degree counts as so many mm (about 7)."""
INSET = 0.015
"""Limits of the driveline and the like are kept with this to spare, mm, so that rounding does not break
them."""
LEAST_WEIGHT = 0.01
"""Weight of side and angles that nobody wished for: so little that a millimetre lower outweighs 100 aside."""


class Windows(NamedTuple):
    """Rows of aims, and what measures them of poses, (poses, rows)."""

    rows: list[AimRow]
    measure: Callable[[Sequence[Pose]], Array]


def aims_for(job: Job, wish: Wish, centre: Array) -> Aims:
    """What is measured of a pose: the ``centre`` (forward, left, up), the position as it is told, and the
    windows of the job; with weights that are at most one."""
    rows = [*_wished(wish), *_told_rows(wish)]
    measures: list[Callable[[Sequence[Pose]], Array]] = [
        lambda poses: np.array([pose.points(centre) for pose in poses]),
        _told,
    ]
    for more in _of_job(job, wish):
        # a little inside each window, so that the exact check does not find it just outside
        rows += [r._replace(low=r.low + INSET / r.scale, high=r.high - INSET / r.scale) for r in more.rows]
        measures.append(more.measure)
    return aims_of(rows, lambda poses: np.hstack([measure(poses) for measure in measures]))


def _weights(wish: Wish) -> tuple[float, float, float, float]:
    """Weights of low, back, central and level, scaled so that the greatest is 1; the last two are never 0,
    so what is not wished for stays where it is."""
    top = max(wish.low, wish.back, wish.central, wish.level)
    low, back = max(wish.low / top, 0.0), max(wish.back / top, 0.0)
    central, level = wish.central / top, wish.level / top
    return low, back, max(central, LEAST_WEIGHT), max(level, LEAST_WEIGHT)


def _wished(wish: Wish) -> list[AimRow]:
    """Low and back of the centre of gravity."""
    low, back, _, _ = _weights(wish)
    forward = back if wish.lengthwise == "back" else -back
    up = low if wish.upwise == "low" else -low
    names = ("forward", forward), ("left", 0.0), ("up", up)
    return [AimRow(f"centre of gravity, {name}", weight) for name, weight in names]


def _told_rows(wish: Wish) -> list[AimRow]:
    """Rows of the position as it is told: x, y, z, nose up, clocked, yaw; mm and degrees."""
    _, _, central, level = _weights(wish)
    told = (
        ("fore and aft", wish.fore_aft, 0.0, 0.0, 1.0),
        ("side offset", wish.side, central, wish.wanted_side, 1.0),
        ("height", wish.height, 0.0, 0.0, 1.0),
        ("nose up", wish.nose_up, level * DEGREE, wish.wanted_nose_up, DEGREE),
        ("clocking", wish.clocked, level * DEGREE, wish.wanted_clocked, DEGREE),
        ("yaw", wish.yaw, level * DEGREE, wish.wanted_yaw, DEGREE),
    )
    return [
        AimRow(name, 0.0, weight, wanted, window.low, window.high, scale)
        for name, window, weight, wanted, scale in told
    ]


def _told(poses: Sequence[Pose]) -> Array:
    """The position as it is told: x, y, z, nose up, clocked, yaw."""
    out = []
    for pose in poses:
        roll, pitch, yaw = angles_xyz(pose.rotation)
        out.append([*pose.translation.tolist(), -pitch, roll, yaw])
    return np.array(out)


def _of_job(job: Job, wish: Wish) -> Iterator[Windows]:
    """The windows that the job has besides those of the position."""
    if wish.joints:
        shafts = (
            half_shaft_windows(job) if job.powertrain.gearbox.kind == "transaxle" else propshaft_windows(job)
        )
        if shafts is not None:
            yield shafts
    if wish.share:
        yield share_window(job)
    hole = shifter_window(job, wish)
    if hole is not None:
        yield hole
    if job.mounts:
        yield plate_windows(job, along=wish.made == "comes along")


def plate_windows(job: Job, along: bool = False) -> Windows:
    """How far each bush is from its plate, which moves with the block, mm: so far that the eye does not stand
    in the plate. A mount whose eye is on its plate is measured square to that; an arm's from where it
    begins. along: bushes slide with their plates on what they stand on; else they stay. Raises JobError."""
    pads = [(m, frame(m.pad.normal, m.pad.up)) for m in job.mounts]
    roots = [np.asarray(m.pad.centre) + axes @ np.array([*m.pad.arm_at, m.pad.out_mm]) for m, axes in pads]

    bushes = np.array([m.bush.centre for m in job.mounts], dtype=float)
    normals, square = np.array([axes[:, 2] for _, axes in pads]), np.array([m.arm is None for m, _ in pads])

    slides = np.array([slide_of(job, m) if along else np.zeros((3, 3)) for m in job.mounts])
    middles = np.array([m.pad.centre for m in job.mounts], dtype=float)
    were = pose_of(job.position).points(middles)

    def away(poses: Sequence[Pose]) -> Array:
        turns, moves = _stacked(poses)
        steps = middles @ turns.transpose(0, 2, 1) + moves[:, None] - were
        now = bushes[None] + (slides[None] @ steps[..., None])[..., 0]
        lines = (now - moves[:, None]) @ turns - np.array(roots)
        return np.asarray(np.where(square, (lines * normals).sum(2), np.sqrt((lines**2).sum(2))))

    rows = [
        AimRow(f"{mount.name}: its bush from its plate", low=eye_of(mount.bush).outside_mm / 2 - TOUCHES)
        for mount, _ in pads
    ]
    return Windows(rows, away)


def half_shaft_windows(job: Job) -> Windows | None:
    """Of both half-shafts: angle at ride height, steepest through the travel, plunge; None where they are not
    said."""
    seats, hubs, vehicle = job.powertrain.gearbox.seats, job.vehicle.hubs, job.vehicle
    if seats is None or hubs is None:
        return None
    limits, at_box = job.joint_limits, np.asarray(seats)

    def shafts(poses: Sequence[Pose]) -> Array:
        out: list[list[float]] = []
        for pose in poses:
            out.append([])
            for (x, y, z), hub in zip(pose.points(at_box).tolist(), hubs, strict=True):
                ride, most, _, longer, shorter = half_shaft(
                    x, y, z, *hub, vehicle.wheel_up_mm, vehicle.wheel_down_mm
                )
                out[-1] += [ride, most, longer + shorter]
        return np.array(out)

    rows = []
    for side in ("left", "right"):
        rows += [
            AimRow(f"{side} half-shaft at ride height", high=limits.half_shaft_ride_deg, scale=DEGREE),
            AimRow(f"{side} half-shaft through its travel", high=limits.half_shaft_travel_deg, scale=DEGREE),
            AimRow(f"plunge of the {side} half-shaft", high=limits.plunge_mm),
        ]
    return Windows(rows, shafts)


def share_window(job: Job) -> Windows:
    """The front-axle share, per cent, scaled by what a millimetre back is worth."""
    vehicle, mass = job.vehicle, powertrain_mass(job)

    def share(poses: Sequence[Pose]) -> Array:
        loads = vehicle.front_axle_kg, vehicle.rear_axle_kg, mass.mass_kg
        stations = [float(pose.points(mass.centre)[0]) for pose in poses]
        return np.array([[front_share(*loads, x, vehicle.wheelbase_mm)[0]] for x in stations])

    per_mm = (
        100
        * mass.mass_kg
        / vehicle.wheelbase_mm
        / (vehicle.front_axle_kg + vehicle.rear_axle_kg + mass.mass_kg)
    )
    return Windows(
        [AimRow("front-axle share", high=vehicle.want_front_share_percent, scale=1 / per_mm)], share
    )


def shifter_window(job: Job, wish: Wish) -> Windows | None:
    """How far inside the hole's edge the shifter's line passes at the hole's height, mm; None where there is
    no hole or no shifter."""
    hole, shifter = wish.shifter_hole, job.powertrain.gearbox.shifter
    if hole is None or shifter is None:
        return None
    outline, height, lever = np.asarray(hole.outline), hole.height_mm, np.asarray(shifter)

    def inside(poses: Sequence[Pose]) -> Array:
        turns, moves = _stacked(poses)
        at, up = turns @ lever + moves, turns[:, :, 2]
        through = at + up * ((height - at[:, 2]) / up[:, 2])[:, None]
        return np.asarray(inside_outline(outline, through[:, :2]))[:, None]

    return Windows([AimRow("shifter in its hole", low=0.0)], inside)


def propshaft_windows(job: Job) -> Windows:
    """Windows of a propshaft, the same that the verdict judges: every joint at ride height, what they
    leave together, the steepest of them and the slip joint through the axle's travel, and the length that
    its tube may have."""
    shaft, vehicle = job.propshaft, job.vehicle
    centre = None if shaft.centre is None else np.asarray(shaft.centre, dtype=float)
    places = [axle_at(job, t) for t in (0.0, vehicle.wheel_up_mm, -vehicle.wheel_down_mm)]
    box = job.powertrain.gearbox

    def joints(poses: Sequence[Pose]) -> Array:
        """Angles, difference of a one-piece shaft, residual, steepest, slip left in droop and bump, length
        of the first piece."""
        turns, moves = _stacked(poses)
        start, way = turns @ np.asarray(box.output, dtype=float) + moves, turns @ unit(box.output_direction)
        n, m = len(poses), len(places)
        found = joint_angles(
            np.tile(start, (m, 1)),
            np.tile(way, (m, 1)),
            centre,
            np.repeat([end for end, _ in places], n, axis=0),
            np.repeat([last for _, last in places], n, axis=0),
            shaft.phase_deg,
        )
        angles, residual, lengths = (rows[:n] for rows in found)
        slips = found[2][:, -1].reshape(m, n) - lengths[:, -1]
        difference = [angles[:, 0] - angles[:, 1]] if centre is None else []
        steepest = found[0].max(1).reshape(m, n).max(0)
        slip = [shaft.slip_mm - slips.max(0), shaft.slip_mm + slips.min(0)]
        return np.column_stack([angles, *difference, residual, steepest, *slip, lengths[:, 0]])

    return Windows(_propshaft_rows(job), joints)


def _propshaft_rows(job: Job) -> list[AimRow]:
    limits, shaft = job.joint_limits, job.propshaft
    one_piece = shaft.centre is None
    names = ["front joint", *([] if one_piece else ["joint behind the bearing"]), "rear joint"]
    most, rpm = limits.difference_deg, top_speed(job)
    left = math.degrees(math.sqrt(shaft.most_acceleration) / (rpm * math.pi / 30))
    _, safe = critical_speed(shaft.tube_outside_mm, shaft.tube_wall_mm, 1000.0)
    return [
        *(AimRow(name, low=limits.least_deg, high=limits.most_deg, scale=DEGREE) for name in names),
        *([AimRow("difference of the joints", low=-most, high=most, scale=DEGREE)] if one_piece else []),
        AimRow("what the joints leave together", high=left, scale=DEGREE),
        AimRow("steepest joint through the travel", high=STEEPEST * limits.most_deg, scale=DEGREE),
        AimRow("slip joint in droop", low=shaft.slip_least_mm),
        AimRow("slip joint in bump", low=0.0),
        AimRow("length of the shaft for its speed", high=1000.0 * math.sqrt(safe / rpm)),
    ]


def _stacked(poses: Sequence[Pose]) -> tuple[Array, Array]:
    """Rotations (n, 3, 3) and translations (n, 3)."""
    return np.array([pose.rotation for pose in poses]), np.array([pose.translation for pose in poses])


def inside_outline(outline: Array, points: Array) -> Array:
    """How far points (..., 2) are inside a closed outline (n, 2): distance to its nearest edge, negative
    outside. Unit of the outline."""
    p = np.asarray(points, dtype=float)[..., None, :]
    a, b = outline, np.roll(outline, -1, axis=0)
    along = b - a
    t = np.clip(((p - a) * along).sum(-1) / np.maximum((along**2).sum(1), 1e-12), 0.0, 1.0)
    away = np.sqrt(((a + t[..., None] * along - p) ** 2).sum(-1).min(-1))
    crosses = (a[:, 1] > p[..., 1]) != (b[:, 1] > p[..., 1])
    with np.errstate(divide="ignore", invalid="ignore"):
        right = p[..., 0] < a[:, 0] + (p[..., 1] - a[:, 1]) / (b[:, 1] - a[:, 1]) * along[:, 0]
    return np.asarray(np.where((crosses & right).sum(-1) % 2, away, -away))
