"""How the screen looks just now: the colours of the hall, the size of the text, the size of what a glove
has to hit. Painters ask ``look()`` every time they paint, so a change is seen at once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType

from PyQt6.QtGui import QFont

FONT = "B612"
STATES = ("holds", "near", "fails", "open")
TEXT_STEPS = (1.0, 1.2, 1.45)
"""How many times as large as usual the text may be: the middle one for a bench at arm's length, the
largest for a screen on the wall (chosen by trial)."""
GLOVE_PX = 44
"""Least height in pixels of what a gloved finger hits (common practice, no source)."""


@dataclass(frozen=True)
class Colours:
    """Every colour of the screen but those of the bay's bodies. inks, pales: of the states by name: for words
    and shapes, and for the ground behind them."""

    paper: str
    sheet: str
    field: str
    band: str
    line: str
    edge: str
    ink: str
    soft: str
    accent: str
    on_accent: str
    accent_pale: str
    caution: str
    caution_edge: str
    bay_top: str
    bay_foot: str
    inks: Mapping[str, str]
    pales: Mapping[str, str]
    outline_px: int = 1


def _of_states(holds: str, near: str, fails: str, open_: str) -> Mapping[str, str]:
    return MappingProxyType(dict(zip(STATES, (holds, near, fails, open_), strict=True)))


LIGHT = Colours(
    paper="#f4f1ea",
    sheet="#fbfaf6",
    field="#ffffff",
    band="#ece8df",
    line="#d5cfc2",
    edge="#a49d8e",
    ink="#23272b",
    soft="#52575e",
    accent="#0b5f6b",
    on_accent="#ffffff",
    accent_pale="#dbe9ea",
    caution="#fdf3d6",
    caution_edge="#c28a12",
    bay_top="#e3e7e8",
    bay_foot="#f3f1ea",
    inks=_of_states("#25592f", "#744900", "#9c1f15", "#51565c"),
    pales=_of_states("#e3efe2", "#f8ead0", "#f8dedb", "#ebe9e4"),
)
DARK = Colours(
    paper="#1b1f22",
    sheet="#22272b",
    field="#171a1d",
    band="#2c3135",
    line="#3a4147",
    edge="#6b757d",
    ink="#e9e6de",
    soft="#aab1b6",
    accent="#5cc1cb",
    on_accent="#10262a",
    accent_pale="#24434a",
    caution="#3a3118",
    caution_edge="#e0a93a",
    bay_top="#1d2225",
    bay_foot="#2a3034",
    inks=_of_states("#8fd69a", "#f5c065", "#ff9f92", "#b1b8be"),
    pales=_of_states("#22392a", "#40331a", "#4a2521", "#2c3135"),
)
BRIGHT = replace(
    LIGHT,
    paper="#ffffff",
    sheet="#ffffff",
    band="#e8e8e8",
    line="#6a6a6a",
    edge="#000000",
    ink="#000000",
    soft="#000000",
    accent="#004550",
    accent_pale="#cfe6e9",
    bay_top="#ffffff",
    bay_foot="#ffffff",
    inks=_of_states("#0f4a1c", "#5c3800", "#8a0f06", "#303438"),
    outline_px=2,
)
HALLS: Mapping[str, Colours] = MappingProxyType({"light": LIGHT, "dark": DARK, "bright": BRIGHT})
"""The sheets there are: for a light hall, for a dark one, and with the strongest contrast for bright sun."""


@dataclass(frozen=True)
class Look:
    """What is worn: the hall's colours, how many times as large as usual the text is, and whether
    controls are made for gloves."""

    hall: str = "light"
    text: float = 1.0
    gloves: bool = False

    @property
    def colours(self) -> Colours:
        """The colours of the hall."""
        return HALLS[self.hall]

    def px(self, size: float) -> int:
        """Pixels of a size that holds text, which was thought out for text of the usual size."""
        return round(size * self.text)

    def font(self, points: float = 11, bold: bool = False) -> QFont:
        """The font of so many points at the usual size."""
        font = QFont(FONT)
        font.setPointSizeF(points * self.text)
        font.setBold(bold)
        return font


_WORN = [Look()]
"""The one look that there is at a time: the whole program wears it, as it wears one font."""


def worn() -> Look:
    """The present look."""
    return _WORN[0]


def look() -> Colours:
    """The present colours."""
    return worn().colours


def px(size: float) -> int:
    """Pixels at the present text size."""
    return worn().px(size)


def put_on(new: Look) -> None:
    """Make ``new`` the look from now on; who shows it is told by the window."""
    _WORN[0] = new
