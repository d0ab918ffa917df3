"""The position's sheet and its rooms."""

from __future__ import annotations

from nimble_cradle.desk.kit.stage_desk import StageDesk
from nimble_cradle.desk.stages.position.keys import GAP_KEYS, MOVE_KEYS, SEAT_KEYS

DESK = StageDesk(keeps=frozenset({"item", "piece", "mount"}), keys=(MOVE_KEYS, SEAT_KEYS, GAP_KEYS))
