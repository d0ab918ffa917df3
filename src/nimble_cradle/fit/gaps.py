"""The pieces against the items of the bay at rest, and what the table of clearances asks of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product
from weakref import WeakKeyDictionary

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.needs import class_gap
from nimble_cradle.fit.pairs import Side, measured
from nimble_cradle.fit.travel import moving_items
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.direction import WAYS_OUT
from nimble_cradle.geometry.distance import Nearest, nearest
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import SolidPart
from nimble_cradle.geometry.ways import ways_out
from nimble_cradle.job.bay import Item
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.survey.made import surface_doubt
from nimble_cradle.survey.network import network

NOW_WITHIN = 200.0
"""A gap that is followed while the engine moves is followed up to so many mm."""
LISTED_BEYOND = 50.0
"""Pairs are listed up to this many mm beyond what they require; farther ones cannot decide anything."""


@dataclass(frozen=True, eq=False)
class Fitting:
    """Something that moves with the powertrain and is no piece of it: a mount's plate, arm and eye, or the
    room that a fitting needs to be screwed in (``bare``: it needs no room beyond itself). parts:
    powertrain frame."""

    id: str
    name: str
    parts: tuple[SolidPart, ...]
    neighbour: str = "metal"
    give_or_take: float = 1.5
    bare: bool = False


class Fittings:
    """Fittings with their measuring bodies, made once for a position."""

    def __init__(self, rows: Sequence[Fitting]) -> None:
        self.rows = tuple(rows)
        self.bodies = Bodies([fitting.parts for fitting in rows])


def piece_rooms(job: Job) -> list[Fitting]:
    """The room that fittings of the pieces need to be screwed in (ids with ``.room``)."""
    out = []
    for piece in job.powertrain.present:
        if piece.screw_in is not None:
            room = piece.screw_in
            start = np.asarray(room.at)
            end = start + room.length_mm * unit(room.way)
            out.append(
                Fitting(
                    f"{piece.id}.room",
                    f"{piece.name}, room to screw in",
                    (bar(start, end, room.sweep_mm),),
                    give_or_take=piece.give_or_take,
                    bare=True,
                )
            )
    return out


def required_gaps(job: Job, owners: Sequence[Piece | Fitting]) -> Array:
    """(owners, standing items) mm: the air that each pair needs, by the clearance table and the items'
    own."""
    items = standing_items(job)
    own = np.array([[class_gap(job, o.neighbour) for o in owners]]).T
    required = np.maximum(own, np.array([[class_gap(job, i.neighbour) for i in items]]))
    for j, item in enumerate(items):
        if item.required_mm is not None:
            required[:, j] = item.required_mm
    required[[k for k, o in enumerate(owners) if isinstance(o, Fitting) and o.bare]] = 0.0
    return np.asarray(required, dtype=float)


def item_doubt(job: Job, item: Item, near: Nearest) -> float:
    """Give-or-take of an item's surface where something is nearest to it, mm."""
    if item.made is None:
        return item.give_or_take
    return surface_doubt(item, network(job), near.on_b - item.moved, near.way)


def bay_side(job: Job) -> Side:
    """The standing items, those that move with their motions. Raises JobError."""
    items = standing_items(job)
    return Side(
        tuple(item.id for item in items),
        tuple(item.name for item in items),
        bay_bodies(job),
        lambda k, near: item_doubt(job, items[k], near),
        moving_items(job),
    )


def gaps_now(job: Job, rows: Sequence[Gap]) -> dict[tuple[str, str], float]:
    """Of those rows that are of a piece and an item that stands still: the gap at rest, mm, where the
    powertrain stands in ``job``, by piece and item. Quick enough for a key that is held. Raises JobError."""
    pieces, moving = fitted_pieces(job), powertrain_bodies(job)
    bay = bay_bodies(job)
    number = {piece.id: k for k, piece in enumerate(pieces)}
    column = {item.id: k for k, item in enumerate(standing_items(job)) if item.motion is None}
    reach = np.full((moving.count, bay.count), -np.inf)
    for gap in rows:
        if gap.piece in number and gap.item in column:
            reach[number[gap.piece], column[gap.item]] = NOW_WITHIN
    near = nearest(moving, pose_of(job.position), bay, reach) if np.isfinite(reach).any() else []
    items = standing_items(job)
    return {(pieces[n.a].id, items[n.b].id): n.distance for n in near}


def side_of(owners: Sequence[Piece | Fitting], bodies: Bodies) -> Side:
    """Pieces or fittings with their bodies."""
    return Side(
        tuple(owner.id for owner in owners),
        tuple(owner.name for owner in owners),
        bodies,
        lambda k, near: owners[k].give_or_take,
    )


def _measured(
    job: Job, pose: Pose, owners: Sequence[Piece | Fitting], bodies: Bodies, beyond: float
) -> list[Gap]:
    if not standing_items(job) or not owners:
        return []
    required = required_gaps(job, owners)
    return measured(side_of(owners, bodies), pose, bay_side(job), required, required + beyond)


def ways_out_of(job: Job, gap: Gap) -> tuple[tuple[str, float], ...]:
    """The ways out of an overlap of a piece and an item at rest: direction in words and how far, mm, the
    shortest first; those within 60 mm, or where there is none of those, within 200 mm. Raises JobError."""
    names = [piece.id for piece in fitted_pieces(job)], [item.id for item in standing_items(job)]
    for most in (60.0, 200.0):
        found = ways_out(
            powertrain_bodies(job),
            pose_of(job.position),
            bay_bodies(job),
            names[0].index(gap.piece),
            names[1].index(gap.item),
            most,
        )
        if np.isfinite(found).any():
            break
    return tuple(
        sorted(
            ((w, float(t)) for w, t in zip(WAYS_OUT, found, strict=True) if np.isfinite(t)),
            key=lambda r: r[1],
        )
    )


def gaps_at_rest(job: Job, pose: Pose, beyond: float = LISTED_BEYOND) -> tuple[Gap, ...]:
    """All gaps of the pieces with the powertrain at ``pose`` (vehicle frame), up to ``beyond`` mm more
    than they require, tightest margin first. Raises JobError."""
    rows = _measured(job, pose, fitted_pieces(job), powertrain_bodies(job), beyond)
    return tuple(sorted(rows, key=lambda g: g.margin_at_rest))


def fitting_gaps(job: Job, pose: Pose, fittings: Fittings, beyond: float = LISTED_BEYOND) -> tuple[Gap, ...]:
    """The same for what is made for the job. Raises JobError."""
    return tuple(_measured(job, pose, fittings.rows, fittings.bodies, beyond))


_CORNERS: WeakKeyDictionary[Bodies, Array] = WeakKeyDictionary()
"""(parts, 8, 3) corners of the boxes that hold the parts of a set, its own frame."""


def _corners(moving: Bodies) -> Array:
    if moving not in _CORNERS:
        half = np.abs(moving.axes).sum(2)
        low, high = moving.centres - half, moving.centres + half
        picks = [np.where(np.array(pick), high, low) for pick in product((False, True), repeat=3)]
        _CORNERS[moving] = np.stack(picks, axis=1)
    return _CORNERS[moving]


def most_moved(moving: Bodies, rest: Pose, poses: Sequence[Pose]) -> Array:
    """(poses, bodies) the most that any point of each body can have moved from ``rest`` to each pose, mm."""
    corners = _corners(moving).reshape(-1, 3)
    turns = np.array([pose.rotation - rest.rotation for pose in poses])
    moves = np.array([pose.translation - rest.translation for pose in poses])
    shift = corners @ turns.transpose(0, 2, 1) + moves[:, None]
    most = np.sqrt(np.einsum("kci,kci->kc", shift, shift)).reshape(len(poses), -1, 8).max(2)
    out = np.zeros((moving.count, len(poses)))
    np.maximum.at(out, moving.owner, most.T)
    return out.T
