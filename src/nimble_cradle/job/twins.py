"""Twins: a second of an item, a piece or a mount, beside the first or mirrored across the middle.

Mirrored: items and bushes across the car's centre plane, pieces and pads across the upright plane through
the crank. An eye that faces a mirrored face has left and right changed over, so what lies right on a plate
lies left on its twin.
"""

from __future__ import annotations

import math
import re
from typing import Any

from nimble_cradle.job.base import JobError, Vec2, Vec3
from nimble_cradle.job.bay import Item
from nimble_cradle.job.edits import added, free_id, value_at
from nimble_cradle.job.foot import PlateFoot
from nimble_cradle.job.from_points import Follows, Slide, Swing
from nimble_cradle.job.job import Job
from nimble_cradle.job.kinked_arm import KinkedArm
from nimble_cradle.job.mounts import AnyArm, AnyFoot, Mount
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.shapes import Bar, Box, Mesh, Prism, Shape, Skin, Slab
from nimble_cradle.job.tube_arm import TubeArm

_PLACES = {"items": "item", "powertrain/pieces": "piece", "mounts": "mount"}
_SWAPPED = {"left": "right", "right": "left", "Left": "Right", "Right": "Left"}


def _across(p: Vec3) -> Vec3:
    """A place or direction mirrored across y = 0."""
    return p[0], 0.0 - p[1], p[2]


def _turned(p: Vec3) -> Vec3:
    """An axis that something turns about (or the angles of a turn), mirrored: what turned one way turns the
    other."""
    return 0.0 - p[0], p[1], 0.0 - p[2]


def _flipped(outline: tuple[Vec2, ...]) -> tuple[Vec2, ...]:
    return tuple((0.0 - u, v) for u, v in outline)


def mirrored_shape(shape: Shape) -> Shape:
    """A shape mirrored across y = 0 of its frame. Raises JobError for a mesh."""
    if isinstance(shape, Mesh):
        raise JobError("A mesh is not mirrored here: bring in the mirrored file.")
    changed: dict[str, Any] = {}
    if isinstance(shape, Box):
        changed = {"centre": _across(shape.centre), "turn": _turned(shape.turn)}
    elif isinstance(shape, Bar):
        changed = {"start": _across(shape.start), "end": _across(shape.end)}
    elif isinstance(shape, Slab):
        changed = {"corners": tuple(_across(corner) for corner in shape.corners)}
    elif isinstance(shape, Prism):
        changed = {k: _across(getattr(shape, k)) for k in ("origin", "along", "up")}
        changed["outline"] = _flipped(shape.outline)
    elif isinstance(shape, Skin):
        changed = {"rows": tuple(tuple(_across(p) for p in row) for row in shape.rows)}
    return shape.model_copy(update=changed)


def shifted_shape(shape: Shape, by: Vec3) -> Shape:
    """A shape moved by so many mm."""

    def there(p: Vec3) -> Vec3:
        return p[0] + by[0], p[1] + by[1], p[2] + by[2]

    places = {"box": ("centre",), "bar": ("start", "end"), "prism": ("origin",), "mesh": ("at",)}
    changed: dict[str, Any] = {k: there(getattr(shape, k)) for k in places.get(shape.kind, ())}
    if isinstance(shape, Slab):
        changed["corners"] = tuple(there(corner) for corner in shape.corners)
    elif isinstance(shape, Skin):
        changed["rows"] = tuple(tuple(there(p) for p in row) for row in shape.rows)
    return shape.model_copy(update=changed)


def _shifted(one: Item | Piece | Mount, by: Vec3) -> Item | Piece | Mount:
    """The same further on."""
    if isinstance(one, Item):
        x, y, z = one.moved
        return one.model_copy(update={"moved": (x + by[0], y + by[1], z + by[2])})
    if isinstance(one, Piece):
        return one.model_copy(update={"shapes": tuple(shifted_shape(shape, by) for shape in one.shapes)})
    (a, b, c), (i, j, k) = one.pad.centre, one.bush.centre
    pad = one.pad.model_copy(update={"centre": (a + by[0], b + by[1], c + by[2])})
    bush = one.bush.model_copy(update={"centre": (i + by[0], j + by[1], k + by[2])})
    arm = one.arm
    if isinstance(arm, KinkedArm):  # its kink stands on the engine
        x, y, z = arm.kink
        arm = arm.model_copy(update={"kink": (x + by[0], y + by[1], z + by[2])})
    return one.model_copy(update={"pad": pad, "bush": bush, "arm": arm})


def _mirrored_item(item: Item, job: Job) -> Item:
    if item.made is not None:
        raise JobError(f"{item.name} is made from surveyed points: survey the other side's points too.")
    motion = item.motion
    if isinstance(motion, Swing):
        motion = motion.model_copy(update={"about": _across(motion.about), "axis": _turned(motion.axis)})
    elif isinstance(motion, Slide):
        motion = motion.model_copy(update={"along": _across(motion.along)})
    elif isinstance(motion, Follows):
        names = {one.id: one.name for one in job.suspensions}
        want = mirrored_name(names.get(motion.suspension, ""))
        other = next((key for key, name in names.items() if name == want), None)
        if other is None:
            raise JobError(f"{item.name} moves with a suspension that the other side does not have yet.")
        motion = motion.model_copy(update={"suspension": other})
    cuts = tuple(cut.model_copy(update={"side": _SWAPPED.get(cut.side, cut.side)}) for cut in item.cuts)
    return item.model_copy(
        update={
            "shapes": tuple(mirrored_shape(shape) for shape in item.shapes),
            "motion": motion,
            "cuts": cuts,
            "moved": _across(item.moved),
        }
    )


def _mirrored_piece(piece: Piece) -> Piece:
    centre, room = piece.centre_of_gravity, piece.screw_in
    return piece.model_copy(
        update={
            "shapes": tuple(mirrored_shape(shape) for shape in piece.shapes),
            "centre_of_gravity": None if centre is None else _across(centre),
            "screw_in": (
                None
                if room is None
                else room.model_copy(update={"at": _across(room.at), "way": _across(room.way)})
            ),
        }
    )


def _mirrored_mount(mount: Mount, job: Job) -> Mount:
    pad, bush = mount.pad, mount.bush
    u, v = pad.arm_at
    return mount.model_copy(
        update={
            "pad": pad.model_copy(
                update={
                    **{k: _across(getattr(pad, k)) for k in ("centre", "normal", "up")},
                    "holes": _flipped(pad.holes),
                    "other_holes": _flipped(pad.other_holes),
                    "free_holes": _flipped(pad.free_holes),
                    "trim": _SWAPPED.get(pad.trim, pad.trim),
                    "arm_at": (0.0 - u, v),
                }
            ),
            "arm": _mirrored_arm(mount.arm),
            "bush": bush.model_copy(update={"centre": _across(bush.centre), "axis": _across(bush.axis)}),
            "foot": _mirrored_foot(mount.foot, job),
        }
    )


def _mirrored_arm(arm: AnyArm | None) -> AnyArm | None:
    """An arm whose axis passed its eye's on one side passes it on the other."""
    if isinstance(arm, KinkedArm):
        return arm.model_copy(update={"kink": _across(arm.kink), "offset_mm": 0.0 - arm.offset_mm})
    if isinstance(arm, TubeArm):
        sides = {"scallop_way": _across(arm.scallop_way), "offset_mm": 0.0 - arm.offset_mm}
        return arm.model_copy(update=sides)
    return arm


def _mirrored_foot(foot: AnyFoot | None, job: Job) -> AnyFoot | None:
    """A chassis side on the other side's host, where one is called so. What lies across the bolt changes
    over; what lies along it goes with the bolt."""
    if foot is None:
        return None
    by_name = {item.name: item.id for item in job.items}
    name = next((item.name for item in job.items if item.id == foot.host), "")
    along, across = foot.shift
    changed: dict[str, Any] = {
        "host": by_name.get(mirrored_name(name), foot.host),
        "way": _across(foot.way),
        "shift": (along, 0.0 - across),
    }
    if isinstance(foot, PlateFoot):
        changed["holes"] = tuple((a, 0.0 - b) for a, b in foot.holes)
    return foot.model_copy(update=changed)


def mirrored_name(name: str) -> str:
    """The name with left and right changed over; with ``mirrored`` after it where it has neither."""
    swapped = re.sub(r"\b(left|right|Left|Right)\b", lambda m: _SWAPPED[m[0]], name)
    return swapped if swapped != name else f"{name[:70]}, mirrored"


def _named(taken: set[str], name: str) -> str:
    """A name that is not taken."""
    n, stem = 2, re.sub(r" \d+$", "", name)[:74]
    while f"{stem} {n}" in taken:
        n += 1
    return f"{stem} {n}"


def twin(job: Job, path: str, mirror: bool, by: Vec3 = (0.0, 0.0, 0.0)) -> tuple[Job, str]:
    """The job with a twin of the item, piece or mount at ``path`` at the end of its list, moved by so many
    mm, and the twin's id. Raises JobError."""
    where, _, _ = path.rpartition("/")
    if where not in _PLACES:
        raise JobError("Only an item, a piece or a mount has a twin.", path)
    rows, one = value_at(job, where), value_at(job, path)
    key = free_id(_PLACES[where], {r.id for r in rows})
    names = {r.name for r in rows}
    name = mirrored_name(one.name) if mirror else _named(names, one.name)
    if name in names:
        name = _named(names, name)
    made: Any = one
    if mirror and isinstance(one, Mount) and abs(math.sin(math.radians(job.position.yaw_deg))) > 0.5:
        raise JobError(
            "The engine stands across the car, so its two ends differ: add a mount there instead.", path
        )
    if mirror:
        made = (
            _mirrored_item(one, job)
            if isinstance(one, Item)
            else _mirrored_piece(one)
            if isinstance(one, Piece)
            else _mirrored_mount(one, job)
        )
    made = _shifted(made, by)
    changed: dict[str, Any] = {"id": key, "name": name}
    if isinstance(one, Piece):
        changed["instead"] = ""
    return added(job, where, type(one).model_validate(made.model_copy(update=changed).model_dump())), key
