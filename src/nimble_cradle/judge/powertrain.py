"""The powertrain: what it weighs and how it loads the axles."""

from __future__ import annotations

from nimble_cradle.fit.balance import axle_share
from nimble_cradle.job.job import Job
from nimble_cradle.job.new import new_job
from nimble_cradle.job.said import anything_said
from nimble_cradle.judge.cautions import GAS
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.guard import Guard

CAUTION: tuple[str, ...] = (GAS,)


def begun(job: Job) -> bool:
    """Whether a figure of it was said, or its pieces are not those of a blank job."""
    return anything_said(job, "powertrain") or job.powertrain.pieces != new_job("blank").powertrain.pieces


def judge(job: Job) -> Verdict:
    """The front-axle share."""
    guard = Guard("powertrain")
    share = guard.of("The front-axle share", lambda: axle_share(job), None)
    return Verdict(share=share, problems=tuple(guard.problems))


def questions(job: Job, v: Verdict, before: int) -> list[str]:
    """What is open besides the problems: nothing."""
    return []
