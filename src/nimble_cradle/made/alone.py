"""One mount by itself: its parts as they are made, weld beads and bolts with them, stubs of what it joins,
and the lengths that one asks of it. Only drawn: nothing is calculated from it. Vehicle frame, mm."""

from __future__ import annotations

import math
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.bodies import fitted_pieces, solid_of
from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.arm_run import ArmRun, arm_run
from nimble_cradle.families.family import bush_family, eye_of, foot_family
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.landing import footprint, weld_throat
from nimble_cradle.families.part import MadePart, Owner
from nimble_cradle.families.plate import bolt_places, plate_of
from nimble_cradle.geometry.clip import clipped
from nimble_cradle.geometry.plate import Plate
from nimble_cradle.geometry.pose import Array, Pose, crosses, frame, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import MeshPart, SolidPart, placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.made.foot_seats import foot_seats
from nimble_cradle.made.parts import made
from nimble_cradle.stock.threads import thread

STUB, RIND, BESIDE = 130.0, 22.0, 75.0
"""So much of the rail is left on every side; of the block so deep behind the pad, so far beside it, mm."""
STEP = 55.0
"""Between two parts that are taken apart, mm."""


@dataclass(frozen=True, eq=False)
class Shown:
    """A thing that is drawn. look: ``made``, ``block``, ``rail``, ``rubber``, ``bolt``, ``weld``. order: its
    place on the way from block to rail, for taking apart."""

    id: str
    solids: tuple[SolidPart, ...]
    look: str
    order: int


@dataclass(frozen=True, eq=False)
class Length:
    """A length from a to b (3,), and what it is."""

    a: Array
    b: Array
    what: str

    @property
    def mm(self) -> float:
        """How long."""
        return float(np.linalg.norm(self.b - self.a))


_ORDER = {
    "spacers": -3,
    "plate": -2,
    "arm": -1,
    "arm-strips": -1,
    "battens": -1,
    "eye": 0,
    "packing": -1,
    "sleeve": 0,
    "cheeks": 1,
}
"""Where parts stand on the way; what is not named here stands after the cheeks."""


def shown_alone(job: Job, mount: Mount, apart: bool) -> tuple[Shown, ...]:
    """Everything that is drawn of a mount by itself. Raises JobError where it cannot be made."""
    pose, seat = pose_of(job.position), foot_seats(job).of(mount.id)
    run = arm_run(mount, pose)
    rows = [_as_made(part, mount, run, pose) for part in made(job).of(Owner("mount", mount.id))]
    rows = [row for row in rows if row.solids]
    rows += [
        _rubber(mount),
        _bolts(mount, pose, run),
        _beads(mount, run, seat),
        Shown("block", _block(job, mount, pose), "block", -4),
    ]
    if seat is not None:
        rows.append(Shown("rail", _stub(seat.parts, seat.centre), "rail", 4))
    rows = [row for row in rows if row.solids]
    if not apart:
        return tuple(rows)
    moved = (_apart(row, mount, run, seat) for row in rows)
    return tuple(row for row in moved if row.solids)


def _as_made(part: MadePart, mount: Mount, run: ArmRun, pose: Pose) -> Shown:
    """A made part; the plate with its holes."""
    solids: tuple[SolidPart, ...] = part.in_vehicle(pose)
    if part.stands_in:
        solids = ()
    elif part.role == "plate":
        axes = run.axes
        start = run.pad_centre + mount.pad.spacer_mm * axes[:, 2]
        solids = (holed(plate_of(mount, run), start, axes, mount.pad.plate_mm),)
    look = "bolt" if "bolt" in part.role else "made"
    return Shown(part.role, solids, look, _ORDER.get(part.role, 2))


def holed(plate: Plate, start: Array, axes: Array, thick: float) -> MeshPart:
    """A flat plate with its holes: its face begins at ``start`` and lies along the first two of axes (3, 3),
    ``thick`` along the third."""
    from shapely import Point, Polygon, constrained_delaunay_triangles
    from shapely.geometry.polygon import orient

    rings = [
        [tuple(p) for p in np.asarray(Point(*h).buffer(d / 2, quad_segs=8).exterior.coords)[:-1]]
        for h, d in zip(plate.holes, plate.diameters, strict=True)
    ]
    whole = orient(Polygon([tuple(p) for p in plate.outline], rings))  # the metal always on the left
    flat: list[tuple[float, float, float]] = []
    faces: list[tuple[int, int, int]] = []
    for piece in getattr(constrained_delaunay_triangles(whole), "geoms", ()):
        corners = np.asarray(piece.exterior.coords)[:3]
        (ax, ay), (bx, by) = corners[1] - corners[0], corners[2] - corners[0]
        if ax * by < ay * bx:
            corners = corners[::-1]
        n = len(flat)
        flat += [(*c, thick) for c in corners]
        faces.append((n, n + 1, n + 2))
        n = len(flat)
        flat += [(*c, 0.0) for c in corners[::-1]]
        faces.append((n, n + 1, n + 2))
    for line in (whole.exterior, *whole.interiors):
        ring = [(float(x), float(y)) for x, y in line.coords[:-1]]
        for a, b in zip(ring, [*ring[1:], ring[0]], strict=True):
            n = len(flat)
            flat += [(*a, 0.0), (*b, 0.0), (*b, thick), (*a, thick)]
            faces += [(n, n + 1, n + 2), (n, n + 2, n + 3)]
    return MeshPart(start + np.array(flat) @ axes.T, np.array(faces, dtype=np.int64))


def _rubber(mount: Mount) -> Shown:
    """What fills the eye, a little longer than it."""
    bush, eye = mount.bush, eye_of(mount.bush)
    half = unit(bush.axis) * (eye.length_mm / 2 + 1.5)
    centre = np.asarray(bush.centre, dtype=float)
    wide = eye.outside_mm - 2 * eye.wall_mm
    inner = bush_family(bush).sleeve_outside_mm(bush)
    solids = (bar(centre - half, centre + half, wide),) if wide > inner + 1 else ()
    return Shown("rubber", solids, "rubber", 0)


def _bolts(mount: Mount, pose: Pose, run: ArmRun) -> Shown:
    """The bolts into the block, their heads on the plate."""
    out = run.axes[:, 2]
    solids: list[SolidPart] = []
    for bolt, head in zip(mount.pad.bolts, bolt_places(mount, pose), strict=True):
        d = thread(bolt.size).diameter
        deep = mount.pad.thread_deep_mm or 1.5 * d
        solids.append(bar(head, head + 0.65 * d * out, 1.6 * d))
        solids.append(bar(head - (mount.pad.out_mm + deep) * out, head, d))
    return Shown("bolts", tuple(solids), "bolt", -3)


def _beads(mount: Mount, run: ArmRun, seat: FootSeat | None) -> Shown:
    """The weld round the arm or along the eye on its plate, and along the cheeks at their foot."""
    leg = max(weld_throat(mount) * math.sqrt(2), 1.5)
    flat = footprint(mount, run, 0.0).outline(40)
    face = run.pad_centre + mount.pad.out_mm * run.axes[:, 2]
    ring = face + flat @ run.axes[:, :2].T
    solids = [bar(a, b, leg) for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True) if _far(a, b)]
    if seat is not None and mount.foot is not None:
        on = None
        with suppress(JobError):
            on = foot_family(mount.foot).cheeks(mount, seat)
        if on is not None:
            thick = on.foot.cheek_weld_mm * math.sqrt(2)
            along, across, out = seat.axes.T
            base = seat.centre + on.base * out - on.foot.shift[0] * along
            half = on.foot.cheek_foot_mm / 2 * across
            for s in (-1.0, 1.0):
                edge = base + s * (on.beside + mount.cross_bolt.cheek_mm / 2) * along
                solids.append(bar(edge - half, edge + half, thick))
    return Shown("welds", tuple(solids), "weld", 1)


def _far(a: Array, b: Array) -> bool:
    return float(np.linalg.norm(b - a)) > 0.2


def _block(job: Job, mount: Mount, pose: Pose) -> tuple[SolidPart, ...]:
    """What of the engine is round the pad, and behind it."""
    centre = pose.points(mount.pad.centre)
    out = pose.rotation @ frame(mount.pad.normal, mount.pad.up)[:, 2]
    solids: list[SolidPart] = []
    for piece in fitted_pieces(job):
        with suppress(JobError):
            solids += [placed_part(s, pose) for s in solid_of(piece, job.meshes, "powertrain/pieces")]
    kept = []
    for solid in _stub(solids, centre, BESIDE):
        left = clipped(solid, out, float(centre @ out) + 0.01)
        left = None if left is None else clipped(left, -out, RIND - float(centre @ out))
        if left is not None:
            kept.append(left)
    return tuple(kept)


def seen_from(mount: Mount, run: ArmRun) -> Array:
    """(3,) the way from which one sees most of a mount: square to its arm, from the front, and a little from
    above and from the rail."""
    up = np.array([0.0, 0.0, 1.0])
    side = crosses(run.way, up)
    if float(np.linalg.norm(side)) < 0.2:
        side = np.array([1.0, 0.0, 0.0])
    side = unit(side)
    return unit((side if side[0] >= 0 else -side) + 0.45 * up + 0.35 * run.way)


def _stub(solids: Sequence[SolidPart], centre: Array, most: float = STUB) -> tuple[SolidPart, ...]:
    """What of solids lies within ``most`` of a place along every axis."""
    out = []
    for solid in solids:
        left: SolidPart | None = solid
        for way in np.vstack([np.eye(3), -np.eye(3)]):
            left = None if left is None else clipped(left, way, float(centre @ way) + most)
        if left is not None:
            out.append(left)
    return tuple(out)


def _apart(row: Shown, mount: Mount, run: ArmRun, seat: FootSeat | None) -> Shown:
    """A thing moved along the way from block to rail: towards the block along the arm, towards the rail along
    the seat; bush and bolt along the bolt."""
    if row.look == "weld":
        return Shown(row.id, (), row.look, row.order)  # it is not welded yet
    if row.order < 0:
        by = row.order * STEP * (run.axes[:, 2] if row.order < -1 else run.way)
        if row.order < -1:
            by = by - STEP * run.way
    elif row.order > 0:
        by = row.order * STEP * (-seat.axes[:, 2] if seat is not None else np.array([0.0, 0.0, -1.0]))
    elif row.id in ("rubber", "sleeve"):
        far = eye_of(mount.bush).length_mm + (25.0 if row.id == "rubber" else 110.0)
        by = unit(mount.bush.axis) * far
    else:
        by = np.zeros(3)
    moved = Pose(np.eye(3), np.asarray(by, dtype=float))
    return Shown(row.id, tuple(placed_part(s, moved) for s in row.solids), row.look, row.order)


def lengths_alone(job: Job, mount: Mount) -> tuple[Length, ...]:
    """What one asks of a mount: the arm from plate to eye, the bolt off its host, the eye's length, its bush
    from the pad. Raises JobError where it cannot be made."""
    run = arm_run(mount, pose_of(job.position))
    centre, axis = np.asarray(mount.bush.centre, dtype=float), unit(mount.bush.axis)
    eye = eye_of(mount.bush)
    out = []
    if mount.arm is not None:
        legs = [run] if run.last is None else [run, run.last]
        for leg in legs:
            short = leg.eye_radius if leg is legs[-1] else 0.0
            out.append(Length(leg.root, leg.aim - short * leg.way, "arm"))
    out.append(Length(centre - axis * eye.length_mm / 2, centre + axis * eye.length_mm / 2, "eye"))
    seat = foot_seats(job).of(mount.id)
    if seat is not None:
        foot = centre - seat.height * seat.axes[:, 2]
        out.append(Length(centre, foot, f"bolt off {seat.host.name}"))
    return tuple(out)
