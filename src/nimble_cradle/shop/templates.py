"""The templates of a job: mount plates, and the wraps that mark both ends of every arm."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from nimble_cradle.fit.position import facing_words, pose_of
from nimble_cradle.geometry.cope import cope, cope_depth, mitre
from nimble_cradle.geometry.pose import Array, unit
from nimble_cradle.geometry.pose import cross as vector_product
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.shop.page import Circle, Drawing, Mark, Text, cross, path
from nimble_cradle.shop.patterns import survey_templates
from nimble_cradle.strength.arms import ArmRun, arm_run, footprint, mount_plate
from nimble_cradle.strength.threads import thread
from nimble_cradle.units import show

WRAP_BASE = 30.0
"""Paper left behind the deepest point of a cope, to wrap and tape, mm."""


def plate_drawing(mount: Mount, job: Job) -> Drawing:
    """A mount's plate at 1:1, seen from outside (as one stands facing it): u to the right, v upwards.
    Where its arm lands is drawn as it meets the plate, with the arm's zero line."""
    plate = mount_plate(mount, pose_of(job.position))
    pad, display = mount.pad, job.show.display
    marks: list[Mark] = [path(plate.outline, closed=True)]
    for i, (hole, d) in enumerate(zip(plate.holes, plate.diameters, strict=True)):
        marks += [
            Circle((float(hole[0]), float(hole[1])), float(d) / 2),
            *cross(hole, d / 2 + 3),
            Text((float(hole[0]) + d / 2 + 1.5, float(hole[1]) + 1.5), f"{i + 1}", 3.2),
        ]
    at = np.asarray(pad.arm_at)
    marks += list(cross(pad.arm_at, 6))
    notes = [
        "Seen from outside, top upwards. Check against the block with a cheap trial pattern before the real"
        " plate is drilled."
    ]
    if mount.arm:
        cut = arm_cut(mount, job)
        marks += _landing(cut, at, mount.arm.outside_mm / 2)
        notes.append(
            f"Oval: the arm's outside on the plate; line 0 faces {facing_words(cut.zero)}, as on the arm's"
            " templates."
        )
    else:
        foot = footprint(mount, arm_run(mount, pose_of(job.position)), 0.0)
        ends = foot.at + np.outer((-1.25, 1.25), foot.along * foot.way)
        marks += [path(foot.outline(), closed=True, layer="MARK"), path(ends, layer="MARK")]
        notes.append(
            f"Dashed: where the eye's two welds run, {show(2 * foot.along, 'length', display)} long and"
            f" {show(2 * foot.across, 'length', display)} apart; the line along it is the eye's axis."
        )
    low = plate.outline[:, 1].min()
    marks.append(
        Text(
            (float(plate.outline[:, 0].min()), float(low) - 7),
            f"{mount.name}: plate, {pad.plate_mm:g} mm {pad.steel}",
            3.5,
        )
    )
    holes = ", ".join(
        f"{i + 1}–{j + 1}: {show(float(np.linalg.norm(plate.holes[i] - plate.holes[j])), 'length', display)}"
        for i in range(len(plate.holes))
        for j in range(i + 1, len(plate.holes))
    )
    notes.insert(
        0,
        f"{len(plate.holes)} holes of {show(pad.hole_mm, 'length', display)} for {pad.bolt}. Centre to centre"
        f" {holes}.",
    )
    warnings = []
    if pad.edge_mm < 1.2 * pad.hole_mm:
        warnings.append(
            f"Edge distance {pad.edge_mm:g} mm is under 1.2 hole diameters (EN 1993-1-8 table 3.3, from"
            " memory)."
        )
    return Drawing(f"plate-{mount.id}", f"{mount.name}: plate", tuple(marks), tuple(notes), tuple(warnings))


@dataclass(frozen=True, eq=False)
class ArmCut:
    """Both ends of an arm. cope, mitre: (n, 2) round and depth, mm, both beginning at one line along the
    tube: the one that faces ``zero`` ((3,), vehicle frame, square to the tube; upwards where that can be).
    Each runs anticlockwise as seen from its own cut end. long_mm: the tube from long point to long point.
    """

    cope: Array
    mitre: Array
    zero: Array
    long_mm: float
    run: ArmRun

    def line(self, angle: float, at_plate: bool = False) -> Array:
        """The way (3,) that a line of the wrap faces, ``angle`` rad round from its zero."""
        sense = -1.0 if at_plate else 1.0
        return np.asarray(
            self.zero * math.cos(angle) + sense * vector_product(self.run.way, self.zero) * math.sin(angle)
        )


def arm_cut(mount: Mount, job: Job) -> ArmCut:
    """How a mount's arm is cut at the job's position. Raises JobError."""
    arm = mount.arm
    if arm is None:
        raise JobError(f"{mount.name} has no arm.", f"mounts/{mount.id}/arm")
    run = arm_run(mount, pose_of(job.position))
    axis = unit(mount.bush.axis)
    if axis @ run.way < 0:
        axis = -axis
    e1 = unit(axis - (axis @ run.way) * run.way)
    e2 = vector_product(run.way, e1)
    offset = float((run.aim - np.asarray(mount.bush.centre)) @ e2)
    top = np.array([0.0, 0.0, 1.0]) if abs(run.way[2]) < 0.9 else np.array([1.0, 0.0, 0.0])
    zero = unit(top - (top @ run.way) * run.way)

    def round_from_e1(way: Array) -> float:
        """Degrees from e1, about the arm."""
        return math.degrees(math.atan2(float(way @ e2), float(way @ e1)))

    normal = run.axes[:, 2]
    deep = -(normal - (normal @ run.way) * run.way)
    lean = round_from_e1(deep) if np.linalg.norm(deep) > 1e-9 else 0.0
    start = round_from_e1(zero)
    try:
        eye = cope(
            arm.outside_mm, arm.wall_mm, 2 * run.eye_radius, run.eye_angle_deg, offset, start_deg=start
        )
        # seen from its own end the foot runs the other way round; its cut is the same either way from where
        # it is deepest
        flat = mitre(arm.outside_mm, arm.wall_mm, run.plate_angle_deg, start_deg=lean - start)
    except ValueError as error:
        raise JobError(f"{mount.name}: {error}.", f"mounts/{mount.id}/arm") from None
    long = run.length - float(eye[:, 1].min()) - float(flat[:, 1].min())
    return ArmCut(eye, flat, zero, long, run)


def _landing(cut: ArmCut, at: Array, radius: float) -> list[Mark]:
    """The arm's outside where it meets the plate's outer face, and its zero line, on the plate's drawing."""
    run = cut.run
    normal = run.axes[:, 2]

    def on_plate(angle: float, r: float) -> tuple[float, float]:
        """Where a line of the tube meets the plate, on the drawing."""
        way = cut.line(angle)
        p = r * (way - (way @ normal) / (run.way @ normal) * run.way)
        u, v = at + run.axes[:, :2].T @ p
        return float(u), float(v)

    oval = [on_plate(a, radius) for a in np.linspace(0, 2 * math.pi, 73)[:-1]]
    end = on_plate(0.0, radius + 8)
    return [
        path(oval, closed=True, layer="MARK"),
        path([on_plate(0.0, radius - 4), end], layer="MARK"),
        Text((float(end[0]) + 1, float(end[1]) + 1), "0", 3.2),
    ]


def _wrap_marks(wrap: Array, heading: str, lines: tuple[str, ...]) -> list[Mark]:
    """Marks of an unrolled wrap: cut edge on top, base line straight, every quarter told by the way it
    faces."""
    top = WRAP_BASE + wrap[:, 1].max() - wrap[:, 1]
    around = float(wrap[-1, 0])
    marks: list[Mark] = [
        path(np.column_stack([wrap[:, 0], top])),
        path([(0, 0), (around, 0)], layer="CUT"),
        path([(0, 0), (0, top[0])]),
        path([(around, 0), (around, top[-1])]),
    ]
    height = min(3.0, around / 4 / 13)
    for k in range(4):
        i = round(k * (len(wrap) - 1) / 4)
        x = float(wrap[i, 0])
        if k:
            marks.append(path([(x, 0), (x, float(top[i]))], layer="MARK"))
        marks.append(Text((x + 1.0, 2.0), f"{90 * k}° {lines[k]}", height))
    for line, words in enumerate(heading.split(": ")):
        marks.append(Text((around / 4 + 1.5, 14 - 5 * line), words, height))
    return marks


def wrap_drawings(mount: Mount, job: Job) -> tuple[Drawing, ...]:
    """The cope at the eye and the cut at the plate of a mount's arm, to wrap round the tube, and the eye's
    own wrap with the place where the arm meets it. Raises JobError."""
    cut = arm_cut(mount, job)
    arm = mount.arm
    assert arm is not None
    d = job.show.display
    tube = f"{arm.outside_mm:g} x {arm.wall_mm:g} mm {arm.steel}"
    common = (
        f"Tube {tube}; {show(math.ceil(10 * cut.long_mm - 1e-6) / 10, 'length', d)} from long point to long"
        " point, nothing left to trim. Wrap printed side out, cut edge towards the end; edges just meet."
    )
    quarters = [k * math.pi / 2 for k in range(4)]
    at_eye = tuple(facing_words(cut.line(a)) for a in quarters)
    at_plate = tuple(facing_words(cut.line(a, at_plate=True)) for a in quarters)
    zero = (
        f"Line 0 is one line along the tube, the same on both ends, and faces {at_eye[0]} with the engine in"
        " its place."
    )
    longest = cut.line(float(cut.cope[int(cut.cope[:-1, 1].argmin()), 0]) / (arm.outside_mm / 2))
    return (
        Drawing(
            f"cope-{mount.id}",
            f"{mount.name}: arm, end at the bush eye",
            tuple(_wrap_marks(cut.cope, f"{mount.name}: cope to the eye", at_eye)),
            (
                common,
                zero,
                (
                    f"Eye {2 * cut.run.eye_radius:g} mm outside, arm meets it at {cut.run.eye_angle_deg:.1f}"
                    f" deg, axis {arm.offset_mm:g} mm past axis; the long point faces"
                    f" {facing_words(longest)}. Cut square to the tube's surface, at the deeper of inner and"
                    " outer wall."
                ),
            ),
        ),
        Drawing(
            f"foot-{mount.id}",
            f"{mount.name}: arm, end at the plate",
            tuple(_wrap_marks(cut.mitre, f"{mount.name}: end at the plate", at_plate)),
            (common, zero, f"Arm leaves the plate {cut.run.plate_angle_deg:.1f} deg from square."),
        ),
        eye_drawing(mount, cut),
    )


def eye_drawing(mount: Mount, cut: ArmCut) -> Drawing:
    """The wrap of the bush's eye: its edges, its own lines, and where the arm and its zero line meet it.
    It runs anticlockwise as seen from the end that is up on the paper, printed side out."""
    arm, bush, run = mount.arm, mount.bush, cut.run
    assert arm is not None
    axis = unit(bush.axis)
    centre, radius, half = np.asarray(bush.centre, dtype=float), run.eye_radius, bush.length_mm / 2
    top = np.array([0.0, 0.0, 1.0]) if abs(axis[2]) < 0.9 else np.array([1.0, 0.0, 0.0])
    zero = unit(top - (top @ axis) * axis)
    # begun on the side away from the arm, at the quarter nearest to it, so that the arm's place lies whole on
    # the sheet
    side = vector_product(axis, zero)
    away = math.atan2(float(run.way @ side), float(run.way @ zero))
    begin = round(away / (math.pi / 2)) * math.pi / 2
    around = 2 * math.pi * radius

    def on_sheet(p: Array) -> tuple[float, float]:
        """Of a point on the eye: how far round, and how far up the sheet."""
        off = p - centre
        angle = (math.atan2(float(off @ side), float(off @ zero)) - begin) % (2 * math.pi)
        return angle * radius, float(off @ axis)

    def meets(k: int) -> tuple[float, float]:
        """Where a line of the arm's outside meets the eye."""
        angle = 2 * math.pi * k / 360
        depth = cope_depth(np.array([angle]), arm.outside_mm / 2, radius, run.eye_angle_deg, arm_offset)
        p = (
            run.aim
            - float(depth[0]) * run.way
            + arm.outside_mm / 2 * (math.cos(angle) * e1 + math.sin(angle) * e2)
        )
        return on_sheet(p)

    along = axis if axis @ run.way >= 0 else -axis
    e1 = unit(along - (along @ run.way) * run.way)
    e2 = vector_product(run.way, e1)
    arm_offset = float((run.aim - centre) @ e2)
    start = math.degrees(math.atan2(float(cut.zero @ e2), float(cut.zero @ e1)))
    saddle = [meets(k) for k in range(0, 360, 4)]
    tick = meets(round(start))
    marks: list[Mark] = [
        path([(0, -half), (around, -half), (around, half), (0, half)], closed=True),
        path(saddle, closed=True, layer="MARK"),
        *cross(tick, 4),
        Text((tick[0] + 2, tick[1] + 2), "arm's line 0", 2.6),
        path([(0, 0), (around, 0)], layer="MARK"),
    ]
    for k in range(4):
        a = begin + k * math.pi / 2
        x = k * around / 4
        marks.append(path([(x, -half), (x, half)], layer="MARK"))
        marks.append(Text((x + 1, half - 5), facing_words(zero * math.cos(a) + side * math.sin(a)), 2.8))
    marks.append(Text((around / 4 + 1.5, -half + 2), f"{mount.name}: bush eye", 3.0))
    return Drawing(
        f"eye-{mount.id}",
        f"{mount.name}: bush eye",
        tuple(marks),
        (
            (
                f"Wrap printed side out round the eye, {2 * radius:g} mm outside; the upper edge of the paper"
                f" is the end that faces {facing_words(axis)}. The oval is where the arm's outside meets it."
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
            drawn.append(plate_drawing(mount, job))
            if mount.arm:
                drawn += wrap_drawings(mount, job)
        except JobError as error:
            refused.append(error)
    more, not_drawn = survey_templates(job)
    return (*drawn, *more), (*refused, *not_drawn)
