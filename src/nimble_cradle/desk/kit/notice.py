"""Lines over the bay: a notice that can be put away, and trouble that goes by itself."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QWidget

from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.words import button


def trouble_line() -> QLabel:
    """A line for trouble, hidden until there is some."""
    label = Label()
    label.setObjectName("alarm")
    label.setWordWrap(True)
    label.hide()
    return label


class Notice(QWidget):
    """A sentence with a button that puts it away; Esc does so too."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notice")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        line = QHBoxLayout(self)
        line.setContentsMargins(11, 6, 8, 6)
        self.words = Label()
        self.words.setWordWrap(True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        line.addWidget(self.words, 1)
        line.addWidget(button("Put away", self.hide, "Esc", "view"), 0, Qt.AlignmentFlag.AlignTop)
        self.hide()

    def text(self) -> str:
        """What it says."""
        return self.words.text()

    def setText(self, sentence: str) -> None:
        """Say something else."""
        self.words.setText(sentence)
