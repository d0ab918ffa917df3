"""The logbook's sheet."""

from __future__ import annotations

from nimble_cradle.desk.kit.stage_desk import StageDesk

DESK = StageDesk(standpoint="right", keeps=frozenset({"item", "piece", "mount"}))
