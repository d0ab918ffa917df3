"""The bushes of a job as springs between the powertrain and the chassis, each in series with what it stands
on. Vehicle frame; mm, N, rad."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from nimble_cradle.calc import Q, calculation
from nimble_cradle.families.family import BushStiffness, bush_family
from nimble_cradle.families.law import Answer, Law
from nimble_cradle.geometry.pose import Array, frame, unit
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount

MOST_INNER = 40
"""Steps to share a movement between a bush and what it stands on; stops need a dozen."""


@dataclass(frozen=True, eq=False)
class Spring:
    """A bush as a spring: centre (3,), axis (3,) unit, its own stiffness matrix (3, 3) N/mm about nought, all
    in the vehicle frame. hardness: Shore A where the stiffness follows from it, None where it was measured.
    law: how it answers any movement, None: linearly. give: (3, 3) mm/N of what it stands on; beside: by
    mount, how far what this one stands on gives under a force on that one."""

    mount: str
    centre: Array
    axis: Array
    matrix: Array
    bush: BushStiffness
    loss_factor: float
    dynamic_ratio: float
    hardness: float | None = None
    law: Law | None = None
    give: Array = field(default_factory=lambda: np.zeros((3, 3)))
    beside: Mapping[str, Array] = field(default_factory=dict)

    @cached_property
    def axes(self) -> Array:
        """(3, 3) columns: two ways across it, then along it."""
        return frame(self.axis, (0.0, 0.0, 1.0))

    @cached_property
    def gives(self) -> bool:
        """Whether what it stands on gives at all."""
        return bool(self.give.any())

    @property
    def begins_linear(self) -> bool:
        """Whether it answers small movements linearly."""
        return self.law is None or self.law.begins_linear

    def answer(self, u: Array) -> Answer:
        """Of the bush alone to movements (k, 3), vehicle frame."""
        if self.law is None:
            force = u @ self.matrix
            return Answer(force, np.broadcast_to(self.matrix, (len(u), 3, 3)).copy(), (force * u).sum(1) / 2)
        r = self.axes
        own = self.law.answer(u @ r)
        return Answer(own.force @ r.T, r @ own.tangent @ r.T, own.energy)


@dataclass(frozen=True, eq=False)
class Stand:
    """Springs that stand on one thing that gives; most stand by themselves. at: their numbers among all
    springs; give: (3 m, 3 m) mm/N of what they stand on, all their forces together."""

    at: tuple[int, ...]
    springs: tuple[Spring, ...]
    give: Array

    @property
    def gives(self) -> bool:
        """Whether what they stand on gives at all."""
        return bool(self.give.any())

    @property
    def matrix(self) -> Array:
        """(3 m, 3 m) N/mm of the bushes alone, about nought."""
        return blocks([spring.matrix for spring in self.springs])

    @property
    def together(self) -> Array:
        """(3 m, 3 m) N/mm, about nought, of the bushes and what they stand on in series."""
        return in_series(self.matrix, self.give)

    def own(self, together: Array) -> Array:
        """(k, 3 m) what the bushes themselves move of movements (k, 3 m) of bushes and brackets, while they
        are linear."""
        return np.asarray(together @ np.linalg.inv(np.eye(len(self.give)) + self.give @ self.matrix).T)

    def answer(self, u: Array) -> Answer:
        """Of the bushes alone to movements (k, 3 m): tangent (k, 3 m, 3 m)."""
        if len(self.springs) == 1:
            return self.springs[0].answer(u)
        told = [spring.answer(u[:, 3 * i : 3 * i + 3]) for i, spring in enumerate(self.springs)]
        tangent = np.zeros((len(u), len(self.give), len(self.give)))
        for i, one in enumerate(told):
            tangent[:, 3 * i : 3 * i + 3, 3 * i : 3 * i + 3] = one.tangent
        force = np.hstack([one.force for one in told])
        return Answer(force, tangent, np.sum([one.energy for one in told], axis=0))

    def shared(self, u: Array, begin: Array | None = None) -> tuple[Array, Answer]:
        """Movements (k, 3 m) of bushes and brackets together: what the bushes themselves move, and the answer
        of both in series, its energy that of both. begin: a first guess of the bushes' own share."""
        if not self.gives:
            return u, self.answer(u)
        own = self.own(u) if begin is None else begin
        eye = np.eye(len(self.give))
        for _ in range(MOST_INNER):
            told = self.answer(own)
            left = own + told.force @ self.give.T - u
            if float(np.abs(left).max()) < 1e-9:
                break
            step = np.linalg.solve(eye + self.give @ told.tangent, left[..., None])[..., 0]
            # a stop is convex: a long step is cut so that it is not jumped over
            size = np.abs(step).max(1, keepdims=True)
            own = own - step * np.minimum(1.0, 25.0 / np.maximum(size, 1e-12))
        told = self.answer(own)
        tangent = told.tangent @ np.linalg.inv(eye + self.give @ told.tangent)
        bracket = np.einsum("ki,ij,kj->k", told.force, self.give, told.force) / 2
        return own, Answer(told.force, tangent, told.energy + bracket)


def blocks(matrices: Sequence[np.ndarray]) -> np.ndarray:
    """Square matrices (3, 3) along the diagonal of one."""
    if len(matrices) == 1:
        return matrices[0]
    out = np.zeros((3 * len(matrices), 3 * len(matrices)), dtype=matrices[0].dtype)
    for i, matrix in enumerate(matrices):
        out[3 * i : 3 * i + 3, 3 * i : 3 * i + 3] = matrix
    return out


def stands(springs: Sequence[Spring]) -> tuple[Stand, ...]:
    """The springs by what they stand on."""
    if not any(spring.beside for spring in springs):
        return tuple(Stand((i,), (spring,), spring.give) for i, spring in enumerate(springs))
    left, out = list(range(len(springs))), []
    while left:
        at = [left.pop(0)]
        for i in at:  # grows as it goes: whatever stands beside one of them
            more = [j for j in left if _touch(springs[i], springs[j])]
            at += more
            left = [j for j in left if j not in more]
        own = tuple(springs[i] for i in at)
        give = blocks([spring.give for spring in own]).copy()
        for i, one in enumerate(own):
            for j, other in enumerate(own):
                if i != j and other.mount in one.beside:
                    give[3 * i : 3 * i + 3, 3 * j : 3 * j + 3] = one.beside[other.mount]
        out.append(Stand(tuple(at), own, give))
    return tuple(out)


def _touch(a: Spring, b: Spring) -> bool:
    return b.mount in a.beside or a.mount in b.beside


def in_series(bush: np.ndarray, give: Array) -> np.ndarray:
    """(n, n) N/mm of bushes (n, n) N/mm and of what they stand on (n, n) mm/N."""
    if not give.any():
        return bush
    return np.asarray(bush @ np.linalg.inv(np.eye(len(give)) + give @ bush))


@dataclass(frozen=True, eq=False)
class Gives:
    """What mounts stand on. own: by mount, (3, 3) mm/N under its own force; beside: by mount and another
    one, (3, 3) mm/N that the first moves under a force on the other."""

    own: Mapping[str, Array] = field(default_factory=dict)
    beside: Mapping[str, Mapping[str, Array]] = field(default_factory=dict)


STIFF = Gives()


def springs_of(mounts: Sequence[Mount], gives: Gives = STIFF) -> tuple[Spring, ...]:
    """The bushes of a job's mounts. Raises JobError with the place of an impossible one."""
    out = []
    for mount in mounts:
        family = bush_family(mount.bush)
        try:
            k, law = family.stiffness(mount.bush), family.law(mount)
        except JobError as error:
            raise JobError(f"{mount.name}: {error.message}.", f"mounts/{mount.id}/bush") from None
        axis = unit(mount.bush.axis)
        r = frame(axis, (0.0, 0.0, 1.0))
        out.append(
            Spring(
                mount.id,
                np.asarray(mount.bush.centre, dtype=float),
                axis,
                np.asarray(r @ law.tangent() @ r.T),
                k,
                mount.bush.loss_factor,
                mount.bush.dynamic_ratio,
                family.hardness(mount.bush),
                law,
                gives.own.get(mount.id, np.zeros((3, 3))),
                gives.beside.get(mount.id, {}),
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
    for stand in stands(springs):
        b = motions(stand, centre)
        k += b.T @ stand.together @ b
    return k


def motions(stand: Stand, centre: Array) -> Array:
    """(3 m, 6): the movements of all its springs from (move, turn) of the body."""
    return np.vstack([motion_at(spring.centre - centre) for spring in stand.springs])


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
