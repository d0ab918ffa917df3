"""What a body looks like: its role by colour, and by a pattern that is told in grey and by colour-blind
eyes."""

from __future__ import annotations

from dataclasses import dataclass

from nimble_cradle.desk.kit.look import worn

SHEET_OPACITY = 0.10
"""A panel lets through what is behind it; its outline says where it is."""
FAINT = 0.16
"""Share of its colour that is left of what was not chosen."""
GHOST = 0.30
"""Share that is left of the engine where parts behind it are what matters."""


@dataclass(frozen=True)
class Role:
    """light, dark: colour in the halls. pattern: how it is told without colour (``dots``, ``seam`` or empty).
    opacity: of its surface; shiny: share of light thrown back as by a casting."""

    light: str
    dark: str
    pattern: str = ""
    opacity: float = 1.0
    shiny: float = 0.0

    @property
    def colour(self) -> str:
        """In the present hall."""
        return self.dark if worn().hall == "dark" else self.light


ROLES: dict[str, Role] = {
    "there": Role("#8b969e", "#6d7880"),
    "sheet": Role("#8f9ca4", "#7d8b93", opacity=SHEET_OPACITY),
    "powertrain": Role("#dcd6c8", "#cfc8b8", shiny=0.12),
    "hot": Role("#a9694c", "#c07a58", shiny=0.12),
    "made": Role("#0b5f6b", "#35aab6", "seam"),
    "moves": Role("#a89fbd", "#8c82a6", "dots"),
    "scan": Role("#9aa7a0", "#7f8d86", opacity=0.45),
}
"""L* in grey print: there 61, powertrain 86, hot 51, made 37, moves 67 (computed from sRGB)."""
_ITEM_ROLE = {"sheet": "sheet", "hot": "hot", "steering": "moves", "moving": "moves"}
FOULS = "#b3261e"
"""Ink of what fouls: hatched, with a rim."""


def item_role(neighbour: str, moves: bool, scan: bool) -> str:
    """The role of a thing in the bay by its kind; what moves with wheel or steering is told so."""
    if scan:
        return "scan"
    return "moves" if moves else _ITEM_ROLE.get(neighbour, "there")


def piece_role(neighbour: str) -> str:
    """The role of a piece of the powertrain."""
    return "hot" if neighbour == "hot" else "powertrain"


def rgb(colour: str) -> tuple[float, float, float]:
    """#rrggbb as three shares."""
    return int(colour[1:3], 16) / 255, int(colour[3:5], 16) / 255, int(colour[5:7], 16) / 255
