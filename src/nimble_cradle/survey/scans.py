"""Scans as items of a job: brought in, put to scale, placed, refined, cropped, split, thinned. Each is an
edit: a job to the next job.

The mesh in the job is always in mm in the scan's own frame; the item's mesh shape places it.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.files import printable
from nimble_cradle.geometry.align import RigidFit, rigid_fit
from nimble_cradle.geometry.mesh import left_out, raw_mesh, read_mesh
from nimble_cradle.geometry.pose import Array, Pose, angles_xyz, rotation_xyz
from nimble_cradle.geometry.refine import Refined, refine
from nimble_cradle.geometry.scan import UNITS, Scan, cleaned, cropped, thinned
from nimble_cradle.geometry.scan_ply import to_ply
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.geometry.surface import Surface
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import added, free_id, with_mesh, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.shapes import Mesh
from nimble_cradle.survey.made import placed_items
from nimble_cradle.survey.shapes import solid, used_meshes

Progress = Callable[[str], None] | None


@dataclass(frozen=True, eq=False)
class ScanItem:
    """A scan in a job: its item, its mesh in its own frame, and where that stands."""

    item: Item
    shape: Mesh
    scan: Scan
    pose: Pose

    @property
    def placed(self) -> Scan:
        """The mesh where it stands, vehicle frame."""
        return Scan(self.pose.points(self.scan.vertices), self.scan.faces)


def scan_items(job: Job) -> tuple[Item, ...]:
    """Items that were scanned: drawn by a mesh and measured so."""
    return tuple(
        item
        for item in job.items
        if item.measured == "scan" and item.shapes and isinstance(item.shapes[0], Mesh)
    )


def scan_of(job: Job, item_id: str) -> ScanItem:
    """The scan of an item. Raises JobError."""
    for item in scan_items(job):
        if item.id == item_id:
            shape = item.shapes[0]
            assert isinstance(shape, Mesh)
            try:
                vertices, faces = read_mesh(shape.file, job.mesh(shape.file).data)
            except ShapeError as error:
                raise JobError(f"{item.name}: {error}", f"items/{item.id}") from None
            return ScanItem(
                item, shape, Scan(vertices, faces), Pose(rotation_xyz(*shape.turn), np.asarray(shape.at))
            )
    raise JobError("Choose a scan first.", "items")


def ready(job: Job, item_id: str) -> None:
    """Have a scan read and cut into cells, so that whoever asks next need not wait. Raises JobError."""
    found = scan_of(job, item_id)
    solid(found.item.shapes, used_meshes(found.item.shapes, job.meshes))


def read_scan(name: str, data: bytes, unit: str, say: Callable[[str], None] = lambda _: None) -> Scan:
    """A scan file in mm, put right. unit: one of UNITS; it is asked, never guessed. say: may raise to stop
    it. Raises JobError with a sentence."""
    if unit not in UNITS:
        raise JobError(f"Say the unit of {printable(name)}: {', '.join(UNITS)}.")
    try:
        points, faces = raw_mesh(name, data, say)
        made = cleaned(points * UNITS[unit], faces, f"“{printable(name)}” read in {unit}")
        return replace(made, notes=(*made.notes, *left_out(name, data)))
    except ShapeError as error:
        raise JobError(str(error)) from None


def with_scan(job: Job, name: str, scan: Scan, plus_minus_mm: float = 1.0) -> tuple[Job, str]:
    """The job with a scan as a new item, and the item's id."""
    key = free_id("scan", {item.id for item in job.items})
    stem = re.sub(r"[^A-Za-z0-9_-]+", "-", name.rsplit(".", 1)[0]).strip("-")[:50] or "scan"
    after, file = _with_bytes(job, stem, scan)
    classes = [clearance.id for clearance in job.clearances]
    item = Item(
        id=key,
        name=stem.replace("-", " ")[:60],
        neighbour="sheet" if "sheet" in classes else classes[0],
        measured="scan",
        plus_minus_mm=plus_minus_mm,
        placed=False,
        shapes=(Mesh(file=file),),
        note="; ".join(scan.notes),
    )
    return added(after, "items", item), key


def _with_bytes(job: Job, stem: str, scan: Scan) -> tuple[Job, str]:
    """The job with the mesh's bytes under a name that is free."""
    n = 1
    while f"{stem}-{n}.ply" in {mesh.name for mesh in job.meshes}:
        n += 1
    return with_mesh(job, f"{stem}-{n}.ply", to_ply(scan)), f"{stem}-{n}.ply"


def _with_new_mesh(job: Job, found: ScanItem, scan: Scan, at: Array | None = None) -> Job:
    stem = re.sub(r"-\d+$", "", found.shape.file.rsplit(".", 1)[0])
    after, file = _with_bytes(job, stem, scan)
    shape = found.shape.model_copy(update={"file": file, **({"at": _vec(at)} if at is not None else {})})
    after = with_value(after, f"items/{found.item.id}/shapes/0", shape)
    drawn = [
        *(s for item in after.items for s in item.shapes),
        *(s for piece in after.powertrain.pieces for s in piece.shapes),
    ]
    if not any(isinstance(s, Mesh) and s.file == found.shape.file for s in drawn):
        after = with_value(
            after, "meshes", tuple(mesh for mesh in after.meshes if mesh.name != found.shape.file)
        )
    return after


def _vec(v: Array) -> tuple[float, float, float]:
    return round(float(v[0]), 4) + 0.0, round(float(v[1]), 4) + 0.0, round(float(v[2]), 4) + 0.0


def with_pose(job: Job, item_id: str, pose: Pose) -> Job:
    """The scan standing at ``pose`` (vehicle frame), and so placed."""
    shape = scan_of(job, item_id).shape
    turn = tuple(round(a, 6) + 0.0 for a in angles_xyz(pose.rotation))
    after = with_value(
        job,
        f"items/{item_id}/shapes/0",
        shape.model_copy(update={"at": _vec(pose.translation), "turn": turn}),
    )
    return (
        after if scan_of(after, item_id).item.placed else with_value(after, f"items/{item_id}/placed", True)
    )


def scaled(job: Job, item_id: str, between: tuple[Array, Array], known_mm: float) -> tuple[Job, float]:
    """The scan put to scale so that two picked points (vehicle frame, as it stands) are ``known_mm``
    apart, about the first of them. Gives the factor. Raises JobError."""
    found = scan_of(job, item_id)
    present = float(np.linalg.norm(between[1] - between[0]))
    if known_mm <= 0:
        raise JobError(f"A distance must be more than nought, not {known_mm:g} mm.")
    if present < 20:
        raise JobError(
            "The two picked points are too near one another to scale by: pick two as far apart as you can."
        )
    factor = known_mm / present
    at = between[0] + factor * (found.pose.translation - between[0])
    return _with_new_mesh(job, found, Scan(found.scan.vertices * factor, found.scan.faces), at), factor


def place(job: Job, item_id: str, picked: list[Array], known: list[Array]) -> tuple[Job, RigidFit]:
    """The scan laid on known points by pairs: picked (as it stands now) on known, vehicle frame. Raises
    JobError."""
    found = scan_of(job, item_id)
    try:
        fit = rigid_fit(picked, known)
    except ShapeError as error:
        raise JobError(str(error)) from None
    return with_pose(job, item_id, fit.pose @ found.pose), fit


def other_surface(job: Job, item_id: str, spacing: float = 12.0) -> Surface:
    """All other items' surfaces, for a scan to be laid on. Raises JobError where there are none."""
    vertices, faces, base = [], [], 0
    for item in placed_items(job):
        if item.id == item_id or item.fate == "remove" or (item.measured == "scan" and item.made is None):
            continue
        for part in solid(item.shapes, used_meshes(item.shapes, job.meshes)):
            v, f = part.triangles
            vertices.append(v)
            faces.append(f + base)
            base += len(v)
    if not vertices:
        raise JobError("There is no other item yet that the scan could be laid on.")
    return Surface(np.vstack(vertices), np.vstack(faces), spacing)


def refined(
    job: Job, item_id: str, region: tuple[Array, Array] | None = None, keep: float = 0.8, within: float = 40.0
) -> tuple[Job, Refined]:
    """The scan laid more closely on the other items, judged in a region (low, high; None: everywhere). Its
    give-or-take becomes at least twice the rms that is left. Raises JobError."""
    found = scan_of(job, item_id)
    points = found.placed.vertices
    if region is not None:
        points = points[((points >= region[0]) & (points <= region[1])).all(1)]
        if len(points) < 50:
            raise JobError("Too little of the scan lies in that region.")
    try:
        fine = refine(points, other_surface(job, item_id), keep, within)
    except ShapeError as error:
        raise JobError(str(error)) from None
    after = with_pose(job, item_id, fine.pose @ found.pose)
    doubt = round(max(found.item.give_or_take, 2 * fine.rms), 2)
    return with_value(after, f"items/{item_id}/plus_minus_mm", doubt), fine


def off_by(job: Job, item_id: str, within: float = 15.0) -> Array:
    """How far each triangle of a scan (its middle) is from the other items, mm; infinite beyond
    ``within``."""
    found = scan_of(job, item_id)
    placed = found.placed
    return other_surface(job, item_id).nearest(placed.vertices[placed.faces].mean(1), within)[0]


def off_figures(off: Array, give_or_take: float) -> tuple[float, float, float]:
    """Of what lies near taped items: half and nine tenths are within these mm; and the share of the whole
    scan within its give-or-take."""
    near = off[np.isfinite(off)]
    half, most = np.quantile(near, [0.5, 0.9]) if len(near) else (np.inf, np.inf)
    share = float((off <= give_or_take).mean()) if len(off) else 0.0
    return float(half), float(most), share


def _box(found: ScanItem, region: tuple[Array, Array], inside: bool) -> Scan:
    try:
        placed = cropped(found.placed, np.minimum(*region), np.maximum(*region), inside)
    except ShapeError as error:
        raise JobError(str(error)) from None
    return Scan(found.pose.inverse().points(placed.vertices), placed.faces)


def with_crop(job: Job, item_id: str, region: tuple[Array, Array], keep_inside: bool = True) -> Job:
    """Only the part of the scan inside (or outside) a box of the vehicle frame. Raises JobError."""
    found = scan_of(job, item_id)
    return _with_new_mesh(job, found, _box(found, region, keep_inside))


def with_split(job: Job, item_id: str, region: tuple[Array, Array]) -> tuple[Job, str]:
    """What lies in a box becomes an item of its own, and the rest stays. Gives the new item's id. Raises
    JobError."""
    found = scan_of(job, item_id)
    part, rest = _box(found, region, True), _box(found, region, False)
    after, file = _with_bytes(job, "part", part)
    key = free_id("scan", {item.id for item in job.items})
    item = found.item.model_copy(
        update={
            "id": key,
            "name": f"{found.item.name[:60]}, part",
            "shapes": (found.shape.model_copy(update={"file": file}),),
        }
    )
    return _with_new_mesh(added(after, "items", item), found, rest), key


def with_thinning(
    job: Job, item_id: str, deviation: float, progress: Progress = None
) -> tuple[Job, int, float]:
    """The scan with fewer triangles, within ``deviation`` mm; gives their number and the greatest distance
    found. Raises JobError."""
    found = scan_of(job, item_id)
    try:
        thin, worst = thinned(found.scan, deviation, progress)
    except ShapeError as error:
        raise JobError(f"{found.item.name}: {str(error)[0].lower()}{str(error)[1:]}") from None
    after = _with_new_mesh(job, found, thin)
    return (
        with_value(
            after, f"items/{item_id}/plus_minus_mm", round(float(np.hypot(found.item.give_or_take, worst)), 2)
        ),
        len(thin.faces),
        worst,
    )
