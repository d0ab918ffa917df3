"""Where there is no seat: which wishes work against each other, and the least that would have to give."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from nimble_cradle.bay.position import pose_of
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.motion.aims import Cut, cut_off
from nimble_cradle.motion.descend import descend
from nimble_cradle.motion.linear_program import SHORTFALL, linear_program
from nimble_cradle.motion.seat_problem import LEVER, SeatProblem
from nimble_cradle.seat.lessons import Lessons, learned, lessons_of
from nimble_cradle.seat.seating import Seating, seating_of, wish_of
from nimble_cradle.seat.settle import clipped_position
from nimble_cradle.seat.settled import BROKEN, FAR, Settled, finished, with_mounts
from nimble_cradle.seat.shaft_room import short_of_room
from nimble_cradle.seat.stops import BOX, Group, groups_of, unit_of
from nimble_cradle.workers import quiet, side_by_side

MOST = 250.0
"""A wish that must give more than this, mm, makes another job of it."""
_MARGIN = 0.1
"""Given on top of what was found, mm, so that the exact check does not refuse it for rounding."""
TRIED = 4
"""Number of concessions that are proved, the cheapest first."""
FEW = 3
"""If more wishes than this must give, no concession is offered; what lacks is told instead."""
BEGINS = 2
"""Places all over the bay to begin from."""
NO_NEARER = 0.8
"""What still lacks more than this share of what lacked before is no nearer to a seat."""
ROUNDS = 40
"""A descent has so many rounds at most."""
ONE_MORE = 5.0
"""One wish more to give counts like so many mm given."""
DEAR = 2.0
"""What a mm outside a window that is to give costs, wish mm: more than the wish itself, less than breaking
something else."""


@dataclass(frozen=True, eq=False)
class Concession:
    """Wishes that leave a seat if each gives its amount. names, amounts, units: one of each a wish."""

    names: tuple[str, ...]
    amounts: tuple[float, ...]
    units: tuple[str, ...]

    @property
    def words(self) -> str:
        """``Transaxle – Battery and tray by 0.3 mm``."""
        return " and ".join(
            f"{name} by {a:.1f} {u}" if a >= 0.95 else f"{name} by {a:.2g} {u}"
            for name, a, u in zip(self.names, self.amounts, self.units, strict=True)
        )


@dataclass(frozen=True, eq=False)
class NoSeat:
    """Why no seat was found. short: mm that lacks at the best place found. between: the wishes that work
    against each other there, the hardest first. relaxing: the least concession found, proved on the exact
    check; None if there is none. lacks: then (name, mm) of every wish broken at the place where the sum of
    all lacks is least, the most first. broken: (piece id, item id) of each of these, empty for a window.
    shafts: (name, mm) of what lacks room at the best place found besides, the most first."""

    short: float
    between: tuple[str, ...]
    relaxing: Concession | None
    lacks: tuple[tuple[str, float], ...] = ()
    broken: tuple[tuple[str, str], ...] = ()
    shafts: tuple[tuple[str, float], ...] = ()


def _relaxed(seating: Seating, given: Sequence[tuple[Group, float]]) -> SeatProblem:
    """The problem with some wishes given so many mm each."""
    problem = seating.problem
    need, aims = problem.need(), problem.aims
    low, high = aims.low.copy(), aims.high.copy()
    for group, mm in given:
        if group.aim >= 0:
            (high if group.over else low)[group.aim] += (mm if group.over else -mm) / group.scale
        else:
            columns = [k for k, column in enumerate(seating.columns) if column == group.item]
            need[seating.owners.index(group.piece), columns] -= mm
    return replace(problem.with_need(need), aims=replace(aims, low=low, high=high))


@dataclass(frozen=True, eq=False)
class _Place:
    """The best place looked at, for workers. job: as it was, from which the problem is made as the search
    made it; best: the place found; lessons: what the problem was taught; cuts: where shafts have no room;
    short: mm."""

    job: Job
    best: Pose
    lessons: Lessons
    cuts: tuple[Cut, ...]
    short: float

    @property
    def poses(self) -> tuple[Pose, Pose]:
        """The place found, and where it stood before."""
        return self.best, pose_of(self.job.position)

    def seating(self) -> Seating:
        """The problem as the search knew it at last."""
        begin = with_value(self.job, "position", clipped_position(self.job.position, wish_of(self.job)))
        seating = learned(seating_of(with_mounts(self.job, begin)), self.lessons)
        problem = seating.problem
        return replace(
            seating, problem=replace(problem, aims=cut_off(problem.aims, self.cuts, problem.about, LEVER))
        )


_Given = tuple[tuple[Group, float], ...]
"""Some wishes and how much each is given, mm."""


class _Way(NamedTuple):
    """Wishes that give, and where that would leave a seat."""

    given: _Given
    pose: Pose


def why_no_seat(settled: Settled, say: Callable[[str], None] = quiet) -> NoSeat:
    """Which wishes work against each other, and the least that would have to give: one wish near the best
    place found, or the fewest broken ones anywhere in the bay. The likeliest are proved on the exact check.
    ``say`` may raise to stop it."""
    seating, stand = settled.seating, settled.stand
    program = linear_program(seating.problem, stand, BOX)
    shortfall_only = np.zeros_like(program.cost)
    shortfall_only[SHORTFALL] = 1.0
    solved = replace(program, cost=shortfall_only).solve()
    if solved is None:
        return NoSeat(settled.short, (), None)
    groups = groups_of(seating, stand, program.gap_rows)
    shares = [(float(solved.multipliers[group.rows].sum()), group) for group in groups]
    against = sorted([(s, group) for s, group in shares if s > 0.01], key=lambda x: -x[0])
    cuts = seating.problem.aims.cuts
    place = _Place(settled.before, stand.pose, lessons_of(seating), cuts, settled.short)
    ways = side_by_side(
        _ways, place, [*against[:4], *_begins(settled)], say, lambda _: "Looking for what would have to give"
    )
    all_ways = [w for _, w in sorted(ways, key=lambda row: row[0]) if w is not None and w.given]
    all_ways.sort(key=lambda way: _price(way.given))
    found = [way.given for way in all_ways]
    likely = list({_names(w.given): w for w in all_ways[::-1] if len(w.given) <= FEW}.values())[::-1][:TRIED]
    between = tuple(group.name for _, group in against)
    best = _cheapest_proved(place, likely, say)
    shafts = _shafts_besides(settled, against)
    if best:
        return NoSeat(
            settled.short,
            between,
            Concession(
                _names(best),
                tuple(mm / group.scale for group, mm in best),
                tuple(unit_of(group.scale) for group, _ in best),
            ),
            shafts=shafts,
        )
    least = sorted(min(found, key=lambda w: sum(mm for _, mm in w), default=()), key=lambda r: -r[1])
    lacks = least if len(least) > FEW else []
    return NoSeat(
        settled.short,
        between,
        None,
        tuple((g.name, mm) for g, mm in lacks),
        tuple((g.piece, g.item) for g, _ in lacks),
        shafts,
    )


def _shafts_besides(
    settled: Settled, against: Sequence[tuple[float, Group]]
) -> tuple[tuple[str, float], ...]:
    """(name, mm) of the shafts that lack room at the best place found, of which nothing is said yet."""
    said = {(group.piece, group.item) for _, group in against}
    try:
        rows = short_of_room(settled.job)
    except JobError:  # said where the shafts are
        return ()
    return tuple(
        (f"{g.piece_name} – {g.item_name}", -g.margin) for g in rows if (g.piece, g.item) not in said
    )


def _cheapest_proved(place: _Place, likely: Sequence[_Way], say: Callable[[str], None]) -> _Given:
    """The cheapest of some concessions that the exact check proves; empty if it proves none."""
    open_ways = dict(enumerate(likely))
    proved: dict[int, _Given] = {}
    for k, sure in side_by_side(_proved, place, likely, say, lambda _: "Making sure that it is enough"):
        del open_ways[k]
        if sure:
            proved[k] = sure
        least = min((_price(w) for w in proved.values()), default=np.inf)
        if all(least < _price(w.given) for w in open_ways.values()):
            break
    return proved[min(proved, key=lambda k: (_price(proved[k]), k))] if proved else ()


def _names(given: _Given) -> tuple[str, ...]:
    return tuple(group.name for group, _ in given)


def _price(given: _Given) -> float:
    """All that is given, mm, and ONE_MORE for every wish after the first."""
    return sum(mm for _, mm in given) + ONE_MORE * (len(given) - 1)


def _begins(settled: Settled) -> list[Pose]:
    """Places all over the bay to begin from: where the search ended."""
    return [settled.stand.pose, pose_of(settled.before.position), *settled.others[:BEGINS]]


def _ways(place: _Place, row: tuple[float, Group] | Pose, say: Callable[[str], None]) -> _Way | None:
    """What would have to give: for (share, wish) that wish alone; for a pose the fewest wishes near it.
    None if that leads to no seat."""
    seating = place.seating()
    if isinstance(row, Pose):
        return _fewest(seating, row, say)
    share, group = row
    return (
        _window_by(seating, place.poses, group, say)
        if group.aim >= 0
        else _by(seating, place, share, group, say)
    )


def _fewest(seating: Seating, pose: Pose, say: Callable[[str], None]) -> _Way:
    """(wish, mm) broken at the place near ``pose`` where the sum of all lacks is least."""
    things = np.unique(np.array(seating.columns), return_inverse=True)[1]
    problem = replace(seating.problem, things=things)
    stand = descend(problem, pose, rounds=ROUNDS, told=lambda *_: say("")).stand
    windows = problem.aims.shorts(stand.values)
    windows = windows[np.concatenate([np.isfinite(problem.aims.low), np.isfinite(problem.aims.high)])]
    short = np.concatenate([stand.short, windows])
    groups = groups_of(seating, stand, np.arange(len(stand.short)))
    given = tuple(
        (group, float(short[group.rows].max()) + _MARGIN)
        for group in groups
        if float(short[group.rows].max()) > BROKEN / 2
    )
    return _Way(given, stand.pose)


def _by(
    seating: Seating, place: _Place, share: float, group: Group, say: Callable[[str], None]
) -> _Way | None:
    """What one wish must give for a seat near by: first what its share of the lack foretells, then more.
    None if more than MOST."""
    pose, by, lack = place.poses[0], 0.0, max(place.short, BROKEN)
    for _ in range(6):
        by += lack / share + _MARGIN
        if by > MOST:
            return None
        found = descend(_relaxed(seating, ((group, by),)), pose, rounds=30, told=lambda *_: say(""))
        if found.ok:
            return _Way(((group, by),), found.stand.pose)
        pose, lack = found.stand.pose, found.stand.worst
    return None


def _window_by(
    seating: Seating, poses: Sequence[Pose], group: Group, say: Callable[[str], None]
) -> _Way | None:
    """The same for one window: it is opened wide, and each mm outside it costs DEAR."""
    problem = _relaxed(seating, ((group, MOST),))
    aims = problem.aims
    linear = aims.linear.copy()
    linear[group.aim] += (DEAR if group.over else -DEAR) * group.scale
    dear = replace(problem, aims=replace(aims, linear=linear))
    bound = seating.problem.aims
    limit = float((bound.high if group.over else bound.low)[group.aim])
    best: _Way | None = None
    for start in poses:
        found = descend(dear, start, told=lambda *_: say(""))
        if found.ok:
            value = float(found.stand.values[group.aim])
            by = max((value - limit if group.over else limit - value) * group.scale, 0.0) + _MARGIN
            if best is None or by < best.given[0][1]:
                best = _Way(((group, by),), found.stand.pose)
    return best


def _proved(place: _Place, way: _Way, say: Callable[[str], None]) -> _Given:
    """The concession with what the exact check asks for besides; empty if that does not end in a seat."""
    seating = place.seating()
    given, pose = way
    lacked = np.inf
    for _ in range(6):
        relaxed = replace(seating, problem=_relaxed(seating, given))
        found = descend(relaxed.problem, pose, rounds=ROUNDS, told=lambda *_: say(""), hopeless=-np.inf)
        less = {(group.piece, group.item): mm for group, mm in given if group.piece}
        there = finished(relaxed, place.job, found, say, less, proof=True)
        if there.margin >= -BROKEN:
            return given
        if there.short > min(FAR, NO_NEARER * lacked):  # what is not its own, a shaft say, lacks there
            return ()
        pose, lacked = there.stand.pose, there.short
        given = tuple((group, mm + 3 * there.short / len(given) + _MARGIN) for group, mm in given)
    return ()
