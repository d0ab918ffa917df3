"""What each thing for sale would buy: it is given up, the seat is looked for again, near by and
everywhere, and the better one counts."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.bay.position import move_words, pose_of
from nimble_cradle.fit.gap import Gap
from nimble_cradle.geometry.pose import Array
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Cut
from nimble_cradle.job.edits import value_at, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Position
from nimble_cradle.job.wish import Sale
from nimble_cradle.seat.along import brought_along
from nimble_cradle.seat.lessons import Lessons, lessons_of
from nimble_cradle.seat.seating import wish_of
from nimble_cradle.seat.settle import restored, settle
from nimble_cradle.seat.settled import Settled
from nimble_cradle.seat.stops import stops_of
from nimble_cradle.units import Display
from nimble_cradle.workers import quiet, side_by_side

WORTH_IT = 0.1
"""A trade that gains less, wish mm, buys nothing."""
PAIR_WORTH = 0.5
"""A pair is listed when it gains so much more, wish mm, than the better of the two alone."""
PAIRS = 4
"""So many pairs are tried, the likeliest first."""


@dataclass(frozen=True, eq=False)
class Seat:
    """A seat that a trade buys, so that a worker can tell of it. holds: what stops it there, id of a piece
    or item -> worth."""

    position: Position
    cost: float
    margin: float
    gaps: tuple[Gap, ...]
    lessons: Lessons
    holds: Mapping[str, float]


@dataclass(frozen=True, eq=False)
class Trade:
    """What giving up ``sales`` buys. gain: of the wish, mm; lower, back: of the engine, mm; seat: the new
    one (None where none was found, ``why`` says it). opens: the job had no seat before and has one now."""

    sales: tuple[Sale, ...]
    gain: float
    lower: float
    back: float
    seat: Seat | None
    why: str = ""
    opens: bool = False

    @property
    def trouble(self) -> float:
        """The user's own price, added up."""
        return sum(sale.trouble for sale in self.sales)

    @property
    def rate(self) -> float:
        """Gain per unit of trouble; what opens a bay at all comes before everything."""
        return (1e6 if self.opens else self.gain) / max(self.trouble, 0.01)

    @property
    def name(self) -> str:
        """What is given up."""
        return " + ".join(sale.name for sale in self.sales)

    @property
    def buys(self) -> bool:
        """True if it buys anything."""
        return self.seat is not None and (self.opens or self.gain > WORTH_IT)

    def words(self, display: Display) -> str:
        """``14.0 mm down, 2.0 mm back``, ``nothing`` or why it cannot be had."""
        if self.seat is None:
            return self.why
        if self.opens:
            return "there is a seat at all"
        if not self.buys:
            return "nothing"
        said = move_words((-self.back, 0.0, -self.lower), display)
        return said if said != "nowhere" else "straighter or more central only"


def refused(job: Job, sale: Sale) -> str:
    """Why a thing that was offered is not for sale, in a sentence; empty if it is for sale."""
    item = next((i for i in job.items if i.id == sale.of), None)
    if item is None or sale.what in ("delete", "swap"):
        return ""
    if item.fate == "keep":
        return f"{item.name} is kept: it is not for sale. Change what becomes of it on Bay first."
    if sale.what == "cut" and item.fate == "trim":
        return f"{item.name} may be trimmed, not cut."
    if sale.what in ("trim", "cut") and item.trim_mm is not None:
        gone = sum(cut.depth_mm for cut in item.cuts if cut.side == sale.side)
        if gone + sale.depth_mm > item.trim_mm + 1e-9:
            return (
                f"{item.name} may lose {item.trim_mm:g} mm at most, and this would take"
                f" {gone + sale.depth_mm:g} mm."
            )
    return ""


def applied(job: Job, sale: Sale) -> Job:
    """The job with one thing given up. Raises JobError where it is not there."""
    if sale.what in ("delete", "swap"):
        path = f"powertrain/pieces/{sale.of}"
        if sale.what == "swap":
            value_at(job, f"powertrain/pieces/{sale.instead}")
            job = with_value(job, f"{path}/instead", sale.instead)
        return with_value(job, f"{path}/what", "move" if sale.what == "swap" else "delete")
    why = refused(job, sale)
    if why:
        raise JobError(why, f"items/{sale.of}/fate")
    path = f"items/{sale.of}"
    if sale.what == "remove":
        return with_value(job, f"{path}/fate", "remove")
    if sale.what == "move":
        return with_value(
            job,
            f"{path}/moved",
            tuple(float(a + b) for a, b in zip(value_at(job, f"{path}/moved"), sale.by, strict=True)),
        )
    return with_value(
        job, f"{path}/cuts", (*value_at(job, f"{path}/cuts"), Cut(side=sale.side, depth_mm=sale.depth_mm))
    )


def is_done(job: Job, sale: Sale) -> bool:
    """True if a thing that can be given up only once is given up already."""
    try:
        if sale.what in ("delete", "swap"):
            return bool(value_at(job, f"powertrain/pieces/{sale.of}/what") != "keep")
        if sale.what == "remove":
            return bool(value_at(job, f"items/{sale.of}/fate") == "remove")
        if sale.what == "move":
            return any(value_at(job, f"items/{sale.of}/moved"))
        return any(c.side == sale.side for c in value_at(job, f"items/{sale.of}/cuts"))
    except JobError:
        return False


@dataclass(frozen=True, eq=False)
class _Held:
    """What all trades are measured from. centre: the point (3,) of the powertrain frame whose place is
    wished for."""

    job: Job
    centre: Array
    lessons: Lessons
    ok: bool
    cost: float


def _held(settled: Settled) -> _Held:
    base = settled.bare or settled  # arms are led anew for what a trade buys
    return _Held(base.job, powertrain_mass(base.before).centre, lessons_of(base.seating), base.ok, base.cost)


def trade(settled: Settled, sales: Sequence[Sale], say: Callable[[str], None] = quiet) -> Trade:
    """What giving up ``sales`` buys over a seat: looked for from there and everywhere."""
    return _traded(_held(settled), tuple(sales), say)


def _traded(held: _Held, sales: tuple[Sale, ...], say: Callable[[str], None]) -> Trade:
    try:
        job = held.job
        for sale in sales:
            job = applied(job, sale)
        found = settle(job, say, most=3, kicks=0, centre=held.centre, old=held.lessons, arms=False)
    except JobError as error:
        return Trade(sales, 0.0, 0.0, 0.0, None, error.message)
    if not found.ok:
        return Trade(sales, 0.0, 0.0, 0.0, None, f"no seat found with it either: {found.short:.1f} mm short")
    at, was = pose_of(found.job.position).points(held.centre), pose_of(held.job.position).points(held.centre)
    holds: dict[str, float] = {}
    for stop in stops_of(found):
        for key in (stop.piece, stop.item):
            holds[key] = max(holds.get(key, 0.0), stop.worth)
    seat = Seat(found.job.position, found.cost, found.margin, found.gaps, lessons_of(found.seating), holds)
    return Trade(
        sales,
        held.cost - found.cost if held.ok else 0.0,
        float(was[2] - at[2]),
        float(was[0] - at[0]),
        seat,
        opens=not held.ok,
    )


def trades(settled: Settled, say: Callable[[str], None] = quiet, pairs: int = PAIRS) -> tuple[Trade, ...]:
    """Every thing for sale by itself and the likeliest pairs, the best by gain per trouble first. ``say``
    may raise to stop it."""
    singles = each_traded(
        settled, [(sale,) for sale in wish_of(settled.job).sales if not is_done(settled.job, sale)], say
    )
    likely = _likely_pairs(singles)[:pairs]
    both = each_traded(settled, [(a.sales[0], b.sales[0]) for a, b in likely], say, "Pairs")
    out = [
        *singles,
        *(
            t
            for t, (a, b) in zip(both, likely, strict=True)
            if (t.buys and t.gain > max(a.gain, b.gain) + PAIR_WORTH) or t.opens
        ),
    ]
    return tuple(sorted(out, key=lambda t: (t.seat is None, not t.buys, -t.rate)))


def each_traded(
    settled: Settled,
    rows: Sequence[tuple[Sale, ...]],
    say: Callable[[str], None] = quiet,
    what: str = "Things for sale",
) -> list[Trade]:
    """What giving up each of some sets of things buys over a seat, in their order; side by side on all
    cores."""
    found = dict(
        side_by_side(
            _traded, _held(settled), rows, say, lambda done: f"{what}: {done} of {len(rows)} worked out"
        )
    )
    return [found[k] for k in range(len(rows))]


def _likely_pairs(singles: Sequence[Trade]) -> list[tuple[Trade, Trade]]:
    """Pairs that may buy more than each alone: two things that each buy something, or one that stops the
    seat which the other buys. The best first, by what they buy alone and by the worth of what stops there."""
    holds = [t.seat.holds if t.seat is not None else {} for t in singles]
    scored = []
    for i, j in combinations(range(len(singles)), 2):
        a, b = singles[i], singles[j]
        if a.sales[0].of == b.sales[0].of:
            continue
        linked = holds[i].get(b.sales[0].of, 0.0) + holds[j].get(a.sales[0].of, 0.0)
        alone = max(a.gain, 0.0) + max(b.gain, 0.0)
        if linked > 0 or (a.buys and b.buys):
            scored.append((alone + 10 * linked, i, j))
    return [(singles[i], singles[j]) for _, i, j in sorted(scored, key=lambda s: -s[0])]


def with_trade(job: Job, found: Trade) -> Job:
    """The job with the trade's things given up and the powertrain in the seat that they buy. Raises
    JobError."""
    for sale in found.sales:
        job = applied(job, sale)
    if found.seat is None:
        return job
    there = with_value(job, "position", found.seat.position)
    return brought_along(job, there) if wish_of(job).made == "comes along" else there


def settled_by(settled: Settled, found: Trade) -> Settled:
    """The seat that a trade buys, as a search would have left it. Raises JobError."""
    assert found.seat is not None
    return restored(
        settled.before,
        with_trade(settled.job, found),
        found.seat.lessons,
        found.seat.gaps,
        found.seat.margin,
        powertrain_mass(settled.before).centre,
    )


def worth_words(settled: Settled, display: Display) -> str:
    """What a seat changes over where the powertrain stood: ``12.0 mm down, 3.0 mm back``."""
    centre = powertrain_mass(settled.before).centre
    change = pose_of(settled.job.position).points(centre) - pose_of(settled.before.position).points(centre)
    return move_words(np.asarray(change), display)
