"""Words on the screen. What stands in a file is never markup: a label shows every letter as it is, and bold
only where this program's own marks say so."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QWidget

from nimble_cradle.desk.kit.look import look

BOLD, PLAIN = "\ue000", "\ue001"
"""Bold from here, and no longer (two letters that no font has)."""


class Label(QLabel):
    """A label of plain text, with BOLD and PLAIN in it where words are to stand out."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setText(text)

    def setText(self, text: str | None) -> None:
        text = text or ""
        if BOLD in text:
            self.setTextFormat(Qt.TextFormat.RichText)
            shown = escape(text, quote=False).replace("\n", "<br>")
            super().setText(shown.replace(BOLD, "<b>").replace(PLAIN, "</b>"))
        else:
            self.setTextFormat(Qt.TextFormat.PlainText)
            super().setText(text.replace(PLAIN, ""))

    def add_link(self, words: str) -> None:
        """A last line of this program's own words that can be clicked, or reached by Tab."""
        shown = escape(self.text(), quote=False).replace("\n", "<br>")
        body = self.text() if self.textFormat() == Qt.TextFormat.RichText else shown
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setTextInteractionFlags(Qt.TextInteractionFlag.TextBrowserInteraction)
        super().setText(f'{body}<br><a href="more" style="color:{look().accent}">{escape(words)}</a>')


def plain(text: str) -> str:
    """Text for a tool tip or a question, which the toolkit would take for markup where it looks like it."""
    return f"<qt>{escape(text)}</qt>" if "<" in text or "&" in text else text
