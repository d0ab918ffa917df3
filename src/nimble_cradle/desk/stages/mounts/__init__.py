"""The mounts' sheet."""

from __future__ import annotations

from nimble_cradle.desk.kit.stage_desk import StageDesk

DESK = StageDesk(
    home=frozenset({"mount"}),
    keeps=frozenset({"mount"}),
    draws=frozenset({"alone"}),
    ghosts=frozenset({"piece"}),
    tags="loads",
    shows_cases=True,
)
