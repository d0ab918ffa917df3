"""A job's wish as a problem that the search understands: bodies, gaps to keep, sways, and what is measured
of a pose."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, solid_of, standing_items
from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.gaps import Fitting, Fittings, piece_rooms, required_gaps
from nimble_cradle.fit.made_bodies import MADE_DOUBT, MadeBodies, made_sides
from nimble_cradle.fit.made_gaps import MADE, needs_off_made
from nimble_cradle.fit.travel import moving_items
from nimble_cradle.geometry.bodies import Bodies, together
from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.geometry.solid_makers import box
from nimble_cradle.geometry.solids import SolidPart, placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.wish import Window, Wish
from nimble_cradle.judge.carried import carried
from nimble_cradle.motion.contacts import Obstacles
from nimble_cradle.motion.seat_problem import SeatProblem
from nimble_cradle.seat.windows import INSET, aims_for
from nimble_cradle.survey.made import surface_doubt
from nimble_cradle.survey.network import network
from nimble_cradle.survey.network_types import Network

LINE = "lowest chassis line"
BACK, SIDE, LOW = 0, 1, 2
"""Numbers of the first three aims: the centre of gravity forward, to the left, and up."""


def first_wish(job: Job) -> Wish:
    """A wish to begin from: low, then back, near where the powertrain stands."""
    position = job.position
    level = 0.0 if abs(position.yaw_deg) < 45 else position.roll_deg

    def about(value: float, reach: float, step: float) -> Window:
        middle = round(value / step) * step
        return Window(low=round(middle - reach, 4), high=round(middle + reach, 4))

    return Wish(
        fore_aft=about(position.x, 150, 10),
        side=about(position.y, 12, 1),
        height=about(position.z, 150, 10),
        nose_up=about(position.pitch_deg, 1.5, 0.5),
        clocked=about(position.roll_deg, 1.5, 0.5),
        yaw=about(position.yaw_deg, 0.5, 0.5),
        wanted_side=round(position.y),
        wanted_nose_up=round(position.pitch_deg, 1),
        wanted_clocked=round(level, 1),
        wanted_yaw=round(position.yaw_deg / 90) * 90.0,
    )


def wish_of(job: Job) -> Wish:
    """The job's wish, or the one to begin from."""
    return job.wish if job.wish is not None else first_wish(job)


@dataclass(frozen=True, eq=False)
class Seating:
    """A job as a problem. owners: ids of the moving bodies; columns: id of the item behind each standing
    body, or of the made part (LINE for the lowest chassis line); fittings: the rooms to screw in, for the
    exact check. travels: where on its travel each added standing body of a moving item is. made: what is
    made and fixed on the car, and stays there."""

    job: Job
    problem: SeatProblem
    owners: tuple[str, ...]
    owner_names: tuple[str, ...]
    columns: tuple[str, ...]
    fittings: Fittings
    travels: tuple[tuple[int, float], ...]
    made: MadeBodies

    def column_name(self, column: int) -> str:
        """Name of the item or made part behind a standing body."""
        key = self.columns[column]
        for row in self.made.rows:
            if row.id == key:
                return row.name
        return next((item.name for item in self.job.items if item.id == key), key)


@remembered(*MADE, "powertrain", "openings")
def moving_set(job: Job) -> tuple[Bodies, Fittings]:
    """The fitted pieces, and after them the rooms that their fittings need and the plates of the mounts, as
    one set; and rooms and plates alone. Raises JobError."""
    plates = [row for row in made_sides(job).engine.rows if row.role == "plate"]
    fittings = [*piece_rooms(job), *(Fitting(row.id, row.name, row.solids) for row in plates)]
    bodies = [solid_of(piece, job.meshes, "powertrain/pieces") for piece in fitted_pieces(job)]
    return Bodies([*bodies, *(fitting.parts for fitting in fittings)]), Fittings(fittings)


def _ground(job: Job) -> list[SolidPart]:
    """Everything below the lowest chassis line as one block."""
    return [box((0.0, 0.0, job.vehicle.lowest_line_z_mm - 1500.0), (20000.0, 20000.0, 3000.0))]


def sways_of(job: Job, about: Array) -> Array:
    """(k, 6) movement of the powertrain in every load case: move mm at ``about`` (3,), vehicle frame, and
    turn rad. Empty without mounts."""
    try:
        cases = carried(job).stands
    except JobError:
        return np.zeros((0, 6))
    centre = pose_of(job.position).points(powertrain_mass(job).centre)
    return np.array(
        [np.concatenate([case.move + crosses(case.turn, about - centre), case.turn]) for case in cases]
    )


def seating_of(job: Job, centre: Array | None = None) -> Seating:
    """The job's wish as a problem at its present position. Moving items are looked at where they rest and at
    five places of their travel; the exact check sees the rest. centre: the point (3,) of the powertrain
    frame whose height and place are wished for; its centre of gravity. Raises JobError in words."""
    wish = wish_of(job)
    items, pieces = standing_items(job), fitted_pieces(job)
    moving, fittings = moving_set(job)
    mass = powertrain_mass(job)
    movers = moving_items(job)
    net = network(job) if any(item.made is not None for item in items) else None
    owners: list[Piece | Fitting] = [*pieces, *fittings.rows]
    doubt = [
        item.give_or_take if item.made is None or net is None else _typical_doubt(job, item, net)
        for item in items
    ]
    need = required_gaps(job, owners) + np.hypot(
        np.array([[o.give_or_take for o in owners]]).T, np.array([doubt])
    )
    travels = tuple(
        (k, float(t))
        for k, mover in enumerate(movers)
        for t in sorted({*np.linspace(*mover.rises, 5).tolist(), *mover.ends})
        if abs(t) > 1e-6
    )
    bodies = [*(_standing(job, k, t) for k, t in travels), *([_ground(job)] if wish.over_line else [])]
    columns = [
        *(item.id for item in items),
        *(items[movers[k].column].id for k, _ in travels),
        *([LINE] if wish.over_line else []),
    ]
    moved_rigidly = [not (isinstance(o, Fitting) and o.bare) for o in owners]
    bare = np.array([[wish.over_line_mm + INSET if rigid else -np.inf] for rigid in moved_rigidly])
    more = (
        np.hstack([*(need[:, [movers[k].column]] for k, _ in travels), *([bare] if wish.over_line else [])])
        if bodies
        else np.zeros((len(owners), 0))
    )
    stand, needs = [bay_bodies(job), Bodies(bodies)], [need, more]
    stays = made_sides(job).car if wish.made == "stays" else MadeBodies([])
    if stays.rows:
        doubts = np.hypot(np.array([[o.give_or_take for o in owners]]).T, MADE_DOUBT)
        off_made = needs_off_made(job, owners, stays) + doubts
        for j, owner in enumerate(owners):  # a plate and what its own mount stands on are made to one another
            if isinstance(owner, Fitting) and not owner.bare:
                off_made[j] = -np.inf
        stand.append(stays.bodies)
        needs.append(off_made)
        columns += [row.id for row in stays.rows]
    about = pose_of(job.position).points(mass.centre)
    swaying = np.array(moved_rigidly)
    problem = SeatProblem(
        moving,
        mass.centre,
        (Obstacles(together(stand), np.hstack(needs)),),
        aims_for(job, wish, mass.centre if centre is None else centre),
        sways_of(job, about),
        swaying,
    )
    return Seating(
        job,
        problem,
        tuple(o.id for o in owners),
        tuple(o.name for o in owners),
        tuple(columns),
        fittings,
        travels,
        stays,
    )


def _standing(job: Job, k: int, at: float) -> list[SolidPart]:
    """A moving item as a standing body, at ``at`` on its travel."""
    mover = moving_items(job)[k]
    pose = mover.pose(at)
    return [placed_part(part, pose) for part in mover.bodies.parts]


def _typical_doubt(job: Job, item: Item, net: Network) -> float:
    """Plus-or-minus of a surveyed item's surface about its middle, mm: a first value, which the exact check
    replaces."""
    middle = np.vstack([p.triangles[0] for p in solid_of(item, job.meshes, "items")]).mean(0) - item.moved
    return max(surface_doubt(item, net, middle, way) for way in np.eye(3))


AS_MADE = 0.01
"""Plates whose corners differ by less than this, mm, are the same."""


def at_pose(seating: Seating, job: Job) -> Seating:
    """The same problem for the job at another position: how it sways on its mounts there, and the plates of
    the mounts as they are made for that place. A plate that cannot be made there stays as it was."""
    about = pose_of(job.position).points(seating.problem.about)
    plated = _with_plates_of(seating, job)
    return replace(plated, job=job, problem=replace(plated.problem, sways=sways_of(job, about)))


def _with_plates_of(seating: Seating, job: Job) -> Seating:
    """The problem with the plates that are made at a job's position."""
    _, there = moving_set(job)
    now = {row.id: row for row in there.rows}
    rows = tuple(now.pop(row.id, row) for row in seating.fittings.rows)
    if not now and all(
        row is old or _same_shape(row.parts, old.parts)
        for row, old in zip(rows, seating.fittings.rows, strict=True)
    ):
        return seating
    more = tuple(now.values())
    pieces = len(seating.owners) - len(rows)
    problem = seating.problem
    bodies = [solid_of(piece, job.meshes, "powertrain/pieces") for piece in fitted_pieces(job)]
    moving = Bodies([*bodies, *(row.parts for row in (*rows, *more))])
    need, swaying = problem.need(), problem.swaying
    if more:
        fresh = seating_of(job)
        if fresh.columns != seating.columns or pieces != len(bodies):
            return seating
        at = [fresh.owners.index(row.id) for row in more]
        need = np.vstack([need, fresh.problem.need()[at]])
        swaying = np.concatenate([swaying, fresh.problem.swaying[at]])
    return replace(
        seating,
        problem=replace(problem.with_need(need), moving=moving, swaying=swaying),
        owners=(*seating.owners, *(row.id for row in more)),
        owner_names=(*seating.owner_names, *(row.name for row in more)),
        fittings=Fittings((*rows, *more)),
    )


def _same_shape(a: Sequence[SolidPart], b: Sequence[SolidPart]) -> bool:
    """Whether two bodies are the same to AS_MADE mm."""
    return len(a) == len(b) and all(
        p is q
        or (
            len(p.triangles[0]) == len(q.triangles[0])
            and float(np.abs(p.triangles[0] - q.triangles[0]).max()) < AS_MADE
        )
        for p, q in zip(a, b, strict=True)
    )
