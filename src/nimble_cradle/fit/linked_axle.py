"""A live axle on its links, before and after: how its nose turns, where it goes, how it steers as the body
leans."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_cradle.fit.suspension import Points, Rod, checked, heights, places_of
from nimble_cradle.geometry.linkage import Linkage, moved_through
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.job.suspension import LinkedAxle

LEANS = 13
"""Angles of a lean that are looked at."""
GIVES = 3.0
"""Rods that disagree by more than this, mm, lock up: rubber gives so much (common practice, no source)."""


@dataclass(frozen=True, eq=False)
class AxleCurves:
    """Both wheels up together by ``up`` (stops,) mm: nose: how far the axle's input turns up, degrees; ahead,
    left: where its middle goes, mm. Leaning by ``lean`` (stops,) degrees, left wheel up: steers: degrees that
    the axle turns to the left; aside: mm that its middle goes to the left. forced: mm by which links disagree
    at the worst, which their rubber has to give."""

    up: Array
    nose: Array
    ahead: Array
    left: Array
    lean: Array
    steers: Array
    aside: Array
    forced: float

    @property
    def whole(self) -> bool:
        """Whether it goes through all of it."""
        return bool(np.isfinite(self.nose).all() and np.isfinite(self.steers).all())


@dataclass(frozen=True, eq=False)
class AxleFound:
    """An axle before and after."""

    axle: LinkedAxle
    before: AxleCurves
    after: AxleCurves
    moved: bool
    rods: tuple[Rod, ...]


def _linkage(axle: LinkedAxle, points: Points) -> Linkage:
    car = np.array([points[f"links/{k.id}/car"] for k in axle.links])[None]
    on = np.array([points[f"links/{k.id}/axle"] for k in axle.links])[None]
    wheels = np.array([points["left_wheel"], points["right_wheel"]])[None]
    weights = np.array([[0.5, 0.5], [1.0, -1.0]])
    return Linkage(car, on, None, wheels, weights, wheels.mean(1))


def axle_curves(job: Job, axle: LinkedAxle, points: Points) -> AxleCurves:
    """The axle with its eyes at ``points``. Raises JobError for what is no axle."""
    checked(axle, points)
    track = points["left_wheel"][1] - points["right_wheel"][1]
    where = f"suspensions/{axle.id}/left_wheel/at"
    if track < 200.0:
        raise JobError(f"{axle.name}: its left wheel is not left of its right one.", where)
    linkage = _linkage(axle, points)
    up = heights(job)
    rise = moved_through(linkage, np.column_stack([up, np.zeros_like(up)]))
    lean = np.linspace(-axle.roll_deg, axle.roll_deg, LEANS)
    # from ride both ways: the first number is what the stops are ordered by, so a lean is gone through so
    tilt = track * np.sin(np.radians(lean))
    turned = Linkage(
        linkage.fixed, linkage.moving, None, linkage.driven, linkage.weights[::-1].copy(), linkage.centre
    )
    roll = moved_through(turned, np.column_stack([tilt, np.zeros_like(tilt)]))
    if not rise.met[0].any() or not roll.met[0].any():
        raise JobError(f"{axle.name}: its links do not hold it, or lock it; look at their eyes.", where)
    ahead = rise.vectors(np.array([[1.0, 0.0, 0.0]]))[0]
    across = roll.vectors(np.array([[0.0, 1.0, 0.0]]))[0]

    def told(values: Array, met: Array) -> Array:
        return np.where(met, values, np.nan)

    return AxleCurves(
        up,
        told(np.degrees(np.arctan2(ahead[:, 2], ahead[:, 0])), rise.met[0]),
        told(rise.translation[0, :, 0], rise.met[0]),
        told(rise.translation[0, :, 1], rise.met[0]),
        lean,
        told(np.degrees(np.arctan2(-across[:, 0], across[:, 1])), roll.met[0]),
        told(roll.translation[0, :, 1], roll.met[0]),
        float(max(rise.apart[0][rise.met[0]].max(), roll.apart[0][roll.met[0]].max())),
    )


def axle_found(job: Job, axle: LinkedAxle) -> AxleFound:
    """Before and after. Raises JobError."""
    before, after = places_of(job, axle)
    moved = any(np.abs(after[key] - before[key]).max() > 1e-9 for key in before)
    was = axle_curves(job, axle, before)
    rods = []
    for link in axle.links:
        ends = [(p[f"links/{link.id}/car"], p[f"links/{link.id}/axle"]) for p in (before, after)]
        long = [float(np.linalg.norm(b - a)) for a, b in ends]
        hangs = [float(np.degrees(np.arctan2((b - a)[2], np.hypot(*(b - a)[:2])))) for a, b in ends]
        rods.append(Rod(link.name, long[0], long[1], hangs[0], hangs[1]))
    return AxleFound(axle, was, axle_curves(job, axle, after) if moved else was, moved, tuple(rods))


@remembered("suspensions", "survey", "vehicle")
def axles_found(job: Job) -> tuple[AxleFound | JobError, ...]:
    """Every axle's, in the job's order; what cannot be worked out says why."""
    out: list[AxleFound | JobError] = []
    for one in job.suspensions:
        if isinstance(one, LinkedAxle):
            try:
                out.append(axle_found(job, one))
            except JobError as error:
                out.append(error)
    return tuple(out)
