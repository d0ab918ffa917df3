"""Words on the screen. What stands in a file is never markup: a label shows every letter as it is, and bold
only where this program's own marks say so."""

from __future__ import annotations

import re
from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QWidget

from nimble_cradle.desk.kit.look import look

BOLD, PLAIN = "\ue000", "\ue001"
"""Bold from here, and no longer (two letters that no font has)."""

HELD = "\u00a0"
"""A space at which no line ends."""
_UNIT = re.compile(
    r"(?<=\d) (?=(?:%|(?:mm|cm|m|in|ft|deg|N|kN|Nm|N/mm|MPa|kg|g|Hz|rpm|s|h|W|kW)(?![A-Za-z])))"
)


def bound(text: str) -> str:
    """Text in which no line ends between a number and its unit."""
    return _UNIT.sub(HELD, text)


class Label(QLabel):
    """A label of plain text, with BOLD and PLAIN in it where words are to stand out. A number stays in one
    line with its unit."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setText(text)

    def setText(self, text: str | None) -> None:
        text = bound(text or "")
        if BOLD in text:
            self.setTextFormat(Qt.TextFormat.RichText)
            shown = escape(text, quote=False).replace("\n", "<br>")
            super().setText(shown.replace(BOLD, "<b>").replace(PLAIN, "</b>"))
        else:
            self.setTextFormat(Qt.TextFormat.PlainText)
            super().setText(text.replace(PLAIN, ""))

    def text(self) -> str:
        """What was set, as it was."""
        return super().text().replace(HELD, " ")

    def add_link(self, words: str) -> None:
        """A last line of this program's own words that can be clicked, or reached by Tab."""
        shown = escape(super().text(), quote=False).replace("\n", "<br>")
        body = super().text() if self.textFormat() == Qt.TextFormat.RichText else shown
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setTextInteractionFlags(Qt.TextInteractionFlag.TextBrowserInteraction)
        super().setText(f'{body}<br><a href="more" style="color:{look().accent}">{escape(words)}</a>')


def plain(text: str) -> str:
    """Text for a tool tip or a question, which the toolkit would take for markup where it looks like it."""
    return f"<qt>{escape(text)}</qt>" if "<" in text or "&" in text else text
