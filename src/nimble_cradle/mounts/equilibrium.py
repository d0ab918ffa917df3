"""The powertrain at rest on its springs in every load case: linear first, and where a stop is met, a spring
is not linear or the turn is large, as a rigid body that turns as far as it does. Vehicle frame; mm, N, rad.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.geometry.pose import Array, Pose, crosses
from nimble_cradle.job.base import JobError
from nimble_cradle.mounts.cases import Case
from nimble_cradle.mounts.springs import Spring, Stand, body_stiffness, motions, stands

LARGE_TURN = np.radians(2.0)
"""A turn up to which the linear answer stands: its error is a sixteenth of a per cent there."""
LEVER = 300.0
"""Turns weigh as much as the movement of a point so many mm away."""
MOST_STEP = 25.0
"""No step moves the body further, mm, or turns it further than that at ``LEVER``."""
CLOSE = 1e-6
"""Left-over load, as a share of the load, at which it is at rest."""
MOST_STEPS, HALVINGS = 60, 12
_FREE_WORDS = ("forward and back", "sideways", "up and down", "in roll", "in pitch", "in yaw")


@dataclass(frozen=True, eq=False)
class MountLoad:
    """What one mount carries in one case. force: (3,) N on the chassis side, vehicle frame; movement: (3,)
    mm of the engine side, own: (3,) mm of the bush itself. radial, axial: of the bush itself, N and mm;
    axial_signed: plus the way its axis points."""

    mount: str
    force: Array
    movement: Array
    radial_force: float
    radial_mm: float
    axial_mm: float
    axial_signed: float
    own: Array

    @property
    def size(self) -> float:
        """Magnitude of the force, N."""
        return float(np.linalg.norm(self.force))


@dataclass(frozen=True, eq=False)
class CaseResult:
    """Movement of the whole powertrain and loads at every mount in one case. move (3,) mm and turn (3,)
    rad about the centre (a rotation vector where it is large)."""

    case: Case
    move: Array
    turn: Array
    mounts: tuple[MountLoad, ...]
    pose: Pose

    @property
    def rock_deg(self) -> float:
        """How far the powertrain turns in this case, whichever way, degrees."""
        return float(np.degrees(np.linalg.norm(self.turn)))


@dataclass(frozen=True, eq=False)
class Rest:
    """Where the body rests in k cases: move (k, 3), turn (k, 3) rotation vectors; of each spring what it and
    its bracket move (n, k, 3), what it moves itself, and its force."""

    move: Array
    turn: Array
    moved: Array
    own: Array
    force: Array

    def put(self, rows: np.ndarray, other: Rest) -> Rest:
        """The same with some rows of another."""
        out = {}
        for name in ("move", "turn", "moved", "own", "force"):
            array = getattr(self, name).copy()
            array[(rows,) if array.ndim == 2 else (slice(None), rows)] = getattr(other, name)
            out[name] = array
        return Rest(**out)


def solve(
    springs: Sequence[Spring], centre: Array, pose: Pose, cases: Sequence[Case]
) -> tuple[CaseResult, ...]:
    """Equilibrium in every case. centre: of gravity (3,), vehicle frame. Raises JobError where the mounts
    do not hold it."""
    if not springs:
        raise JobError("There is no mount yet, so nothing carries the powertrain.", "mounts")
    load = np.array([np.concatenate([case.force, case.moment]) for case in cases])
    rest = linear_rest(springs, centre, load)
    further = _goes_further(springs, rest)
    if further.any():
        found = large_rest(springs, centre, load[further], rest.move[further], rest.turn[further])
        rest = rest.put(further, found)
    axes = np.array([spring.axis for spring in springs])
    along = np.einsum("nki,ni->nk", rest.own, axes)
    across = np.linalg.norm(rest.own - along[:, :, None] * axes[:, None], axis=2)
    pulled = np.einsum("nki,ni->nk", rest.force, axes)
    pushed = np.linalg.norm(rest.force - pulled[:, :, None] * axes[:, None], axis=2)
    told = pushed.T.tolist(), across.T.tolist(), along.T.tolist()
    turned = _rotations(rest.turn)
    there = turned @ pose.rotation, turned @ (pose.translation - centre) + centre + rest.move
    return tuple(
        CaseResult(
            case,
            rest.move[k],
            rest.turn[k],
            tuple(
                MountLoad(
                    spring.mount,
                    rest.force[i, k],
                    rest.moved[i, k],
                    force,
                    radial,
                    abs(axial),
                    axial,
                    rest.own[i, k],
                )
                for i, (spring, force, radial, axial) in enumerate(
                    zip(springs, *(row[k] for row in told), strict=True)
                )
            ),
            Pose(there[0][k], there[1][k]),
        )
        for k, case in enumerate(cases)
    )


def linear_rest(springs: Sequence[Spring], centre: Array, load: Array) -> Rest:
    """For loads (k, 6) with all springs as they are about nought. Raises JobError where the mounts leave the
    body free."""
    k = body_stiffness(springs, centre)
    scale = np.array([1.0, 1.0, 1.0, LEVER, LEVER, LEVER])
    values, vectors = np.linalg.eigh(k / np.outer(scale, scale))
    if values[0] < 1e-7 * values[-1]:
        way = _FREE_WORDS[int(np.abs(vectors[:, 0]).argmax())]
        raise JobError(
            f"The mounts leave the powertrain free to move {way}; add a mount or spread them.", "mounts"
        )
    q = load @ np.linalg.inv(k).T
    moved, own = np.zeros((2, len(springs), len(load), 3))
    for stand in stands(springs):
        together = q @ motions(stand, centre).T
        for rows, values in ((moved, together), (own, stand.own(together))):
            rows[list(stand.at)] = values.reshape(len(load), -1, 3).transpose(1, 0, 2)
    force = np.array([u @ spring.matrix for spring, u in zip(springs, own, strict=True)])
    return Rest(q[:, :3], q[:, 3:], moved, own, force)


def weight_turn(springs: Sequence[Spring], centre: Array, weight: Case) -> Array:
    """(3,) rad: how the weight alone would turn the body, linearly. Raises JobError where it is free."""
    if not springs:
        raise JobError("There is no mount yet, so nothing carries the powertrain.", "mounts")
    load = np.concatenate([weight.force, weight.moment])[None]
    return np.asarray(linear_rest(springs, centre, load).turn[0])


def _goes_further(springs: Sequence[Spring], rest: Rest) -> np.ndarray:
    """(k,) cases of which the linear answer is not enough."""
    out = np.linalg.norm(rest.turn, axis=1) > LARGE_TURN
    for spring, own in zip(springs, rest.own, strict=True):
        if spring.law is not None:
            out |= spring.law.met(own @ spring.axes)
    return np.asarray(out)


def large_rest(springs: Sequence[Spring], centre: Array, load: Array, move: Array, turn: Array) -> Rest:
    """The same for loads (k, 6), with whatever turns and stops there are, from a first guess. Newton's steps
    with the exact tangent, all cases at once. Raises JobError where a case finds no rest."""
    body = _Body(tuple(springs), centre, load, stands(springs))
    at = body.at(move.copy(), _rotations(turn))
    size = np.maximum(np.linalg.norm(load / body.scale, axis=1), 1.0)
    for _ in range(MOST_STEPS):
        active = at.left > CLOSE * size
        if not active.any():
            return at.rest()
        step = body.step(at)
        at = body.searched(at, np.where(active[:, None], step, 0.0), active)
    lost = int((at.left / size).argmax())
    raise JobError(
        f"The mounts find no rest under {np.linalg.norm(load[lost, :3]):.0f} N: a stop is missing, or the"
        " engine turns right over.",
        "mounts",
    )


@dataclass(frozen=True, eq=False)
class _At:
    """A trial: where the body is in k cases, what the springs say there, what load is left over. tangents:
    (k, 3 m, 3 m) of each stand of m springs."""

    move: Array
    rotation: Array
    arms: Array
    moved: Array
    own: Array
    force: Array
    tangents: tuple[Array, ...]
    residual: Array
    left: Array

    def rest(self) -> Rest:
        return Rest(self.move, _vectors(self.rotation), self.moved, self.own, self.force)


@dataclass(frozen=True, eq=False)
class _Body:
    springs: tuple[Spring, ...]
    centre: Array
    load: Array
    stands: tuple[Stand, ...]

    @property
    def scale(self) -> Array:
        """Moments count as forces at the lever."""
        return np.array([1.0, 1.0, 1.0, LEVER, LEVER, LEVER])

    def at(self, move: Array, rotation: Array, begin: Array | None = None) -> _At:
        """The springs' answer with the body moved (k, 3) and turned (k, 3, 3)."""
        n, k = len(self.springs), len(move)
        arms, moved, own, force = (np.zeros((n, k, 3)) for _ in range(4))
        tangents, residual = [], self.load.copy()
        for i, spring in enumerate(self.springs):
            r = spring.centre - self.centre
            arms[i] = rotation @ r
            moved[i] = move + arms[i] - r
        for stand in self.stands:
            at = list(stand.at)
            first = None if begin is None else np.hstack([begin[i] for i in at])
            each, told = stand.shared(np.hstack([moved[i] for i in at]), first)
            for n_th, i in enumerate(at):
                own[i], force[i] = (v[:, 3 * n_th : 3 * n_th + 3] for v in (each, told.force))
            tangents.append(told.tangent)
        for arm, pull in zip(arms, force, strict=True):
            residual[:, :3] -= pull
            residual[:, 3:] -= crosses(arm, pull)
        left = np.linalg.norm(residual / self.scale, axis=1)
        return _At(move, rotation, arms, moved, own, force, tuple(tangents), residual, left)

    def step(self, at: _At) -> Array:
        """(k, 6) Newton's step, cut to what is believed of it."""
        k = np.zeros((len(at.move), 6, 6))
        for stand, tangent in zip(self.stands, at.tangents, strict=True):
            b = np.zeros((len(at.move), 3 * len(stand.at), 6))
            for n_th, i in enumerate(stand.at):
                b[:, range(3 * n_th, 3 * n_th + 3), [0, 1, 2]] = 1.0
                b[:, 3 * n_th : 3 * n_th + 3, 3:] = -_cross(at.arms[i])
            k += b.transpose(0, 2, 1) @ tangent @ b
        for arm, force in zip(at.arms, at.force, strict=True):
            # the arm turns with the body: d(a x f) = (turn x a) x f = (a f' - a.f 1) turn
            along = np.einsum("ki,ki->k", arm, force)
            k[:, 3:, 3:] += np.einsum("ki,kj->kij", arm, force) - along[:, None, None] * np.eye(3)
        k[:, range(6), range(6)] += 1e-9 * np.abs(k[:, range(6), range(6)]) + 1e-6
        step = np.linalg.solve(k, at.residual[..., None])[..., 0]
        size = np.maximum(np.linalg.norm(step[:, :3], axis=1), LEVER * np.linalg.norm(step[:, 3:], axis=1))
        return np.asarray(step * np.minimum(1.0, MOST_STEP / np.maximum(size, 1e-12))[:, None])

    def searched(self, at: _At, step: Array, active: np.ndarray) -> _At:
        """As far along the step as leaves less load over, halving it for the cases where it leaves more."""
        share = np.where(active, 1.0, 0.0)
        for _ in range(HALVINGS):
            s = share[:, None] * step
            there = self.at(at.move + s[:, :3], _rotations(s[:, 3:]) @ at.rotation, at.own)
            worse = active & (there.left > at.left * (1 - 1e-4 * share)) & (share > 0)
            if not worse.any():
                break
            share = np.where(worse, share / 2, share)
        return there


def _cross(v: Array) -> Array:
    """(k, 3, 3) matrices of (k, 3): S t = v x t."""
    out = np.zeros((len(v), 3, 3))
    out[:, [2, 0, 1], [1, 2, 0]] = v
    out[:, [1, 2, 0], [2, 0, 1]] = -v
    return out


def _rotations(vectors: Array) -> Array:
    """(k, 3, 3) of rotation vectors (k, 3)."""
    angle = np.linalg.norm(vectors, axis=1)
    s = _cross(vectors)
    a = np.sinc(angle / np.pi)
    b = np.sinc(angle / 2 / np.pi) ** 2 / 2
    return np.asarray(np.eye(3) + a[:, None, None] * s + b[:, None, None] * (s @ s))


def _vectors(rotations: Array) -> Array:
    """(k, 3) rotation vectors of (k, 3, 3)."""
    from scipy.spatial.transform import Rotation

    return np.asarray(Rotation.from_matrix(rotations).as_rotvec())


def settled(springs: Sequence[Spring], rest: CaseResult) -> tuple[Spring, ...]:
    """The springs as they answer about where the powertrain rests: their own tangents there."""
    out = []
    for spring, load in zip(springs, rest.mounts, strict=True):
        if spring.law is None or (spring.begins_linear and not spring.gives):
            out.append(spring)
            continue
        out.append(replace(spring, matrix=spring.answer(load.own[None]).tangent[0]))
    return tuple(out)
