"""A window on a job file: saving, opening, closing, and what it says."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QLabel, QMainWindow, QMessageBox

from nimble_cradle.design.begin import Answers
from nimble_cradle.desk.bay_view.view import BayView
from nimble_cradle.desk.kit.ask_file import file_to_open, file_to_write
from nimble_cradle.desk.kit.notice import Notice
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.new_job_page import NewJobPage
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Show


class JobWindow(QMainWindow):
    """What a window does with its file."""

    session: Session
    notice: Notice
    trouble: QLabel
    bubble: QLabel
    view: BayView
    _bubble_timer: QTimer

    def open(self, path: Path) -> Any:
        """Open a job in a window of its own; told by the whole window."""
        raise NotImplementedError

    def begin(self, path: Path, answers: Answers) -> Any:
        """Begin a job at ``path``; told by the whole window."""
        raise NotImplementedError

    def finish(self) -> None:
        """Let go of the file and the picture; told by the whole window."""
        raise NotImplementedError

    def say(self, sentence: str) -> None:
        """A passing word over the view."""
        if not sentence:
            return
        self.bubble.setText(sentence)
        self.bubble.setMaximumWidth(max(300, self.view.gl.width() - 40))
        self.bubble.setWordWrap(len(sentence) > 80)
        self.bubble.adjustSize()
        self.bubble.move(12, max(8, self.view.gl.height() - self.bubble.height() - 34))
        self.bubble.show()
        self.bubble.raise_()
        self._bubble_timer.start(4500)

    def notify(self, sentence: str) -> None:
        """A sentence over the view that stays; empty takes it away."""
        self.notice.setText(sentence)
        self.notice.setVisible(bool(sentence))

    def _trouble(self, trouble: str) -> None:
        """The journal's trouble, over the view for as long as it lasts."""
        self.trouble.setText(
            f"Not safe yet: {trouble}. Make room, or Save as on another drive; what is missing is written as"
            " soon as that can be."
            if trouble
            else ""
        )
        self.trouble.setVisible(bool(trouble))

    def turn_units(self) -> None:
        """The next way of showing lengths."""
        shows = [s for s, _ in _SHOWS]
        at = shows.index(self.session.job.show) if self.session.job.show in shows else 0
        show, name = _SHOWS[(at + 1) % len(_SHOWS)]
        self.session.set_value("show", show, f"Lengths in {name}")
        self.say(f"Lengths in {name}.")

    def save(self) -> bool:
        """Save; says in a sentence why not."""
        try:
            self.session.save()
            return True
        except JobError as error:
            if self.session.place.read_only:
                return self.ask_save_as()
            self.notify(error.message)
            return False

    def ask_save_as(self) -> bool:
        """Ask for a name and save there."""
        here, kinds = self.session.place.path, "Jobs (*.cradle)"
        path = file_to_write(self, "Save the job as", here, kinds, ".cradle")
        return path is not None and self.save_as(path)

    def save_as(self, path: Path) -> bool:
        """Save under another name."""
        try:
            self.session.save_as(path)
            self.notice.hide()
            return True
        except JobError as error:
            self.notify(error.message)
            return False

    def ask_new(self) -> None:
        """Ask what is asked of a new job, and begin it."""
        page = NewJobPage(self, self.session.place.path.parent)
        if page.exec():
            self.begin(page.path, page.answers)

    def ask_open(self) -> None:
        """Ask for a job and open it in its own window."""
        if path := file_to_open(self, "Open a job", "Jobs (*.cradle *.previous)", self.session.place.path):
            self.open(path)

    def closeEvent(self, event: Any) -> None:
        if self.session.place.unsaved and not self._may_close():
            event.ignore()
            return
        self.finish()
        event.accept()

    def _may_close(self) -> bool:
        """Ask what becomes of what is not saved; False to stay."""
        place = self.session.place
        place.flush()
        kept = not place.read_only and not place.trouble
        asked = QMessageBox(self)
        asked.setWindowTitle("Not saved")
        asked.setTextFormat(Qt.TextFormat.PlainText)
        asked.setText(f"{self.session.job.name} has changes that are not saved.")
        asked.setInformativeText(self._lost_words(kept))
        role = QMessageBox.ButtonRole
        save = asked.addButton("Save as …" if place.read_only else "Save", role.AcceptRole)
        leave = asked.addButton("Leave for next time", role.ActionRole) if kept else None
        drop = asked.addButton("Discard the changes" if kept else "Let them go", role.DestructiveRole)
        stay = asked.addButton("Stay", role.RejectRole)
        asked.setEscapeButton(stay)
        asked.exec()
        pressed = asked.clickedButton()
        if pressed is drop and kept:
            place.close(keep_journal=False)
        return (pressed is save and self.save()) or (pressed is not None and pressed in (leave, drop))

    def _lost_words(self, kept: bool) -> str:
        """What happens to the changes."""
        place = self.session.place
        if kept:
            return (
                "Left for next time, the journal beside the file brings them back. Discarded, they are gone"
                " and the file stays as it was saved."
            )
        if place.read_only:
            return (
                "This window is read-only and keeps no journal: changes that are not saved under another"
                " name are gone."
            )
        return f"What is not saved is gone: {place.trouble}."


_SHOWS = (
    (Show(length="mm"), "millimetres"),
    (Show(length="in"), "inches, decimal"),
    (Show(length="in", fraction=16), "inches to 1/16"),
    (Show(length="in", fraction=32), "inches to 1/32"),
)
