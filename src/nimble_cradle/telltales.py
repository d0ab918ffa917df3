"""The six numbers that decide, and the state of every stage, in words."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from nimble_cradle.job.job import Job
from nimble_cradle.job.said import facts
from nimble_cradle.judge.found import Verdict
from nimble_cradle.units import show

State = Literal["holds", "near", "fails", "open"]


@dataclass(frozen=True)
class TellTale:
    """One deciding number: its title, value and cause in words, its state, and the door to its cause
    (stage and part)."""

    id: str
    title: str
    value: str
    cause: str
    state: State
    word: str
    stage: str
    part: str = ""


_MASSES = ("powertrain/pieces/", "powertrain/weighed/")
_LOADS = ("vehicle/front_axle_kg", "vehicle/rear_axle_kg", "vehicle/wheelbase_mm", *_MASSES)
BEHIND: dict[str, tuple[str, ...]] = {
    "margin": ("mounts/", "half_shafts/", "propshaft/", *_MASSES),
    "lowest": ("vehicle/lowest_line_z_mm",),
    "driveline": (
        "vehicle/axle_input",
        "vehicle/hubs",
        "powertrain/gearbox/output",
        "powertrain/gearbox/seats",
        "powertrain/gearbox/ratios",
        "powertrain/engine/redline_rpm",
    ),
    "share": _LOADS,
    "hardest": (
        "mounts/",
        "crossmember/",
        *_LOADS,
        "vehicle/",
        "powertrain/engine/torque_nm",
        "powertrain/gearbox/ratios",
    ),
    "idle": ("mounts/", *_MASSES, "powertrain/engine/cylinders", "powertrain/engine/idle_rpm"),
}
"""The figures that each of the six rests on, by the beginnings of their paths."""


def tell_tales(job: Job, v: Verdict) -> tuple[TellTale, ...]:
    """The six, in their fixed order. One that would be good is open while it rests on a figure that nobody
    has said anything of, and says so where it rests on an assumed one."""
    plain = _gap(job, v), _lowest(job, v), _driveline(v), _share(job, v), _hardest(v), _idle(job, v)
    return tuple(_rested(job, v, tale) for tale in plain)


def _rested(job: Job, v: Verdict, tale: TellTale) -> TellTale:
    behind = BEHIND[tale.id]
    if tale.state == "fails" and not _anything_said(job, behind):
        return replace(tale, state="open", word="not said", cause="nothing of it is measured yet")
    if tale.state not in ("holds", "near"):
        return tale
    lacking = [fact for fact in v.not_said if fact.path.startswith(behind)]
    if lacking:
        more = "" if len(lacking) == 1 else f" and {len(lacking) - 1} more"
        return replace(tale, state="open", word="not said", cause=f"not said: {lacking[0].name}{more}")
    if any(job.said.get(fact.path) == "assumed" and fact.path.startswith(behind) for fact in facts(job)):
        return replace(tale, word=f"{tale.word}, on assumed")
    return tale


def _anything_said(job: Job, behind: tuple[str, ...]) -> bool:
    """Whether any of the figures behind a number is more than a placeholder; so too where there are none."""
    own = [fact for fact in facts(job) if fact.path.startswith(behind)]
    return not own or any(fact.path in job.said for fact in own)


def _gap(job: Job, v: Verdict) -> TellTale:
    title = "Tightest running margin"
    if not v.gaps:
        return TellTale("margin", title, "—", "nothing near", "open", "open", "position")
    gap = v.gaps[0]
    state: State = {"fouls": "fails", "too tight": "fails", "tight": "near", "clear": "holds"}[gap.state]  # type: ignore[assignment]
    value = f"{show(abs(gap.margin), 'length', job.show.display)} {'short' if gap.margin < 0 else 'to spare'}"
    return TellTale(
        "margin",
        title,
        value,
        f"{gap.piece_name} – {gap.item_name}",
        state,
        gap.state,
        "position",
        f"{gap.piece}/{gap.item}",
    )


def _lowest(job: Job, v: Verdict) -> TellTale:
    if v.lowest is None:
        return TellTale("lowest", "Lowest point", "—", "no pieces", "open", "open", "position")
    over = v.lowest.above_line
    word = "above the chassis line" if over >= 0 else "below the chassis line"
    return TellTale(
        "lowest",
        "Lowest point",
        show(abs(over), "length", job.show.display),
        f"{v.lowest.piece_name}, {word}",
        "holds" if over >= 0 else "fails",
        "holds" if over >= 0 else "hangs low",
        "position",
        v.lowest.piece,
    )


def _driveline(v: Verdict) -> TellTale:
    d = v.driveline
    if d is None:
        return TellTale("driveline", "Driveline", "—", "not to be judged yet", "open", "open", "position")
    if d.kind == "half-shafts":
        return TellTale(
            "driveline",
            "Half-shafts",
            f"{d.front:.1f} / {d.rear:.1f} deg",
            f"at most {d.most:.1f} deg with the wheels",
            "holds" if d.holds else "fails",
            "holds" if d.holds else "out of limits",
            "position",
            "driveline",
        )
    return TellTale(
        "driveline",
        "Driveline joints",
        " / ".join(f"{a:.1f}" for a in d.angles) + " deg",
        (
            f"differ by {d.difference:.2f} ± {d.plus_minus[2]:.2f} deg"
            if len(d.angles) == 2
            else f"leave {d.residual:.2f} ± {d.plus_minus[2]:.2f} deg together"
        ),
        "holds" if d.holds else "fails",
        "holds" if d.holds else "out of limits",
        "position",
        "driveline",
    )


def _share(job: Job, v: Verdict) -> TellTale:
    if v.share is None:
        return TellTale("share", "Front-axle share", "—", "no mass yet", "open", "open", "powertrain")
    want = job.vehicle.want_front_share_percent
    over = v.share.percent - want
    state: State = "holds" if over <= 0 else "near"
    return TellTale(
        "share",
        "Front-axle share",
        f"{v.share.percent:.1f}{f' ± {v.share.plus_minus:.1f}' if v.share.plus_minus else ''} %",
        f"wish: at most {want:g} %",
        state,
        "as wished" if over <= 0 else "over the wish",
        "position",
        "share",
    )


def _hardest(v: Verdict) -> TellTale:
    f = v.hardest
    if f is None:
        return TellTale("hardest", "Hardest-used part", "—", "no mount to judge", "open", "open", "mounts")
    state: State = "fails" if f.use > 1 else ("near" if f.use > 0.9 else "holds")
    return TellTale(
        "hardest",
        "Hardest-used part",
        f"{100 * f.use:.0f} %",
        f"{f.part_name}: {f.what}",
        state,
        f.state,
        f.stage,
        f"{f.part}/{f.code}",
    )


def _idle(job: Job, v: Verdict) -> TellTale:
    if v.carried is None:
        return TellTale("idle", "Shake at idle", "—", "no mounts yet", "open", "open", "mounts")
    share, most = v.carried.idle.transmitted, job.allowables.idle_transmitted
    state: State = "holds" if share <= most else "near"
    return TellTale(
        "idle",
        "Shake at idle",
        f"{100 * share:.0f} %",
        f"of the firing pulse gets through at {v.carried.idle.frequency:.0f} Hz",
        state,
        "soft enough" if share <= most else "will be felt",
        "mounts",
        "idle",
    )
