"""The chassis' sheet."""

from __future__ import annotations

from nimble_cradle.desk.kit.stage_desk import StageDesk

KEEPS = frozenset({"item", "panel"})
GHOSTS, DRAWS = frozenset({"piece"}), frozenset({"cutline", "suspension"})
DESK = StageDesk(standpoint="corner", keeps=KEEPS, ghosts=GHOSTS, draws=DRAWS, tags="openings")
