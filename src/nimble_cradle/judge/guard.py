"""The guard of a stage's judgement: whatever a job holds, a part that cannot be judged is a problem that
names it, and the rest is judged all the same."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TypeVar

from nimble_cradle.findings.finding import Problem
from nimble_cradle.job.base import JobError

T = TypeVar("T")

STAGE_OF_PLACE = {"items": "bay", "powertrain": "powertrain"}
"""Where a fault is put right, by the first word of its place; any other where it was met."""


def problem_of(stage: str, error: JobError) -> Problem:
    """What an error, met while ``stage`` was judged, asks."""
    return Problem(STAGE_OF_PLACE.get(error.place.partition("/")[0], stage), error.place, error.message)


def said(error: Exception) -> str:
    """What an error says, without its full stop."""
    return (str(error) or type(error).__name__).rstrip(".")


class Guard:
    """Problems of one stage as they are met."""

    def __init__(self, stage: str) -> None:
        self.stage = stage
        self.problems: list[Problem] = []

    def add(self, problems: Iterable[Problem]) -> None:
        """Problems, each once."""
        self.problems += [problem for problem in problems if problem not in self.problems]

    def ask(self, place: str, sentence: str) -> None:
        """One open question of this stage."""
        self.add([Problem(self.stage, place, sentence)])

    def of(self, part: str, work: Callable[[], T], otherwise: T) -> T:
        """What ``work`` gives; ``otherwise``, and a problem that names ``part``, where it fails."""
        try:
            return work()
        except JobError as error:
            self.add([problem_of(self.stage, error)])
        except Exception as error:  # the last guard: no job is locked out by the figures it holds
            self.ask("", f"{part} cannot be judged with the figures given: {said(error)}.")
        return otherwise

    def rows(self, part: str, work: Callable[[], tuple[T, ...]]) -> tuple[T, ...]:
        """The rows that ``work`` gives; none, and a problem that names ``part``, where it fails."""
        nothing: tuple[T, ...] = ()
        return self.of(part, work, nothing)
