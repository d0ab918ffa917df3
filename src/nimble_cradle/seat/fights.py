"""Where there is no seat: which wishes fight each other, and the least that would have to give."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from nimble_cradle.fit.position import pose_of
from nimble_cradle.motion.descend import Problem, descend, linear_program, solve_linear
from nimble_cradle.motion.search import quiet
from nimble_cradle.seat.settle import BROKEN, Settled, finished
from nimble_cradle.seat.stops import BOX, Group, groups_of, unit_of
from nimble_cradle.seat.wishes import Seating

MOST = 250.0
"""Giving more than this, mm, is no relaxing but another job."""
_MARGIN = 0.1
DEAR = 2.0
"""What a mm outside a window that is to give costs, wish mm: more than the wish itself, less than breaking something else."""


@dataclass(frozen=True, eq=False)
class Relaxing:
    """A set of wishes that, given so much each, leaves a seat. amounts: in the units of each; total_mm: all of them together, mm."""

    names: tuple[str, ...]
    amounts: tuple[float, ...]
    units: tuple[str, ...]
    total_mm: float

    @property
    def words(self) -> str:
        """``Transaxle – Battery and tray by 0.3 mm``."""
        return " and ".join(f"{n} by {a:.1f} {u}" for n, a, u in zip(self.names, self.amounts, self.units, strict=True))


@dataclass(frozen=True, eq=False)
class Fight:
    """Why no seat was found. between: what fights, the hardest first; relaxing: the least that would do, found by looking near by and
    proved."""

    short: float
    between: tuple[str, ...]
    relaxing: Relaxing | None


def _relaxed(seating: Seating, groups: Sequence[Group], by: Sequence[float]) -> Problem:
    """The problem with some wishes given ``by`` mm each."""
    problem = seating.problem
    need, aims = problem.need(), problem.aims
    low, high = aims.low.copy(), aims.high.copy()
    for group, mm in zip(groups, by, strict=True):
        if group.aim >= 0:
            (high if group.over else low)[group.aim] += (mm if group.over else -mm) / group.scale
        else:
            columns = [k for k, c in enumerate(seating.columns) if c == group.item]
            need[seating.owners.index(group.piece), columns] -= mm
    return replace(problem.with_need(need), aims=replace(aims, low=low, high=high))


def fight_of(settled: Settled, say: Callable[[str], None] = quiet) -> Fight:
    """What fights where no seat was found. ``say`` may raise to stop it."""
    seating, stand = settled.seating, settled.stand
    cost, a, b, bounds, used = linear_program(seating.problem, stand, BOX)
    cost = np.zeros_like(cost)
    cost[6] = 1.0
    solved = solve_linear(cost, a, b, bounds)
    if solved is None:
        return Fight(settled.short, (), None)
    multipliers = solved[2]
    groups = groups_of(seating, stand, used, len(b))
    shares = [(float(multipliers[g.rows].sum()), g) for g in groups]
    fighting = sorted([(s, g) for s, g in shares if s > 0.01], key=lambda x: -x[0])
    found = _tries(settled, [(s, (g,)) for s, g in fighting[:6]], say)
    if not found:
        found = _tries(settled, [(x[0] + y[0], (x[1], y[1])) for x, y in combinations(fighting[:4], 2)], say)
    return Fight(settled.short, tuple(g.name for _, g in fighting), found[0] if found else None)


def _tries(settled: Settled, sets: Sequence[tuple[float, tuple[Group, ...]]], say: Callable[[str], None]) -> list[Relaxing]:
    """Of sets of wishes the one that must give least for a seat near by, proved on the exact check; none where none does."""
    out: list[tuple[float, float, tuple[Group, ...]]] = []
    for share, groups in sets:
        say("Looking for what would have to give")
        by = _window_by(settled, groups[0], say) if len(groups) == 1 and groups[0].aim >= 0 else _by(settled, share, groups, say)
        if by is not None:
            out.append((by * len(groups), by, groups))
    for _, by, groups in sorted(out, key=lambda o: o[0]):
        sure = _proved(settled, groups, by, say)
        if sure is not None:
            return [Relaxing(tuple(g.name for g in groups), tuple(sure / g.scale for g in groups), tuple(unit_of(g.scale) for g in groups), sure * len(groups))]
    return []


def _by(settled: Settled, share: float, groups: tuple[Group, ...], say: Callable[[str], None]) -> float | None:
    """How much each of ``groups`` must give for a seat near by, mm: as their share of the lack foretells, then more until one is found."""
    pose, by, lack = settled.stand.pose, 0.0, max(settled.short, BROKEN)
    for _ in range(6):
        by += lack / share + _MARGIN
        if by > MOST:
            return None
        found = descend(_relaxed(settled.seating, groups, [by] * len(groups)), pose, rounds=30, told=lambda *_: say("Looking for what would have to give"))
        if found.ok:
            return by
        pose, lack = found.stand.pose, found.stand.worst
    return None


def _window_by(settled: Settled, group: Group, say: Callable[[str], None]) -> float | None:
    """The same for one window: it is opened wide, and leaving it is made dear."""
    problem = _relaxed(settled.seating, (group,), (MOST,))
    aims = problem.aims
    linear = aims.linear.copy()
    linear[group.aim] += (DEAR if group.over else -DEAR) * group.scale
    dear = replace(problem, aims=replace(aims, linear=linear))
    bound = settled.seating.problem.aims
    limit = float((bound.high if group.over else bound.low)[group.aim])
    best: float | None = None
    for start in (settled.stand.pose, pose_of(settled.before.position)):
        found = descend(dear, start, told=lambda *_: say("Looking for what would have to give"))
        if found.ok:
            value = float(found.stand.values[group.aim])
            by = max((value - limit if group.over else limit - value) * group.scale, 0.0) + _MARGIN
            best = by if best is None else min(best, by)
    return best


def _proved(settled: Settled, groups: tuple[Group, ...], by: float, say: Callable[[str], None]) -> float | None:
    """So much, and what the exact check asks for on top of it; None where that never ends."""
    for _ in range(8):
        relaxed = replace(settled.seating, problem=_relaxed(settled.seating, groups, [by] * len(groups)))
        found = min((descend(relaxed.problem, p) for p in (settled.stand.pose, pose_of(settled.before.position))), key=lambda f: (not f.ok, f.stand.worst))
        there = finished(relaxed, settled.before, found, say)
        if there.margin >= -BROKEN:
            return by
        by += 3 * there.short + _MARGIN
    return None
