"""A set of bodies that looks for its place among others, and the problem looked at from one pose."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np

from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.pose import Array, Pose, crosses
from nimble_cradle.motion.aims import Aims
from nimble_cradle.motion.contacts import Obstacles, Rows, rows_at

LEVER = 400.0
"""A turn of one radian counts as this many mm."""
PENALTY = 30.0
"""What a mm that lacks costs, wish mm: so much that no wish is worth breaking a gap (chosen by trial)."""
SMALL = 0.005
"""Step by which slopes of the aims are measured, mm: over the bend of an angle or a length it leaves out
some hundred-thousandths."""


@dataclass(frozen=True, eq=False)
class SeatProblem:
    """A set of bodies to be placed. about: the point (3,) in the moving frame that turns leave still. sways:
    (k, 6) small movements (move mm at ``about``, turn rad; outer frame) in which every gap must still be
    kept. swaying: (moving.count,) which bodies make them.

    things: None, or (columns,) the number of the thing that each standing body belongs to. With None the
    lack is the worst shortfall. With numbers it is the sum over windows and over pairs of a moving body and
    a thing, of the worst shortfall of each; the place where that sum is least breaks few of them.
    """

    moving: Bodies
    about: Array
    obstacles: tuple[Obstacles, ...]
    aims: Aims
    sways: Array = field(default_factory=lambda: np.zeros((0, 6)))
    swaying: np.ndarray = field(default_factory=lambda: np.zeros(0, dtype=bool))
    things: np.ndarray | None = None

    @property
    def columns(self) -> int:
        """Number of standing bodies of all obstacles."""
        return sum(group.bodies.count for group in self.obstacles)

    def need(self) -> Array:
        """(moving.count, columns) what each pair must keep, mm."""
        return np.hstack([group.need for group in self.obstacles])

    def with_need(self, need: Array) -> SeatProblem:
        """The same with other needs (moving.count, columns)."""
        at, groups = 0, []
        for group in self.obstacles:
            groups.append(Obstacles(group.bodies, need[:, at : at + group.bodies.count]))
            at += group.bodies.count
        return replace(self, obstacles=tuple(groups))


@dataclass(frozen=True, eq=False)
class Look:
    """The problem looked at from one pose. matrix: (rows, 6) change of each gap with the step. short:
    (rows,) mm that each gap lacks, running, below 0 to spare. values, slopes: (m,) and (m, 6) of the aims.
    cost: of the wish, mm. worst: the worst shortfall of gaps and windows, mm. lack: what counts as lacking
    (SeatProblem.things), mm."""

    pose: Pose
    rows: Rows
    matrix: Array
    short: Array
    values: Array
    slopes: Array
    cost: float
    worst: float
    lack: float

    @property
    def merit(self) -> float:
        """cost + PENALTY x lack, mm of wish: what a step is judged by."""
        return self.cost + PENALTY * self.lack


def moved_by(problem: SeatProblem, pose: Pose, step: Array) -> Pose:
    """The pose after a step (6,): move mm, turn x LEVER mm, about the problem's own point."""
    return pose.moved(step[:3], step[3:] / LEVER, pose.points(problem.about))


def sway_loss(problem: SeatProblem, rows: Rows, matrix: Array) -> Array:
    """(k,) the most that each row's gap loses by the sways, mm (never a gain)."""
    if not len(problem.sways) or not len(rows.a):
        return np.zeros(len(rows.a))
    q = problem.sways.copy()
    q[:, 3:] *= LEVER
    loss = np.maximum(-(matrix @ q.T).min(1), 0.0)
    return np.where(problem.swaying[rows.a], loss, 0.0)


def most_sway(problem: SeatProblem, pose: Pose) -> Array:
    """(moving.count,) upper bound on how far any point of each body moves by sway, mm, the set standing at
    ``pose``."""
    most = np.zeros(problem.moving.count)
    if len(problem.sways):
        centres, halves = problem.moving.boxes(pose)
        arm = centres - pose.points(problem.about)
        move, turn = problem.sways[:, None, :3], problem.sways[:, None, 3:]
        by = np.linalg.norm(move + crosses(turn, arm[None]), axis=2) + np.linalg.norm(
            turn, axis=2
        ) * np.linalg.norm(halves, axis=1)
        np.maximum.at(most, problem.moving.owner, by.max(0))
        most[~problem.swaying] = 0.0
    return most


def stand_at(
    problem: SeatProblem,
    pose: Pose,
    beyond: float,
    corners: bool = True,
    known: Rows | None = None,
    roughly: bool = False,
) -> Look:
    """Look at the problem from a pose; gaps within ``beyond`` mm of their need are seen. corners, known,
    roughly: as for ``rows_at``."""
    sway = most_sway(problem, pose)
    rows = rows_at(problem.moving, pose, problem.obstacles, beyond, sway, corners, known, roughly)
    told = problem.aims.measure([pose, *(moved_by(problem, pose, step) for step in SMALL * np.eye(6))])
    values, slopes = told[0], (told[1:] - told[0]).T / SMALL
    return _stand(problem, pose, rows, rows.matrix(pose.points(problem.about), LEVER), values, slopes)


def with_needs_of(stand: Look, problem: SeatProblem) -> Look:
    """The same look with the needs and sways of another problem of the same bodies. Gaps that only the other
    problem would see are left out."""
    need = problem.need()[stand.rows.a, stand.rows.b]
    return _stand(
        problem, stand.pose, replace(stand.rows, need=need), stand.matrix, stand.values, stand.slopes
    )


def _stand(problem: SeatProblem, pose: Pose, rows: Rows, matrix: Array, values: Array, slopes: Array) -> Look:
    short = rows.short + sway_loss(problem, rows, matrix)
    windows = problem.aims.shorts(values)
    worst = max(0.0, float(short.max(initial=0.0)), float(windows.max(initial=0.0)))
    return Look(
        pose,
        rows,
        matrix,
        short,
        values,
        slopes,
        problem.aims.cost(values),
        worst,
        lack_of(problem, rows, short, windows),
    )


def pair_numbers(problem: SeatProblem, rows: Rows) -> np.ndarray:
    """(rows,) number of the pair of moving body and thing that each gap belongs to."""
    assert problem.things is not None
    return np.asarray(rows.a * (int(problem.things.max(initial=0)) + 1) + problem.things[rows.b])


def lack_of(problem: SeatProblem, rows: Rows, short: Array, windows: Array) -> float:
    """What counts as lacking, mm (SeatProblem.things). short: (rows,) of each gap;
    windows: (2 m,) of the aims; below nought there is that much to spare."""
    if problem.things is None:
        return max(0.0, float(short.max(initial=0.0)), float(windows.max(initial=0.0)))
    together = float(np.maximum(windows, 0.0).sum())
    if len(short):
        _, number = np.unique(pair_numbers(problem, rows), return_inverse=True)
        most = np.zeros(number.max() + 1)
        np.maximum.at(most, number, short)
        together += float(most.sum())
    return together
