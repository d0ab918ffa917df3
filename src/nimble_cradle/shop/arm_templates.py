"""The templates of a tube arm: wraps that mark both its ends, and the eye's own wrap."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.bay.position import facing_words, pose_of
from nimble_cradle.families.arm_cut import ArmCut, arm_cut, plate_cut
from nimble_cradle.families.family import eye_of
from nimble_cradle.geometry.cope import cope_depth
from nimble_cradle.geometry.pose import Array, unit
from nimble_cradle.geometry.pose import cross as vector_product
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.tube_arm import Tube
from nimble_cradle.shop.page import Drawing, Mark, Text, cross, path
from nimble_cradle.units import show

WRAP_BASE = 30.0
"""Paper left behind the deepest point of a cope, to wrap and tape, mm."""


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


def _told(mount: Mount, job: Job, cut: ArmCut) -> tuple[str, str]:
    """What both ends' wraps say: of the tube, and of line 0."""
    arm = mount.arm
    assert isinstance(arm, Tube)
    long = show(math.ceil(10 * cut.long_mm - 1e-6) / 10, "length", job.show.display)
    return (
        f"Tube {arm.outside_mm:g} x {arm.wall_mm:g} mm {arm.steel}; {long} from long point to long"
        " point, nothing left to trim. Wrap printed side out, cut edge towards the end; edges just meet.",
        "Line 0 is one line along the tube, the same on both ends, and faces"
        f" {facing_words(cut.line(0.0))} with the engine in its place.",
    )


def _quarters(cut: ArmCut, at_plate: bool) -> tuple[str, ...]:
    """Which way every quarter of a wrap faces."""
    return tuple(facing_words(cut.line(k * math.pi / 2, at_plate=at_plate)) for k in range(4))


def cope_drawing(mount: Mount, job: Job) -> Drawing:
    """The cope at the eye of a mount's arm, to wrap round the tube. Raises JobError."""
    cut = arm_cut(mount, pose_of(job.position))
    arm = mount.arm
    assert isinstance(arm, Tube)
    longest = cut.line(float(cut.cope[int(cut.cope[:-1, 1].argmin()), 0]) / (arm.outside_mm / 2))
    meets = (
        f"Eye {2 * cut.run.eye_radius:g} mm outside, arm meets it at {cut.run.eye_angle_deg:.1f}"
        f" deg, axis {arm.offset_mm:g} mm past axis; the long point faces"
        f" {facing_words(longest)}. Cut square to the tube's surface, at the deeper of inner and"
        " outer wall."
    )
    return Drawing(
        f"cope-{mount.id}",
        f"{mount.name}: arm, end at the bush eye",
        tuple(_wrap_marks(cut.cope, f"{mount.name}: cope to the eye", _quarters(cut, False))),
        (*_told(mount, job, cut), meets),
    )


def kink_drawing(mount: Mount, job: Job) -> Drawing:
    """The mitre at the kink on the leg that comes from the plate. Raises JobError."""
    cut = plate_cut(mount, pose_of(job.position))
    return Drawing(
        f"kink-{mount.id}",
        f"{mount.name}: leg at the plate, end at the kink",
        tuple(_wrap_marks(cut.cope, f"{mount.name}: plate leg, kink", _quarters(cut, False))),
        (*_told(mount, job, cut), _kink_words(cut)),
    )


def kinkeye_drawing(mount: Mount, job: Job) -> Drawing:
    """The mitre at the kink on the leg that goes to the eye. Raises JobError."""
    cut = arm_cut(mount, pose_of(job.position))
    return Drawing(
        f"kinkeye-{mount.id}",
        f"{mount.name}: leg at the eye, end at the kink",
        tuple(_wrap_marks(cut.mitre, f"{mount.name}: eye leg, kink", _quarters(cut, True))),
        (*_told(mount, job, cut), _kink_words(plate_cut(mount, pose_of(job.position)))),
    )


def _kink_words(cut: ArmCut) -> str:
    return (
        f"The arm turns {cut.run.kink_deg:.1f} deg here: each leg is cut {cut.run.kink_deg / 2:.1f} deg off"
        " square, and the two are welded right through."
    )


def foot_drawing(mount: Mount, job: Job) -> Drawing:
    """The cut at the plate of a mount's arm, to wrap round the tube. Raises JobError."""
    cut = plate_cut(mount, pose_of(job.position))
    return Drawing(
        f"foot-{mount.id}",
        f"{mount.name}: arm, end at the plate",
        tuple(_wrap_marks(cut.mitre, f"{mount.name}: end at the plate", _quarters(cut, True))),
        (*_told(mount, job, cut), f"Arm leaves the plate {cut.run.plate_angle_deg:.1f} deg from square."),
    )


class _EyeSheet:
    """The eye's surface unrolled: begun on the side away from the arm, at the quarter nearest to it, so that
    the arm's place lies whole on the sheet. Lengths mm; the sheet runs anticlockwise as seen from the end
    that is up."""

    def __init__(self, mount: Mount, cut: ArmCut) -> None:
        run = cut.run
        self.axis = unit(mount.bush.axis)
        self.centre = np.asarray(mount.bush.centre, dtype=float)
        self.radius, self.half = run.eye_radius, eye_of(mount.bush).length_mm / 2
        top = np.array([0.0, 0.0, 1.0]) if abs(self.axis[2]) < 0.9 else np.array([1.0, 0.0, 0.0])
        self.zero = unit(top - (top @ self.axis) * self.axis)
        self.side = vector_product(self.axis, self.zero)
        away = math.atan2(float(run.way @ self.side), float(run.way @ self.zero))
        self.begin = round(away / (math.pi / 2)) * math.pi / 2

    @property
    def around(self) -> float:
        """Round the eye."""
        return 2 * math.pi * self.radius

    def at(self, p: Array) -> tuple[float, float]:
        """Of a point (3,) on the eye: how far round, and how far up the sheet."""
        off = p - self.centre
        angle = (math.atan2(float(off @ self.side), float(off @ self.zero)) - self.begin) % (2 * math.pi)
        return angle * self.radius, float(off @ self.axis)

    def quarter_words(self, k: int) -> str:
        """Which way a quarter of the sheet faces."""
        a = self.begin + k * math.pi / 2
        return facing_words(self.zero * math.cos(a) + self.side * math.sin(a))


def _saddle(
    cut: ArmCut, sheet: _EyeSheet, arm_radius: float
) -> tuple[list[tuple[float, float]], tuple[float, float]]:
    """Where the arm's outside meets the eye, on its sheet, and where the arm's line 0 does."""
    run = cut.run
    along = sheet.axis if sheet.axis @ run.way >= 0 else -sheet.axis
    e1 = unit(along - (along @ run.way) * run.way)
    e2 = vector_product(run.way, e1)
    offset = float((run.aim - sheet.centre) @ e2)

    def meets(k: int) -> tuple[float, float]:
        """Where a line of the arm's outside, so many degrees round, meets the eye."""
        angle = 2 * math.pi * k / 360
        depth = cope_depth(np.array([angle]), arm_radius, sheet.radius, run.eye_angle_deg, offset)
        out = arm_radius * (math.cos(angle) * e1 + math.sin(angle) * e2)
        return sheet.at(run.aim - float(depth[0]) * run.way + out)

    start = math.degrees(math.atan2(float(cut.zero @ e2), float(cut.zero @ e1)))
    return [meets(k) for k in range(0, 360, 4)], meets(round(start))


def eye_drawing(mount: Mount, job: Job) -> Drawing:
    """The wrap of the bush's eye: its edges, its own lines, and where the arm and its zero line meet it.
    Printed side out. Raises JobError."""
    cut = arm_cut(mount, pose_of(job.position))
    assert isinstance(mount.arm, Tube)
    sheet = _EyeSheet(mount, cut)
    saddle, tick = _saddle(cut, sheet, mount.arm.outside_mm / 2)
    around, half = sheet.around, sheet.half
    marks: list[Mark] = [
        path([(0, -half), (around, -half), (around, half), (0, half)], closed=True),
        path(saddle, closed=True, layer="MARK"),
        *cross(tick, 4),
        Text((tick[0] + 2, tick[1] + 2), "arm's line 0", 2.6),
        path([(0, 0), (around, 0)], layer="MARK"),
    ]
    for k in range(4):
        x = k * around / 4
        marks.append(path([(x, -half), (x, half)], layer="MARK"))
        marks.append(Text((x + 1, half - 5), sheet.quarter_words(k), 2.8))
    marks.append(Text((around / 4 + 1.5, -half + 2), f"{mount.name}: bush eye", 3.0))
    note = (
        f"Wrap printed side out round the eye, {2 * sheet.radius:g} mm outside; the upper edge of the paper"
        f" is the end that faces {facing_words(sheet.axis)}. The oval is where the arm's outside meets it."
    )
    return Drawing(f"eye-{mount.id}", f"{mount.name}: bush eye", tuple(marks), (note,))
