"""What each thing for sale would buy: it is given up, the seat is looked for again, near by and everywhere, and the better one counts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from nimble_cradle.fit.position import move_words, pose_of
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Cut
from nimble_cradle.job.edits import value_at, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.wish import Sale
from nimble_cradle.motion.search import quiet
from nimble_cradle.mounts.mass import powertrain_mass
from nimble_cradle.seat.settle import Settled, settle
from nimble_cradle.seat.stops import stops_of
from nimble_cradle.seat.wishes import wish_of
from nimble_cradle.units import Display

WORTH_IT = 0.1
"""A trade that gains less, wish mm, buys nothing."""
PAIR_WORTH = 0.5
"""A pair is listed when it gains so much more, wish mm, than the better of the two alone."""
PAIRS = 4
"""So many pairs are tried, the likeliest first."""


@dataclass(frozen=True, eq=False)
class Trade:
    """What giving up ``sales`` buys. gain: of the wish, mm; lower, back: of the engine, mm; settled: the new seat (None where none was found,
    ``why`` says it). opens: the job had no seat before and has one now."""

    sales: tuple[Sale, ...]
    gain: float
    lower: float
    back: float
    settled: Settled | None
    why: str = ""
    opens: bool = False

    @property
    def trouble(self) -> float:
        """The user's own price, added up."""
        return sum(s.trouble for s in self.sales)

    @property
    def rate(self) -> float:
        """Gain per unit of trouble; what opens a bay at all comes before everything."""
        return (1e6 if self.opens else self.gain) / max(self.trouble, 0.01)

    @property
    def name(self) -> str:
        """What is given up."""
        return " + ".join(s.name for s in self.sales)

    @property
    def buys(self) -> bool:
        """Whether it is worth anything."""
        return self.settled is not None and (self.opens or self.gain > WORTH_IT)

    def words(self, display: Display) -> str:
        """``14.0 mm down, 2.0 mm back``, ``nothing`` or why it cannot be had."""
        if self.settled is None:
            return self.why
        if self.opens:
            return "there is a seat at all"
        if not self.buys:
            return "nothing"
        said = move_words((-self.back, 0.0, -self.lower), display)
        return said if said != "nowhere" else "straighter or more central only"


def applied(job: Job, sale: Sale) -> Job:
    """The job with one thing given up. Raises JobError where it is not there."""
    if sale.what in ("delete", "swap"):
        path = f"powertrain/pieces/{sale.of}"
        if sale.what == "swap":
            value_at(job, f"powertrain/pieces/{sale.instead}")
            job = with_value(job, f"{path}/instead", sale.instead)
        return with_value(job, f"{path}/what", "move" if sale.what == "swap" else "delete")
    path = f"items/{sale.of}"
    if sale.what == "remove":
        return with_value(job, f"{path}/fate", "remove")
    if sale.what == "move":
        return with_value(job, f"{path}/moved", tuple(float(a + b) for a, b in zip(value_at(job, f"{path}/moved"), sale.by, strict=True)))
    return with_value(job, f"{path}/cuts", (*value_at(job, f"{path}/cuts"), Cut(side=sale.side, depth_mm=sale.depth_mm)))


def is_done(job: Job, sale: Sale) -> bool:
    """Whether a thing for sale is given up already (for one that can be given up only once)."""
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


def trade(settled: Settled, sales: Sequence[Sale], say: Callable[[str], None] = quiet) -> Trade:
    """What giving up ``sales`` buys over a seat: looked for from there and everywhere."""
    chosen = tuple(sales)
    centre = powertrain_mass(settled.before).centre
    try:
        job = settled.job
        for sale in chosen:
            job = applied(job, sale)
        found = settle(job, say, most=3, kicks=0, centre=centre, old=settled.seating)
    except JobError as error:
        return Trade(chosen, 0.0, 0.0, 0.0, None, error.message)
    if not found.ok:
        return Trade(chosen, 0.0, 0.0, 0.0, None, f"no seat found with it either: {found.short:.1f} mm short")
    at, was = pose_of(found.job.position).points(centre), pose_of(settled.job.position).points(centre)
    return Trade(chosen, settled.cost - found.cost if settled.ok else 0.0, float(was[2] - at[2]), float(was[0] - at[0]), found, opens=not settled.ok)


def trades(settled: Settled, say: Callable[[str], None] = quiet, pairs: int = PAIRS) -> tuple[Trade, ...]:
    """Every thing for sale by itself and the likeliest pairs, the best by gain per trouble first. ``say`` may raise to stop it."""
    open_sales = [s for s in wish_of(settled.job).sales if not is_done(settled.job, s)]
    out = []
    for k, sale in enumerate(open_sales):
        def told(_: str, sale: Sale = sale, k: int = k) -> None:
            say(f"{k + 1} of {len(open_sales)}: {sale.name[0].lower()}{sale.name[1:]}")

        told("")
        out.append(trade(settled, (sale,), told))
    if pairs:
        for k, (a, b) in enumerate(_likely_pairs(out)[:pairs]):
            def told_pair(_: str, k: int = k) -> None:
                say(f"Pairs: {k + 1} of {min(pairs, len(out))}")

            told_pair("")
            both = trade(settled, (a.sales[0], b.sales[0]), told_pair)
            if (both.buys and both.gain > max(a.gain, b.gain) + PAIR_WORTH) or both.opens:
                out.append(both)
    return tuple(sorted(out, key=lambda t: (t.settled is None, not t.buys, -t.rate)))


def _likely_pairs(singles: Sequence[Trade]) -> list[tuple[Trade, Trade]]:
    """Pairs that may buy more than each alone: of things that each buy something, or where the one is what stops the seat that the other gives.
    The best first: by what they buy alone, and what stops there is worth."""
    holds: dict[int, dict[str, float]] = {}
    for k, t in enumerate(singles):
        holds[k] = {}
        for stop in stops_of(t.settled) if t.settled is not None else ():
            for key in (stop.piece, stop.item):
                holds[k][key] = max(holds[k].get(key, 0.0), stop.worth)
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


def with_trade(found: Trade) -> Job:
    """The job with the trade's things given up and the powertrain in the seat that they buy."""
    assert found.settled is not None
    return found.settled.job


def worth_words(settled: Settled, display: Display) -> str:
    """What a seat changes over where the powertrain stood: ``12.0 mm down, 3.0 mm back``."""
    centre = powertrain_mass(settled.before).centre
    change = pose_of(settled.job.position).points(centre) - pose_of(settled.before.position).points(centre)
    return move_words(np.asarray(change), display)
