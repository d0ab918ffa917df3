"""The gap table: every piece against every item, at rest and through all load cases, judged on the margin.

margin = gap - required - movement when running - give-or-take.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.bay.position import nought, pose_of
from nimble_cradle.calc import Q, calculation
from nimble_cradle.fit.travel import least_through_travel, moving_items, travel_words
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.direction import WAYS_OUT
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.pose import Array, Pose, unit
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import MeshPart, SolidPart
from nimble_cradle.geometry.ways import ways_out
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.survey.made import surface_doubt
from nimble_cradle.survey.network import network

LISTED_BEYOND = 50.0
"""Pairs are listed up to this many mm beyond what they require; farther ones cannot decide anything."""

State = Literal["fouls", "too tight", "tight", "clear"]
TIGHT = 3.0
"""Below this margin, mm, a gap that is kept is called tight (common practice, no source)."""


@dataclass(frozen=True)
class Gap:
    """One piece against one item. Lengths mm; points and ``way`` (the way the piece moves to open the gap) in
    the vehicle frame.

    gap, running: negative is an overlap (then depth). running: the least through all load cases, with the
    case that gives it; None where running movement was not asked for. travel: the least with the engine
    still while the item moves with wheel or steering (None: it does not move), and where on its travel
    that is.
    """

    piece: str
    item: str
    piece_name: str
    item_name: str
    gap: float
    required: float
    give_or_take: float
    on_piece: tuple[float, float, float]
    on_item: tuple[float, float, float]
    way: tuple[float, float, float]
    running: float | None = None
    running_case: str = ""
    travel: float | None = None
    travel_at: str = ""

    @property
    def still(self) -> float:
        """The gap with the engine still, through the item's travel."""
        return self.gap if self.travel is None else min(self.gap, self.travel)

    @property
    def margin_at_rest(self) -> float:
        """Gap through the item's travel less what is required less the give-or-take."""
        return nought(self.still - self.required - self.give_or_take)

    @property
    def movement(self) -> float:
        """How much of the gap is used up when running and by the item's travel."""
        return self.gap - (self.still if self.running is None else self.running)

    @property
    def margin(self) -> float:
        """What the gap is judged on, mm; nought within a twentieth of a mm of it."""
        return nought(self.exact_margin)

    @property
    def exact_margin(self) -> float:
        """The same as it was worked out, for a search."""
        return gap_margin(
            self.gap, self.required, self.still if self.running is None else self.running, self.give_or_take
        )[0]

    @property
    def state(self) -> State:
        """Judged with the engine running."""
        least = self.still if self.running is None else min(self.still, self.running)
        return judge(least, self.margin)

    @property
    def state_at_rest(self) -> State:
        """Judged with the engine still, through the item's travel."""
        return judge(self.still, self.margin_at_rest)


def gap_margin(gap: float, required: float, running: float, give_or_take: float) -> tuple[float, float]:
    """Margin mm and the movement when running mm: margin = gap - required - movement - give-or-take;
    movement is never a gain."""
    movement = max(gap - running, 0.0)
    return gap - required - movement - give_or_take, movement


GAP_MARGIN = calculation(
    "gap-margin",
    "Margin of a gap",
    inputs=(
        Q("gap", "mm", "gap as mocked up; below nought is an overlap"),
        Q("required", "mm", "what this neighbour needs", low=0),
        Q("running", "mm", "least gap in all load cases and once settled"),
        Q("give_or_take", "mm", "of the two measured surfaces together", 0.0, low=0),
    ),
    outputs=(Q("margin", "mm", "what the gap is judged on"), Q("movement", "mm", "used up when running")),
    formula="margin = gap - required - movement - give-or-take;  movement = gap - running",
    source="definition; required gaps and give-or-take of a tape are common practice, no source",
    leaves_out="travel of items that were given no motion, heat growth, a load case on settled rubber",
)(gap_margin)


def judge(gap: float, margin: float) -> State:
    """The word for a gap: it fouls below nought, is too tight below its requirement, tight within 3 mm of
    it."""
    if gap <= 0:
        return "fouls"
    if margin < 0:
        return "too tight"
    return "tight" if margin < TIGHT else "clear"


def _point(p: Array) -> tuple[float, float, float]:
    return float(p[0]), float(p[1]), float(p[2])


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
    table = {clearance.id: clearance.required_mm for clearance in job.clearances}
    own = np.array([[table.get(o.neighbour, min(table.values())) for o in owners]]).T
    required = np.maximum(own, np.array([[table[i.neighbour] for i in items]]))
    for j, item in enumerate(items):
        if item.required_mm is not None:
            required[:, j] = item.required_mm
    required[[k for k, o in enumerate(owners) if isinstance(o, Fitting) and o.bare]] = 0.0
    return np.asarray(required, dtype=float)


def _measured(
    job: Job, pose: Pose, owners: Sequence[Piece | Fitting], bodies: Bodies, beyond: float
) -> list[Gap]:
    items = standing_items(job)
    if not items or not owners:
        return []
    required = required_gaps(job, owners)
    listed = required + beyond
    reach = listed.copy()
    for mover in moving_items(job):
        reach[:, mover.column] += mover.farthest
    found = {(near.a, near.b): near for near in nearest(bodies, pose, bay_bodies(job), reach)}
    travel: dict[tuple[int, int], tuple[float, str]] = {}
    for mover in moving_items(job):
        for a, (n, at) in least_through_travel(bodies, pose, mover, listed[:, mover.column]).items():
            travel[a, mover.column] = (n.distance, travel_words(mover.motion, at))
    rows = []
    for (a, b), n in found.items():
        if n.distance >= listed[a, b] and (a, b) not in travel:
            continue
        owner, item = owners[a], items[b]
        doubt = (
            item.give_or_take
            if item.made is None
            else surface_doubt(item, network(job), n.on_b - item.moved, n.way)
        )
        least, at_words = travel.get((a, b), (None, ""))
        rows.append(
            Gap(
                owner.id,
                item.id,
                owner.name,
                item.name,
                n.distance,
                float(required[a, b]),
                math.hypot(owner.give_or_take, doubt),
                _point(n.on_a),
                _point(n.on_b),
                _point(n.way),
                travel=least,
                travel_at=at_words,
            )
        )
    return rows


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


def of_meshes(bodies: Bodies) -> NDArray[np.bool_]:
    """(bodies,) which of them are made of meshes."""
    out = np.zeros(bodies.count, dtype=bool)
    out[
        [k for k, part in zip(bodies.owner.tolist(), bodies.parts, strict=True) if isinstance(part, MeshPart)]
    ] = True
    return out


def most_moved(moving: Bodies, rest: Pose, pose: Pose) -> Array:
    """(bodies,) the most that any point of each body can have moved from ``rest`` to ``pose``, mm."""
    low, high = moving.centres - np.abs(moving.axes).sum(2), moving.centres + np.abs(moving.axes).sum(2)
    corners = np.stack(
        [np.where(np.array(pick), high, low) for pick in product((False, True), repeat=3)], axis=1
    )
    shift = corners @ (pose.rotation - rest.rotation).T + (pose.translation - rest.translation)
    most = np.linalg.norm(shift, axis=2).max(1)
    out = np.zeros(moving.count)
    np.maximum.at(out, moving.owner, most)
    return out
