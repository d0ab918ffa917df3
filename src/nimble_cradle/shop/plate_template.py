"""The template of a mount's plate."""

from __future__ import annotations

import math

import numpy as np

from nimble_cradle.bay.position import facing_words, pose_of
from nimble_cradle.families.arm_cut import ArmCut, plate_cut
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.eared import EaredMount
from nimble_cradle.families.landing import footprint
from nimble_cradle.families.plate import mount_plate
from nimble_cradle.geometry.footprint import Footprint
from nimble_cradle.geometry.plate import Plate
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.tube_arm import Tube
from nimble_cradle.shop.page import Circle, Drawing, Mark, Text, cross, path
from nimble_cradle.units import Display, show


def plate_drawing(mount: Mount, job: Job) -> Drawing:
    """A mount's plate at 1:1, seen from outside (as one stands facing it): u to the right, v upwards.
    Where its arm lands is drawn as it meets the plate, with the arm's zero line. Raises JobError."""
    plate = mount_plate(mount, _pose(mount, job))
    pad = mount.pad
    landing, landing_note = _stands(mount, job)
    marks: list[Mark] = [path(plate.outline, closed=True), *_holes(plate), *cross(pad.arm_at, 6), *landing]
    for hole in pad.free_holes:
        marks += [*cross(hole, 5), Text((hole[0] + 4, hole[1] + 2), "free", 2.6)]
    left, low = plate.outline.min(0)
    title = f"{mount.name}: plate, {pad.plate_mm:g} mm {pad.steel}"
    marks.append(Text((float(left), float(low) - 7), title, 3.5))
    notes = (
        _holes_note(mount, plate, job.show.display),
        "Seen from outside, top upwards. Check against the block with a cheap trial pattern before the real"
        " plate is drilled.",
        landing_note,
    )
    return Drawing(f"plate-{mount.id}", f"{mount.name}: plate", tuple(marks), notes, _warnings(mount))


def _holes(plate: Plate) -> list[Mark]:
    """Every hole with its cross and number."""
    marks: list[Mark] = []
    for i, (hole, d) in enumerate(zip(plate.holes, plate.diameters, strict=True)):
        marks += [
            Circle((float(hole[0]), float(hole[1])), float(d) / 2),
            *cross(hole, d / 2 + 3),
            Text((float(hole[0]) + d / 2 + 1.5, float(hole[1]) + 1.5), f"{i + 1}", 3.2),
        ]
    return marks


def _holes_note(mount: Mount, plate: Plate, display: Display) -> str:
    """How many holes for what, and how far apart."""
    n = len(plate.holes)
    apart = ", ".join(
        f"{i + 1}–{j + 1}: {show(float(np.linalg.norm(plate.holes[i] - plate.holes[j])), 'length', display)}"
        for i in range(n)
        for j in range(i + 1, n)
    )
    first, sorts = 1, []
    for bolt, count in mount.pad.sorts:
        which = f" ({first} to {first + count - 1})" if len(mount.pad.sorts) > 1 else ""
        hole = show(bolt.hole_mm, "length", display)
        sorts.append(f"{count} holes{which} of {hole} for {bolt.size}")
        first += count
    return f"{', '.join(sorts)}. Centre to centre {apart}."


def _stands(mount: Mount, job: Job) -> tuple[list[Mark], str]:
    """Where the arm, or the eye without one, stands on the plate, and the note about it."""
    pose = _pose(mount, job)
    if isinstance(mount.arm, Tube):
        cut = plate_cut(mount, pose)
        return _landing(cut, np.asarray(mount.pad.arm_at), mount.arm.outside_mm / 2), (
            f"Oval: the arm's outside on the plate; line 0 faces {facing_words(cut.zero)}, as on the arm's"
            " templates."
        )
    foot = footprint(mount, arm_run(mount, pose), 0.0)
    if isinstance(mount, EaredMount):
        thick, clear = (
            show(x, "length", job.show.display)
            for x in (mount.cross_bolt.cheek_mm, mount.ears_over_mm - 2 * mount.cross_bolt.cheek_mm)
        )
        return [path(ear, closed=True, layer="MARK") for ear in _ears(mount, foot)], (
            f"Dashed: where both ears stand, {thick} thick with {clear} between them."
        )
    ends = foot.at + np.outer((-1.25, 1.25), foot.along * foot.way)
    if mount.arm is not None:
        return [path(foot.outline(), closed=True, layer="MARK"), path(ends, layer="MARK")], (
            f"Dashed: where the arm stands, its height along the longer way of template arm-{mount.id}."
        )
    long, apart = (show(2 * x, "length", job.show.display) for x in (foot.along, foot.across))
    marks = [path(foot.outline(), closed=True, layer="MARK"), path(ends, layer="MARK")]
    return list(marks), (
        f"Dashed: where the eye's two welds run, {long} long and {apart} apart; the line along it is the"
        " eye's axis."
    )


def _pose(mount: Mount, job: Job) -> Pose:
    """Where what the mount is made on stands; of a stand-in on the engine it is drawn as it lies there."""
    return Pose.still() if isinstance(mount, EaredMount) else pose_of(job.position)


def _ears(mount: EaredMount, foot: Footprint) -> list[Array]:
    """Both ears as they stand on the plate, (4, 2) each."""
    side, thick = np.array([-foot.way[1], foot.way[0]]), mount.cross_bolt.cheek_mm
    long = np.outer((-1.0, 1.0, 1.0, -1.0), foot.along * foot.way)
    out = []
    for s in (-1.0, 1.0):
        deep = s * np.array([foot.across - thick] * 2 + [foot.across] * 2)
        out.append(foot.at + long + np.outer(deep, side))
    return out


def _warnings(mount: Mount) -> tuple[str, ...]:
    pad = mount.pad
    if all(pad.edge_there_mm >= 1.2 * bolt.hole_mm for bolt, _ in pad.sorts):
        return ()
    return (
        f"Edge distance {pad.edge_there_mm:g} mm is under 1.2 hole diameters (EN 1993-1-8 table 3.3,"
        " from memory).",
    )


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
