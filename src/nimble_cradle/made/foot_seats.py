"""Where the chassis side of every mount stands, in the bay as it is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.bay.bodies import solid_of, standing_items
from nimble_cradle.bay.member import open_side
from nimble_cradle.families.foot_seat import FootSeat, HostMetal, foot_seat
from nimble_cradle.families.strut_stand import on_chassis, told_of
from nimble_cradle.geometry.solids import SolidPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.cradle import Cradle, CradleTube
from nimble_cradle.job.cross_section import BarSection, FoldedSection
from nimble_cradle.job.foot import CROSSMEMBER
from nimble_cradle.job.job import Job, MeshFile
from nimble_cradle.job.mounts import Crossmember, Mount
from nimble_cradle.job.remember import of_same, remembered
from nimble_cradle.job.strut import Strut
from nimble_cradle.made.cradle import cradle_solids, tube_ends
from nimble_cradle.made.crossmember import crossmember_solids
from nimble_cradle.stock.steels import STEELS


@dataclass(frozen=True, eq=False)
class FootSeats:
    """The seats of the mounts that have a chassis side, by the mount's id, and why one has none."""

    seats: dict[str, FootSeat]
    faults: dict[str, JobError]

    def of(self, mount_id: str) -> FootSeat | None:
        """The seat of a mount; None where it has none."""
        return self.seats.get(mount_id)


@remembered("mounts", "items", "survey", "meshes", "crossmember", "cradles", "openings")
def foot_seats(job: Job) -> FootSeats:
    """The seats of all mounts. Never raises: a mount without one has a fault."""
    seats: dict[str, FootSeat] = {}
    faults: dict[str, JobError] = {}
    for mount in job.mounts:
        if mount.foot is None:
            continue
        try:
            seats[mount.id] = seat_of(job, mount)
        except JobError as error:
            faults[mount.id] = error
    return FootSeats(seats, faults)


def strut_seat(job: Job, strut: Strut) -> FootSeat | None:
    """Where a strut's bracket stands; None without one. Raises JobError."""
    if strut.bracket is None:
        return None
    try:
        return seat_of(job, on_chassis(strut))
    except JobError as error:
        raise told_of(strut, error) from None


def seat_of(job: Job, mount: Mount) -> FootSeat:
    """Where a mount with a chassis side would stand in a job. Raises JobError."""
    return _seat_on(mount, _host(job, mount), job.meshes)


@of_same()
def _seat_on(mount: Mount, host: Item | Cradle | Crossmember, meshes: tuple[MeshFile, ...]) -> FootSeat:
    seat = foot_seat(mount, *_metal_and_solids(mount, host, meshes))
    if isinstance(host, Crossmember) and isinstance(host.section, FoldedSection):
        return replace(seat, depth=host.section.height_mm)  # a line through its web meets no more of it
    return seat


def _metal_and_solids(
    mount: Mount, host: Item | Cradle | Crossmember, meshes: tuple[MeshFile, ...]
) -> tuple[HostMetal, Sequence[SolidPart]]:
    if isinstance(host, Crossmember):
        return _crossmember(host), crossmember_solids(host)
    if isinstance(host, Cradle):
        return _cradle(host, mount), cradle_solids(host)
    return _item(host, meshes), solid_of(host, meshes, "items")


def _host(job: Job, mount: Mount) -> Item | Cradle | Crossmember:
    """What a mount stands on. Raises JobError where it is not there."""
    assert mount.foot is not None
    key, place = mount.foot.host, f"mounts/{mount.id}/foot/host"
    if key == CROSSMEMBER and job.crossmember is not None:
        return job.crossmember
    for cradle in job.cradles:
        if cradle.id == key:
            return cradle
    item = next((item for item in standing_items(job) if item.id == key), None)
    if item is None:
        named = next((item.name for item in job.items if item.id == key), None)
        tail = "is not in the bay any more" if named is None else "is taken out"
        raise JobError(f"{mount.name}: what it stands on, {named or key}, {tail}; choose another.", place)
    if not item.chassis:
        raise JobError(f"{mount.name} stands on {item.name}, which is no part of the chassis.", place)
    if item.motion is not None:
        raise JobError(f"{mount.name} stands on {item.name}, which moves; choose what stands still.", place)
    return item


def _item(item: Item, meshes: tuple[MeshFile, ...]) -> HostMetal:
    host = item.host
    return HostMetal(
        item.name,
        f"items/{item.id}/",
        item.material,
        host.section,
        host.wall_mm,
        host.second_skin_mm,
        host.yield_mpa,
        host.ribbed,
        host.boxed,
        open_side(item, meshes),
        host.coating,
    )


def _cradle(cradle: Cradle, mount: Mount) -> HostMetal:
    """The tube of a cradle that is nearest to a mount."""
    bush = np.asarray(mount.bush.centre, dtype=float)

    def away(tube: CradleTube) -> float:
        a, b = (np.asarray(p, dtype=float) for p in tube_ends(cradle, tube))
        t = float(np.clip((bush - a) @ (b - a) / ((b - a) @ (b - a)), 0.0, 1.0))
        return float(np.linalg.norm(bush - a - t * (b - a)))

    section = cradle.section_of(min(cradle.tubes, key=away))
    return HostMetal(
        cradle.name,
        f"cradles/{cradle.id}/",
        "double skin",
        "tube" if section.shape == "round" else "box",
        section.wall_mm,
        0.0,
        STEELS[cradle.steel].yield_mpa,
    )


_SECTIONS = {"round": "tube", "bar": "solid", "folded": "open C"}


def _crossmember(cross: Crossmember) -> HostMetal:
    section = cross.section
    folded = isinstance(section, FoldedSection)
    return HostMetal(
        "the crossmember",
        "crossmember/",
        "double skin",
        _SECTIONS.get(section.shape, "box"),
        None if isinstance(section, BarSection) else section.wall_mm,
        0.0,
        STEELS[cross.steel].yield_mpa,
        ribbed=isinstance(section, FoldedSection) and section.ribbed,
        open_to=(0.0, 0.0, -1.0) if folded else None,
        ribbed_at="section/ribbed" if folded else "host/ribbed",
    )
