"""The chassis' sheet."""

from __future__ import annotations

from nimble_cradle.desk.kit.stage_desk import StageDesk

DESK = StageDesk(standpoint="corner", keeps=frozenset({"item"}), ghosts=frozenset({"piece"}), tags="openings")
