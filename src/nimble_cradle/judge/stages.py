"""The one table of stages, in the order of the trade: id, name, and the module that judges it. The desk finds
``stages/<id>/`` by the id."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from nimble_cradle.job.job import Job
from nimble_cradle.judge import bay, chassis, crossmember, logbook, mounts, pack, position, powertrain, survey
from nimble_cradle.judge.found import Verdict


class Judge(Protocol):
    """What the module of a stage holds. CAUTION: sentences of ``cautions.py`` that are shown at the stage and
    in the pack."""

    CAUTION: tuple[str, ...]

    def begun(self, job: Job) -> bool:
        """Whether anything of the stage is the user's."""

    def judge(self, job: Job) -> Verdict:
        """What is found of the stage; never raises for what a job holds."""

    def questions(self, job: Job, v: Verdict, before: int) -> list[str]:
        """What is open in the whole verdict besides the problems of the stage, in sentences. before: number
        of questions of the stages before it."""


@dataclass(frozen=True, eq=False)
class Stage:
    """A stage of the trade."""

    id: str
    name: str
    module: Judge

    @property
    def caution(self) -> str:
        """The usual caution of its work, or empty."""
        return " ".join(self.module.CAUTION)


STAGES: tuple[Stage, ...] = (
    Stage("survey", "Survey", survey),
    Stage("bay", "Bay", bay),
    Stage("powertrain", "Powertrain", powertrain),
    Stage("position", "Position", position),
    Stage("mounts", "Mounts", mounts),
    Stage("crossmember", "Crossmember", crossmember),
    Stage("chassis", "Chassis", chassis),
    Stage("pack", "Shop pack", pack),
    Stage("logbook", "Logbook", logbook),
)

NOT_APPROVED = (
    "This program calculates and records; it does not approve. Engine swaps and structural, steering and"
    " suspension changes are regulated nearly everywhere: the local code and a licensed engineer or inspector"
    " decide, and a qualified welder makes the welds that lives hang on."
)


def caution(stage: str) -> str:
    """The caution of a stage by its id. Raises KeyError for a stage that there is not."""
    return {s.id: s.caution for s in STAGES}[stage]


def cautions() -> tuple[str, ...]:
    """Every caution of the stages, each once."""
    return tuple(dict.fromkeys(sentence for stage in STAGES for sentence in stage.module.CAUTION))
