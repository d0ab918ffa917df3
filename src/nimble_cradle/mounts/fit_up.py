"""Whether the bolts through the bushes go in by hand: holes with clearance, brackets placed with some doubt,
an engine that hangs free. Vehicle frame; mm.

Bolt k stands at a_k with its axis n_k; the hole lets it move c_k across it any way; its bracket is off by
e_k. The engine makes one small rigid move q. All go in where for 16 ways d across each bolt
d . (e_k + B_k q) <= c_k; along the bolt the eye has its room. Greatest s with d . (...) + s <= c_k by linear
programming: s >= 0 goes in by hand, s < 0 is how far the worst has to be forced.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from nimble_cradle.families.family import bush_family
from nimble_cradle.families.foot_seat import hole_in_cheek
from nimble_cradle.geometry.pose import Array, frame, unit
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.mounts.springs import motion_at
from nimble_cradle.stock.threads import thread

WAYS = 16
"""Ways round a hole that are looked at; a circle is met within 1 - cos(pi/16) = 1.9 %."""
DRAWS = 60
"""Draws of where the brackets are; a chance is good to 6 in a hundred."""
SURE = 0.95
"""A slot is as long as lets the bolts in so often."""
SLOTS = (2.0, 4.0, 6.0, 8.0, 10.0, 14.0, 20.0)
PLACED = 1.0
"""A bracket is welded within so many mm, one sigma (common practice, no source)."""
SEED = 20
HAND = 100.0
"""N that a hand pushes a bush aside with (common practice, no source)."""
MOST_ORDERED = 6
"""Orders of more mounts than that are not tried one by one."""


@dataclass(frozen=True, eq=False)
class Hole:
    """A bolt that has to find its hole. at (3,), axis (3,) unit; clearance: any way across; along: its room
    each way along the bolt; slot: (3,) extra reach of the hole each way, a vector across the bolt."""

    mount: str
    name: str
    at: Array
    axis: Array
    clearance: float
    along: float
    slot: Array

    @property
    def rows(self) -> tuple[Array, Array]:
        """Directions (n, 3) in which it is held, and how far it may go in each, mm."""
        r = frame(self.axis, (0.0, 0.0, 1.0))
        turn = np.arange(WAYS) * 2 * np.pi / WAYS
        across = np.column_stack([np.cos(turn), np.sin(turn)]) @ r[:, :2].T
        reach = self.clearance + np.abs(across @ self.slot)
        ends = np.array([self.axis, -self.axis])
        return np.vstack([across, ends]), np.concatenate([reach, [self.along, self.along]])


def holes_of(job: Job) -> tuple[Hole, ...]:
    """The cross-bolt of every mount: its clearance in cheeks and sleeve together."""
    return tuple(_hole(mount) for mount in job.mounts)


def _hole(mount: Mount) -> Hole:
    family, bolt = bush_family(mount.bush), thread(mount.cross_bolt.bolt).diameter
    clearance = (hole_in_cheek(mount) - bolt) / 2 + (family.bolt_hole_mm(mount.bush) - bolt) / 2
    k = family.stiffness(mount.bush)
    return Hole(
        mount.id,
        mount.name,
        np.asarray(mount.bush.centre, dtype=float),
        unit(mount.bush.axis),
        max(clearance, 0.0) + HAND / k.radial,
        mount.cross_bolt.gap_mm + HAND / k.axial,
        np.zeros(3),
    )


def spare(holes: Sequence[Hole], off: Array) -> float:
    """Greatest s, mm, for brackets that are off by (n, 3) mm: nought or more goes in by hand."""
    from scipy.optimize import linprog

    about = np.mean([hole.at for hole in holes], axis=0)
    rows, limits = [], []
    for hole, e in zip(holes, off, strict=True):
        ways, reach = hole.rows
        move = ways @ motion_at(hole.at - about)
        rows.append(np.column_stack([move[:, :3], move[:, 3:] / 100.0, np.ones(len(ways))]))
        limits.append(reach - ways @ e)
    found = linprog(
        np.array([0.0] * 6 + [-1.0]),
        A_ub=np.vstack(rows),
        b_ub=np.concatenate(limits),
        bounds=[(-50, 50)] * 6 + [(None, 50)],
        method="highs",
    )
    return float(found.x[6]) if found.x is not None else -math.inf


@dataclass(frozen=True)
class SlotWish:
    """How long a hole has to be, end to end past its width, mm, so that the bolts go in 19 times of 20; None
    where no slot does it."""

    mount: str
    name: str
    slot_mm: float | None


@dataclass(frozen=True)
class FitUp:
    """chance: of all bolts going in by hand; forced: mm that the worst has to be forced in half of the
    other cases; fights: the mount without which most would go in; slots: what a slot at one mount alone would
    do; order: of fitting, mounts by name; sigma: mm, of each bracket's place."""

    chance: float
    forced: float
    fights: str
    slots: tuple[SlotWish, ...]
    order: tuple[str, ...]
    sigma: float


def fit_up(job: Job, sigma: float = PLACED) -> FitUp | None:
    """Whether the cross-bolts of a job go in by hand; None for fewer than two mounts."""
    holes = holes_of(job)
    if len(holes) < 2:
        return None
    off = np.random.default_rng(SEED).normal(0.0, sigma, (DRAWS, len(holes), 3))
    every = np.array([spare(holes, e) for e in off])
    lacking = -every[every < 0]
    off = off[np.argsort(every)]  # the hardest first, so that what fails is soon known
    without = [_chance(_but(holes, k), np.delete(off, k, axis=1)) for k in range(len(holes))]
    fights = int(np.argmax(without))
    return FitUp(
        float((every >= 0).mean()),
        float(np.median(lacking)) if len(lacking) else 0.0,
        holes[fights].name if len(lacking) else "",
        tuple(_slot(holes, k, off) for k in range(len(holes))) if len(lacking) else (),
        _order(holes, off),
        sigma,
    )


def _but(holes: Sequence[Hole], k: int) -> list[Hole]:
    return [hole for i, hole in enumerate(holes) if i != k]


def _chance(holes: Sequence[Hole], off: Array) -> float:
    return float(np.mean([spare(holes, e) >= 0 for e in off]))


def _slot(holes: Sequence[Hole], k: int, off: Array) -> SlotWish:
    """The least slot of one hole, in the way of the plane that helps more."""
    hole = holes[k]
    r = frame(hole.axis, (0.0, 0.0, 1.0))

    def lets_in(way: Array, long: float) -> bool:
        slotted = [*holes]
        slotted[k] = replace(hole, slot=way * long / 2)
        return _mostly(slotted, off)

    long = {way: SLOTS[-1] for way in (0, 1) if lets_in(r[:, way], SLOTS[-1])}
    for way in long:
        for shorter in SLOTS[-2::-1]:
            if not lets_in(r[:, way], shorter):
                break
            long[way] = shorter
    return SlotWish(hole.mount, hole.name, min(long.values()) if long else None)


def _mostly(holes: Sequence[Hole], off: Array) -> bool:
    """Whether the bolts go in so often that it is sure; ends as soon as it cannot be."""
    failed = 0
    for e in off:
        failed += spare(holes, e) < 0
        if failed > (1 - SURE) * len(off):
            return False
    return True


def _order(holes: Sequence[Hole], off: Array) -> tuple[str, ...]:
    """The order in which the bolts go in longest: the least clearance first, where all go the order of the
    job."""
    if len(holes) > MOST_ORDERED:
        return tuple(hole.name for hole in sorted(holes, key=lambda h: h.clearance))
    few = off[: DRAWS // 4]
    chances = {
        part: _chance([holes[i] for i in part], few[:, list(part)])
        for n in range(2, len(holes))
        for part in itertools.combinations(range(len(holes)), n)
    }

    def lasts(order: tuple[int, ...]) -> tuple[float, ...]:
        return tuple(chances[tuple(sorted(order[:n]))] for n in range(2, len(holes)))

    best = max(itertools.permutations(range(len(holes))), key=lasts)
    return tuple(holes[i].name for i in best)


def fitting_words(fit: FitUp) -> tuple[str, ...]:
    """What a fabricator does with it, in sentences."""
    out = [
        f"All {len(fit.order)} bolts go in by hand {100 * fit.chance:.0f} times of 100 with brackets placed"
        f" within {fit.sigma:g} mm."
    ]
    if fit.fights:
        out.append(
            f"{fit.fights} is the one that fights; forced, the bolts would lock {fit.forced:.1f} mm in."
        )
    slots = [wish for wish in fit.slots if wish.slot_mm is not None]
    if slots:
        least = min(slots, key=lambda wish: wish.slot_mm or 0.0)
        out.append(
            f"A slot {least.slot_mm:g} mm longer than wide at {least.name} lets them in 19 times of 20; it"
            " wants a plate washer 4 mm thick."
        )
    out.append(
        f"Order: {', then '.join(fit.order)}. All finger tight, then a third, a half and all of the torque."
    )
    return tuple(out)
