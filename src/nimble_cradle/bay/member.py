"""A chassis item as a straight member: which way it runs, and how it lies in the car."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.cut_solids import solid_of
from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.base import JobError, Vec3
from nimble_cradle.job.bay import Item
from nimble_cradle.job.host import Host
from nimble_cradle.job.job import Job, MeshFile
from nimble_cradle.job.sides import Side
from nimble_cradle.survey.made import placed_items

WAYS: dict[Side, tuple[float, float, float]] = {
    "top": (0.0, 0.0, 1.0),
    "bottom": (0.0, 0.0, -1.0),
    "front": (1.0, 0.0, 0.0),
    "back": (-1.0, 0.0, 0.0),
    "left": (0.0, 1.0, 0.0),
    "right": (0.0, -1.0, 0.0),
}
NEAR = 0.7
"""A side is a member's own where its way is so near (cosine)."""
SLENDER = 1.5
"""A member is at least so many times as long as it is wide or tall."""


@dataclass(frozen=True, eq=False)
class Member:
    """A straight member. start, end: (3,) mm, vehicle frame, the middle of its ends, its front end first, or
    its left one where it runs across. across, up: (3,) unit, square to it and to one another; wide, tall:
    its outside along them, mm."""

    item: Item
    start: Array
    end: Array
    across: Array
    up: Array
    wide: float
    tall: float

    @property
    def length(self) -> float:
        """From end to end, mm."""
        return float(np.linalg.norm(self.end - self.start))

    def way(self, side: Side) -> tuple[int, float]:
        """Which axis of its section a side of the car is, 0 across and 1 up, and its sign. Raises JobError
        where that side is an end."""
        v = np.array(WAYS[side])
        dots = np.array([self.across @ v, self.up @ v])
        k = int(np.abs(dots).argmax())
        if abs(dots[k]) < NEAR:
            raise JobError(
                f"The {side} of {self.item.name} is an end of it; a cut goes in from one of its sides."
            )
        return k, float(np.sign(dots[k]))


def whole_items(job: Job) -> tuple[Item, ...]:
    """Items that are there when the engine goes in, before anything is cut out of the chassis: all but those
    marked for removal and scans that are not placed. Raises JobError."""
    return tuple(item for item in placed_items(job) if item.fate != "remove" and item.placed)


def member_of(job: Job, item: Item) -> Member:
    """A chassis item as it stands as a member. Raises JobError where it is no straight one."""
    return _member_of(item, job.meshes)


def _member_of(item: Item, meshes: tuple[MeshFile, ...]) -> Member:
    parts = [
        p
        for p in solid_of(item.model_copy(update={"cuts": ()}), meshes, "items")
        if isinstance(p, ConvexPart)
    ]
    if not parts:
        raise JobError(
            f"{item.name} is a surface, so it has no section; draw it as a box or a bar.", f"items/{item.id}"
        )
    part = max(parts, key=lambda p: float(p.box[1].max()))
    centre, half, axes = _lying(part)
    order = np.argsort(-half)
    long = int(order[0])
    if half[long] < SLENDER * half[order[1]]:
        raise JobError(
            f"{item.name} is no longer than it is wide, so it is no rail and no member.", f"items/{item.id}"
        )
    way = axes[:, long]
    lead = 0 if abs(way[0]) >= abs(way[1]) else 1
    way = way if way[lead] < 0 else -way  # from the front, or from the left
    others = [k for k in range(3) if k != long]
    rise = max(others, key=lambda k: abs(float(axes[2, k])))
    side = next(k for k in others if k != rise)
    up, across = axes[:, rise], axes[:, side]
    up = up if up[2] >= 0 else -up
    across = across if across[int(np.abs(across).argmax())] >= 0 else -across
    return Member(
        item,
        centre - way * half[long],
        centre + way * half[long],
        across,
        up,
        2 * float(half[side]),
        2 * float(half[rise]),
    )


def _lying(part: ConvexPart) -> tuple[Array, Array, Array]:
    """Middle (3,), half sizes (3,) and axes (3, 3 columns) of the box that a part fills as it lies: its own,
    or of a hull the one along its longest way whose other sides are level and upright."""
    if part.kind != "hull":
        return np.asarray(part.pose.points(part.box[0])), part.box[1], part.pose.rotation
    v = part.triangles[0]
    long = np.linalg.svd(v - v.mean(0), full_matrices=False)[2][0]
    up = np.array([0.0, 0.0, 1.0]) if abs(long[2]) < NEAR else np.array([1.0, 0.0, 0.0])
    up = up - (up @ long) * long
    up /= np.linalg.norm(up)
    axes = np.column_stack([long, crosses(up, long), up])
    at = v @ axes
    low, high = at.min(0), at.max(0)
    return axes @ ((low + high) / 2), (high - low) / 2, axes


def open_way(member: Member, host: Host) -> tuple[int, float]:
    """Where an open section is open, or a hat's skin lies."""
    if host.opens != "unsaid":
        return member.way(host.opens)
    if host.section == "hat on skin":
        return 1, 1.0
    middle = (member.start + member.end) / 2
    return 0, -1.0 if float(middle @ member.across) > 0 else 1.0


def open_side(item: Item, meshes: tuple[MeshFile, ...]) -> Vec3 | None:
    """The way (unit, vehicle frame) to the side of an open C that has no wall; None of another section, of
    one that is boxed, and where nobody can tell."""
    if item.host.section != "open C" or item.host.boxed:
        return None
    try:
        member = _member_of(item, meshes)
        axis, sign = open_way(member, item.host)
    except JobError:  # asked where its section is said
        return None
    x, y, z = (float(c) for c in sign * (member.across, member.up)[axis])
    return x, y, z


def members_of(job: Job) -> tuple[list[Member], dict[str, JobError]]:
    """Every chassis item that is a straight member, and what keeps the others from being one, by id."""
    found, faults = [], {}
    for item in whole_items(job):
        if not item.chassis:
            continue
        try:
            found.append(member_of(job, item))
        except JobError as error:
            faults[item.id] = error
    return found, faults
