"""What is left to measure, in the order of the trade: each line opens its place."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter, QPen
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from nimble_cradle.design.to_measure import ToMeasure, to_measure
from nimble_cradle.desk.kit.ask_file import file_to_write
from nimble_cradle.desk.kit.look import look, px, worn
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.state_mark import paint_mark
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.files import replace_file, why
from nimble_cradle.shop.survey_sheet import survey_sheet


class Line(QAbstractButton):
    """One thing to measure: done or how many are left, and the next ones by name."""

    def __init__(self) -> None:
        super().__init__()
        self.line: ToMeasure | None = None
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_line(self, line: ToMeasure) -> None:
        """Show another line."""
        self.line = line
        self.setAccessibleName(f"{line.what}: {self._left()}")
        self.setAccessibleDescription(line.words)
        self.setFixedHeight(self.sizeHint().height())
        self.update()

    def _left(self) -> str:
        return "done" if self.line is None or not self.line.left else f"{self.line.left} left"

    def sizeHint(self) -> QSize:
        return QSize(200, px(50 if self.line is not None and self.line.words else 32))

    def paintEvent(self, event: object) -> None:
        if self.line is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect())
        painter.fillRect(box, QColor(look().accent_pale if self.underMouse() else look().band))
        state = "open" if self.line.left else "holds"
        first = QRectF(8, 0, box.width() - 16, px(32))
        paint_mark(painter, QRectF(8, (first.height() - px(15)) / 2, px(15), px(15)), state)
        self._write(painter, first.adjusted(px(24), 0, 0, 0), state)
        if self.hasFocus():
            painter.setPen(QPen(QColor(look().ink), 2))
            painter.drawRect(box.adjusted(1, 1, -1, -1))
        painter.end()

    def _write(self, painter: QPainter, first: QRectF, state: str) -> None:
        assert self.line is not None
        middle = int(Qt.AlignmentFlag.AlignVCenter)
        painter.setFont(worn().font(bold=True))
        painter.setPen(QColor(look().inks[state]))
        painter.drawText(first, middle | int(Qt.AlignmentFlag.AlignRight), self._left())
        painter.setFont(worn().font())
        painter.setPen(QColor(look().ink))
        font, most = worn().font(), int(first.width() - px(70))
        shown = QFontMetrics(font).elidedText(self.line.what, Qt.TextElideMode.ElideRight, most)
        painter.drawText(first, middle, shown)
        if self.line.words:
            painter.setPen(QColor(look().soft))
            under = first.translated(0, px(20))
            said = painter.fontMetrics().elidedText(
                self.line.words, Qt.TextElideMode.ElideRight, int(under.width())
            )
            painter.drawText(under, middle, said)


class LeftToMeasureRoom(Room):
    """The list, and the same on paper."""

    title, key = "What is left", "left"
    caution, asks = "", False

    def build(self) -> None:
        self.total = words("", "")
        self.column.addWidget(self.total)
        holder = QWidget()
        self.rows = QVBoxLayout(holder)
        self.rows.setContentsMargins(0, 0, 0, 0)
        self.rows.setSpacing(4)
        self.column.addWidget(holder)
        self.lines: list[Line] = []
        self.column.addWidget(
            row(
                button(
                    "Print the blank survey sheet …", self.print_blank, "To take under the car and write on"
                )
            )
        )
        self.column.addWidget(self.refusal)

    def refresh(self) -> None:
        """Count again."""
        told = to_measure(self.session.job)
        left = sum(line.left for line in told)
        self.total.setText(
            f"{left} readings and figures are left. Each line opens the place where it is typed."
            if left
            else "Everything that the program asks for is measured or said."
        )
        while len(self.lines) < len(told):
            made = Line()
            made.clicked.connect(lambda _=False, m=made: self._open(m))
            self.rows.addWidget(made)
            self.lines.append(made)
        for shown, line in zip(self.lines, told, strict=True):
            shown.show_line(line)

    def _open(self, shown: Line) -> None:
        line = shown.line
        if line is not None:
            self.session.door.emit(line.stage, line.room, line.kind, line.key)

    def print_blank(self) -> None:
        """Ask where and write the sheet."""
        first = self.session.place.path.with_suffix(".pdf")
        path = file_to_write(self, "Survey sheet to fill in", first, "PDF (*.pdf)", ".pdf")
        if path is None:
            return
        try:
            replace_file(path, survey_sheet(self.session.job, blank=True))
            self.session.said.emit(f"Written: {path.name}")
        except OSError as error:
            self.refuse(f"It could not be written: {why(error)}.")
