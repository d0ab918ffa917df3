"""Gaps with the powertrain moved through all load cases."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

import numpy as np

from nimble_cradle.bay.bodies import fitted_pieces, powertrain_bodies
from nimble_cradle.bay.position import pose_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.fit.gaps import Fittings, bay_side, most_moved
from nimble_cradle.fit.pairs import Side
from nimble_cradle.fit.travel import MovingItem, least_through_cases, least_through_travel, of_meshes
from nimble_cradle.geometry.bodies import Bodies
from nimble_cradle.geometry.courses import Places
from nimble_cradle.geometry.distance import nearest
from nimble_cradle.geometry.least_through import Asked, least_between
from nimble_cradle.geometry.pose import Array, Pose
from nimble_cradle.job.job import Job

MOST_OVERLAPS = 24
"""So many pairs that are in one another at rest are measured when running too."""
AMPLE = 10.0
"""A gap that keeps more than so many mm to spare however the engine moves is not measured running, unless it
is among the tightest at that."""
LOOKED_WITHIN = 0.5
"""Pairs that touch at rest are measured as if they were so far apart, mm, so that they are met at all."""


def gaps_running(
    job: Job, at_rest: Sequence[Gap], poses: Sequence[tuple[str, Pose]], fittings: Fittings | None = None
) -> tuple[Gap, ...]:
    """The same gaps with the least distance through all ``poses`` (case name, pose in the vehicle frame),
    tightest first. at_rest: measured at the job's position.

    No point of a body moves further from its place at rest than a corner of its box does, and no distance
    changes by more: what can therefore not undercut the least found so far is not measured. Where more than
    MOST_OVERLAPS pairs are in one another at rest, only those nearest to clear are measured when running: how
    much deeper the others then are is nobody's question before the engine is moved.
    """
    bare = {fitting.id for fitting in fittings.rows if fitting.bare} if fittings is not None else set()
    sets = [([piece.id for piece in fitted_pieces(job)], powertrain_bodies(job))]
    if fittings is not None:
        sets.append(([fitting.id for fitting in fittings.rows], fittings.bodies))
    return through_cases(
        pose_of(job.position), at_rest, poses, sets, bay_side(job) if at_rest else None, bare
    )


def through_cases(
    rest: Pose,
    at_rest: Sequence[Gap],
    poses: Sequence[tuple[str, Pose]],
    sets: Sequence[tuple[Sequence[str], Bodies]],
    fixed: Side | None,
    bare: Collection[str] = (),
) -> tuple[Gap, ...]:
    """Gaps of sets of bodies that move with the powertrain (ids, bodies) with one side that does not,
    through all poses, tightest first. rest: where the powertrain stands. bare: ids that are looked at at
    rest only."""
    if not at_rest or not poses or fixed is None:
        return tuple(at_rest)
    least = {
        (gap.piece, gap.item): (gap.still, "at rest" if gap.still == gap.gap else gap.travel_at)
        for gap in at_rest
    }
    least_still = min(gap.margin_at_rest for gap in at_rest)
    most: dict[str, float] = {}
    shifts = [most_moved(moving, rest, [pose for _, pose in poses]) for _, moving in sets]
    for (owners, _), shift in zip(sets, shifts, strict=True):
        most |= dict(zip(owners, shift.max(0).tolist(), strict=True))
    free = {
        (gap.piece, gap.item): gap.still - most[gap.piece]
        for gap in at_rest
        if gap.piece not in bare and gap.margin_at_rest - most[gap.piece] > max(AMPLE, least_still)
    }
    for (owners, moving), shift in zip(sets, shifts, strict=True):
        asked = {
            (gap.piece, gap.item): gap.still
            for gap in at_rest
            if gap.piece not in bare and (gap.piece, gap.item) not in free
        }
        for pair in _hopeless(at_rest):
            asked.pop(pair, None)
        ways = {(gap.piece, gap.item): np.array([gap.way]) for gap in at_rest}
        _of_solids(owners, moving, fixed, asked, ways, least, poses, shift)
        _Running(owners, moving, fixed, asked, least).through(poses, shift)
    out = [_ran(gap, *least[gap.piece, gap.item], free.get((gap.piece, gap.item))) for gap in at_rest]
    out.sort(key=lambda g: g.margin)
    return tuple(out)


def _ran(gap: Gap, running: float, case: str, at_least: float | None) -> Gap:
    """A row with what is left of its gap when running: measured, or at least so much."""
    if at_least is not None:
        return replace(gap, running=at_least, running_case="", at_least=True)
    return replace(gap, running=running, running_case=case)


def _hopeless(at_rest: Sequence[Gap]) -> set[tuple[str, str]]:
    """Pairs that are in one another too deep to be measured when running."""
    fouling = sorted((gap for gap in at_rest if gap.still < 0), key=lambda g: -g.still)
    return {(gap.piece, gap.item) for gap in fouling[MOST_OVERLAPS:]}


def _of_solids(
    owners: Sequence[str],
    moving: Bodies,
    fixed: Side,
    asked: dict[tuple[str, str], float],
    ways: dict[tuple[str, str], Array],
    least: dict[tuple[str, str], tuple[float, str]],
    poses: Sequence[tuple[str, Pose]],
    shifts: Array,
) -> None:
    """Pairs without a mesh through all cases at once: written on in ``least``, and taken out of ``asked``.
    ways: in which each pair is apart at rest. shifts: (cases, owners) mm that each moves at most."""
    number = {owner: k for k, owner in enumerate(owners)}
    column = {item: k for k, item in enumerate(fixed.ids)}
    meshes, theirs = of_meshes(moving), of_meshes(fixed.bodies)
    movers = {mover.column: mover for mover in fixed.movers}
    standing: dict[tuple[int, int], Asked] = {}
    going: dict[int, dict[tuple[int, int], Asked]] = {k: {} for k in movers}
    for pair in list(asked):
        if pair[0] not in number or meshes[number[pair[0]]] or theirs[column[pair[1]]]:
            continue
        still = asked.pop(pair)
        a, b = number[pair[0]], column[pair[1]]
        ask = Asked(least[pair][0], still - shifts[:, a], ways[pair])
        standing[a, b] = ask
        if b in movers:
            going[b][a, 0] = ask
    cases = [pose for _, pose in poses]
    for (a, b), near in least_between(moving, Places(cases), fixed.bodies, None, standing).items():
        least[owners[a], fixed.ids[b]] = near.distance, poses[near.case][0]
    for k, wanted in going.items():
        for (a, _), near in least_through_cases(moving, cases, movers[k], wanted).items():
            pair = owners[a], fixed.ids[k]
            if near.distance < least[pair][0]:
                least[pair] = near.distance, f"{poses[near.case][0]}, {movers[k].words(near.at)}"


class _Running:
    """The least distances of one set through all cases, of pairs with a mesh. asked: distance at rest of each
    pair that is measured; least: the least of every pair so far, with where that is, written on."""

    def __init__(
        self,
        owners: Sequence[str],
        moving: Bodies,
        fixed: Side,
        asked: dict[tuple[str, str], float],
        least: dict[tuple[str, str], tuple[float, str]],
    ) -> None:
        self.owners, self.moving, self.least = owners, moving, least
        self.names, self.fixed, self.movers = fixed.ids, fixed.bodies, fixed.movers
        items = {name: k for k, name in enumerate(self.names)}
        number = {owner: k for k, owner in enumerate(owners)}
        self.asked = {pair: still for pair, still in asked.items() if pair[0] in number}
        self.reach = np.full((len(owners), len(items)), -np.inf)
        for (piece, item), still in self.asked.items():
            self.reach[number[piece], items[item]] = still
        self.still = self.reach.copy()
        # how deep a mesh is overlapped is no true distance
        of_mesh = of_meshes(moving)[:, None] | of_meshes(self.fixed)[None]
        self.rough = (self.still < 0) & of_mesh

    def through(self, poses: Sequence[tuple[str, Pose]], shifts: Array) -> None:
        """All cases, those that move it most first: they leave least for the others. shifts: (cases, owners)
        mm that each moves at most."""
        if not np.isfinite(self.reach).any():
            return
        for k in sorted(range(len(poses)), key=lambda k: -float(shifts[k].max())):
            name, pose = poses[k]
            self._standing(name, pose, shifts[k])
            for mover in self.movers:
                self._moving(name, pose, shifts[k], mover)

    def _standing(self, name: str, pose: Pose, moved: Array) -> None:
        """Items where they stand. moved: (owners,) mm from the place at rest."""
        may = np.isfinite(self.reach) & ((self.still - moved[:, None] < self.reach + 1e-6) | self.rough)
        if not may.any():
            return
        limit = np.where(may, np.maximum(self.reach, LOOKED_WITHIN), -np.inf)
        for near in nearest(self.moving, pose, self.fixed, limit, self.reach):
            pair = self.owners[near.a], self.names[near.b]
            if near.distance < self.least[pair][0]:
                self.least[pair] = near.distance, name
                self.reach[near.a, near.b] = near.distance

    def _moving(self, name: str, pose: Pose, moved: Array, mover: MovingItem) -> None:
        """One item through its travel."""
        item = self.names[mover.column]
        known = {
            a: self.least[owner, item][0]
            for a, owner in enumerate(self.owners)
            if (owner, item) in self.asked
            and self.still[a, mover.column] - moved[a] < self.least[owner, item][0]
        }
        if not known:
            return
        rows = range(len(self.owners))
        within = np.array([max(known[a], LOOKED_WITHIN) if a in known else -np.inf for a in rows])
        found = least_through_travel(self.moving, pose, mover, within, known)
        for a, (near, at) in found.items():
            self.least[self.owners[a], item] = near.distance, f"{name}, {mover.words(at)}"
