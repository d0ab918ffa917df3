"""A seat told in words: what changed, what stops it, what would buy more, or why there is none."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from nimble_cradle.bay.position import pose_of, position_words
from nimble_cradle.fit.gap import Gap
from nimble_cradle.judge.gaps import every_gap
from nimble_cradle.seat.no_seat import NoSeat
from nimble_cradle.seat.removal import Removal
from nimble_cradle.seat.settled import Settled
from nimble_cradle.seat.stops import Stop
from nimble_cradle.seat.trades import Trade, worth_words
from nimble_cradle.units import Display, show


def headline(settled: Settled, display: Display) -> str:
    """What the search came to, in a sentence or two."""
    if not settled.ok:
        lengths = Display(display.length)
        now = min((gap.margin for gap in every_gap(settled.before)), default=0.0)
        here = f"is short by {show(-now, 'length', lengths)}" if now < 0 else "is clear, but not as wished"
        return (
            "No seat found: the best place looked at is short by"
            f" {show(settled.short, 'length', lengths)}; where"
            f" it stands now it {here}."
        )
    moved = worth_words(settled, display)
    least = settled.gaps[0] if settled.gaps else None
    tail = (
        ""
        if least is None
        else (
            " Tightest running margin"
            f" {show(max(settled.gaps[0].margin, 0.0), 'length', Display(display.length))}:"
            f" {least.piece_name} – {least.item_name}."
        )
    )
    return (
        (
            "It stands as well as can be found already."
            if moved == "nowhere"
            else f"{moved[0].upper()}{moved[1:]}."
        )
        + tail
        + arms_words(settled, display)
        + besides_words(settled)
    )


def besides(settled: Settled) -> tuple[Gap, ...]:
    """What lacks in the place found though the search did not look for it: arms that are made anew there,
    shafts that end elsewhere. Tightest first."""
    if not settled.ok:
        return ()
    looked_at = {(gap.piece, gap.item) for gap in settled.gaps}
    rows = every_gap(settled.job)
    return tuple(gap for gap in rows if gap.margin < 0 and (gap.piece, gap.item) not in looked_at)


def arms_words(settled: Settled, display: Display) -> str:
    """What was given up so that what is made anew has room, in a sentence, or nothing."""
    if not settled.for_arms:
        return ""
    more = f", and {len(settled.for_arms) - 2} more" if len(settled.for_arms) > 2 else ""
    lost = show(settled.for_arms_mm, "length", Display(display.length))
    return f" {lost} of the wish were given up to make room for {'; '.join(settled.for_arms[:2])}{more}."


def besides_words(settled: Settled) -> str:
    """The same in a sentence, or nothing."""
    rows = besides(settled)
    if not rows:
        return ""
    more = f", and {len(rows) - 2} more" if len(rows) > 2 else ""
    names = "; ".join(f"{gap.piece_name} – {gap.item_name}" for gap in rows[:2])
    return f" Made anew or moved with it, these then lack: {names}{more}."


def no_seat_words(no_seat: NoSeat, display: Display) -> str:
    """Which wishes work against each other, and the least that would have to give."""
    lengths = Display(display.length)
    said = (
        f"These work against each other: {'; '.join(no_seat.between[:5])}."
        if no_seat.between and not no_seat.lacks
        else ""
    )
    if no_seat.relaxing is not None:
        said += f" Enough would be to give {no_seat.relaxing.words}."
    elif no_seat.lacks:
        most = "; ".join(f"{name}, {show(mm, 'length', lengths)}" for name, mm in no_seat.lacks[:4])
        said += (
            f" At the best place found {len(no_seat.lacks)} wishes are still broken, by"
            f" {show(sum(mm for _, mm in no_seat.lacks), 'length', lengths)} in all; the most: {most}."
        )
    elif no_seat.between:
        said += " Nothing was found that would be enough if it gave: look at what is for sale."
    if no_seat.shafts:
        most = "; ".join(f"{name}, {show(mm, 'length', lengths)}" for name, mm in no_seat.shafts[:3])
        said += f" And at the best place found there is no room for: {most}."
    return said.strip()


def settled_text(
    settled: Settled, stops: tuple[Stop, ...], found: tuple[Trade, ...], no_seat: NoSeat | None
) -> str:
    """The whole of it for a terminal."""
    display = settled.job.show.display
    lines = [headline(settled, display)]
    if settled.ok:
        lines += ["Now: " + ", ".join(position_words(settled.job)) + "."]
    if settled.looked is not None:
        lines.append(settled.looked.words)
    if no_seat is not None:
        lines.append(no_seat_words(no_seat, display))
    if stops:
        lines += ["", "What stops it:"] + [f"  {stop.name}: {stop.words}" for stop in stops]
    if found:
        lines += ["", "What each thing for sale buys:"] + [
            f"  {trade.name} (trouble {trade.trouble:g}): {trade.words(display)}" for trade in found
        ]
    return "\n".join(lines)


def settled_data(
    settled: Settled, stops: tuple[Stop, ...], found: tuple[Trade, ...], no_seat: NoSeat | None
) -> dict[str, Any]:
    """The same as plain data; lengths mm, angles degrees, vehicle frame."""
    position = settled.job.position
    return {
        "seat": settled.ok,
        "short_mm": round(settled.short, 3),
        "wish_mm": round(settled.cost, 3),
        "margin_mm": round(settled.margin, 3),
        "looked_at": None if settled.looked is None else asdict(settled.looked),
        "position": {
            name: getattr(position, name) for name in ("x", "y", "z", "roll_deg", "pitch_deg", "yaw_deg")
        },
        "place": [round(float(c), 3) for c in pose_of(position).translation],
        "room_made_for": {"names": list(settled.for_arms), "wish_mm": round(settled.for_arms_mm, 3)},
        "lacks_besides": [
            {"piece": gap.piece, "item": gap.item, "margin_mm": round(gap.margin, 3)}
            for gap in besides(settled)
        ],
        "stops": [
            {
                "name": stop.name,
                "piece": stop.piece,
                "item": stop.item,
                "worth": round(stop.worth, 3),
                "lower": round(stop.lower, 3),
                "back": round(stop.back, 3),
                "unit": stop.unit,
            }
            for stop in stops
        ],
        "trades": [
            {
                "names": [sale.name for sale in trade.sales],
                "trouble": trade.trouble,
                "gain": round(trade.gain, 3),
                "lower_mm": round(trade.lower, 2),
                "back_mm": round(trade.back, 2),
                "seat": trade.seat is not None,
                "why": trade.why,
            }
            for trade in found
        ],
        "fight": (
            None
            if no_seat is None
            else {
                "between": list(no_seat.between),
                "enough": None if no_seat.relaxing is None else no_seat.relaxing.words,
                "lacks_mm": {name: round(mm, 2) for name, mm in no_seat.lacks},
                "shafts_mm": {name: round(mm, 2) for name, mm in no_seat.shafts},
            }
        ),
    }


def removal_text(found: Removal) -> str:
    """The way out for a terminal."""
    said = found.words(found.job.show.display)
    return "\n".join([said, "", "Before:", *(f"  {line}" for line in found.before)])


def removal_data(found: Removal) -> dict[str, Any]:
    """The same as plain data: mm, share of the way, poses of the powertrain frame in the vehicle frame as
    place mm and rotation matrix rows."""
    t = found.tightest
    return {
        "found": bool(found.moments),
        "before": list(found.before),
        "looked_at": found.search.checks,
        "next_seed": None if found.moments else found.next_seed,
        "in_the_way": list(found.first),
        "helps": found.helps,
        "tightest": (
            None
            if t is None
            else {"gap_mm": round(t.gap, 2), "at": round(t.at, 3), "between": found.pair_words(t.pair)}
        ),
        "path": [
            {
                "place": [round(float(c), 3) for c in pose.translation],
                "rotation": [[round(float(c), 6) for c in r] for r in pose.rotation],
            }
            for pose in found.search.path
        ],
    }
