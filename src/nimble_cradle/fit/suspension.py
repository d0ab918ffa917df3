"""Wheels through their travel on their real linkage, before and after pivots are moved: toe, camber, track,
the place of the rack that gives the old steering back, arms and rods to make."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.fit.pivots import ON_UPRIGHT, pivots_of
from nimble_cradle.geometry.linkage import Linkage, Places, moved_through, rates, turn_by
from nimble_cradle.geometry.pose import Array, crosses, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.suspension import Corner, LinkedAxle, StrutCorner, Suspension
from nimble_cradle.survey.network import network

STOPS = 25
"""Heights of a travel that are looked at."""
Points = dict[str, Array]
"""Places by the pivot's name, (3,) or (copies, 3), mm, vehicle frame."""
UP = np.array([0.0, 0.0, 1.0])
RACK_WAY = np.array([0.0, 1.0, 0.0])
"""Which way a rack goes: straight across the car."""
RACK_STEP, RACK_FAR = 1.0, 150.0
"""First step of the search for the rack's place, and how far it may be moved at most, mm."""


@dataclass(frozen=True, eq=False)
class Curves:
    """Through the travel, at every height (stops,) mm that the wheel's middle is up: toe (in is positive) and
    camber (top out is positive) in degrees, aside: how far the tyre's foot has gone outwards, mm. steers:
    degrees of toe on 10 mm at ride. caster: degrees, top back is positive. toe_doubt: what the toe's change
    is good to, by what the points are good to. reach: heights that it reaches before it topples."""

    up: Array
    toe: Array
    camber: Array
    aside: Array
    steers: float
    caster: float
    toe_doubt: Array
    reach: tuple[float, float]

    @property
    def whole(self) -> bool:
        """Whether it goes through all of its travel."""
        return bool(np.isfinite(self.toe).all())


@dataclass(frozen=True, eq=False)
class Rod:
    """An arm's leg, an arm or a rod: its length before and after, mm, and how far it hangs, degrees: outer
    end above the inner is positive."""

    name: str
    was: float
    now: float
    hung_was: float
    hangs: float


@dataclass(frozen=True, eq=False)
class CornerFound:
    """A wheel before and after. rods: lengths. rack_up, ball_up: moved by so much up (mm) from where they
    are now, the rack or the rod's outer ball alone gives the old steering at ride back; None where nothing
    does."""

    corner: Corner
    before: Curves
    after: Curves
    moved: bool
    rods: tuple[Rod, ...]
    rack_up: float | None
    ball_up: float | None


def places_of(job: Job, one: Suspension) -> tuple[Points, Points]:
    """All pivots before and after, mm, vehicle frame. Raises JobError for a point that is not pinned down."""
    before: Points = {}
    for key, (word, pivot) in pivots_of(one).items():
        place = np.asarray(pivot.at, dtype=float)
        if pivot.point is not None:
            found = next((p for p in network(job).points if p.id == pivot.point), None)
            if found is None or found.free:
                why = "is not in the survey" if found is None else "is not pinned down yet"
                where = f"suspensions/{one.id}/{key}/point"
                raise JobError(f"{one.name}: its {word.lower()} is a point that {why}.", where)
            place = np.asarray(found.at, dtype=float)
        before[key] = place
    by = {key: np.asarray(pivot.moved, dtype=float) for key, (_, pivot) in pivots_of(one).items()}
    after = {key: place + by[key] for key, place in before.items()}
    if not isinstance(one, LinkedAxle):
        for key in ON_UPRIGHT:
            if key in after and key != "wheel":
                after[key] = after[key] + by["wheel"]
    return before, after


def _copies(points: Points) -> Points:
    """The same as one copy, or as many as there are."""
    return {key: np.atleast_2d(place) for key, place in points.items()}


def corner_linkage(corner: Corner, points: Points, steered: bool = False) -> Linkage:
    """A wheel's linkage with its pivots at ``points``. steered: its stops have a second number, how far the
    rack has gone to the left, mm."""
    p = _copies(points)
    ends = [("lower_front", "lower_ball"), ("lower_rear", "lower_ball"), ("rod_inner", "rod_outer")]
    slider = None
    if isinstance(corner, StrutCorner):
        slider = p["strut_low"], p["strut_top"] - p["strut_low"], p["strut_top"]
    else:
        ends += [("upper_front", "upper_ball"), ("upper_rear", "upper_ball")]
    return Linkage(
        np.stack([p[a] for a, _ in ends], 1),
        np.stack([p[b] for _, b in ends], 1),
        slider,
        p["wheel"][:, None, :],
        np.ones((1, 1)),
        p["wheel"],
        np.array([RACK_WAY if a == "rod_inner" else np.zeros(3) for a, _ in ends])[None] if steered else None,
    )


def checked(one: Suspension, points: Points) -> None:
    """Raises JobError for what is no linkage."""
    where = f"suspensions/{one.id}"
    for a, b, word in pairs_of(one):
        if np.linalg.norm(points[a] - points[b]) < 5.0:
            raise JobError(f"{one.name}: both ends of its {word} are at one place.", f"{where}/{b}/at")


def pairs_of(one: Suspension) -> list[tuple[str, str, str]]:
    """What is joined by a rod, an arm or a strut: both pivots by name, and what it is called."""
    if isinstance(one, LinkedAxle):
        return [(f"links/{k.id}/car", f"links/{k.id}/axle", k.name) for k in one.links]
    arms = [("lower_front", "lower_ball", "lower arm"), ("lower_rear", "lower_ball", "lower arm")]
    arms += [("lower_front", "lower_rear", "lower arm's pivots"), ("rod_inner", "rod_outer", "tie rod")]
    if isinstance(one, StrutCorner):
        return [*arms, ("strut_low", "strut_top", "strut")]
    arms += [("upper_front", "upper_ball", "upper arm"), ("upper_rear", "upper_ball", "upper arm")]
    return [*arms, ("upper_front", "upper_rear", "upper arm's pivots")]


def hub(corner: Corner) -> tuple[Array, Array]:
    """Forward and outward directions of the wheel as set at ride, (3,) each."""
    side = 1.0 if corner.side == "left" else -1.0
    toe, camber = np.radians([corner.toe_deg, corner.camber_deg])
    ahead = np.array([np.cos(toe), -side * np.sin(toe), 0.0])
    out = np.array([np.sin(toe), side * np.cos(toe), 0.0])
    return ahead, np.cos(camber) * out - np.sin(camber) * UP


def _angles(corner: Corner, ahead: Array, out: Array) -> tuple[Array, Array]:
    """Toe and camber, degrees, of hub directions (..., 3)."""
    side = 1.0 if corner.side == "left" else -1.0
    toe = np.degrees(np.arctan2(-side * ahead[..., 1], ahead[..., 0]))
    return toe, np.degrees(np.arcsin(np.clip(-out[..., 2], -1, 1)))


def _foot(middle: Array, out: Array, radius: float) -> Array:
    """Where the tyre stands: straight down in the wheel's plane."""
    down = -UP + out * out[..., 2:3]
    return np.asarray(middle + radius * down / np.linalg.norm(down, axis=-1, keepdims=True))


def _steers(corner: Corner, points: Points) -> Array:
    """Degrees of toe on 10 mm of travel, at ride, (copies,). Raises LinAlgError at a dead point."""
    linkage = corner_linkage(corner, points)
    _, turn = rates(linkage)
    ahead = hub(corner)[0]
    side = 1.0 if corner.side == "left" else -1.0
    slope = crosses(turn, ahead)
    across = ahead[0] ** 2 + ahead[1] ** 2
    return np.asarray(10 * np.degrees(-side * (slope[:, 1] * ahead[0] - ahead[1] * slope[:, 0]) / across))


def heights(job: Job) -> Array:
    """The heights that are looked at: STOPS of them, ride among them, (stops,) mm up."""
    vehicle = job.vehicle
    down, up = max(vehicle.wheel_down_mm, 1.0), max(vehicle.wheel_up_mm, 1.0)
    half = STOPS // 2
    return np.concatenate([np.linspace(-down, 0, half + 1)[:-1], np.linspace(0, up, STOPS - half)])


def _bent(corner: Corner, points: Points) -> Points:
    """Copies with each number of each pivot moved by what it is good to, one at a time."""
    keys = list(points)
    out = {key: np.tile(place, (3 * len(keys), 1)) for key, place in points.items()}
    for k, key in enumerate(keys):
        for axis in range(3):
            out[key][3 * k + axis, axis] += corner.give_or_take
    return out


def curves(job: Job, corner: Corner, points: Points) -> Curves:
    """A wheel through its travel with its pivots at ``points`` (3,). Raises JobError for no linkage."""
    checked(corner, points)
    up = heights(job)
    linkage = corner_linkage(corner, points)
    places = moved_through(linkage, up[:, None])
    met = places.met[0]
    ride = int(np.argmin(np.abs(up)))
    steers = _steers_at_ride(corner, points)
    if not met[ride] or abs(steers) > 90.0:
        raise JobError(
            f"{corner.name}: its linkage topples over at ride height; look at its points.",
            f"suspensions/{corner.id}/wheel/at",
        )
    ahead, out = (places.vectors(v[None])[0] for v in hub(corner))
    toe, camber = _angles(corner, ahead, out)
    foot = _foot(places.points(points["wheel"][None])[0], out, job.vehicle.tyre_radius_mm)
    side = 1.0 if corner.side == "left" else -1.0
    reached = up[met]
    top = points["strut_top" if isinstance(corner, StrutCorner) else "upper_ball"]
    post = unit(top - points["lower_ball"])
    return Curves(
        up,
        np.where(met, toe, np.nan),
        np.where(met, camber, np.nan),
        np.where(met, side * (foot - foot[ride])[:, 1], np.nan),
        steers,
        float(np.degrees(np.arctan2(-post[0], post[2]))),
        np.where(met, _toe_doubt(corner, points, linkage, up, places, ahead), np.nan),
        (float(reached.min()), float(reached.max())),
    )


def _steers_at_ride(corner: Corner, points: Points) -> float:
    try:
        return float(_steers(corner, points)[0])
    except np.linalg.LinAlgError as error:
        raise JobError(
            f"{corner.name}: nothing tells where its wheel goes; two of its rods lie along one line.",
            f"suspensions/{corner.id}/wheel/at",
        ) from error


def _toe_doubt(
    corner: Corner, points: Points, linkage: Linkage, up: Array, places: Places, ahead: Array
) -> Array:
    """What the toe is good to at each height, degrees, by what each point is good to; added as squares."""
    turn = turn_by(linkage, corner_linkage(corner, _bent(corner, points)), up[:, None], places)
    by = crosses(turn, ahead)
    flat = ahead[:, 0] ** 2 + ahead[:, 1] ** 2
    toe = np.degrees((by[..., 1] * ahead[:, 0] - ahead[:, 1] * by[..., 0]) / flat)
    return np.asarray(np.sqrt((toe**2).sum(0)))


def _gives_back(corner: Corner, points: Points, key: str, want: float) -> float | None:
    """How far up ``key`` alone is to be moved so that the wheel steers ``want`` on 10 mm at ride (secant)."""

    def off(by: float) -> float:
        at = {**points, key: points[key] + by * UP}
        return float(_steers(corner, at)[0]) - want

    try:
        a, b = 0.0, RACK_STEP
        at_a, at_b = off(a), off(b)
        for _ in range(20):
            if abs(at_b) < 1e-9 or at_a == at_b:
                break
            a, b, at_a = b, float(np.clip(b - at_b * (b - a) / (at_b - at_a), -RACK_FAR, RACK_FAR)), at_b
            at_b = off(b)
    except np.linalg.LinAlgError:
        return None
    return b if abs(at_b) < 1e-6 else None


def _rods(corner: Corner, before: Points, after: Points) -> tuple[Rod, ...]:
    out = []
    side = 1.0 if corner.side == "left" else -1.0

    def hang(inner: Array, outer: Array) -> float:
        by = outer - inner
        return float(np.degrees(np.arctan2(by[2], side * by[1])))

    def foot(front: Array, rear: Array, ball: Array) -> Array:
        axis = unit(rear - front)
        return np.asarray(front + ((ball - front) @ axis) * axis)

    arms = ("lower", "upper") if "upper_ball" in before else ("lower",)
    for arm in arms:
        keys = f"{arm}_front", f"{arm}_rear", f"{arm}_ball"
        for k, leg in enumerate(("front", "rear")):
            a, b = (float(np.linalg.norm(p[keys[2]] - p[keys[k]])) for p in (before, after))
            hangs = [hang(p[keys[k]], p[keys[2]]) for p in (before, after)]
            out.append(Rod(f"{arm.capitalize()} arm, {leg} pivot to ball", a, b, *hangs))
        feet = [foot(*(p[key] for key in keys)) for p in (before, after)]
        straight = [float(np.linalg.norm(p[keys[2]] - f)) for p, f in zip((before, after), feet, strict=True)]
        hangs = [hang(f, p[keys[2]]) for p, f in zip((before, after), feet, strict=True)]
        out.append(Rod(f"{arm.capitalize()} arm, square to its pivots", straight[0], straight[1], *hangs))
    ends = [(p["rod_inner"], p["rod_outer"]) for p in (before, after)]
    long = [float(np.linalg.norm(b - a)) for a, b in ends]
    out.append(Rod("Tie rod, ball to ball", long[0], long[1], *(hang(a, b) for a, b in ends)))
    return tuple(out)


def corner_found(job: Job, corner: Corner) -> CornerFound:
    """A wheel before and after. Raises JobError."""
    before, after = places_of(job, corner)
    moved = any(np.abs(after[key] - before[key]).max() > 1e-9 for key in before)
    was = curves(job, corner, before)
    now = curves(job, corner, after) if moved else was
    rack = ball = None
    if moved and abs(now.steers - was.steers) > 1e-6:
        rack = _gives_back(corner, after, "rod_inner", was.steers)
        ball = _gives_back(corner, after, "rod_outer", was.steers)
    return CornerFound(corner, was, now, moved, _rods(corner, before, after), rack, ball)


@remembered("suspensions", "survey", "vehicle")
def corners_found(job: Job) -> tuple[CornerFound | JobError, ...]:
    """Every wheel's, in the job's order; what cannot be worked out says why."""
    out: list[CornerFound | JobError] = []
    for one in job.suspensions:
        if isinstance(one, LinkedAxle):
            continue
        try:
            out.append(corner_found(job, one))
        except JobError as error:
            out.append(error)
    return tuple(out)


def corner_places(job: Job, corner: Corner, up: Array) -> Places:
    """Where the upright goes at heights ``up`` (stops,), as it is after what is moved. Raises JobError."""
    _, after = places_of(job, corner)
    checked(corner, after)
    return moved_through(corner_linkage(corner, after), up[:, None])
