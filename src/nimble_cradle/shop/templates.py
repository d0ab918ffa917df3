"""The templates of a job: mount plates, and the wraps that mark both ends of every arm."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.fit.position import pose_of
from nimble_cradle.geometry.cope import cope, mitre
from nimble_cradle.geometry.pose import Array, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.shop.page import Circle, Drawing, Mark, Text, cross, path
from nimble_cradle.shop.patterns import survey_templates
from nimble_cradle.strength.arms import ArmRun, arm_run, mount_plate
from nimble_cradle.strength.threads import thread
from nimble_cradle.units import Display, show

WRAP_BASE = 30.0
"""Paper left behind the deepest point of a cope, to wrap and tape, mm."""


def plate_drawing(mount: Mount, display: Display) -> Drawing:
    """A mount's plate at 1:1, seen from outside (as one stands facing it), v upwards. u runs to the left,
    so x = -u."""
    plate = mount_plate(mount)
    pad = mount.pad
    flip = np.array([-1.0, 1.0])
    marks: list[Mark] = [path(plate.outline * flip, closed=True)]
    for i, (hole, d) in enumerate(zip(plate.holes * flip, plate.diameters, strict=True)):
        marks += [
            Circle((float(hole[0]), float(hole[1])), float(d) / 2),
            *cross(hole, d / 2 + 3),
            Text((float(hole[0]) + d / 2 + 1.5, float(hole[1]) + 1.5), f"{i + 1}", 3.2),
        ]
    at = np.asarray(pad.arm_at) * flip
    marks += list(cross(at, 6))
    if mount.arm:
        marks.append(Circle((float(at[0]), float(at[1])), mount.arm.outside_mm / 2, "MARK"))
    low = plate.outline[:, 1].min()
    marks.append(
        Text(
            (float((plate.outline * flip)[:, 0].min()), float(low) - 7),
            f"{mount.name}: plate, {pad.plate_mm:g} mm {pad.steel}",
            3.5,
        )
    )
    holes = ", ".join(
        f"{i + 1}–{j + 1}: {show(float(np.linalg.norm(plate.holes[i] - plate.holes[j])), 'length', display)}"
        for i in range(len(plate.holes))
        for j in range(i + 1, len(plate.holes))
    )
    warnings = []
    if pad.edge_mm < 1.2 * pad.hole_mm:
        warnings.append(
            f"Edge distance {pad.edge_mm:g} mm is under 1.2 hole diameters (EN 1993-1-8 table 3.3, from"
            " memory)."
        )
    notes = (
        (
            f"{len(plate.holes)} holes of {show(pad.hole_mm, 'length', display)} for {pad.bolt}. Centre to"
            f" centre {holes}."
        ),
        (
            "Seen from outside, top upwards. Check against the block with a cheap trial pattern before the"
            " real plate is drilled."
        ),
    )
    return Drawing(f"plate-{mount.id}", f"{mount.name}: plate", tuple(marks), notes, tuple(warnings))


@dataclass(frozen=True, eq=False)
class ArmCut:
    """Both ends of an arm. wraps: (n, 2) round and depth, mm; clock_deg: plate cut's station 0 from the
    cope's, counted as at the eye; long_mm: the tube from long point to long point; axis_mm: from plate to
    eye axis."""

    cope: Array
    mitre: Array
    clock_deg: float
    long_mm: float
    axis_mm: float
    run: ArmRun


def arm_cut(mount: Mount, job: Job) -> ArmCut:
    """How a mount's arm is cut at the job's position. Raises JobError."""
    arm = mount.arm
    if arm is None:
        raise JobError(f"{mount.name} has no arm.", f"mounts/{mount.id}/arm")
    run = arm_run(mount, pose_of(job.position))
    axis = unit(mount.bush.axis)
    if axis @ run.way < 0:
        axis = -axis
    e1 = axis - (axis @ run.way) * run.way
    e1 = unit(e1)
    e2 = np.cross(run.way, e1)
    offset = float((run.aim - np.asarray(mount.bush.centre)) @ e2)
    try:
        eye = cope(arm.outside_mm, arm.wall_mm, 2 * run.eye_radius, run.eye_angle_deg, offset)
        flat = mitre(arm.outside_mm, arm.wall_mm, run.plate_angle_deg)
    except ValueError as error:
        raise JobError(f"{mount.name}: {error}.", f"mounts/{mount.id}/arm") from None
    normal = run.axes[:, 2]
    deep = -(normal - (normal @ run.way) * run.way)
    clock = (
        math.degrees(math.atan2(float(deep @ e2), float(deep @ e1))) % 360
        if np.linalg.norm(deep) > 1e-9
        else 0.0
    )
    return ArmCut(
        eye, flat, clock, run.length - float(eye[:, 1].min()) - float(flat[:, 1].min()), run.length, run
    )


def _wrap_marks(wrap: Array, heading: str) -> tuple[list[Mark], float]:
    """Marks of an unrolled wrap: cut edge on top, base line straight. Gives the marks and the height of
    the base."""
    top = WRAP_BASE + wrap[:, 1].max() - wrap[:, 1]
    around = float(wrap[-1, 0])
    marks: list[Mark] = [
        path(np.column_stack([wrap[:, 0], top])),
        path([(0, 0), (around, 0)], layer="CUT"),
        path([(0, 0), (0, top[0])]),
        path([(around, 0), (around, top[-1])]),
    ]
    for k in range(5):
        i = round(k * (len(wrap) - 1) / 4)
        x = float(wrap[i, 0])
        if 0 < k < 4:
            marks.append(path([(x, 0), (x, float(top[i]))], layer="MARK"))
        marks.append(Text((x + (1.0 if k < 4 else -11.0), 2.0), f"{90 * k}°", 3.2))
    height = min(3.0, around / 4 / 13)
    for line, words in enumerate(heading.split(": ")):
        marks.append(Text((around / 4 + 1.5, 14 - 5 * line), words, height))
    return marks, around


def wrap_drawings(mount: Mount, job: Job) -> tuple[Drawing, ...]:
    """The cope at the eye and the cut at the plate of a mount's arm, to wrap round the tube. Raises
    JobError."""
    cut = arm_cut(mount, job)
    arm = mount.arm
    assert arm is not None
    d = job.show.display
    tube = f"{arm.outside_mm:g} x {arm.wall_mm:g} mm {arm.steel}"
    common = (
        f"Tube {tube}; {show(cut.long_mm, 'length', d)} from long point to long point. Wrap printed side out,"
        " cut edge towards the end; edges just meet."
    )
    eye, _ = _wrap_marks(cut.cope, f"{mount.name}: cope to the eye")
    flat, _ = _wrap_marks(cut.mitre, f"{mount.name}: end at the plate")
    return (
        Drawing(
            f"cope-{mount.id}",
            f"{mount.name}: arm, end at the bush eye",
            tuple(eye),
            (
                common,
                (
                    f"Eye {2 * cut.run.eye_radius:g} mm outside, arm meets it at {cut.run.eye_angle_deg:.1f}"
                    f" deg, axis {arm.offset_mm:g} mm past axis. Station 0 faces along the bolt's axis, on"
                    " the side where the angle is sharp; cut square to the tube's surface, at the deeper of"
                    " inner and outer wall."
                ),
            ),
        ),
        Drawing(
            f"foot-{mount.id}",
            f"{mount.name}: arm, end at the plate",
            tuple(flat),
            (
                common,
                (
                    f"Arm leaves the plate {cut.run.plate_angle_deg:.1f} deg from square. Station 0 here lies"
                    f" {cut.clock_deg:.0f} deg round from station 0 of the cope, counted the way the cope's"
                    " stations run."
                ),
            ),
        ),
    )


def templates(job: Job) -> tuple[tuple[Drawing, ...], tuple[JobError, ...]]:
    """All templates of a job, and for those that could not be drawn the reason."""
    drawn: list[Drawing] = []
    refused: list[JobError] = []
    for mount in job.mounts:
        try:
            thread(mount.pad.bolt)
            drawn.append(plate_drawing(mount, job.show.display))
            if mount.arm:
                drawn += wrap_drawings(mount, job)
        except JobError as error:
            refused.append(error)
    more, not_drawn = survey_templates(job)
    return (*drawn, *more), (*refused, *not_drawn)
