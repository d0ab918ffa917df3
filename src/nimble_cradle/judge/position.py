"""Where the powertrain stands: supports, gaps at rest and running, the lowest point, the driveline."""

from __future__ import annotations

from nimble_cradle.fit.driveline import driveline
from nimble_cradle.fit.lowest import lowest_point
from nimble_cradle.fit.supports import stack_question
from nimble_cradle.job.job import Job
from nimble_cradle.job.new import new_job
from nimble_cradle.judge import powertrain
from nimble_cradle.judge.cautions import LIFTING
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.gaps import made_gaps, running_gaps, shaft_gaps
from nimble_cradle.judge.guard import Guard

CAUTION: tuple[str, ...] = (LIFTING,)


def begun(job: Job) -> bool:
    """Whether there is a powertrain, and a bay or a place of its own for it."""
    return powertrain.begun(job) and (bool(job.items) or job.position != new_job("blank").position)


def judge(job: Job) -> Verdict:
    """Gaps, lowest point and driveline, and stacks under supports that would be columns."""
    guard = Guard("position")
    for support in job.setting.supports:
        stack = guard.of(support.name, lambda: stack_question(job, support, support.stack_mm), "")
        if stack:
            guard.ask(f"setting/supports/{support.id}", stack)
    gaps = guard.rows("The gaps", lambda: running_gaps(job))
    gaps += guard.rows("The gaps of what is made", lambda: made_gaps(job))
    gaps += guard.rows("The gaps of the shafts", lambda: shaft_gaps(job))
    gaps = tuple(sorted(gaps, key=lambda gap: gap.margin))
    lowest = guard.of("The lowest point", lambda: lowest_point(job), None)
    line = guard.of("The driveline", lambda: driveline(job), None)
    return Verdict(gaps=gaps, lowest=lowest, driveline=line, problems=tuple(guard.problems))


def questions(job: Job, v: Verdict, before: int) -> list[str]:
    """Gaps that lack at rest, what of the powertrain hangs low, and faults of the driveline."""
    lacking = [gap for gap in v.gaps if gap.margin_at_rest < 0 and gap.stage == "position"]
    asked = [f"{g.piece_name} – {g.item_name}: {g.state_at_rest} at rest" for g in lacking]
    if v.lowest is not None and v.lowest.owner == "":
        asked += v.lowest.low_words()
    return asked + list(v.driveline.faults if v.driveline is not None else ())
