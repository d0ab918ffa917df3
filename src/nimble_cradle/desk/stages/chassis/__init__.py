"""The chassis' sheet."""

from __future__ import annotations

from nimble_cradle.desk.kit.stage_desk import StageDesk

KEEPS = frozenset({"item", "panel"})
DESK = StageDesk(standpoint="corner", keeps=KEEPS, ghosts=frozenset({"piece"}), tags="openings")
