"""A first torque strut, to be set right, its bracket on the chassis, and its ears on the engine."""

from __future__ import annotations

from typing import Literal

import numpy as np

from nimble_cradle.bay.bodies import fitted_pieces, powertrain_bodies
from nimble_cradle.bay.position import pose_of
from nimble_cradle.design.first_foot import first_foot
from nimble_cradle.families.strut_ears import ears_on_plate
from nimble_cradle.families.strut_stand import on_chassis, told_of
from nimble_cradle.fit.mount_metal import NO_SEAT
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Array, Pose, cross, frame, unit
from nimble_cradle.geometry.solid_makers import box
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.edits import added, free_id, with_value
from nimble_cradle.job.foot import PlateFoot, TabsFoot
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Pad
from nimble_cradle.job.strut import Ears, Strut
from nimble_cradle.stock.washers import washer_radius

BracketKind = Literal["plate", "tabs"]

REACH = 200.0
"""Ears stand on the nearest piece of the engine within so many mm of the eye (common practice, no source)."""
ABOVE, LONG = 250.0, 260.0
"""A first strut stands so far above the crank, and is so long across the car, mm: to be typed over."""


def with_strut(job: Job) -> Job:
    """The job with one more torque strut, high on the engine and across the crank."""
    key = free_id("strut", {mount.id for mount in job.mounts} | {strut.id for strut in job.struts})
    on_engine = (100.0, 0.0, ABOVE)
    pose = pose_of(job.position)
    x, y, z = (round(float(c), 1) for c in pose.points(on_engine) + pose.rotation[:, 1] * LONG)
    strut = Strut(id=key, name="Torque strut", engine_at=on_engine, chassis_at=(x, y, z))
    return added(job, "struts", strut)


def with_bracket(job: Job, strut: Strut, kind: BracketKind | None) -> Job:
    """The job with another kind of bracket under a strut's end on the chassis, its bolt level and square to
    the rod as it stands, on the nearest face of the chassis where it had none; None takes it away. Raises
    JobError."""
    base = f"struts/{strut.id}"
    if kind is None:
        return with_value(job, f"{base}/bracket", None)
    old = strut.bracket
    if old is None:
        way = _square_to(job, strut)
        strut = strut.model_copy(update={"bolt_way": way})
        job = with_value(job, f"{base}/bolt_way", way)
        try:
            old = first_foot(job, on_chassis(strut))
        except JobError as error:
            raise told_of(strut, error) from None
    kept = {"host": old.host, "way": old.way, "shift": old.shift}
    wide = {"cheek_foot_mm": old.cheek_foot_mm, "weld_inside": old.weld_inside}
    if kind == "tabs" and not isinstance(old, TabsFoot):
        old = TabsFoot(**kept, **wide)
    elif kind == "plate" and not isinstance(old, PlateFoot):
        old = PlateFoot(**kept, **wide)
    return with_value(job, f"{base}/bracket", old)


def _square_to(job: Job, strut: Strut) -> Vec3:
    """Level and square to a strut as it stands; along the car where it stands upright."""
    run = pose_of(job.position).points(strut.engine_at) - np.asarray(strut.chassis_at, dtype=float)
    way = cross(run, np.array([0.0, 0.0, 1.0]))
    size = float(np.linalg.norm(way))
    if size < 1.0:
        return (1.0, 0.0, 0.0)
    x, y, _ = (round(float(v) / size, 6) for v in way)
    return (x, y, 0.0)


def with_ears(job: Job, strut: Strut, there: bool) -> Job:
    """The job with ears under a strut's end on the engine, on a plate on the nearest piece that carries one,
    of usual sizes and with usual holes: to be typed over; or without them. Raises JobError."""
    path = f"struts/{strut.id}/ears"
    if not there or strut.ears is not None:
        return with_value(job, path, strut.ears if there else None)
    at, out = _nearest_face(job, strut)
    pose, eye = pose_of(job.position), np.asarray(strut.engine_at, dtype=float)
    rod = pose.inverse().points(strut.chassis_at) - eye
    way = cross(rod, out)
    # where the rod stands square on the face any way along it is square to both
    bolt = unit(way) if float(np.linalg.norm(way)) > 1.0 else frame(out, (0.0, 0.0, 1.0))[:, 0]
    up = cross(out, bolt)
    pad = Pad(centre=_plain(at, 1), normal=_plain(out, 4), up=_plain(up, 4), holes=())
    bare = strut.model_copy(update={"ears": Ears(pad=pad, bolt_way=_plain(bolt, 4))})
    _, ears = ears_on_plate(bare)
    over, across = ears.footprint
    u = round(over / 2 + 2 * ears.foot.cheek_weld_mm + washer_radius(pad.bolt), 0)
    v = round(across / 2 - 5.0, 0)
    holes = ((-u, -v), (u, -v), (u, v), (-u, v))
    return with_value(job, path, Ears(pad=pad.model_copy(update={"holes": holes}), bolt_way=_plain(bolt, 4)))


def _nearest_face(job: Job, strut: Strut) -> tuple[Array, Array]:
    """The nearest place (3,) on a piece that carries a plate, and the way (3,) out of it to a strut's eye,
    powertrain frame. Raises JobError."""
    pieces, eye = fitted_pieces(job), np.asarray(strut.engine_at, dtype=float)
    place = f"struts/{strut.id}/engine_at"
    bodies = powertrain_bodies(job)
    reach = np.array([[REACH if piece.neighbour not in NO_SEAT else -np.inf for piece in pieces]])
    spot = Bodies([[box(eye, (0.01, 0.01, 0.01))]])
    found = nearest(spot, Pose.still(), bodies, reach) if pieces else []
    if not found:
        raise JobError(
            f"{strut.name}: no piece of the engine that carries a plate is within {REACH:g} mm of its eye;"
            " move the eye.",
            place,
        )
    near = min(found, key=lambda n: n.distance)
    if near.distance < 1.0:
        raise JobError(f"{strut.name}: its eye lies in {pieces[near.b].name}; move it out.", place)
    return eye - near.distance * near.way, near.way


def _plain(v: Array, digits: int = 6) -> Vec3:
    x, y, z = (round(float(c), digits) + 0.0 for c in v)
    return (x, y, z)
