"""Every part that is made for the job, once: what view, gaps, way out, section, lists and checks read."""

from __future__ import annotations

from dataclasses import dataclass, replace

from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.part import MadePart, Owner
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.made.cradle import cradle_parts
from nimble_cradle.made.crossmember import crossmember_part
from nimble_cradle.made.end_plates import end_plate_part
from nimble_cradle.made.foot_seats import foot_seats
from nimble_cradle.made.mount import bush_parts, mount_parts
from nimble_cradle.made.panel import panel_part
from nimble_cradle.made.strut import strut_part


@dataclass(frozen=True, eq=False)
class Made:
    """All made parts, and what keeps an owner from being whole (its plate or arm cannot be made)."""

    parts: tuple[MadePart, ...]
    faults: dict[Owner, JobError]

    def of(self, owner: Owner) -> tuple[MadePart, ...]:
        """The parts of one owner."""
        return tuple(part for part in self.parts if part.owner == owner)

    def whole(self, kind: str) -> list[tuple[Owner, tuple[MadePart, ...]]]:
        """Owners of a kind that can be made whole, with their parts, in the job's order."""
        owners = dict.fromkeys(part.owner for part in self.parts if part.owner.kind == kind)
        return [(owner, self.of(owner)) for owner in owners if owner not in self.faults]


@remembered("mounts", "position", "items", "survey", "meshes", "crossmember", "cradles", "openings")
def made_mounts(job: Job) -> Made:
    """The parts of all mounts, with the powertrain where it stands."""
    pose, feet = pose_of(job.position), foot_seats(job)
    parts: list[MadePart] = []
    faults: dict[Owner, JobError] = {}
    for mount in job.mounts:
        seat = feet.of(mount.id)
        version = mount, job.position, seat
        try:
            own = mount_parts(mount, pose, seat)
        except JobError as error:
            faults[Owner("mount", mount.id)] = error
            own = bush_parts(mount, pose, seat)
        parts += [replace(part, version=version) for part in own]
    return Made(tuple(parts), faults)


@remembered(
    "mounts",
    "crossmember",
    "position",
    "items",
    "survey",
    "meshes",
    "struts",
    "cradles",
    "panels",
    "openings",
)
def made(job: Job) -> Made:
    """Every made part of a job, with the powertrain where it stands."""
    mounts, pose = made_mounts(job), pose_of(job.position)
    cross: tuple[MadePart, ...] = () if job.crossmember is None else (crossmember_part(job.crossmember),)
    rods = tuple(strut_part(strut, pose) for strut in job.struts)
    tubes = tuple(part for cradle in job.cradles for part in cradle_parts(cradle))
    cross += end_plate_part(job)
    sheets = tuple(panel_part(panel) for panel in job.panels)
    return Made((*mounts.parts, *cross, *rods, *tubes, *sheets), mounts.faults)
