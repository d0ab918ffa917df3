"""Logbook: every named edit with its time, and the user's own notes."""

from __future__ import annotations

from datetime import datetime

from PyQt6.QtWidgets import QLineEdit

from nimble_cradle.desk.kit.fields import TextField
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, part, row, words


def local_time(stamp: str) -> str:
    """A row's time, which is kept in UTC, by the clock of this machine; as it stands where it is no time."""
    try:
        return datetime.fromisoformat(stamp).astimezone().strftime("%Y-%m-%d  %H:%M")
    except ValueError:
        return stamp[:16]


class LogbookSheet(Sheet):
    """What was done, and when."""

    stage, title = "logbook", "Logbook: what was done, and why"

    def build(self) -> None:
        self.name = TextField(self.session, "Job").at("name")
        self.column.addWidget(self.name)
        self.story = words("", "")
        self.column.addWidget(self.story)
        self.count = words()
        self.column.addWidget(self.count)
        self.line = QLineEdit()
        self.line.setAccessibleName("Note for the logbook")
        self.line.setPlaceholderText("Why it was decided so, what to try next …")
        self.line.setObjectName("log note")
        self.line.returnPressed.connect(self.add)
        self.column.addWidget(part("A note"))
        self.column.addWidget(self.line)
        self.column.addWidget(row(button("Write it down", self.add)))
        self.column.addWidget(part("Newest first, by the clock of this machine"))
        self.table = Table(
            ("When", "What"), wide=1, most_rows=8, chosen=lambda key: self._tell(key), row_height=46
        )
        self.table.setAccessibleName("Logbook")
        self.column.addWidget(self.table)
        self.full = words()
        self.column.addWidget(self.full)

    def refresh(self) -> None:
        log = self.session.place.log
        self.story.setText(self.session.job.story)
        self.count.setText(
            f"{len(log)} {'entry' if len(log) == 1 else 'entries'}. They are kept in the job file and in a"
            " journal beside it until you save."
        )
        self.table.fill(
            [
                (str(i), ((local_time(str(r.get("time", ""))), ""), (str(r.get("what", "")), "")))
                for i, r in reversed(list(enumerate(log))[-400:])
            ]
        )
        if not log:
            self.table.fill([("", (("", ""), ("Nothing yet: every change you make is written here.", "")))])

    def _tell(self, key: str) -> None:
        log = self.session.place.log
        if key.isdigit() and int(key) < len(log):
            self.full.setText(str(log[int(key)].get("what", "")))

    def add(self) -> None:
        """Write the note down."""
        text = self.line.text().strip()
        if text:
            self.session.place.note(text)
            self.line.clear()
            self.session.changed.emit()


SHEET = LogbookSheet
