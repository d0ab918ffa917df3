"""Rock it and compare: how stiff the bushes really are, by how far the engine moved under a known push.
Vehicle frame; mm, N."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from nimble_cradle.families.family import bush_family
from nimble_cradle.geometry.pose import Array, crosses
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bonded_bush import BondedBush
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.equilibrium import large_rest
from nimble_cradle.mounts.push import WAYS, Push
from nimble_cradle.mounts.springs import Gives, Spring, springs_of
from nimble_cradle.units import G_STANDARD

FAR = 10.0
"""Bushes that would have to be so many times stiffer or softer are not what is wrong."""
STEP, CLOSE = 0.25, 1e-4
"""Of the logarithm of the factor: how it is looked for, and how well it is found."""
NO_COUPLE = np.zeros(3)
POINTS = 5.0
"""Doubt of a moulded bush's hardness, Shore A (common practice, no source)."""


@dataclass(frozen=True)
class Rocked:
    """expected: mm it should have moved; times: how many times as stiff as said the bonded bushes are, and
    least and most of that within the reading; hardness: what ± 5 points of hardness leave open, as least
    and most times; mounts: by id, stiffness across and along, N/mm, so corrected."""

    expected: float
    times: float
    least: float
    most: float
    hardness: tuple[float, float]
    mounts: Mapping[str, tuple[float, float]]

    @property
    def is_hardness(self) -> bool:
        """Whether no more than the doubt of a hardness is needed to explain it."""
        return self.most >= self.hardness[0] and self.least <= self.hardness[1]


def stiffened(mounts: Sequence[Mount], times: float) -> tuple[Mount, ...]:
    """The mounts with every bonded bush so many times as stiff; others as they are."""
    out = []
    for mount in mounts:
        bush = mount.bush
        if isinstance(bush, BondedBush):
            k = bush_family(bush).stiffness(bush)
            told = {"stiffness_radial": k.radial * times, "stiffness_axial": k.axial * times}
            mount = mount.model_copy(update={"bush": bush.model_copy(update=told)})
        out.append(mount)
    return tuple(out)


def moved_by(
    springs: Sequence[Spring], centre: Array, mass_kg: float, push: Push, couple: Array = NO_COUPLE
) -> float:
    """How far the pushed point goes the way it is pushed, mm, from where the engine rests by its weight.
    couple: (3,) N mm of its own torque in all of first gear, of which it feels the throttle's share. Raises
    JobError."""
    way = np.array(WAYS[push.way])
    arm = np.array(push.at) - centre
    load = np.zeros((2, 6))
    load[:, 2] = -mass_kg * G_STANDARD
    load[1, :3] += push.newtons * way
    load[1, 3:] += crosses(arm, push.newtons * way) + push.throttle * couple
    rest = large_rest(springs, centre, load, np.zeros((2, 3)), np.zeros((2, 3)))
    turns = [_turned(turn, arm) for turn in rest.turn]
    return float((rest.move[1] + turns[1] - rest.move[0] - turns[0]) @ way)


def _turned(turn: Array, arm: Array) -> Array:
    """An arm (3,) turned by a rotation vector (3,)."""
    angle = float(np.linalg.norm(turn))
    if angle < 1e-12:
        return arm
    k = turn / angle
    return np.asarray(
        arm * np.cos(angle) + crosses(k, arm) * np.sin(angle) + k * (k @ arm) * (1 - np.cos(angle))
    )


def rocked(
    mounts: Sequence[Mount],
    gives: Gives,
    others: Sequence[Spring],
    centre: Array,
    mass_kg: float,
    push: Push,
    couple: Array = NO_COUPLE,
) -> Rocked:
    """How many times as stiff the bonded bushes are as is said, all by one factor. gives: what they stand on;
    others: springs that stay as they are (struts); couple: as in ``moved_by``. Raises JobError where
    no factor explains it."""
    bonded = [mount for mount in mounts if isinstance(mount.bush, BondedBush)]
    if not bonded:
        raise JobError("There is no bonded bush here, whose stiffness could be corrected.", "mounts")

    def moves(times: float) -> float:
        springs = (*springs_of(stiffened(mounts, times), gives), *others)
        return moved_by(springs, centre, mass_kg, push, couple)

    expected = moves(1.0)
    if expected <= 0:
        raise JobError(f"It should move the other way than {push.way}; read it where it moves {push.way}.")
    times = _factor(moves, push.moved)
    if times is None:
        raise JobError(
            f"It should have moved {expected:.2g} mm; bushes {FAR:g} times"
            f" {'softer' if push.moved > expected else 'stiffer'} would not explain"
            f" {push.moved:g} mm: look for what is loose or what touches."
        )
    least = _factor(moves, push.moved + push.within) or 1 / FAR
    most = _factor(moves, push.moved - push.within) or FAR
    return Rocked(
        expected,
        times,
        least,
        most,
        _hardness_band(bonded),
        {
            m.id: (m.bush.stiffness_radial or 0.0, m.bush.stiffness_axial or 0.0)
            for m in stiffened(bonded, times)
            if isinstance(m.bush, BondedBush)
        },
    )


def _factor(moves: Callable[[float], float], moved: float) -> float | None:
    """The factor nearest to 1 with which it moves so far; None where none between 1/FAR and FAR does. Looked
    for outward from 1, since soft bushes sit on their stops and move less again."""
    from scipy.optimize import brentq

    def over(log: float) -> float:
        return moves(float(np.exp(log))) - moved

    here, out = 0.0, over(0.0)
    step = STEP if out > 0 else -STEP
    while out and abs(here) < np.log(FAR):
        beyond = over(here + step)
        if (beyond > 0) != (out > 0):
            return float(np.exp(brentq(over, here, here + step, xtol=CLOSE)))
        here, out = here + step, beyond
    return None if out else float(np.exp(here))


def _hardness_band(mounts: Sequence[Mount]) -> tuple[float, float]:
    """Least and most times as stiff that ± 5 points of hardness make these bushes; (1, 1) where all were
    measured."""
    ratios = [1.0]
    for mount in mounts:
        bush = mount.bush
        if not isinstance(bush, BondedBush) or bush.stiffness_radial:
            continue
        stiffness = bush_family(bush).stiffness
        now = stiffness(bush).radial
        for points in (-POINTS, POINTS):
            other = bush.model_copy(update={"hardness_shore_a": bush.hardness_shore_a + points})
            try:
                ratios.append(stiffness(other).radial / now)
            except JobError:  # beyond what the formula is good for
                continue
    return min(ratios), max(ratios)


def rocked_words(found: Rocked, push: Push) -> list[str]:
    """What was found, in sentences."""
    times = f"{found.times:.2f} times as stiff as said ({found.least:.2f} to {found.most:.2f} by the reading)"
    least, most = found.hardness
    why = (
        "Five points of hardness explain that."
        if found.is_hardness
        else f"Five points of hardness leave open only {least:.2f} to {most:.2f}: look first for a loose"
        " bolt, a bush that is torn, something that touches."
    )
    if least == most:  # figures that were measured, not a hardness
        why = "Their stiffness had been given as measured: look for a loose bolt or something that touches."
    return [
        f"It should have moved {found.expected:.1f} mm and moved {push.moved:.1f} mm: the bonded bushes are"
        f" {times}.",
        why,
    ]
