"""The bay: its items are judged where the powertrain meets them; here only whether it was begun."""

from __future__ import annotations

from nimble_cradle.job.job import Job
from nimble_cradle.job.said import anything_said
from nimble_cradle.judge.cautions import SPRINGS, STANDS
from nimble_cradle.judge.found import Verdict

CAUTION: tuple[str, ...] = (STANDS, SPRINGS)


def begun(job: Job) -> bool:
    """Whether anything of the bay or the vehicle is the user's."""
    return anything_said(job, "bay") or bool(job.items)


def judge(job: Job) -> Verdict:
    """Nothing of its own: faults of items are met by the other stages and shown here."""
    return Verdict()


def questions(job: Job, v: Verdict, before: int) -> list[str]:
    """What is open besides the problems: nothing."""
    return []
