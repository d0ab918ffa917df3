"""The survey: levels, points, hole patterns, the adapter, and items that wait for points."""

from __future__ import annotations

from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.remember import remembered
from nimble_cradle.judge.cautions import LEVELLING
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.guard import Guard
from nimble_cradle.survey.adapter import adapter_plate
from nimble_cradle.survey.level import job_lean
from nimble_cradle.survey.made import waiting_items
from nimble_cradle.survey.network import network
from nimble_cradle.survey.pattern import found_pattern

CAUTION: tuple[str, ...] = (LEVELLING,)


def begun(job: Job) -> bool:
    """Whether anything was measured."""
    return bool(job.survey.points or job.survey.level.readings or job.survey.patterns)


def judge(job: Job) -> Verdict:
    """What is open about the survey."""
    guard = Guard("survey")
    for item, why in guard.rows("What is made from points", lambda: waiting_items(job)):
        guard.ask(f"items/{item.id}/made", f"{item.name} is not measured against yet: it {why}.")
    for sentence in guard.rows("The survey", lambda: survey_questions(job)):
        guard.ask("survey", sentence)
    return Verdict(problems=tuple(guard.problems))


def questions(job: Job, v: Verdict, before: int) -> list[str]:
    """What is open besides the problems: nothing."""
    return []


@remembered("survey")
def survey_questions(job: Job) -> tuple[str, ...]:
    """What the survey still asks: levels, points, hole patterns, the adapter."""
    asked = [*job_lean(job).odd, *network(job).questions]
    for pattern in job.survey.patterns:
        asked += [
            f"{pattern.name}: {question[0].lower()}{question[1:]}"
            for question in found_pattern(pattern).questions
        ]
    try:
        plate = adapter_plate(job)
        asked += plate.questions if plate is not None else ()
    except JobError as error:
        asked.append(error.message)
    return tuple(asked)
