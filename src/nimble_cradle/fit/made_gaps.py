"""What is made for the job against everything else: the powertrain it hangs on, the bay, and itself.

Every pair with a made part in it is measured at rest; those of which one moves with the engine and the other
does not, through all cases too. Joined pairs are told by ``fit/joined.py``.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from nimble_cradle.bay.bodies import fitted_pieces, powertrain_bodies, standing_items
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.gaps import LISTED_BEYOND, Fitting, bay_side, piece_rooms, side_of
from nimble_cradle.fit.gaps_running import through_cases
from nimble_cradle.fit.joined import SEAT, bolted_pieces, joined_parts, made_to, on_item, stands_through
from nimble_cradle.fit.made_bodies import MADE_DOUBT, MadeBodies, MadeBody, made_on_car, made_sides
from nimble_cradle.fit.needs import METAL, class_gap
from nimble_cradle.fit.pairs import Side, measured
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.remember import remembered, shape_of

MADE = ("mounts", "crossmember", "position", "items", "survey", "meshes", "cradles", "struts", "panels")
"""What made parts are made from."""
ON_CAR = ("mounts", "struts", "crossmember", "items", "survey", "meshes", "cradles", "panels", "openings")
"""What those of them are made from that stand on the car."""
NEAR = 8.0
"""Pairs that move together are measured within so many mm of what they need."""
CLOSE = 1.0
"""They are listed where less than so many mm are to spare: how far they are beyond that never changes."""


STAGE_OF = {"crossmember": "crossmember", "panel": "chassis"}
"""Where a made part is put right, by what it belongs to; the mounts' stage else."""


def made_side(made: MadeBodies) -> Side:
    """Made parts as one side of the table."""
    rows = made.rows
    stages = tuple(STAGE_OF.get(row.owner.kind, "mounts") for row in rows)
    return Side(
        tuple(row.id for row in rows),
        tuple(row.name for row in rows),
        made.bodies,
        lambda k, near: MADE_DOUBT,
        stages=stages,
    )


def _to_metal(job: Job, owners: Sequence[Piece | Fitting]) -> Array:
    """(n,) mm that each piece or room keeps off metal that moves otherwise."""
    metal = class_gap(job, METAL)
    return np.array(
        [
            0.0 if isinstance(o, Fitting) and o.bare else max(class_gap(job, o.neighbour), metal)
            for o in owners
        ]
    )


def _without_nan(required: Array, beyond: float) -> Array:
    """Up to where pairs are listed; a pair that needs nothing (nan) is left out."""
    return np.where(np.isnan(required), -np.inf, required + beyond)


@remembered(*MADE, "clearances", "suspensions", "vehicle", "openings", of_mount=shape_of)
def engine_made_gaps(job: Job) -> tuple[Gap, ...]:
    """What hangs on the engine against the bay at rest, tightest first. Raises JobError."""
    sides, pose = made_sides(job), pose_of(job.position)
    items, rows = standing_items(job), sides.engine.rows
    if not items or not rows:
        return ()
    need = np.array([[_to_item(job, item_class(job, k)) for k in range(len(items))]] * len(rows))
    found = measured(made_side(sides.engine), pose, bay_side(job), need, need + LISTED_BEYOND)
    return tuple(sorted(found, key=lambda g: g.margin_at_rest))


def item_class(job: Job, k: int) -> tuple[str, float | None]:
    """Class of neighbour of a standing item, and what it asks for itself, mm."""
    item = standing_items(job)[k]
    return item.neighbour, item.required_mm


def _to_item(job: Job, asked: tuple[str, float | None]) -> float:
    neighbour, own = asked
    return own if own is not None else max(class_gap(job, METAL), class_gap(job, neighbour))


@remembered(*MADE, "clearances", "powertrain", "setting", "openings", of_mount=shape_of)
def made_to_engine(job: Job) -> tuple[Gap, ...]:
    """What is fixed on the car against the pieces, the room they need, and what hangs on the engine, at rest.
    Raises JobError."""
    sides, pose = made_sides(job), pose_of(job.position)
    if not sides.car.rows:
        return ()
    fixed = made_side(sides.car)
    out = pieces_to_made(job, pose, sides.car)
    own, metal = job.setting.made_gap_mm, class_gap(job, METAL)
    need = np.array(
        [[_to_fixed(job, a, b, own, metal) for b in sides.car.rows] for a in sides.engine.rows]
    ).reshape(len(sides.engine.rows), len(sides.car.rows))
    made = made_side(sides.engine)
    out += measured(made, pose, fixed, need, _without_nan(need, LISTED_BEYOND))
    return tuple(_exact_among_one(job, out, [*sides.engine.rows, *sides.car.rows]))


def pieces_to_made(job: Job, pose: Pose, car: MadeBodies, beyond: float = LISTED_BEYOND) -> list[Gap]:
    """The pieces, and the room they need, against what is fixed on the car, with the powertrain still at a
    pose. Raises JobError."""
    out: list[Gap] = []
    for owners, bodies in _pieces_and_rooms(job):
        need = needs_off_made(job, owners, car)
        out += measured(side_of(owners, bodies), pose, made_side(car), need, need + beyond)
    return out


def needs_off_made(job: Job, owners: Sequence[Piece | Fitting], car: MadeBodies) -> Array:
    """(owners, made parts) mm that each piece or room keeps off what is fixed on the car."""
    return np.repeat(_to_metal(job, owners)[:, None], len(car.rows), axis=1)


def pieces_to_made_running(
    job: Job, rows: Sequence[Gap], poses: Sequence[tuple[str, Pose]], car: MadeBodies
) -> tuple[Gap, ...]:
    """Rows of ``pieces_to_made`` with the powertrain moved through all cases. Raises JobError."""
    pieces = [([o.id for o in owners], bodies) for owners, bodies in _pieces_and_rooms(job)]
    rooms = {room.id for room in piece_rooms(job)}
    return through_cases(pose_of(job.position), rows, poses, pieces, made_side(car), rooms)


def _to_fixed(job: Job, one: MadeBody, other: MadeBody, own: float, metal: float) -> float:
    """What a part that hangs on the engine keeps off one that is fixed on the car; nan where nothing."""
    if joined_parts(one, other):
        return float("nan")
    return own if one.owner == other.owner or made_to(job, one, other) else metal


def _exact_among_one(job: Job, rows: Sequence[Gap], made: Sequence[MadeBody]) -> list[Gap]:
    """Parts of one mount, and a mount and the crossmember or cradle that it stands on, are made to one
    another: no give-or-take between them."""
    bodies = {body.id: body for body in made}

    def exact(row: Gap) -> bool:
        one, other = bodies.get(row.piece), bodies.get(row.item)
        return (
            one is not None and other is not None and (one.owner == other.owner or made_to(job, one, other))
        )

    return [replace(row, give_or_take=0.0) if exact(row) else row for row in rows]


def _pieces_and_rooms(job: Job) -> list[tuple[Sequence[Piece | Fitting], Bodies]]:
    rooms = piece_rooms(job)
    return [(fitted_pieces(job), powertrain_bodies(job)), (rooms, Bodies([room.parts for room in rooms]))]


@remembered(
    *MADE, "clearances", "powertrain", "setting", "suspensions", "vehicle", "openings", of_mount=shape_of
)
def together_gaps(job: Job) -> tuple[Gap, ...]:
    """Made parts against what they move with, at rest: the engine's pieces, the bay, one another. Only those
    that are near are listed. Raises JobError."""
    sides, still, own = made_sides(job), Pose.still(), job.setting.made_gap_mm
    engine = sides.engine
    out: list[Gap] = []
    if engine.rows:
        made = made_side(engine)
        bolted = bolted_pieces(job)
        for owners, bodies in _pieces_and_rooms(job):
            need = np.array([[_to_piece(a, o, bolted, own) for o in owners] for a in engine.rows]).reshape(
                len(engine.rows), len(owners)
            )
            rows = measured(made, still, side_of(owners, bodies), need, need + NEAR)
            out += [row.turned() for row in _placed(rows, pose_of(job.position))]
        out += _placed(_among(job, engine.rows, made, own), pose_of(job.position))
    exact = _exact_among_one(job, [_exact_where_joined(row) for row in out], engine.rows)
    return (*(row for row in exact if row.margin_at_rest < CLOSE), *gaps_on_car(job))


@remembered(*ON_CAR, "clearances", "setting", "suspensions", "vehicle", of_mount=shape_of)
def gaps_on_car(job: Job) -> tuple[Gap, ...]:
    """What is made and stands on the car against one another and the bay: wherever the powertrain is. Raises
    JobError."""
    car = made_on_car(job)
    if not car.rows:
        return ()
    made, own = made_side(car), job.setting.made_gap_mm
    rows = [*_among(job, car.rows, made, own), *_to_bay(job, car.rows, made, own)]
    exact = _exact_among_one(job, [_exact_where_joined(row) for row in rows], car.rows)
    return tuple(row for row in exact if row.margin_at_rest < CLOSE)


def _to_piece(body: MadeBody, owner: Piece | Fitting, bolted: dict[str, frozenset[str]], own: float) -> float:
    if isinstance(owner, Fitting):
        return 0.0
    flat = body.role in ("plate", "spacers") and owner.id in bolted.get(body.owner.id, ())
    return -SEAT if flat else own


def _exact_where_joined(row: Gap) -> Gap:
    return replace(row, give_or_take=0.0) if row.required < 0 else row


def _placed(rows: Sequence[Gap], pose: Pose) -> list[Gap]:
    """Rows that were measured in the powertrain frame, in the vehicle frame."""

    def at(p: tuple[float, float, float]) -> tuple[float, float, float]:
        x, y, z = pose.points(p).tolist()
        return x, y, z

    def along(p: tuple[float, float, float]) -> tuple[float, float, float]:
        x, y, z = pose.vectors(p).tolist()
        return x, y, z

    return [
        replace(row, on_piece=at(row.on_piece), on_item=at(row.on_item), way=along(row.way)) for row in rows
    ]


def _among(job: Job, rows: Sequence[MadeBody], side: Side, own: float) -> list[Gap]:
    """Made parts that move together against one another, each pair once."""
    need = np.full((len(rows), len(rows)), np.nan)
    for i, a in enumerate(rows):
        for j, b in enumerate(rows[:i]):
            through = stands_through(job, a, b)
            need[i, j] = np.nan if joined_parts(a, b) else own if through is None else through
    return measured(side, Pose.still(), side, need, _without_nan(need, NEAR))


def _to_bay(job: Job, rows: Sequence[MadeBody], side: Side, own: float) -> list[Gap]:
    """What is fixed on the car against the bay; what moves there, through its travel."""
    items, bay = standing_items(job), bay_side(job)
    need = np.full((len(rows), len(items)), own)
    for j, item in enumerate(items):
        if item.motion is not None:
            need[:, j] = _to_item(job, (item.neighbour, item.required_mm))
        for i, body in enumerate(rows):
            joined = on_item(job, body, item.id)
            if joined is not None:
                need[i, j] = joined
    return measured(side, Pose.still(), bay, need, _without_nan(need, NEAR))


@remembered(
    *MADE, "clearances", "powertrain", "setting", "suspensions", "vehicle", "openings", of_mount=shape_of
)
def made_gaps_at_rest(job: Job) -> tuple[Gap, ...]:
    """Every pair with a made part in it at rest, one row for an owner's parts on one side and each other
    body. Raises JobError."""
    return nearest_of_owner(job, (*engine_made_gaps(job), *made_to_engine(job), *together_gaps(job)))


def made_gaps_running(job: Job, poses: Sequence[tuple[str, Pose]]) -> tuple[Gap, ...]:
    """The same with the powertrain moved through all cases. Raises JobError."""
    if not poses:
        return made_gaps_at_rest(job)
    sides, rest = made_sides(job), pose_of(job.position)
    pieces = [([o.id for o in owners], bodies) for owners, bodies in _pieces_and_rooms(job)]
    made = [row.id for row in sides.engine.rows], sides.engine.bodies
    rooms = {room.id for room in piece_rooms(job)}
    car = made_side(sides.car)
    bay = through_cases(rest, engine_made_gaps(job), poses, [made], bay_side(job))
    fixed = through_cases(rest, made_to_engine(job), poses, [*pieces, made], car, rooms)
    return nearest_of_owner(job, (*bay, *fixed, *together_gaps(job)))


def nearest_of_owner(job: Job, rows: Sequence[Gap]) -> tuple[Gap, ...]:
    """Of the parts of one owner that move together and are near the same body, the row with the least margin,
    and all that lack; tightest first."""
    sides = made_sides(job)
    keys = {
        body.id: (body.owner, moves)
        for made, moves in ((sides.engine, True), (sides.car, False))
        for body in made.rows
    }
    best: dict[tuple[object, object], Gap] = {}
    lacking = [row for row in rows if row.margin < 0]
    for row in rows:
        key = keys.get(row.piece, row.piece), keys.get(row.item, row.item)
        if key not in best or row.margin < best[key].margin:
            best[key] = row
    kept = [row for row in best.values() if row.margin >= 0]
    return tuple(sorted([*lacking, *kept], key=lambda g: g.margin))
