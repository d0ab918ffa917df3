"""Every key, on one page."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from nimble_cradle.desk.keymap import every_group
from nimble_cradle.desk.kit.keymap import KeyGroup
from nimble_cradle.desk.kit.style import ACCENT, SOFT


def _of_group(group: KeyGroup) -> str:
    """A group of keys as rich text."""
    rows = "".join(
        f"<tr><td width=190><b>{escape(key.words)}</b></td>"
        f"<td style='color:{SOFT}'>{escape(key.says)}</td></tr>"
        for key in group.rows
    )
    head = f"<p style='color:{ACCENT}; margin-bottom:2px'><b>{escape(group.title)}</b></p>"
    return f"{head}<table cellpadding=3>{rows}</table>"


class KeysPage(QDialog):
    """The one-page key list."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.resize(1120, 640)
        columns = QHBoxLayout()
        columns.setSpacing(30)
        groups = every_group()
        for part in (groups[:3], groups[3:]):
            label = QLabel("".join(_of_group(group) for group in part))
            label.setWordWrap(True)
            columns.addWidget(label, 1, Qt.AlignmentFlag.AlignTop)
        close = QPushButton("Back to work")
        close.setObjectName("main")
        close.clicked.connect(self.accept)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 14, 22, 16)
        column.addLayout(columns)
        column.addStretch(1)
        column.addWidget(close)
