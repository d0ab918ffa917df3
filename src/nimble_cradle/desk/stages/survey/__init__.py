"""The survey's sheet and its rooms."""

from __future__ import annotations

from nimble_cradle.desk.kit.keymap import Key, KeyGroup
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.stage_desk import StageDesk
from nimble_cradle.desk.stages.survey.keys import READING_KEYS

ENTRY_KEYS = KeyGroup(
    "Survey",
    (Key(("Return",), "take the reading; the next one waits", shown="Enter"), *READING_KEYS.rows),
    "survey",
)


def _scans_stay(session: Session, kind: str, key: str) -> bool:
    """A scan is looked at here too."""
    return kind == "item" and any(item.id == key and item.measured == "scan" for item in session.job.items)


DESK = StageDesk(
    standpoint="over",
    home=frozenset({"point"}),
    keeps=frozenset({"point", "reading", "mark"}),
    stays=_scans_stay,
    draws=frozenset({"point", "reading", "mark"}),
    ghosts=frozenset({"piece"}),
    tags="points",
    keys=(ENTRY_KEYS,),
)
