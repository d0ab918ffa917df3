"""The powertrain's sheet and its rooms."""

from __future__ import annotations

from nimble_cradle.desk.kit.stage_desk import StageDesk

DESK = StageDesk(standpoint="left", home=frozenset({"piece"}), keeps=frozenset({"piece"}))
