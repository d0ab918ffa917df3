"""Every part that is made for the job, once: what view, gaps, way out, section, lists and checks read."""

from __future__ import annotations

from dataclasses import dataclass, replace

from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.family import bracket_family, bush_family
from nimble_cradle.families.foot_seat import FootSeat
from nimble_cradle.families.part import MadePart, Owner
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.powertrain import Position
from nimble_cradle.job.remember import of_same, remembered
from nimble_cradle.job.strut import Strut
from nimble_cradle.made.cradle import cradle_parts
from nimble_cradle.made.crossmember import crossmember_part
from nimble_cradle.made.end_plates import end_plate_part
from nimble_cradle.made.foot_seats import foot_seats, strut_seat
from nimble_cradle.made.mount import bush_parts, held_parts, mount_parts
from nimble_cradle.made.panel import panel_part
from nimble_cradle.made.strut import bracket_parts, ears_parts, strut_part


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


@dataclass(frozen=True, eq=False)
class Standing:
    """What stands on the car wherever the powertrain is. held: of each mount, by its id, what holds its bush;
    unheld: the mounts of which that cannot be made, and what stands in for it is told. stays: of each mount
    the parts of its bush that stay, by role. crossmember: its tube and plates; others: cradles, panels and
    the brackets of struts."""

    held: dict[str, tuple[MadePart, ...]]
    unheld: frozenset[str]
    stays: dict[str, dict[str, MadePart]]
    crossmember: tuple[MadePart, ...]
    others: tuple[MadePart, ...]

    @property
    def parts(self) -> tuple[MadePart, ...]:
        """All of it, mount by mount."""
        mounts = tuple(p for key, own in self.stays.items() for p in (*own.values(), *self.held[key]))
        return (*mounts, *self.crossmember, *self.others)


@remembered("mounts", "struts", "items", "survey", "meshes", "crossmember", "cradles", "panels", "openings")
def standing(job: Job) -> Standing:
    """What stands on the car wherever the powertrain is: the same parts as long as it is made alike, so that
    what was measured of them is still known when the powertrain has moved."""
    feet = foot_seats(job)
    held: dict[str, tuple[MadePart, ...]] = {}
    unheld: set[str] = set()
    stays: dict[str, dict[str, MadePart]] = {}
    for mount in job.mounts:
        stays[mount.id], held[mount.id], can = _stays(mount, feet.of(mount.id))
        if not can:
            unheld.add(mount.id)
    cross: tuple[MadePart, ...] = () if job.crossmember is None else (crossmember_part(job.crossmember),)
    tubes = tuple(part for cradle in job.cradles for part in cradle_parts(cradle))
    sheets = tuple(panel_part(panel) for panel in job.panels)
    brackets = tuple(part for strut in job.struts for part in _bracket(job, strut))
    others = (*tubes, *sheets, *brackets)
    return Standing(held, frozenset(unheld), stays, (*cross, *end_plate_part(job)), others)


def _bracket(job: Job, strut: Strut) -> tuple[MadePart, ...]:
    """A strut's bracket; nothing where it cannot be made, which is asked about with the strut."""
    try:
        seat = strut_seat(job, strut)
        return () if seat is None else bracket_parts(strut, seat)
    except JobError:
        return ()


@of_same()
def _stays(mount: Mount, seat: FootSeat | None) -> tuple[dict[str, MadePart], tuple[MadePart, ...], bool]:
    """The parts of a mount's bush that stay, by role, what holds it, and whether that can be made; what
    stands in for it where not."""
    version = mount, seat
    bush = [part for part in bush_family(mount.bush).parts(mount, Pose.still()) if not part.moves]
    stays = {part.role: replace(part, version=version) for part in bush}
    try:
        held, can = held_parts(mount, seat), True
    except JobError:
        held, can = bracket_family(mount.cross_bolt).parts(mount), False
    return stays, tuple(replace(part, version=version) for part in held), can


@of_same(most=256)
def _of_mount(
    mount: Mount, position: Position, seat: FootSeat | None, unheld: bool
) -> tuple[tuple[MadePart, ...], JobError | None]:
    """The parts of one mount with the powertrain at a position, and what keeps it from being whole."""
    pose = pose_of(position)
    stays, held, _ = _stays(mount, seat)
    version = mount, position, seat
    fault = None
    try:
        own = mount_parts(mount, pose, seat, None if unheld else held)
    except JobError as error:
        fault, own = error, bush_parts(mount, pose, held)
    parts = tuple(
        part if part.version is not None else stays.get(part.role) or replace(part, version=version)
        for part in own
    )
    return parts, fault


@remembered(
    "mounts",
    "struts",
    "position",
    "items",
    "survey",
    "meshes",
    "crossmember",
    "cradles",
    "panels",
    "openings",
)
def made_mounts(job: Job) -> Made:
    """The parts of all mounts, with the powertrain where it stands."""
    feet, still = foot_seats(job), standing(job)
    parts: list[MadePart] = []
    faults: dict[Owner, JobError] = {}
    for mount in job.mounts:
        seat = feet.of(mount.id)
        own, fault = _of_mount(mount, job.position, seat, mount.id in still.unheld)
        if fault is not None:
            faults[Owner("mount", mount.id)] = fault
        parts += own
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
    mounts, pose, still = made_mounts(job), pose_of(job.position), standing(job)
    rods = tuple(strut_part(strut, pose) for strut in job.struts)
    ears = tuple(part for strut in job.struts for part in _ears(strut))
    return Made((*mounts.parts, *still.crossmember, *rods, *ears, *still.others), mounts.faults)


def _ears(strut: Strut) -> tuple[MadePart, ...]:
    """What holds a strut on the engine; nothing where it cannot be made, which is asked about with the
    strut."""
    try:
        return ears_parts(strut)
    except JobError:
        return ()
