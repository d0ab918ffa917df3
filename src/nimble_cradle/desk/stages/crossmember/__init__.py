"""The crossmember's sheet."""

from __future__ import annotations

from nimble_cradle.desk.kit.stage_desk import StageDesk

DESK = StageDesk(
    standpoint="under",
    home=frozenset({"crossmember"}),
    keeps=frozenset({"crossmember", "mount"}),
    ghosts=frozenset({"piece"}),
    tags="loads",
)
