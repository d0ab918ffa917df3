"""A first chassis side for a mount: on the nearest part of the chassis that a foot can stand on, and another
kind of one with what it needs to begin from."""

from __future__ import annotations

import math
from typing import Any, Literal, NamedTuple

from nimble_cradle.bay.bodies import standing_items
from nimble_cradle.families.family import eye_of
from nimble_cradle.families.foot_seat import FootSeat, cheek_gap
from nimble_cradle.geometry.pose import unit
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.foot import CROSSMEMBER, FactoryFoot, OnHost, PlateFoot, SaddleFoot, TabsFoot
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import AnyFoot, Mount
from nimble_cradle.made.foot_seats import seat_of

FootKind = Literal["plate", "saddle", "tabs", "factory"]
WAYS: tuple[Vec3, ...] = (
    (0.0, 0.0, -1.0),
    (0.0, 1.0, 0.0),
    (0.0, -1.0, 0.0),
    (1.0, 0.0, 0.0),
    (-1.0, 0.0, 0.0),
    (0.0, 0.0, 1.0),
)
"""Ways in which a host is looked for: below first."""
ROOM, ROUND_TO = 12.0, 5.0
"""Between eye and foot at least so many mm; sizes are whole steps of so many (common practice, no source)."""
LEAST_ROOM = 2.0
"""With tabs, which need no plate, so many mm will do between eye and host (common practice, no source)."""
ASIDE = (0.0, *(s * d for d in (25.0, 50.0, 75.0, 100.0, 125.0) for s in (1.0, -1.0)))
"""So far aside of the bush, across its bolt, the host's face is looked for, mm."""
MIN_HALF = 20.0
"""A foot reaches at least so many mm either way from its middle."""


class _Stand(NamedTuple):
    cost: float
    foot: PlateFoot | TabsFoot


def first_foot(job: Job, mount: Mount) -> PlateFoot | TabsFoot:
    """A foot plate on the nearest face of the chassis under, beside or over the bush, shifted so that it lies
    on it; tabs where there is no room for a plate. Raises JobError where there is none within reach."""
    hosts = [item.id for item in standing_items(job) if item.chassis]
    if job.crossmember is not None and job.crossmember.carries == mount.id:
        hosts.insert(0, CROSSMEMBER)
    stands = [
        stand
        for host in hosts
        for n, way in enumerate(WAYS)
        if (stand := _stand(job, mount, host, way, n)) is not None
    ]
    if not stands:
        raise JobError(
            f"{mount.name}: no part of the chassis with a face for a foot is near its bush; mark in the bay"
            " what is chassis, or move the bush.",
            f"mounts/{mount.id}/bush/centre",
        )
    return min(stands, key=lambda stand: stand.cost).foot


def _stand(job: Job, mount: Mount, host: str, way: Vec3, n: int) -> _Stand | None:
    """A foot on one host in one way, and what speaks against it in mm; None where it does not go."""
    if abs(float(unit(way) @ unit(mount.bush.axis))) > 0.5:
        return None
    foot, seat = PlateFoot(host=host, way=way), None
    for aside in ASIDE:
        foot = PlateFoot(host=host, way=way, shift=(0.0, aside))
        seat = _seat(job, mount, foot)
        if seat is not None:
            break
    if seat is None:
        return None
    shift = _onto_face(seat, foot.shift[1])
    if shift != foot.shift:  # shifted once so that all of it is on the face
        foot = PlateFoot(host=host, way=way, shift=shift)
        seat = _seat(job, mount, foot)
        if seat is None:
            return None
    foot = _sized(foot, seat, mount)
    room = seat.height - eye_of(mount.bush).outside_mm / 2
    cost = seat.height + 2 * math.hypot(*foot.shift) + 10 * n - (200.0 if host == CROSSMEMBER else 0.0)
    if room >= ROOM + foot.plate_mm:
        return _Stand(cost, foot)
    tabs = TabsFoot(host=host, way=way, shift=foot.shift, cheek_foot_mm=foot.cheek_foot_mm)
    return _Stand(cost + 40.0, tabs) if room >= LEAST_ROOM else None


def _seat(job: Job, mount: Mount, foot: OnHost) -> FootSeat | None:
    try:
        return seat_of(job, mount.model_copy(update={"foot": foot}))
    except JobError:
        return None


def _onto_face(seat: FootSeat, aside: float) -> tuple[float, float]:
    """A shift of the foot across the bolt that brings it wholly onto its face, where there is room."""
    half = 55.0
    f = seat.face
    if f.across_back + f.across_fore < 2 * half:
        to = (f.across_fore - f.across_back) / 2
    else:
        to = max(half - f.across_back, 0.0) - max(half - f.across_fore, 0.0)
    return 0.0, float(round(aside + to))


def _sized(foot: PlateFoot, seat: FootSeat, mount: Mount) -> PlateFoot:
    """As long as the cheeks need and as wide as the face has room for."""
    need = cheek_gap(mount) + 2 * mount.cross_bolt.cheek_mm + 20.0
    across = min(2 * min(seat.face.across_back, seat.face.across_fore), 110.0)
    across = max(math.floor(across / ROUND_TO) * ROUND_TO, 2 * MIN_HALF)
    along = math.ceil(need / ROUND_TO) * ROUND_TO
    return foot.model_copy(
        update={"along_mm": along, "across_mm": across, "cheek_foot_mm": max(across - 15.0, MIN_HALF)}
    )


def with_foot_kind(job: Job, mount: Mount, kind: FootKind | None) -> Job:
    """The job with another kind of chassis side under a mount, on the same host where it had one; None takes
    it away. Raises JobError."""
    return with_value(job, f"mounts/{mount.id}/foot", None if kind is None else _of_kind(job, mount, kind))


def _of_kind(job: Job, mount: Mount, kind: FootKind) -> AnyFoot:
    old = mount.foot
    plain = first_foot(job, mount) if old is None else old
    kept: dict[str, Any] = {"host": plain.host, "way": plain.way, "shift": plain.shift}
    if not isinstance(plain, FactoryFoot):
        kept |= {"cheek_foot_mm": plain.cheek_foot_mm, "weld_inside": plain.weld_inside}
    if kind == "factory":
        return FactoryFoot(host=plain.host, way=plain.way, shift=plain.shift)
    if kind == "tabs":
        return TabsFoot(**kept)
    if kind == "saddle":
        return SaddleFoot(**kept)
    return plain if isinstance(plain, PlateFoot) else PlateFoot(**kept)


def hosts_of(job: Job) -> tuple[tuple[str, str], ...]:
    """What a mount may stand on: id and name of every part of the chassis, and the crossmember."""
    out = [(item.id, item.name) for item in job.items if item.chassis]
    if job.crossmember is not None:
        out.append((CROSSMEMBER, "the gearbox crossmember"))
    return (*out, *((cradle.id, cradle.name) for cradle in job.cradles))
