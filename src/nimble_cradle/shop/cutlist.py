"""What has to be cut and bought, as rows and as CSV."""

from __future__ import annotations

import contextlib
import csv
import io
import math
import re
from dataclasses import astuple, dataclass, fields

import numpy as np

from nimble_cradle.files import cell
from nimble_cradle.fit.position import pose_of
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Crossmember, Mount
from nimble_cradle.load_path import packing_heights
from nimble_cradle.shop.templates import arm_cut
from nimble_cradle.strength.arms import eye_spacing, mount_plate
from nimble_cradle.strength.beam import axis_length
from nimble_cradle.strength.frame import member_axes
from nimble_cradle.strength.sections import properties, round_tube
from nimble_cradle.strength.threads import DENSITY_STEEL

TRIM = 5.0
"""Added to a tube's length for trimming at each end, mm (common practice, no source)."""


@dataclass(frozen=True)
class Row:
    """One line of the cut list. Sizes mm, mass kg of one."""

    part: str
    quantity: int
    stock: str
    material: str
    size: str
    mass_kg: float
    note: str

    @property
    def size_words(self) -> str:
        """The size with its unit: ``112 x 92 mm``, ``101 mm long``."""
        return re.sub(r"(\d)(?= (?:long|high|at)\b|$)", r"\1 mm", self.size)


def cut_list(job: Job) -> tuple[Row, ...]:
    """Rows for plates, arms, eyes, sleeves, bolts and the crossmember. Parts that cannot be drawn are left
    out (they are problems)."""
    rows: list[Row] = []
    for mount in job.mounts:
        try:
            rows += _mount_rows(mount, job)
        except JobError:
            continue
    if job.crossmember is not None:
        with contextlib.suppress(JobError):
            rows.append(_crossmember_row(job.crossmember))
    return tuple(rows)


def _crossmember_row(cross: Crossmember) -> Row:
    """The crossmember's tube. Raises JobError where its section cannot be."""
    p = properties(cross.section)
    length = axis_length(cross.points)
    s = cross.section
    stock = s.stock or f"{s.shape} {s.height_mm:g} x {s.width_mm:g} x {s.wall_mm:g}"
    angles = _bend_angles(cross.points)
    # each mitre takes the long side half a height times tan(turn / 2) past the axis
    ends = [
        0.0,
        *(_reach_in_bend(cross, k) * math.tan(math.radians(a / 2)) for k, a in enumerate(angles)),
        0.0,
    ]
    legs = [math.dist(a, b) for a, b in zip(cross.points, cross.points[1:], strict=False)]
    pieces = [math.ceil(leg + ends[k] + ends[k + 1] - 1e-6) for k, leg in enumerate(legs)]
    told = (
        f"cut {' + '.join(str(n) for n in pieces)} long point to long point, mitre"
        f" {', '.join(f'{a / 2:.1f} deg' for a in angles)}"
        if angles
        else f"square ends, {TRIM:g} mm to trim at each"
    )
    total = sum(pieces) if angles else math.ceil(length - 1e-6) + 2 * TRIM
    return Row(
        "Gearbox crossmember",
        1,
        stock,
        cross.steel,
        f"{total:.0f} long",
        round(total / 1000 * p.kg_per_m, 2),
        f"{math.ceil(10 * length - 1e-6) / 10:g} mm along the axis; {told}",
    )


def _bend_angles(points: tuple[tuple[float, float, float], ...]) -> list[float]:
    ways = [np.subtract(b, a) / math.dist(a, b) for a, b in zip(points, points[1:], strict=False)]
    return [
        math.degrees(math.acos(float(np.clip(a @ b, -1, 1)))) for a, b in zip(ways, ways[1:], strict=False)
    ]


def _reach_in_bend(cross: Crossmember, k: int) -> float:
    """How far the section of the tube reaches from its axis in the plane of bend k, square to the tube
    before it, mm."""
    a, b, c = (np.asarray(p) for p in cross.points[k : k + 3])
    along, across, up = member_axes(a, b, (0.0, 0.0, 1.0))
    way = c - b - ((c - b) @ along) * along
    size = float(np.linalg.norm(way))
    if size < 1e-9:
        return 0.0
    s = cross.section
    if s.shape == "round":
        return s.height_mm / 2
    width = s.height_mm if s.shape == "square" else s.width_mm
    return float(abs(way @ up) * s.height_mm + abs(way @ across) * width) / size / 2


def _mount_rows(mount: Mount, job: Job) -> list[Row]:
    pad, bush = mount.pad, mount.bush
    plate = mount_plate(mount, pose_of(job.position))
    size = plate.outline.max(0) - plate.outline.min(0)
    rows = [
        Row(
            f"{mount.name}: plate",
            1,
            f"plate {pad.plate_mm:g}",
            pad.steel,
            f"{math.ceil(size[0] - 1e-6)} x {math.ceil(size[1] - 1e-6)}",
            round(plate.area * pad.plate_mm * DENSITY_STEEL, 2),
            f"template plate-{mount.id}",
        )
    ]
    if mount.arm:
        cut = arm_cut(mount, job)
        length = math.ceil(cut.long_mm + 2 * TRIM)
        tube = round_tube(mount.arm.outside_mm, mount.arm.wall_mm)
        rows.append(
            Row(
                f"{mount.name}: arm",
                1,
                f"tube {mount.arm.outside_mm:g} x {mount.arm.wall_mm:g}",
                mount.arm.steel,
                f"{length} long",
                round(length / 1000 * tube.kg_per_m, 2),
                f"{TRIM:g} mm to trim at each end; templates cope-{mount.id}, foot-{mount.id}",
            )
        )
    eye_outside = bush.eye_bore_mm + 2 * bush.eye_wall_mm
    eye = round_tube(eye_outside, bush.eye_wall_mm)
    sleeve = round_tube(bush.sleeve_mm, (bush.sleeve_mm - bush.sleeve_bore_mm) / 2)
    long = bush.length_mm + 2 * mount.cross_bolt.gap_mm
    rows += [
        Row(
            f"{mount.name}: bush eye",
            1,
            f"tube {eye_outside:g} x {bush.eye_wall_mm:g}",
            pad.steel,
            f"{bush.length_mm:g} long",
            round(bush.length_mm / 1000 * eye.kg_per_m, 2),
            "weld before the bush goes in",
        ),
        Row(
            f"{mount.name}: sleeve",
            1,
            f"tube {bush.sleeve_mm:g} outside, {bush.sleeve_bore_mm:g} bore",
            "E355",
            f"{long:g} long",
            round(long / 1000 * sleeve.kg_per_m, 2),
            "ends square: the cross-bolt clamps it",
        ),
        Row(
            f"{mount.name}: bush",
            1,
            f"rubber, {bush.hardness_shore_a:g} Shore A",
            "rubber",
            f"{bush.eye_bore_mm:g} x {bush.sleeve_mm:g} x {bush.length_mm:g}",
            0.0,
            "bonded, or bought to this size",
        ),
        Row(
            f"{mount.name}: block bolts",
            len(pad.holes),
            pad.bolt,
            pad.bolt_class,
            "length to suit",
            0.0,
            f"tighten to {pad.tightening_nm:g} Nm in passes",
        ),
        Row(
            f"{mount.name}: cross-bolt",
            1,
            mount.cross_bolt.bolt,
            mount.cross_bolt.bolt_class,
            f"plain shank at least {long + 2 * mount.cross_bolt.cheek_mm:g}",
            0.0,
            "self-locking nut",
        ),
    ]
    if (heights := packing_heights(mount, pose_of(job.position))) is not None:
        deep, wide = max(heights), eye_spacing(mount)
        mass = sum(heights) / 2 * wide * bush.length_mm * DENSITY_STEEL
        even = f"{heights[0]:.1f}" == f"{heights[1]:.1f}"
        tall = (
            f"{heights[0]:.1f} high"
            if even
            else f"{heights[0]:.1f} high at one end, {heights[1]:.1f} at the other"
        )
        rows.append(
            Row(
                f"{mount.name}: packing piece",
                1,
                f"flat {math.ceil(wide)} x {math.ceil(deep - 1e-6)}",
                pad.steel,
                f"{bush.length_mm:g} long, {tall}",
                round(mass, 2),
                "under the eye, low end where the eye is nearest the plate; weld it to the plate all round",
            )
        )
    return rows


def cut_list_csv(job: Job) -> str:
    """The cut list as CSV with a heading, one row a part."""
    stream = io.StringIO()
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow([f.name for f in fields(Row)])
    for row in cut_list(job):
        writer.writerow([cell(v) for v in astuple(row)])
    return stream.getvalue()
