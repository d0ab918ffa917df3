"""What is made for the job as bodies that can be measured: what moves with the powertrain, and what is
fixed on the car."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from nimble_cradle.bay.position import pose_of
from nimble_cradle.families.arm_run import arm_run
from nimble_cradle.families.family import arm_family
from nimble_cradle.families.part import MadePart, Owner
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.clip import clipped
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.solids import ConvexPart, SolidPart, placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.remember import remembered, shape_of
from nimble_cradle.made.parts import made, standing

MADE_DOUBT = 1.5
"""How far a made part stands from where it is drawn, mm (common practice, no source)."""


@dataclass(frozen=True, eq=False)
class MadeBody:
    """A made part with its id (``left.arm``) and its name (``Left mount, arm``)."""

    id: str
    name: str
    part: MadePart
    solids: tuple[SolidPart, ...]

    @property
    def owner(self) -> Owner:
        """What it belongs to."""
        return self.part.owner

    @property
    def role(self) -> str:
        """What it is of its owner."""
        return self.part.role


class MadeBodies:
    """Made parts with their measuring bodies. moves: in the powertrain frame, else the vehicle frame."""

    def __init__(self, rows: Sequence[MadeBody]) -> None:
        self.rows = tuple(rows)
        self.bodies = Bodies([row.solids for row in rows])


@dataclass(frozen=True, eq=False)
class MadeSides:
    """Both sides of what is made: with the powertrain, and with the car."""

    engine: MadeBodies
    car: MadeBodies


@remembered(
    "mounts",
    "crossmember",
    "position",
    "items",
    "survey",
    "meshes",
    "cradles",
    "struts",
    "panels",
    "openings",
    of_mount=shape_of,
)
def made_sides(job: Job) -> MadeSides:
    """All made parts that have solids, but what stands in for what is not described. Rods of struts hang
    between both and are looked at as links. Raises JobError."""
    mounts, pose = {mount.id: mount for mount in job.mounts}, pose_of(job.position)
    rows = []
    for part in made(job).parts:
        if part.moves and _is_body(part):
            mount = mounts.get(part.owner.id) if part.role == "arm" else None
            solids = part.solids if mount is None else _off_plate(mount, part, pose)
            if solids:
                rows.append(MadeBody(_id(part), _name(part), part, solids))
    return MadeSides(MadeBodies(rows), made_on_car(job))


@remembered(
    "mounts",
    "struts",
    "items",
    "survey",
    "meshes",
    "crossmember",
    "cradles",
    "panels",
    "openings",
    of_mount=shape_of,
)
def made_on_car(job: Job) -> MadeBodies:
    """What is made and stands on the car, wherever the powertrain is. Raises JobError."""
    parts = [part for part in standing(job).parts if _is_body(part)]
    return MadeBodies([MadeBody(_id(part), _name(part), part, part.solids) for part in parts])


def _is_body(part: MadePart) -> bool:
    rod = part.owner.kind == "strut" and part.role == "rod"
    return bool(part.solids) and not part.stands_in and not rod


def _id(part: MadePart) -> str:
    own = part.owner.id or part.owner.kind
    return f"{own}.{part.role}".replace(" ", "-")


def _name(part: MadePart) -> str:
    return part.name.replace(": ", ", ")


def _off_plate(mount: Mount, arm: MadePart, pose: Pose) -> tuple[SolidPart, ...]:
    """An arm without what of its drawn solids lies in its plate, powertrain frame."""
    assert mount.arm is not None
    try:
        run = arm_run(mount, pose)
        away = arm_family(mount.arm).beyond_plate(mount, run)
    except JobError:  # it cannot be made, which is said
        return arm.solids
    back, first = pose.inverse(), arm.solids[0]
    solids = tuple(placed_part(solid, back) for solid in away)
    if not isinstance(first, ConvexPart) or first.kind != "bar":
        return solids
    normal = back.vectors(run.axes[:, 2])
    wedge = clipped(first, -normal, -float(back.points(run.root) @ normal))
    return solids if wedge is None or wedge is first else (*solids, wedge)
