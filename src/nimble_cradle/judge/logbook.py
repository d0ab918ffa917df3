"""The logbook: it asks nothing."""

from __future__ import annotations

from nimble_cradle.job.job import Job
from nimble_cradle.judge import powertrain
from nimble_cradle.judge.found import Verdict

CAUTION: tuple[str, ...] = ()


def begun(job: Job) -> bool:
    """Whether anything was done that can be in it."""
    return powertrain.begun(job) or bool(job.items or job.mounts or job.survey.points)


def judge(job: Job) -> Verdict:
    """Nothing."""
    return Verdict()


def questions(job: Job, v: Verdict, before: int) -> list[str]:
    """Nothing."""
    return []
