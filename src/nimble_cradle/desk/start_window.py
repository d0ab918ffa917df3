"""The door: jobs that were open, a new one, the demos, a file dropped on it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QImage, QPainter, QPen
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QMainWindow,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from nimble_cradle.demo import DEMOS
from nimble_cradle.desk.dropped import dropped_job
from nimble_cradle.desk.help_page import help_lines
from nimble_cradle.desk.kit.ask_file import file_to_open
from nimble_cradle.desk.kit.flow import flow
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.look import look, px, worn
from nimble_cradle.desk.kit.notice import Notice
from nimble_cradle.desk.kit.words import button, heading, part, words
from nimble_cradle.desk.new_job_page import NewJobPage
from nimble_cradle.desk.recent import HIGH, WIDE, Recent, picture_of, recent_jobs
from nimble_cradle.job.base import JobError
from nimble_cradle.judge.stages import NOT_APPROVED, STAGES

DEMO_WORDS = {"light-truck": "A light truck gets a diesel", "hatchback": "A hatchback, engine across the car"}


class Card(QAbstractButton):
    """A job that was open: its picture, its name, what is open in it."""

    def __init__(self, job: Recent) -> None:
        super().__init__()
        self.job, self.image = job, picture_of(job)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"Open {job.name}")
        self.setAccessibleDescription(job.open)
        self.setToolTip(job.path)

    def sizeHint(self) -> QSize:
        return QSize(WIDE + 2, HIGH + px(72))

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.fillRect(box, QColor(look().sheet))
        self._picture(painter, QRectF(1, 1, box.width() - 1, HIGH))
        room = QRectF(10, HIGH + 4, box.width() - 20, px(20))
        _line(painter, room, self.job.name, True, look().ink)
        _line(painter, room.translated(0, px(20)), self.job.open or "not looked at yet", False, look().soft)
        _line(
            painter,
            room.translated(0, px(40)),
            f"{Path(self.job.path).name}, {_day(self.job)}",
            False,
            look().soft,
        )
        seen = self.hasFocus() or self.underMouse()
        painter.setPen(QPen(QColor(look().accent if seen else look().line), 2 if seen else 1))
        painter.drawRect(box)
        painter.end()

    def _picture(self, painter: QPainter, room: QRectF) -> None:
        if self.image.isNull():
            painter.fillRect(room, QColor(look().band))
            painter.setPen(QColor(look().soft))
            painter.setFont(worn().font())
            painter.drawText(room, int(Qt.AlignmentFlag.AlignCenter), "no picture yet")
        else:
            painter.drawImage(room, self.image, QRectF(QImage.rect(self.image)))


def _line(painter: QPainter, room: QRectF, text: str, bold: bool, ink: str) -> None:
    font = worn().font(bold=bold)
    painter.setFont(font)
    painter.setPen(QColor(ink))
    shown = QFontMetrics(font).elidedText(text, Qt.TextElideMode.ElideRight, int(room.width()))
    painter.drawText(room, int(Qt.AlignmentFlag.AlignVCenter), shown)


def _day(job: Recent) -> str:
    """When it was open last, by the clock of this machine."""
    try:
        return datetime.fromisoformat(job.when).astimezone().strftime("%d %b %Y")
    except ValueError:
        return ""


class StartWindow(QMainWindow):
    """Opens jobs in windows of their own and goes when one is open. open_job, begin_job, demo: given by
    who made it; each gives a window, or raises JobError."""

    def __init__(
        self,
        open_job: Callable[[Path], Any],
        begin_job: Callable[[Path, Any], Any],
        demo: Callable[[str], Any],
    ) -> None:
        super().__init__()
        self._open_job, self._begin_job, self._demo = open_job, begin_job, demo
        self.opened: list[Any] = []
        self.setWindowTitle("Nimble Cradle")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.notice = Notice()
        whole = QWidget()
        whole.setObjectName("start")
        across = QHBoxLayout(whole)
        across.setContentsMargins(28, 22, 20, 16)
        across.setSpacing(28)
        across.addLayout(self._left())
        across.addWidget(self._right(), 1)
        self.setCentralWidget(whole)

    def _left(self) -> QVBoxLayout:
        """What can be begun."""
        column = QVBoxLayout()
        column.setSpacing(10)
        column.addWidget(heading("Nimble Cradle"))
        column.addWidget(words("An engine and gearbox into a chassis that never had them."))
        column.addWidget(self.notice)
        column.addWidget(part("Begin"))
        column.addWidget(
            button("New job …", self.ask_new, "Five questions, then what to measure first", "main")
        )
        column.addWidget(button("Open a job …", self.ask_open, "A file that ends in .cradle"))
        column.addWidget(words("Or drop a job's file anywhere on this window."))
        column.addWidget(part("Look round in a made-up job"))
        for name in DEMOS:
            column.addWidget(button(DEMO_WORDS.get(name, name), partial(self.demo, name)))
        column.addStretch(1)
        caution = words(NOT_APPROVED, "caution")
        caution.setAccessibleName("Caution")
        column.addWidget(caution)
        holder = column
        for k in range(holder.count()):
            item = holder.itemAt(k)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.setFixedWidth(px(360))
        return column

    def _right(self) -> QWidget:
        """The jobs that were open."""
        page = QScrollArea()
        page.setWidgetResizable(True)
        page.setFrameShape(QFrame.Shape.NoFrame)
        page.setAccessibleName("Jobs that were open")
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(part("Your jobs, the last one first"))
        self.cards = [Card(job) for job in recent_jobs()]
        for card in self.cards:
            card.clicked.connect(lambda _=False, c=card: self.open(Path(c.job.path)))
            card.setFixedSize(card.sizeHint())
        if self.cards:
            column.addWidget(flow(self.cards, 14))
        else:
            column.addWidget(
                words("Nothing was open yet. A new job asks five things, then lists what to measure.")
            )
        if len(self.cards) < 4:
            column.addWidget(part("What it does, in the order of the trade"))
            for stage in STAGES:
                column.addWidget(words(f"{BOLD}{stage.name}{PLAIN}  {help_lines(stage.id)[0]}", ""))
        column.addStretch(1)
        page.setWidget(inner)
        return page

    def _opened(self, what: Callable[[], Any]) -> Any:
        """A window, and this one goes; or one sentence here why not."""
        try:
            window = what()
        except JobError as error:
            self.notice.setText(error.message)
            self.notice.show()
            return None
        self.opened.append(window)
        self.hide()
        return window

    def open(self, path: Path) -> Any:
        """Open a job."""
        return self._opened(lambda: self._open_job(path))

    def demo(self, name: str) -> Any:
        """Open a demo."""
        return self._opened(lambda: self._demo(name))

    def ask_open(self) -> None:
        """Ask for a job and open it."""
        if path := file_to_open(self, "Open a job", "Jobs (*.cradle *.previous)"):
            self.open(path)

    def ask_new(self) -> None:
        """Five questions, then the new job."""
        page = NewJobPage(self, Path.home())
        if page.exec():
            self._opened(lambda: self._begin_job(page.path, page.answers))

    def dragEnterEvent(self, event: Any) -> None:
        if dropped_job(event) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: Any) -> None:
        path = dropped_job(event)
        if path is not None:
            event.acceptProposedAction()
            self.open(path)
