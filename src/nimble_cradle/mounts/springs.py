"""The powertrain as a rigid body on bushes: sag, movement and the load at every mount. Linear; vehicle
frame; mm, N, rad."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.families.family import BushStiffness, bush_family
from nimble_cradle.geometry.pose import Array, Pose, frame, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.cases import Case


@dataclass(frozen=True, eq=False)
class Spring:
    """A bush as a spring: centre (3,), axis (3,) unit, stiffness matrix (3, 3) N/mm, all in the vehicle
    frame. hardness: Shore A where the stiffness follows from it, None where it was measured."""

    mount: str
    centre: Array
    axis: Array
    matrix: Array
    bush: BushStiffness
    loss_factor: float
    dynamic_ratio: float
    hardness: float | None = None


def spring_matrix(axis: Array, radial: float, axial: float) -> Array:
    """(3, 3) stiffness of a bush that is ``radial`` across and ``axial`` along ``axis``."""
    r = frame(axis, (0.0, 0.0, 1.0))
    return np.asarray(r @ np.diag([radial, radial, axial]) @ r.T)


def springs_of(mounts: Sequence[Mount]) -> tuple[Spring, ...]:
    """The bushes of a job's mounts. Raises JobError with the place of an impossible one."""
    out = []
    for mount in mounts:
        try:
            k = bush_family(mount.bush).stiffness(mount.bush)
        except JobError as error:
            raise JobError(f"{mount.name}: {error.message}.", f"mounts/{mount.id}/bush") from None
        axis = unit(mount.bush.axis)
        out.append(
            Spring(
                mount.id,
                np.asarray(mount.bush.centre, dtype=float),
                axis,
                spring_matrix(axis, k.radial, k.axial),
                k,
                mount.bush.loss_factor,
                mount.bush.dynamic_ratio,
                bush_family(mount.bush).hardness(mount.bush),
            )
        )
    return tuple(out)


def cross_matrix(r: Array) -> Array:
    """(3, 3) matrix S with S @ t = r x t."""
    return np.array([[0, -r[2], r[1]], [r[2], 0, -r[0]], [-r[1], r[0], 0]])


def motion_at(r: Array) -> Array:
    """(3, 6): the movement of a point at ``r`` from the centre of gravity, from (move, turn) of the body."""
    return np.hstack([np.eye(3), -cross_matrix(r)])


def body_stiffness(springs: Sequence[Spring], centre: Array) -> Array:
    """(6, 6) stiffness about the centre of gravity for (move mm, turn rad)."""
    k = np.zeros((6, 6))
    for spring in springs:
        b = motion_at(spring.centre - centre)
        k += b.T @ spring.matrix @ b
    return k


@dataclass(frozen=True, eq=False)
class MountLoad:
    """What one mount carries in one case. force: (3,) N on the chassis side, vehicle frame; movement: (3,)
    mm of the engine side."""

    mount: str
    force: Array
    movement: Array
    radial_force: float
    radial_mm: float
    axial_mm: float

    @property
    def size(self) -> float:
        """Magnitude of the force, N."""
        return float(np.linalg.norm(self.force))


@dataclass(frozen=True, eq=False)
class CaseResult:
    """Movement of the whole powertrain and loads at every mount in one case. move (3,) mm and turn (3,)
    rad about the centre."""

    case: Case
    move: Array
    turn: Array
    mounts: tuple[MountLoad, ...]
    pose: Pose

    @property
    def rock_deg(self) -> float:
        """How far the powertrain turns in this case, whichever way, degrees."""
        return float(np.degrees(np.linalg.norm(self.turn)))


_FREE_WORDS = ("forward and back", "sideways", "up and down", "in roll", "in pitch", "in yaw")


def solve(
    springs: Sequence[Spring], centre: Array, pose: Pose, cases: Sequence[Case]
) -> tuple[CaseResult, ...]:
    """Equilibrium in every case. centre: of gravity (3,), vehicle frame. Raises JobError where the mounts
    do not hold it."""
    if not springs:
        raise JobError("There is no mount yet, so nothing carries the powertrain.", "mounts")
    k = body_stiffness(springs, centre)
    scale = np.array([1.0, 1.0, 1.0, 300.0, 300.0, 300.0])
    values, vectors = np.linalg.eigh(k / np.outer(scale, scale))
    if values[0] < 1e-7 * values[-1]:
        way = _FREE_WORDS[int(np.abs(vectors[:, 0]).argmax())]
        raise JobError(
            f"The mounts leave the powertrain free to move {way}; add a mount or spread them.", "mounts"
        )
    inverse = np.linalg.inv(k)
    out = []
    for case in cases:
        q = inverse @ np.concatenate([case.force, case.moment])
        loads = []
        for spring in springs:
            u = motion_at(spring.centre - centre) @ q
            f = spring.matrix @ u
            fa, ua = float(f @ spring.axis), float(u @ spring.axis)
            loads.append(
                MountLoad(
                    spring.mount,
                    f,
                    u,
                    float(np.linalg.norm(f - fa * spring.axis)),
                    float(np.linalg.norm(u - ua * spring.axis)),
                    abs(ua),
                )
            )
        out.append(CaseResult(case, q[:3], q[3:], tuple(loads), pose.moved(q[:3], q[3:], centre)))
    return tuple(out)


def sag(load_n: float, stiffness_n_mm: float) -> float:
    """How far a spring gives under a load, mm."""
    return load_n / stiffness_n_mm


SAG = calculation(
    "bush-sag",
    "How far a bush gives under a load",
    inputs=(
        Q("load_n", "N", "load on the bush"),
        Q("stiffness_n_mm", "N/mm", "stiffness in that direction", above=0),
    ),
    outputs=(Q("sag", "mm", "movement of the sleeve in the eye"),),
    formula="sag = load / stiffness",
    source="Hooke's law",
    leaves_out=(
        "the program solves all mounts together in six degrees of freedom (K q = w, statics of a rigid body"
        " on springs); this is one alone; creep adds to it in time"
    ),
)(sag)
