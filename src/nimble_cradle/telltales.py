"""The six numbers that decide, and the state of every stage, in words."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from nimble_cradle.job.job import Job
from nimble_cradle.units import show
from nimble_cradle.verdict import STAGES, StageId, Verdict

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
    stage: StageId
    part: str = ""


def tell_tales(job: Job, v: Verdict) -> tuple[TellTale, ...]:
    """The six, in their fixed order."""
    return _gap(job, v), _lowest(job, v), _driveline(v), _share(job, v), _hardest(v), _idle(job, v)


def _gap(job: Job, v: Verdict) -> TellTale:
    title = "Tightest running margin"
    if not v.gaps:
        return TellTale("margin", title, "—", "nothing near", "open", "open", "position")
    g = v.gaps[0]
    state: State = {"fouls": "fails", "too tight": "fails", "tight": "near", "clear": "holds"}[g.state]  # type: ignore[assignment]
    value = f"{show(abs(g.margin), 'length', job.show.display)} {'short' if g.margin < 0 else 'to spare'}"
    return TellTale(
        "margin",
        title,
        value,
        f"{g.piece_name} – {g.item_name}",
        state,
        g.state,
        "position",
        f"{g.piece}/{g.item}",
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
        f"{d.front:.1f} / {d.rear:.1f} deg",
        f"differ by {d.difference:.2f} ± {d.plus_minus[2]:.2f} deg",
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
        f"{v.share.percent:.1f} %",
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
    stage: StageId = "crossmember" if f.part == "crossmember" else "mounts"
    return TellTale(
        "hardest",
        "Hardest-used part",
        f"{100 * f.use:.0f} %",
        f"{f.part_name}: {f.what}",
        state,
        f.state,
        stage,
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
        f"of the firing torque, {v.carried.idle.frequency:.1f} Hz",
        state,
        "soft enough" if share <= most else "will be felt",
        "mounts",
        "idle",
    )


@dataclass(frozen=True)
class StageState:
    """A stage and how it stands: not begun, open questions (with the first of them), holds."""

    id: StageId
    name: str
    state: Literal["not begun", "open questions", "holds"]
    questions: tuple[str, ...] = ()


def stage_states(job: Job, v: Verdict) -> tuple[StageState, ...]:
    """Every stage in the order of the trade."""
    asked: dict[StageId, list[str]] = {stage: [] for stage, _ in STAGES}
    for problem in v.problems:
        asked[problem.stage].append(problem.sentence)
    still = [g for g in v.gaps if g.margin_at_rest < 0]
    running = [g for g in v.gaps if g.margin < 0 <= g.margin_at_rest]
    asked["position"] += [f"{g.piece_name} – {g.item_name}: {g.state_at_rest} at rest" for g in still]
    if v.lowest is not None and v.lowest.above_line < 0:
        asked["position"].append(f"{v.lowest.piece_name} hangs below the lowest chassis line")
    if v.driveline is not None:
        asked["position"] += v.driveline.faults
    asked["mounts"] += [
        f"{g.piece_name} – {g.item_name}: fine at rest, {g.state} when running ({g.running_case})"
        for g in running
    ]
    for f in v.findings:
        if f.use > 1:
            asked["crossmember" if f.part == "crossmember" else "mounts"].append(
                f"{f.part_name}, {f.what}: does not hold ({100 * f.use:.0f} %)"
            )
    if v.carried is None and job.mounts and not asked["mounts"]:
        asked["mounts"].append("waits for a powertrain that can be weighed")
    before = sum(len(q) for q in asked.values())
    if before:
        asked["pack"].append(
            f"{before} open {'question' if before == 1 else 'questions'} before anything is cut"
        )
    begun: dict[StageId, bool] = {
        "survey": bool(job.survey.points or job.survey.level.readings or job.survey.patterns),
        "bay": bool(job.items),
        "powertrain": bool(job.powertrain.pieces),
        "position": bool(job.items and job.powertrain.pieces),
        "mounts": bool(job.mounts),
        "crossmember": job.crossmember is not None,
        "pack": bool(job.mounts),
        "logbook": True,
    }
    out = []
    for stage, name in STAGES:
        questions = tuple(asked[stage])
        out.append(
            StageState(
                stage,
                name,
                "not begun" if not begun[stage] else ("open questions" if questions else "holds"),
                questions,
            )
        )
    return tuple(out)
