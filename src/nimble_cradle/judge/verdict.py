"""One call: job -> everything the program has to say about it, and where each stage stands."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from nimble_cradle.findings.finding import Problem
from nimble_cradle.job.job import Job
from nimble_cradle.job.said import facts, how, not_said, rests_on
from nimble_cradle.judge.found import Verdict, summed
from nimble_cradle.judge.guard import Guard
from nimble_cradle.judge.stages import STAGES, Stage
from nimble_cradle.made.end_plates import EndSeat, end_seats


def verdict(job: Job) -> Verdict:
    """All that is found of a job: the sum of what its stages find. Never raises, whatever a job holds: what
    cannot be judged is a problem with its place."""
    said = Verdict(problems=_not_said(job), rests_on=rests_on(job), not_said=not_said(job))
    return summed([*(_judged(stage, job) for stage in STAGES), said])


def _judged(stage: Stage, job: Job) -> Verdict:
    guard = Guard(stage.id)
    found = guard.of(stage.name, lambda: stage.module.judge(job), Verdict())
    return summed([found, Verdict(problems=tuple(guard.problems))]) if guard.problems else found


def _not_said(job: Job) -> tuple[Problem, ...]:
    """One open question a stage: the figures of which it is not said whether they were measured."""
    out = []
    for stage in STAGES:
        rows = [fact for fact in not_said(job) if fact.stage == stage.id]
        if rows:
            more = f" and {len(rows) - 4} more" if len(rows) > 4 else ""
            count = "one figure" if len(rows) == 1 else f"{len(rows)} figures"
            sentence = (
                f"Of {count} it is not said whether measured or assumed:"
                f" {', '.join(fact.name for fact in rows[:4])}{more}."
            )
            out.append(Problem(stage.id, rows[0].path, sentence))
    return tuple(out)


@dataclass(frozen=True)
class StageState:
    """A stage and how it stands: not begun, open questions (with the first of them), holds. measured,
    assumed, asked_for: number of its figures that are the one and the other, and of all of them. leans: of
    walls and steels of the chassis, asked for elsewhere, that it rests on and that are assumed."""

    id: str
    name: str
    state: Literal["not begun", "open questions", "holds"]
    questions: tuple[str, ...] = ()
    measured: int = 0
    assumed: int = 0
    asked_for: int = 0
    leans: int = 0


def stage_states(job: Job, v: Verdict) -> tuple[StageState, ...]:
    """Every stage in the order of the trade."""
    out: list[StageState] = []
    before = 0
    for stage in STAGES:
        asked = [problem.sentence for problem in v.problems if problem.stage == stage.id]
        asked += stage.module.questions(job, v, before)
        before += len(asked)
        told = [how(job, fact) for fact in facts(job) if fact.stage == stage.id]
        out.append(
            StageState(
                stage.id,
                stage.name,
                _state(stage.module.begun(job), bool(asked)),
                tuple(asked),
                told.count("measured"),
                told.count("assumed"),
                len(told),
                _leans(job, stage.id, v),
            )
        )
    return tuple(out)


def _leans(job: Job, stage: str, v: Verdict) -> int:
    """How many figures of rails and members, which the mounts ask for, a stage rests on that are assumed."""
    if stage == "chassis":
        items = {finding.part for finding in v.findings if finding.code == "rail"}
    elif stage == "crossmember":
        items = {seat.item.id for seat in end_seats(job) if isinstance(seat, EndSeat)}
    else:
        return 0
    places = tuple(f"items/{item}/host/" for item in items)
    asked = [fact for fact in facts(job) if fact.stage != stage and fact.path.startswith(places)]
    return sum(how(job, fact) == "assumed" for fact in asked)


def _state(begun: bool, asked: bool) -> Literal["not begun", "open questions", "holds"]:
    if not begun:
        return "not begun"
    return "open questions" if asked else "holds"
