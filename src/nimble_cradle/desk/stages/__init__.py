"""A folder a stage, named by its id in ``judge/stages.py``: ``DESK`` in its own file says what the window
shows of it, ``SHEET`` in its ``sheet.py`` is its sheet, imported when it is first wanted."""

from __future__ import annotations

import importlib
from functools import cache

from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.kit.stage_desk import StageDesk
from nimble_cradle.judge.stages import STAGES


@cache
def stage_desks() -> dict[str, StageDesk]:
    """Every stage's desk by its id, in the order of the trade. Raises ModuleNotFoundError or AttributeError,
    which name it, for a stage without one."""
    return {stage.id: _desk(stage.id) for stage in STAGES}


def _desk(stage: str) -> StageDesk:
    found = importlib.import_module(f"{__name__}.{stage}").DESK
    assert isinstance(found, StageDesk)
    return found


def make_sheet(stage: str, session: Session) -> Sheet:
    """The sheet of a stage, made anew."""
    found = importlib.import_module(f"{__name__}.{stage}.sheet").SHEET(session)
    assert isinstance(found, Sheet)
    return found
