"""The shop pack: ready when nothing before it is open."""

from __future__ import annotations

from nimble_cradle.job.job import Job
from nimble_cradle.judge.cautions import BENCH
from nimble_cradle.judge.found import Verdict

CAUTION: tuple[str, ...] = (BENCH,)


def begun(job: Job) -> bool:
    """Whether there is a mount to be made."""
    return bool(job.mounts)


def judge(job: Job) -> Verdict:
    """Nothing of its own."""
    return Verdict()


def questions(job: Job, v: Verdict, before: int) -> list[str]:
    """How many questions of the stages before it are open."""
    if not before:
        return []
    return [f"{before} open {'question' if before == 1 else 'questions'} before anything is cut"]
