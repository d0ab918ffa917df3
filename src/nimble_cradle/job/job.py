"""The job itself: one frozen value that holds everything a user has said."""

from __future__ import annotations

import hashlib
from functools import cache
from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field, ValidationError, model_validator

from nimble_cradle.files import printable
from nimble_cradle.job.adjustable_rod import AdjustableRod
from nimble_cradle.job.base import JobError, Name, Part, Words, told_apart
from nimble_cradle.job.bay import Clearance, Item, JointLimits, Vehicle
from nimble_cradle.job.crack import Crack
from nimble_cradle.job.cradle import Cradle
from nimble_cradle.job.from_points import Follows
from nimble_cradle.job.kinds import every_kind
from nimble_cradle.job.loads import Allowables, Loads
from nimble_cradle.job.mounts import Crossmember, Mount
from nimble_cradle.job.opening import Opening
from nimble_cradle.job.panel import Panel
from nimble_cradle.job.powertrain import Piece, Position, Powertrain
from nimble_cradle.job.setting import Candidate, HalfShaftSize, Propshaft, Setting, WayOut, WitnessMark
from nimble_cradle.job.shapes import Mesh
from nimble_cradle.job.strut import Strut
from nimble_cradle.job.survey import Survey
from nimble_cradle.job.suspension import Suspension
from nimble_cradle.job.wish import Wish
from nimble_cradle.units import Display

SCHEMA = 5
"""Number of the job file's form; a change of meaning raises it and is a step in migrate.py."""
MOST_SHAPES = 3000
"""Shapes of all items and pieces together."""


class MeshFile(Part):
    """A mesh that a shape names. The bytes live in the job file's ``meshes`` folder, not in ``job.json``."""

    name: Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9_.-]{0,79}$")]
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    data: Annotated[bytes, Field(exclude=True)] = b""

    @classmethod
    def of(cls, name: str, data: bytes) -> MeshFile:
        """A mesh file with its digest."""
        return cls(name=name, sha256=hashlib.sha256(data).hexdigest(), data=data)


class Show(Part):
    """How lengths are shown: mm or inch, with inch fractions to 1/16 or 1/32 (0: decimals)."""

    length: Literal["mm", "in"] = "mm"
    fraction: Literal[0, 16, 32] = 0

    @property
    def display(self) -> Display:
        """As the units module wants it."""
        return Display(self.length, self.fraction)


class Job(Part):
    """A whole job. See docs/job-file.md for every field. demo: a made-up one to practise on."""

    schema_number: Annotated[int, Field(alias="schema", ge=1)] = SCHEMA
    name: Name
    story: Words = ""
    demo: bool = False
    show: Show = Show()
    vehicle: Vehicle
    clearances: Annotated[tuple[Clearance, ...], Field(min_length=1, max_length=60)]
    survey: Survey = Survey()
    items: Annotated[tuple[Item, ...], Field(max_length=400)]
    powertrain: Powertrain
    position: Position
    wish: Wish | None = None
    setting: Setting = Setting()
    marks: Annotated[tuple[WitnessMark, ...], Field(max_length=40)] = ()
    way_out: WayOut = WayOut()
    candidates: Annotated[tuple[Candidate, ...], Field(max_length=12)] = ()
    joint_limits: JointLimits = JointLimits()
    propshaft: Propshaft = Propshaft()
    half_shafts: HalfShaftSize = HalfShaftSize()
    mounts: Annotated[tuple[Mount, ...], Field(max_length=40)] = ()
    struts: Annotated[tuple[Strut, ...], Field(max_length=10)] = ()
    cradles: Annotated[tuple[Cradle, ...], Field(max_length=4)] = ()
    crossmember: Crossmember | None = None
    openings: Annotated[tuple[Opening, ...], Field(max_length=20)] = ()
    panels: Annotated[tuple[Panel, ...], Field(max_length=40)] = ()
    cracks: Annotated[tuple[Crack, ...], Field(max_length=60)] = ()
    rods: Annotated[tuple[AdjustableRod, ...], Field(max_length=20)] = ()
    suspensions: Annotated[tuple[Suspension, ...], Field(max_length=12)] = ()
    loads: Loads = Loads()
    allowables: Allowables = Allowables()
    said: dict[Annotated[str, Field(max_length=200)], Literal["measured", "assumed"]] = Field(
        default_factory=dict
    )
    meshes: Annotated[tuple[MeshFile, ...], Field(max_length=400)] = ()

    model_config = ConfigDict(frozen=True, extra="forbid", populate_by_name=True, serialize_by_alias=True)

    @model_validator(mode="after")
    def _hangs_together(self) -> Job:
        for word, parts in (
            ("item", self.items),
            ("piece", self.powertrain.pieces),
            ("mount", self.mounts),
            ("strut", self.struts),
            ("cradle", self.cradles),
            ("opening", self.openings),
            ("suspension", self.suspensions),
            ("panel", self.panels),
            ("crack", self.cracks),
            ("rod", self.rods),
            ("clearance", self.clearances),
        ):
            told_apart(word, [part.id for part in parts])
        cradles = [cradle.id for cradle in self.cradles]
        told_apart("mount or strut", [*(m.id for m in self.mounts), *(s.id for s in self.struts)])
        told_apart("mount or cradle", [*(m.id for m in self.mounts), *cradles])
        told_apart("item or cradle", [*(i.id for i in self.items), *cradles])
        _known_neighbours(self)
        _known_points(self)
        _known_suspensions(self)
        _known_meshes(self)
        carried = None if self.crossmember is None else self.crossmember.carries
        if carried is not None and self.mounts and carried not in {mount.id for mount in self.mounts}:
            raise ValueError(f"the crossmember carries the mount “{carried}”, which is not in the job")
        return self

    def mesh(self, name: str) -> MeshFile:
        """The mesh file called ``name``. Raises JobError."""
        for mesh in self.meshes:
            if mesh.name == name:
                return mesh
        raise JobError(f"The job has no mesh called “{name}”.", "meshes")


def _bodies(job: Job) -> tuple[Item | Piece, ...]:
    return (*job.items, *job.powertrain.pieces)


def _known_neighbours(job: Job) -> None:
    """Raises ValueError for an item or piece of a class that the clearance table does not have."""
    classes = {clearance.id for clearance in job.clearances}
    for part in _bodies(job):
        if part.neighbour not in classes:
            raise ValueError(
                f"{part.name}: there is no clearance class “{part.neighbour}”; the table has"
                f" {', '.join(sorted(classes))}"
            )


def _known_points(job: Job) -> None:
    """Raises ValueError for an item made from a point that is not in the survey."""
    surveyed = {point.id for point in job.survey.points}
    for item in job.items:
        for key in item.made.points if item.made is not None else ():
            if key not in surveyed:
                raise ValueError(f"{item.name} is made from the point “{key}”, which is not in the survey")


def _known_suspensions(job: Job) -> None:
    """Raises ValueError for an item that goes with a suspension that the job does not have."""
    known = {one.id for one in job.suspensions}
    for item in job.items:
        if isinstance(item.motion, Follows) and item.motion.suspension not in known:
            raise ValueError(
                f"{item.name} moves with the suspension “{item.motion.suspension}”, which is not in the job"
            )


def _known_meshes(job: Job) -> None:
    """Raises ValueError for too many shapes, two meshes of one name, or a mesh that is not there."""
    if sum(len(part.shapes) for part in _bodies(job)) > MOST_SHAPES:
        raise ValueError(f"the job is drawn by more than {MOST_SHAPES:,} shapes")
    files = {mesh.name for mesh in job.meshes}
    if len(files) < len(job.meshes):
        raise ValueError("two meshes have one name; each needs its own")
    for part in _bodies(job):
        for shape in part.shapes:
            if isinstance(shape, Mesh) and shape.file not in files:
                raise ValueError(f"{part.name} is drawn by the mesh “{shape.file}”, which is not in the job")


MOST_TOLD = 12
"""So many faults of a job written by hand are told at once."""
MOST_COUNTED = 5000
"""More faults than that are not looked at one by one."""
MOST_LETTERS = 190
"""A sentence about a file that was read is never longer."""


def all_faults(error: ValidationError, data: Any) -> JobError:
    """Every fault of a job read from ``data``, each with the part's own name and its place: one sentence for
    the first of them, and one a fault."""
    if error.error_count() > MOST_COUNTED:
        return JobError(f"The job has {error.error_count():,} faults: it is not one of this program's.")
    told: dict[str, str] = {}
    for first in error.errors(include_url=False, include_context=False):
        name, place = _part_of(data, first["loc"])
        text, _ = _sentence(first)
        name = printable(name, 40)
        told.setdefault(place, f"{name}: {text[0].lower()}{text[1:]}" if name and name not in text else text)
        if len(told) > 10 * MOST_TOLD:
            break
    rows = [
        printable(f"{text.rstrip('.')} [{printable(place)}]" if place else text.rstrip("."), MOST_LETTERS)
        for place, text in told.items()
    ]
    if len(told) == 1:
        ((place, text),) = told.items()
        return JobError(printable(text, MOST_LETTERS), printable(place, 100))
    more = f"and {len(rows) - MOST_TOLD} more" if len(rows) > MOST_TOLD else ""
    first_of = printable(rows[0], MOST_LETTERS - 40)
    return JobError(
        f"The job has {len(rows)} faults, the first: {first_of}.",
        faults=(*rows[:MOST_TOLD], *([more] if more else [])),
    )


def _part_of(data: Any, loc: tuple[int | str, ...]) -> tuple[str, str]:
    """The name of the innermost named part on the way to a fault, and its path, rows by their ids."""
    here, name, path = data, "", []
    for key in loc:
        if isinstance(here, list) and isinstance(key, int) and key < len(here):
            here = here[key]
            row = here.get("id") if isinstance(here, dict) else None
            path.append(row if isinstance(row, str) and row else str(key))
        elif isinstance(here, dict) and key in here:
            here = here[key]
            path.append(str(key))
        elif key not in _tags():  # what is missing, or not known
            path.append(str(key))
        own = here.get("name") if isinstance(here, dict) else None
        name = own if isinstance(own, str) and own and here is not data else name
    return name, "/".join(path)


def as_job_error(error: ValidationError, where: str = "") -> JobError:
    """The first fault of a pydantic error as one sentence with its place."""
    first = error.errors(include_url=False, include_context=False)[0]
    text, place = _sentence(first)
    return JobError(printable(text, MOST_LETTERS), "/".join(p for p in (where, place) if p))


@cache
def _tags() -> frozenset[str]:
    """Kinds that stand in the place of a fault, though they are no step of a path."""
    return every_kind(Part) | {"hollow", "folded"}


def _sentence(first: Any) -> tuple[str, str]:
    """A fault as one sentence, and its place."""
    place = "/".join(str(p) for p in first["loc"] if p not in _tags())
    text = first["msg"].removeprefix("Value error, ")
    text = text.replace("Input should be", "This must be").replace("Field required", "This is missing")
    if first["type"] in ("model_type", "model_attributes_type"):
        text = "this must be a group of named figures"
    if first["type"] == "extra_forbidden":
        text = "this name is not known here"
    given = first.get("input")
    tail = f" (it says {given!r})" if isinstance(given, (int, float, str)) and len(str(given)) < 40 else ""
    text = text[0].upper() + text[1:]
    return f"{text}{tail}.", place
