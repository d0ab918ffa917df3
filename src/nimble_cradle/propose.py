"""Places to begin from: first mounts and a first crossmember for a job that has none, and the reading that
is worth taking next."""

from __future__ import annotations

from typing import Literal

import numpy as np

from nimble_cradle.fit.bodies import bay_bodies, powertrain_bodies, solid_of
from nimble_cradle.fit.position import pose_of
from nimble_cradle.geometry.pose import Pose, frame, unit
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.edits import value_at, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Arm, Bush, Crossmember, Mount, Pad
from nimble_cradle.job.powertrain import Gearbox
from nimble_cradle.job.twins import twin
from nimble_cradle.strength.sections import stock
from nimble_cradle.survey.made import surface_row
from nimble_cradle.survey.network import network
from nimble_cradle.survey.next_reading import Proposal, next_readings
from nimble_cradle.verdict import Verdict


def first_mount(job: Job, key: str) -> Mount:
    """A mount with the id ``key``: on the side of the block that has fewer, the third and later ones under
    the gearbox output."""
    engine = [m for m in job.mounts if m.carries == "engine"]
    under_gearbox = len(engine) >= 2
    side = 1.0 if sum(np.sign(m.pad.normal[1]) for m in engine) <= 0 else -1.0
    centre: Vec3 = job.powertrain.gearbox.output if under_gearbox else (200.0, side * 120.0, 0.0)
    away = np.array([0.0, 0.0, -70.0]) if under_gearbox else np.array([0.0, side * 160.0, -60.0])
    x, y, z = (round(float(c), 1) for c in pose_of(job.position).points(np.array(centre) + away))
    carries: Literal["engine", "gearbox"] = "gearbox" if under_gearbox else "engine"
    pad = Pad(
        centre=centre,
        normal=(0.0, 0.0, -1.0) if under_gearbox else (0.0, side, 0.0),
        up=(1.0, 0.0, 0.0) if under_gearbox else (0.0, 0.0, 1.0),
        holes=((-40, -28), (40, -28), (40, 28), (-40, 28)),
    )
    bush = Bush(
        centre=(x, y, z),
        axis=(1.0, 0.0, 0.0),
        sleeve_mm=22,
        sleeve_bore_mm=12.2,
        eye_bore_mm=70,
        eye_wall_mm=4,
        length_mm=54,
        hardness_shore_a=50,
    )
    name = "Gearbox mount" if under_gearbox else f"{'Left' if side > 0 else 'Right'} engine mount"
    return Mount(
        id=key,
        name=name,
        carries=carries,
        pad=pad,
        arm=None if under_gearbox else Arm(outside_mm=50, wall_mm=4),
        bush=bush,
    )


def with_eye_on_plate(job: Job, mount: Mount) -> Job:
    """The job with the eye of a mount without an arm set straight on the cross of its plate, its axis laid
    along the plate; a crossmember that carries it goes with it. Raises JobError."""
    if mount.arm is not None:
        raise JobError(
            f"{mount.name} has an arm: its eye does not stand on the plate.", f"mounts/{mount.id}/arm"
        )
    pad, bush = mount.pad, mount.bush
    pose = pose_of(job.position)
    axes = pose.rotation @ frame(pad.normal, pad.up)
    along = np.asarray(bush.axis) - (np.asarray(bush.axis) @ axes[:, 2]) * axes[:, 2]
    if float(np.linalg.norm(along)) < 1e-6:
        raise JobError(
            f"{mount.name}: the bush's axis stands square on the plate; turn it.",
            f"mounts/{mount.id}/bush/axis",
        )
    radius = bush.eye_bore_mm / 2 + bush.eye_wall_mm
    at = pose.points(pad.centre) + axes @ np.array([*pad.arm_at, pad.plate_mm + radius])
    x, y, z = (round(float(c), 1) for c in at)
    i, j, k = (round(float(c), 4) for c in unit(along))
    base = f"mounts/{mount.id}/bush"
    moved = with_value(with_value(job, f"{base}/centre", (x, y, z)), f"{base}/axis", (i, j, k))
    cross = job.crossmember
    if cross is None or cross.carries != mount.id:
        return moved
    by = np.subtract((x, y, z), bush.centre)
    ends = {0, len(cross.points) - 1}
    points = tuple(
        (round(p[0] + float(by[0]), 1), p[1], p[2] if n in ends else round(p[2] + float(by[2]), 1))
        for n, p in enumerate(cross.points)
    )
    return with_value(moved, "crossmember/points", points)


def first_crossmember(job: Job) -> Crossmember:
    """A straight tube just under the gearbox mount's eye, 400 mm to each side. Raises JobError without a
    gearbox mount."""
    mount = next((m for m in job.mounts if m.carries == "gearbox"), None)
    if mount is None:
        raise JobError("There is no gearbox mount yet for it to carry; add that on Mounts first.", "mounts")
    x, _, z = mount.bush.centre
    low = z - mount.bush.eye_bore_mm / 2 - mount.bush.eye_wall_mm - 30
    return Crossmember(
        points=((x, 400.0, low), (x, -400.0, low)), section=stock()["square 50x50x3"], carries=mount.id
    )


def beside(job: Job, where: Literal["items", "powertrain/pieces"]) -> Vec3:
    """A place for something new, mm: to the left of everything that is there of its kind, level with the
    engine; vehicle frame for items, powertrain frame for pieces."""
    try:
        if where == "items":
            at, bodies = pose_of(job.position).translation, bay_bodies(job)
        else:
            at, bodies = np.zeros(3), powertrain_bodies(job)
        centres, halves = bodies.boxes(Pose.still())
        left = float((centres + halves)[:, 1].max(initial=0.0))
    except JobError:
        return 0.0, 1200.0, 0.0
    return round(float(at[0])), round(min(left, 3000.0) + 120.0), round(float(at[2]))


def duplicated(job: Job, path: str) -> tuple[Job, str]:
    """The job with a second of the item, piece or mount at ``path`` beside the first, and its id. Raises
    JobError."""
    where, one = path.rpartition("/")[0], value_at(job, path)
    by: Vec3 = (-120.0, 0.0, 0.0)
    if not isinstance(one, Mount):
        parts = solid_of(one, job.meshes, where)
        across = np.ptp(np.vstack([p.triangles[0] for p in parts]), axis=0) if parts else np.full(3, 100.0)
        by = (0.0, float(round(across[1])) + 20.0, 0.0)
    return twin(job, path, mirror=False, by=by)


def with_gearbox_kind(job: Job, kind: Literal["gearbox", "transaxle", "transfer case"]) -> Job:
    """The job with another kind of gearbox; a transaxle gets seats for its half-shafts beside its output,
    and outer joints where there are none, to be typed over. Raises JobError."""
    box = job.powertrain.gearbox
    x, y, z = box.output
    seats = (box.seats or ((x, y + 90.0, z), (x, y - 90.0, z))) if kind == "transaxle" else None
    kept = {k: getattr(box, k) for k in Gearbox.model_fields}
    after = with_value(job, "powertrain/gearbox", Gearbox(**{**kept, "kind": kind, "seats": seats}))
    return with_hubs(after) if kind == "transaxle" and job.vehicle.hubs is None else after


def with_hubs(job: Job) -> Job:
    """The job with outer joints of the half-shafts straight out from their seats, 380 mm to each side and
    40 down, to be typed over. Raises JobError."""
    seats = job.powertrain.gearbox.seats
    if seats is None:
        raise JobError("Only a transaxle has half-shafts.", "powertrain/gearbox/kind")
    pose = pose_of(job.position)
    hubs = []
    for seat, side in zip(seats, (1.0, -1.0), strict=True):
        x, y, z = (round(float(c), 1) for c in pose.points(seat) + (0.0, 380.0 * side, -40.0))
        hubs.append((x, y, z))
    return with_value(job, "vehicle/hubs", tuple(hubs))


def with_bend(job: Job) -> Job:
    """The job with one more bend in its crossmember, in the middle of its longest stretch. Raises
    JobError."""
    cross = job.crossmember
    if cross is None:
        raise JobError("There is no crossmember yet.", "crossmember")
    points = np.array(cross.points)
    k = int(np.linalg.norm(np.diff(points, axis=0), axis=1).argmax())
    x, y, z = (round(float(c), 1) for c in (points[k] + points[k + 1]) / 2)
    return with_value(job, "crossmember/points", (*cross.points[: k + 1], (x, y, z), *cross.points[k + 1 :]))


def without_bend(job: Job, k: int) -> Job:
    """The job without bend ``k`` (1 is the first from the left) of its crossmember. Raises JobError."""
    cross = job.crossmember
    if cross is None or not 0 < k < len(cross.points) - 1:
        raise JobError("There is no such bend.", "crossmember/points")
    return with_value(job, "crossmember/points", (*cross.points[:k], *cross.points[k + 1 :]))


def next_to_measure(job: Job, v: Verdict, most: int = 3) -> tuple[str, tuple[Proposal, ...]]:
    """The readings that most lessen the doubt of the tightest gap that hangs on surveyed points (else of
    the least sure point), and what they are good for, in words. Points that are not pinned down come
    first."""
    net = network(job)
    if len(net.points) < 1:
        return "", ()
    wanted = np.zeros(3 * len(net.points))
    loose = [i for i, p in enumerate(net.points) if p.free]
    if loose:
        wanted[3 * loose[0] : 3 * loose[0] + 3] = 1.0
        return f"to pin down {net.points[loose[0]].name}", next_readings(job.survey, net, wanted, most)
    items = {item.id: item for item in job.items if item.made is not None}
    for gap in v.gaps:
        if gap.item in items:
            wanted = surface_row(items[gap.item], net, np.array(gap.on_item), np.array(gap.way))
            return f"for {gap.piece_name} – {gap.item_name}", next_readings(job.survey, net, wanted, most)
    worst = int(np.argmax([p.plus_minus.max() for p in net.points]))
    wanted[3 * worst + int(net.points[worst].plus_minus.argmax())] = 1.0
    return f"for {net.points[worst].name}, the least sure point", next_readings(job.survey, net, wanted, most)
