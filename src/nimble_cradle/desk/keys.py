"""Every key, on one page."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from nimble_cradle.desk.style import ACCENT, SOFT

KEYS: tuple[tuple[str, tuple[tuple[str, str], ...]], ...] = (
    (
        "Move the engine (on Position)",
        (
            ("↑  ↓", "forward, back"),
            ("←  →", "left, right, as seated in the vehicle"),
            ("Page up, Page down", "up, down"),
            ("Ctrl ↑  Ctrl ↓", "nose up, nose down"),
            ("Ctrl ←  Ctrl →", "clock to the left, to the right"),
            ("Ctrl Page up, down", "nose to the left, to the right"),
            ("1  2  3", "step 0.1, 1, 10 mm"),
            ("4  5", "turn 0.1, 1 deg"),
            ("L", "set level across"),
            ("Shift with an arrow", "push until it stops"),
            ("P", "arrows and buttons push"),
        ),
    ),
    (
        "Seats (on Position)",
        (
            ("S", "settle the engine"),
            ("T", "work out what each cut buys"),
            (".  ,  A", "next, last, take it"),
        ),
    ),
    (
        "Survey",
        (
            ("Enter", "take the reading; the next one waits"),
            ("P", "another point (on a table)"),
            ("Delete, R", "drop or use again, retake the chosen reading"),
            ("N, W", "take the proposed reading next, how a reading is judged"),
        ),
    ),
    ("Gaps", (("G, Shift G", "next gap, last gap"), ("W", "working of the chosen gap"))),
    (
        "Stages",
        (
            ("F2 … F9", "Survey … Logbook"),
            ("Tab, Shift Tab", "next field, last field"),
            ("Enter", "take what was typed"),
            ("Esc", "put back what was there, put the working away"),
        ),
    ),
    (
        "Look",
        (
            (
                "Ctrl 1 … Ctrl 6",
                "driver's side, passenger's side, over the bonnet, front, underneath, front corner",
            ),
            ("Drag, wheel", "turn freely, come nearer"),
        ),
    ),
    (
        "Job",
        (
            ("Ctrl Z, Ctrl Shift Z", "undo, redo"),
            ("Ctrl S, Ctrl Shift S", "save, save as"),
            ("Ctrl N, Ctrl O", "new job, open a job"),
            ("Ctrl U", "mm, inches, 1/16, 1/32"),
            ("Ctrl P", "write the shop pack"),
            ("F1", "this page"),
        ),
    ),
)


class KeysPage(QDialog):
    """The one-page key list."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keys")
        self.resize(1120, 640)
        columns = QHBoxLayout()
        columns.setSpacing(30)
        for part in (KEYS[:3], KEYS[3:]):
            text = ""
            for title, rows in part:
                text += (
                    f"<p style='color:{ACCENT}; margin-bottom:2px'><b>{escape(title)}</b></p><table"
                    " cellpadding=3>"
                )
                text += (
                    "".join(
                        f"<tr><td width=190><b>{escape(k)}</b></td><td"
                        f" style='color:{SOFT}'>{escape(what)}</td></tr>"
                        for k, what in rows
                    )
                    + "</table>"
                )
            label = QLabel(text)
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
