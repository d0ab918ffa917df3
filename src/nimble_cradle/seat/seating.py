"""A job's wish as a problem that the search understands: bodies, gaps to keep, sways, and what is measured
of a pose."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, solid_of, standing_items
from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.balance import front_share
from nimble_cradle.fit.gaps import Fitting, Fittings, piece_rooms, required_gaps
from nimble_cradle.fit.joints import half_shaft
from nimble_cradle.fit.shafts import STEEPEST, axle_at, critical_speed, joint_state, top_speed
from nimble_cradle.fit.travel import motion_pose, moving_items
from nimble_cradle.geometry.distance import Bodies
from nimble_cradle.geometry.pose import Array, Pose, angles_xyz, unit
from nimble_cradle.geometry.solids import SolidPart, box, placed_part
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.wish import Window, Wish
from nimble_cradle.judge.carried import carried
from nimble_cradle.motion.contacts import Obstacles
from nimble_cradle.motion.descend import LEVER, Aims, SeatProblem, aims_of
from nimble_cradle.survey.made import surface_doubt
from nimble_cradle.survey.network import Network, network

DEGREE = LEVER * math.pi / 180
"""A degree counts as so many mm (about 7)."""
_INSET = 0.015
"""Limits of the driveline and the like are kept with this to spare, mm, so that rounding does not break them.
"""
LINE = "lowest chassis line"
BACK, SIDE, LOW = 0, 1, 2
"""Numbers of the first three aims: the centre of gravity forward, to the left, and up."""


def first_wish(job: Job) -> Wish:
    """A wish to begin from: low, then back, near where the powertrain stands."""
    p = job.position
    level = 0.0 if abs(p.yaw_deg) < 45 else p.roll_deg

    def about(value: float, reach: float, step: float) -> Window:
        middle = round(value / step) * step
        return Window(low=round(middle - reach, 4), high=round(middle + reach, 4))

    return Wish(
        fore_aft=about(p.x, 150, 10),
        side=about(p.y, 12, 1),
        height=about(p.z, 150, 10),
        nose_up=about(p.pitch_deg, 1.5, 0.5),
        clocked=about(p.roll_deg, 1.5, 0.5),
        yaw=about(p.yaw_deg, 0.5, 0.5),
        wanted_side=round(p.y),
        wanted_nose_up=round(p.pitch_deg, 1),
        wanted_clocked=round(level, 1),
        wanted_yaw=round(p.yaw_deg / 90) * 90.0,
    )


def wish_of(job: Job) -> Wish:
    """The job's wish, or the one to begin from."""
    return job.wish if job.wish is not None else first_wish(job)


@dataclass(frozen=True, eq=False)
class Seating:
    """A job as a problem. owners: ids of the moving bodies; columns: id of the item behind each standing
    body (LINE for the lowest chassis line); fittings: the rooms to screw in, for the exact check. travels:
    where on its travel each added standing body of a moving item is.
    """

    job: Job
    problem: SeatProblem
    owners: tuple[str, ...]
    owner_names: tuple[str, ...]
    columns: tuple[str, ...]
    fittings: Fittings
    travels: tuple[tuple[int, float], ...]

    def column_name(self, column: int) -> str:
        """Name of the item behind a standing body."""
        key = self.columns[column]
        return next((i.name for i in self.job.items if i.id == key), key)


@remembered("powertrain", "meshes")
def moving_set(job: Job) -> tuple[Bodies, Fittings]:
    """The fitted pieces and after them the rooms that their fittings need, as one set; and the rooms
    alone. Raises JobError."""
    rooms = piece_rooms(job)
    bodies = [solid_of(p, job.meshes, "powertrain/pieces") for p in fitted_pieces(job)]
    return Bodies([*bodies, *(r.parts for r in rooms)]), Fittings(rooms)


def _ground(job: Job) -> list[SolidPart]:
    """Everything below the lowest chassis line as one block."""
    return [box((0.0, 0.0, job.vehicle.lowest_line_z_mm - 1500.0), (20000.0, 20000.0, 3000.0))]


def sways_of(job: Job, about: Array) -> Array:
    """(k, 6) movement of the powertrain in every load case: move mm at ``about`` (3,), vehicle frame, and
    turn rad. Empty without mounts."""
    try:
        cases = carried(job).cases
    except JobError:
        return np.zeros((0, 6))
    centre = pose_of(job.position).points(powertrain_mass(job).centre)
    return np.array([np.concatenate([c.move + np.cross(c.turn, about - centre), c.turn]) for c in cases])


def seating_of(job: Job, centre: Array | None = None) -> Seating:
    """The job's wish as a problem at its present position. Moving items are kept clear of at rest and at
    five places of their travel; the exact check sees the rest of it. centre: the point (3,) of the
    powertrain frame whose height and place are wished for; its centre of gravity. Raises JobError in
    words."""
    wish = wish_of(job)
    items, pieces = standing_items(job), fitted_pieces(job)
    moving, fittings = moving_set(job)
    mass = powertrain_mass(job)
    movers = moving_items(job)
    net = network(job) if any(i.made is not None for i in items) else None
    owners: list[Piece | Fitting] = [*pieces, *fittings.rows]
    doubt = [i.give_or_take if i.made is None or net is None else _typical_doubt(job, i, net) for i in items]
    need = required_gaps(job, owners) + np.hypot(
        np.array([[o.give_or_take for o in owners]]).T, np.array([doubt])
    )
    travels = tuple(
        (k, float(t)) for k, m in enumerate(movers) for t in np.linspace(*m.span, 5) if abs(t) > 1e-6
    )
    bodies = [*(_standing(job, k, t) for k, t in travels), *([_ground(job)] if wish.over_line else [])]
    columns = [
        *(i.id for i in items),
        *(items[movers[k].column].id for k, _ in travels),
        *([LINE] if wish.over_line else []),
    ]
    bare = np.array(
        [[wish.over_line_mm + _INSET if j < len(pieces) else -np.inf] for j in range(len(owners))]
    )
    more = (
        np.hstack([*(need[:, [movers[k].column]] for k, _ in travels), *([bare] if wish.over_line else [])])
        if bodies
        else np.zeros((len(owners), 0))
    )
    groups = [Obstacles(bay_bodies(job), need), *([Obstacles(Bodies(bodies), more)] if bodies else [])]
    about = pose_of(job.position).points(mass.centre)
    swaying = np.array([j < len(pieces) for j in range(len(owners))])
    problem = SeatProblem(
        moving,
        mass.centre,
        tuple(groups),
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
    )


def _standing(job: Job, k: int, at: float) -> list[SolidPart]:
    """A moving item where it is for ``at`` on its travel, as a standing body."""
    mover = moving_items(job)[k]
    pose = motion_pose(mover.motion, at)
    return [placed_part(p, pose) for p in mover.bodies.parts]


def _typical_doubt(job: Job, item: Item, net: Network) -> float:
    """Plus-or-minus of a surveyed item's surface about its middle, to begin with; the exact check puts the
    true one in its place."""
    middle = np.vstack([p.triangles[0] for p in solid_of(item, job.meshes, "items")]).mean(0) - item.moved
    return max(surface_doubt(item, net, middle, way) for way in np.eye(3))


def aims_for(job: Job, wish: Wish, centre: Array) -> Aims:
    """What is measured of a pose: the ``centre`` (forward, left, up), the position as it is told, the
    driveline, the front-axle share, the shifter in its hole; with weights that are at most one."""
    mass = powertrain_mass(job)
    top = max(wish.low, wish.back, wish.central, wish.level)
    low, back, central, level = (
        max(w / top, least)
        for w, least in ((wish.low, 0.0), (wish.back, 0.0), (wish.central, 0.01), (wish.level, 0.01))
    )
    inf = math.inf
    rows = [
        (
            "centre of gravity, forward",
            back if wish.lengthwise == "back" else -back,
            0.0,
            0.0,
            -inf,
            inf,
            1.0,
        ),
        ("centre of gravity, left", 0.0, 0.0, 0.0, -inf, inf, 1.0),
        ("centre of gravity, up", low if wish.upwise == "low" else -low, 0.0, 0.0, -inf, inf, 1.0),
    ]
    for name, window, weight, wanted, scale in (
        ("fore and aft", wish.fore_aft, 0.0, 0.0, 1.0),
        ("side offset", wish.side, central, wish.wanted_side, 1.0),
        ("height", wish.height, 0.0, 0.0, 1.0),
        ("nose up", wish.nose_up, level * DEGREE, wish.wanted_nose_up, DEGREE),
        ("clocking", wish.clocked, level * DEGREE, wish.wanted_clocked, DEGREE),
        ("yaw", wish.yaw, level * DEGREE, wish.wanted_yaw, DEGREE),
    ):
        rows.append((name, 0.0, weight, wanted, window.low, window.high, scale))
    parts: list[Callable[[Pose], Array]] = [lambda pose: pose.points(centre), _told]
    for more, measure in _further(job, wish, mass.mass_kg, mass.centre):
        rows += [
            (name, linear, absolute, target, low + _INSET / scale, high - _INSET / scale, scale)
            for name, linear, absolute, target, low, high, scale in more
        ]
        parts.append(measure)
    return aims_of(rows, lambda pose: np.concatenate([part(pose) for part in parts]))


def _told(pose: Pose) -> Array:
    """The position as it is told: x, y, z, nose up, clocked, yaw."""
    roll, pitch, yaw = angles_xyz(pose.rotation)
    return np.array([*pose.translation, -pitch, roll, yaw])


_Row = tuple[str, float, float, float, float, float, float]


def _further(
    job: Job, wish: Wish, mass_kg: float, centre: Array
) -> list[tuple[list[_Row], Callable[[Pose], Array]]]:
    """The windows that the job has besides those of the position."""
    out: list[tuple[list[_Row], Callable[[Pose], Array]]] = []
    inf, v, limits, gearbox = math.inf, job.vehicle, job.joint_limits, job.powertrain.gearbox
    if wish.joints and gearbox.kind == "transaxle" and gearbox.seats is not None and v.hubs is not None:
        seats, hubs = np.asarray(gearbox.seats), v.hubs

        def shafts(pose: Pose) -> Array:
            """Angle at ride height, most, and plunge of both half-shafts."""
            both = [
                half_shaft(x, y, z, *h, v.wheel_up_mm, v.wheel_down_mm)
                for (x, y, z), h in zip(pose.points(seats).tolist(), hubs, strict=True)
            ]
            return np.array(
                [x for ride, most, _, longer, shorter in both for x in (ride, most, longer + shorter)]
            )

        rows: list[_Row] = []
        for side in ("left", "right"):
            rows += [
                (
                    f"{side} half-shaft at ride height",
                    0.0,
                    0.0,
                    0.0,
                    -inf,
                    limits.half_shaft_ride_deg,
                    DEGREE,
                ),
                (
                    f"{side} half-shaft through its travel",
                    0.0,
                    0.0,
                    0.0,
                    -inf,
                    limits.half_shaft_travel_deg,
                    DEGREE,
                ),
                (f"plunge of the {side} half-shaft", 0.0, 0.0, 0.0, -inf, limits.plunge_mm, 1.0),
            ]
        out.append((rows, shafts))
    elif wish.joints and gearbox.kind != "transaxle":
        out.append(_shaft_rows(job))
    if wish.share:

        def share(pose: Pose) -> Array:
            """Front-axle share in per cent."""
            return np.array(
                [
                    front_share(
                        v.front_axle_kg,
                        v.rear_axle_kg,
                        mass_kg,
                        float(pose.points(centre)[0]),
                        v.wheelbase_mm,
                    )[0]
                ]
            )

        per_mm = 100 * mass_kg / v.wheelbase_mm / (v.front_axle_kg + v.rear_axle_kg + mass_kg)
        out.append(
            ([("front-axle share", 0.0, 0.0, 0.0, -inf, v.want_front_share_percent, 1 / per_mm)], share)
        )
    if wish.shifter_hole is not None and gearbox.shifter is not None:
        outline, height, shifter = (
            np.asarray(wish.shifter_hole.outline),
            wish.shifter_hole.height_mm,
            np.asarray(gearbox.shifter),
        )

        def inside(pose: Pose) -> Array:
            """How far inside the hole's edge the shifter's line passes at the hole's height, mm."""
            at, up = pose.points(shifter), pose.rotation[:, 2]
            return np.array([inside_outline(outline, (at + up * (height - at[2]) / up[2])[:2])])

        out.append(([("shifter in its hole", 0.0, 0.0, 0.0, 0.0, inf, 1.0)], inside))
    return out


def _shaft_rows(job: Job) -> tuple[list[_Row], Callable[[Pose], Array]]:
    """Windows of a propshaft, the same that the verdict judges: every joint at ride height, what they
    leave together, the steepest of them and the slip joint through the axle's travel, and the length that
    its tube may have."""
    v, limits, gearbox, shaft = job.vehicle, job.joint_limits, job.powertrain.gearbox, job.propshaft
    centre = None if shaft.centre is None else np.asarray(shaft.centre, dtype=float)
    places = [(t, *axle_at(job, t)) for t in (0.0, v.wheel_up_mm, -v.wheel_down_mm)]

    def joints(pose: Pose) -> Array:
        """Angles, difference of a one-piece shaft, residual, steepest, slip left in droop and bump, length
        of the first piece."""
        start, way = pose.points(gearbox.output), unit(pose.vectors(gearbox.output_direction))
        ride, up, down = (
            joint_state(start, way, centre, end, last, shaft.phase_deg, t) for t, end, last in places
        )
        slips = [s.lengths[-1] - ride.lengths[-1] for s in (ride, up, down)]
        told = [*ride.angles]
        if centre is None:
            told.append(ride.angles[0] - ride.angles[1])
        steepest = max(max(s.angles) for s in (ride, up, down))
        told += [
            ride.residual,
            steepest,
            shaft.slip_mm - max(slips),
            shaft.slip_mm + min(slips),
            ride.lengths[0],
        ]
        return np.array(told)

    inf = math.inf
    names = (
        ("front joint", "rear joint")
        if centre is None
        else ("front joint", "joint behind the bearing", "rear joint")
    )
    rows: list[_Row] = [(name, 0.0, 0.0, 0.0, limits.least_deg, limits.most_deg, DEGREE) for name in names]
    if centre is None:
        most = limits.difference_deg
        rows.append(("difference of the joints", 0.0, 0.0, 0.0, -most, most, DEGREE))
    rpm = top_speed(job)
    left = math.degrees(math.sqrt(shaft.most_acceleration) / (rpm * math.pi / 30))
    _, safe = critical_speed(shaft.tube_outside_mm, shaft.tube_wall_mm, 1000.0)
    rows += [
        ("what the joints leave together", 0.0, 0.0, 0.0, -inf, left, DEGREE),
        ("steepest joint through the travel", 0.0, 0.0, 0.0, -inf, STEEPEST * limits.most_deg, DEGREE),
        ("slip joint in droop", 0.0, 0.0, 0.0, shaft.slip_least_mm, inf, 1.0),
        ("slip joint in bump", 0.0, 0.0, 0.0, 0.0, inf, 1.0),
        ("length of the shaft for its speed", 0.0, 0.0, 0.0, -inf, 1000.0 * math.sqrt(safe / rpm), 1.0),
    ]
    return rows, joints


def inside_outline(outline: Array, point: Array) -> float:
    """How far a point (2,) is inside a closed outline (n, 2): distance to its nearest edge, negative
    outside. Unit of the outline."""
    a, b = outline, np.roll(outline, -1, axis=0)
    along = b - a
    t = np.clip(((point - a) * along).sum(1) / np.maximum((along**2).sum(1), 1e-12), 0.0, 1.0)
    away = float(np.sqrt(((a + t[:, None] * along - point) ** 2).sum(1)).min())
    crosses = (a[:, 1] > point[1]) != (b[:, 1] > point[1])
    with np.errstate(divide="ignore", invalid="ignore"):
        right = point[0] < a[:, 0] + (point[1] - a[:, 1]) / (b[:, 1] - a[:, 1]) * along[:, 0]
    return away if int((crosses & right).sum()) % 2 else -away


def at_pose(seating: Seating, job: Job) -> Seating:
    """The same problem for the job at another position: how it sways on its mounts there."""
    about = pose_of(job.position).points(seating.problem.about)
    return replace(seating, job=job, problem=replace(seating.problem, sways=sways_of(job, about)))
