"""Witness marks: tape distances that pin the engine down best, and what they say of it later."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.bay.bodies import bay_bodies, fitted_pieces, powertrain_bodies, solid_of
from nimble_cradle.bay.member import whole_items
from nimble_cradle.bay.position import move_words, pose_of, position_of, turn_words
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.distance import clearance
from nimble_cradle.geometry.pose import Array, Pose, angles_xyz, crosses
from nimble_cradle.geometry.solid_makers import bar
from nimble_cradle.geometry.solids import ConvexPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import free_id, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.setting import WitnessMark
from nimble_cradle.units import Display, show

LEVER = 400.0
"""A turn of one radian counts as this many mm."""
SHORTEST, LONGEST = 120.0, 900.0
"""Tape distances that are taken well by one pair of hands, mm (common practice, no source)."""
BLUNDER = 3.29
"""A normalised residual over this is a disturbed mark at 0.1 % risk (Baarda's data snooping, from memory)."""
COVER = 1.96
"""Standard deviations in a plus-or-minus: 95 % of the normal distribution."""
PROPOSED = 12
"""Marks that are proposed: six pin the engine down, and with twelve a disturbed one stands out from the
others."""
RIVAL = 6.6
"""Where leaving out another mark mends nearly as much (chi-square, one degree of freedom, 1 %), nobody is
blamed."""
_WAYS = np.array([[i, j, k] for i in (-1, 1) for j in (-1, 1) for k in (-1, 1)], dtype=float)
_FIXED = ("hose", "moving", "steering", "hot", "turning")


@dataclass(frozen=True, eq=False)
class MarksTold:
    """What the tape says now. move (mm, at the powertrain's origin), turn (deg: clocked, nose up, yaw) off
    the job's position; plus_minus of the six (95 %); disturbed: names of marks that were moved; pose:
    where the engine is; left: residual of each mark used, mm.
    """

    move: Array
    turn: tuple[float, float, float]
    plus_minus: Array
    disturbed: tuple[str, ...]
    pose: Pose
    left: tuple[tuple[str, float], ...]

    def words(self, display: Display) -> str:
        """Pose error in words with its doubt."""
        lengths = Display(display.length)
        pm, tilt = self.plus_minus[:3].max(), self.plus_minus[3:].max()
        sure_move = np.where(np.abs(self.move) > self.plus_minus[:3], self.move, 0.0)
        sure_turn = [t if abs(t) > p else 0.0 for t, p in zip(self.turn, self.plus_minus[3:], strict=True)]
        moved, turned = move_words(sure_move, lengths), turn_words(sure_turn[0], sure_turn[1], sure_turn[2])
        if moved == "nowhere" and turned == "level and straight":
            said = f"It is where it was, to ± {show(float(pm), 'length', lengths)} and ± {tilt:.2f} deg."
        else:
            both = [moved] * (moved != "nowhere") + [turned] * (turned != "level and straight")
            said = (
                f"It stands {'; '.join(both)} of its place, to ± {show(float(pm), 'length', lengths)} and ±"
                f" {tilt:.2f} deg."
            )
        if self.disturbed:
            said += f" Disturbed since: {', '.join(self.disturbed)}; it is left out."
        return said


def row_of(on_engine: Array, on_bay: Array, pose: Pose) -> Array:
    """(6,) how a distance changes with the engine's move (mm) and its turn (x LEVER) about the
    powertrain's origin."""
    at = pose.points(on_engine)
    n = (at - on_bay) / np.linalg.norm(at - on_bay)
    return np.concatenate([n, crosses(at - pose.translation, n) / LEVER])


def distance_of(mark: WitnessMark, pose: Pose) -> float:
    """The distance with the powertrain at a pose, mm."""
    return float(np.linalg.norm(pose.points(mark.on_engine) - mark.on_bay))


def _corner_words(corner: Array, low: Array, high: Array) -> str:
    """``front left upper`` of a corner of a thing by its box."""
    pairs = (("front", "back"), ("left", "right"), ("upper", "lower"))
    said = [
        a if corner[k] > (low[k] + high[k]) / 2 else b
        for k, (a, b) in enumerate(pairs)
        if high[k] - low[k] > 5.0
    ]
    return " ".join(said)


def _corners(
    bodies: Bodies, names: Sequence[str], wanted: Callable[[int], bool], pose: Pose
) -> list[tuple[str, Array]]:
    """Corners of boxes and hulls of the wanted bodies with their names, own frame."""
    out: list[tuple[str, Array]] = []
    for k, name in enumerate(names):
        parts = [part for part, o in zip(bodies.parts, bodies.owner, strict=True) if o == k]
        if not wanted(k) or not all(isinstance(part, ConvexPart) for part in parts) or parts[0].kind == "bar":  # type: ignore[union-attr]
            continue
        points = parts[0].triangles[0]
        outer = pose.points(points)
        low, high = outer.min(0), outer.max(0)
        order = np.unique(np.array([int((outer @ w).argmax()) for w in _WAYS]))
        out += [(f"{name}, {_corner_words(outer[i], low, high)}", points[i]) for i in order]
    return out


def proposed_marks(job: Job, count: int = PROPOSED) -> tuple[WitnessMark, ...]:
    """Distances between corners of engine and bay that pin the position best (the next one always is the
    one that shrinks the volume of doubt most), can be taped in a straight line, and use no corner more
    than twice. Raises JobError where there are too few.
    """
    pose = pose_of(job.position)
    pieces, items = fitted_pieces(job), whole_items(job)
    engine = _corners(
        powertrain_bodies(job),
        [piece.name for piece in pieces],
        lambda k: pieces[k].neighbour not in ("turning",),
        pose,
    )
    bay = _corners(
        Bodies([solid_of(item, job.meshes, "items") for item in items]),
        [item.name for item in items],
        lambda k: (
            items[k].neighbour not in _FIXED and items[k].motion is None and items[k].measured != "scan"
        ),
        Pose.still(),
    )
    if not engine or not bay:
        raise JobError("There are too few plain corners on engine and bay to tape between.", "marks")
    at, on = pose.points(np.array([p for _, p in engine])), np.array([p for _, p in bay])
    apart = np.linalg.norm(at[:, None] - on[None], axis=2)
    rows, columns = np.nonzero((apart > SHORTEST) & (apart < LONGEST))
    jacobian = np.array(
        [row_of(np.asarray(engine[i][1]), on[column], pose) for i, column in zip(rows, columns, strict=True)]
    ).reshape(-1, 6)
    information = np.eye(6) * 1e-6
    left = np.ones(len(rows), dtype=bool)
    chosen: list[int] = []
    used: dict[tuple[str, int], int] = {}
    while len(chosen) < count and left.any():
        gain = np.einsum("ij,jk,ik->i", jacobian, np.linalg.inv(information), jacobian)
        k = int(np.where(left, gain, -1.0).argmax())
        left[k] = False
        i, j = int(rows[k]), int(columns[k])
        if used.get(("e", i), 0) >= 2 or used.get(("b", j), 0) >= 2 or not _in_sight(job, at[i], on[j], pose):
            continue
        chosen.append(k)
        used["e", i], used["b", j] = used.get(("e", i), 0) + 1, used.get(("b", j), 0) + 1
        information = information + np.outer(jacobian[k], jacobian[k])
    if len(chosen) < 6:
        raise JobError(
            f"Only {len(chosen)} distances can be taped in a straight line; six are needed.", "marks"
        )
    marks: list[WitnessMark] = []
    for k in chosen:
        (name, p), (other, q) = engine[rows[k]], bay[columns[k]]
        marks.append(
            WitnessMark(
                id=free_id("mark", {mark.id for mark in marks}),
                name=f"{name} – {other}"[:80],
                on_engine=_rounded(p),
                on_bay=_rounded(q),
                reference_mm=round(float(apart[rows[k], columns[k]]), 1),
                plus_minus_mm=1.0,
            )
        )
    return tuple(marks)


def _rounded(p: Array) -> tuple[float, float, float]:
    return round(float(p[0]), 1), round(float(p[1]), 1), round(float(p[2]), 1)


def _in_sight(job: Job, a: Array, b: Array, pose: Pose) -> bool:
    """Whether a tape from corner to corner is free of everything but what it is held to."""
    way = (b - a) / np.linalg.norm(b - a)
    tape = Bodies([[bar(a + 4.0 * way, b - 4.0 * way, 2.0)]])
    bay, engine = bay_bodies(job), powertrain_bodies(job)
    if clearance(tape, Pose.still(), bay, 0.5)[0] <= 0.2:
        return False
    return bool(clearance(engine, pose, tape, 0.5)[0] > 0.2)


def told_by_marks(job: Job) -> MarksTold:
    """Where the engine is by what the tape says now, least squares on the differences to what it was; a
    mark that does not fit the others is named and left out, as long as there are enough. Raises JobError."""
    marks = [mark for mark in job.marks if mark.now_mm is not None]
    if len(marks) < 6:
        raise JobError(
            f"{len(marks)} distance{'s are' if len(marks) != 1 else ' is'} typed; six at least say where the"
            " engine is, twelve find a disturbed mark too.",
            "marks",
        )
    disturbed: list[str] = []
    while True:
        found = _adjusted(job, marks)
        worst = int(np.abs(found[2]).argmax())
        if len(marks) - 6 < 1 or abs(found[2][worst]) < BLUNDER:
            break
        rivals = int((found[2] ** 2 > found[2][worst] ** 2 - RIVAL).sum())  # what is left falls by w^2
        if rivals > 1 or len(marks) < 8:
            order = np.argsort(-np.abs(found[2]))[: min(max(rivals, 2), 3)]
            raise JobError(
                "The distances do not fit one another, and they do not tell which mark was disturbed: tape"
                f" again {' and '.join(marks[int(k)].name for k in order)}, or more.",
                "marks",
            )
        disturbed.append(marks[worst].name)
        marks = [mark for k, mark in enumerate(marks) if k != worst]
    pose, covariance, _, left = found
    was = pose_of(job.position)
    turn = pose.rotation @ was.rotation.T
    roll, pitch, yaw = angles_xyz(turn)
    spread = COVER * np.sqrt(np.diag(covariance))
    spread[3:] = np.degrees(spread[3:] / LEVER)
    return MarksTold(
        pose.translation - was.translation,
        (roll, -pitch, yaw),
        spread,
        tuple(disturbed),
        pose,
        tuple((mark.name, float(v)) for mark, v in zip(marks, left, strict=True)),
    )


def _adjusted(job: Job, marks: Sequence[WitnessMark]) -> tuple[Pose, Array, Array, Array]:
    """Pose, covariance (6, 6) of move and turn x LEVER, normalised residuals, residuals mm."""
    start = pose_of(job.position)
    sigma = np.array(
        [mark.plus_minus_mm / COVER * math.sqrt(2) for mark in marks]
    )  # taped twice: then and now
    wanted = np.array([(mark.now_mm or 0.0) - mark.reference_mm + distance_of(mark, start) for mark in marks])
    pose = start
    for _ in range(20):
        a = (
            np.array([row_of(np.asarray(mark.on_engine), np.asarray(mark.on_bay), pose) for mark in marks])
            / sigma[:, None]
        )
        off = (wanted - np.array([distance_of(mark, pose) for mark in marks])) / sigma
        if np.linalg.svd(a, compute_uv=False)[-1] < 1e-3:
            raise JobError(
                "These distances leave the engine free to move some way: tape more between other corners.",
                "marks",
            )
        step = np.linalg.lstsq(a, off, rcond=None)[0]
        pose = pose.moved(step[:3], step[3:] / LEVER, pose.translation)
        if np.abs(step).max() < 1e-7:
            break
    covariance = np.linalg.inv(a.T @ a)
    free = np.maximum(1.0 - np.einsum("ij,jk,ik->i", a, covariance, a), 1e-9)
    return pose, covariance, np.where(free > 1e-6, off / np.sqrt(free), 0.0), off * sigma


def with_told(job: Job) -> Job:
    """The job with the real engine where the marks say it is. Raises JobError."""
    return with_value(job, "setting/now", position_of(told_by_marks(job).pose, job.position.pivot))
