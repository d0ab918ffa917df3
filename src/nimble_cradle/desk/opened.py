"""A window on a job, made when it is wanted: the toolkit is read then."""

from __future__ import annotations

import gc
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from nimble_cradle.design.begin import Answers
    from nimble_cradle.desk.window import Desk


def open_desk(path: Path, stage: str = "position") -> Desk:
    """A window on a job file, shown. Raises JobError.

    What is made for it stays as long as it does: the collector does not walk through it meanwhile, neither
    now nor while a key is held, and what else there is it collects on this thread alone. ``Desk.finish``
    gives both back.
    """
    from nimble_cradle.desk.kit.tidying import Tidying
    from nimble_cradle.desk.window import Desk
    from nimble_cradle.job.open_job import OpenJob
    from nimble_cradle.trial import tried

    tidying = Tidying()
    desk = None
    try:
        desk = Desk(OpenJob(path, tried), stage)
        desk.show()
        desk.tidying = tidying
    finally:
        if desk is None:
            tidying.end()
    gc.freeze()
    return desk


def begin_desk(path: Path, answers: Answers) -> Desk:
    """Write a new job and open it at the survey. Raises JobError."""
    from nimble_cradle.design.begin import write_new_job

    write_new_job(path, answers)
    return open_desk(path, "survey")
