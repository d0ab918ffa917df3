"""The two bars that are always in sight: the stages in the order of the trade, and the six tell-tales."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from nimble_cradle.desk.kit.label import plain
from nimble_cradle.desk.kit.style import (
    ACCENT,
    FONT,
    INK,
    LINE,
    PAPER,
    SHEET,
    SOFT,
    STAGE_STATE,
    STATE_INK,
    STATE_PALE,
    paint_mark,
)
from nimble_cradle.judge.verdict import StageState
from nimble_cradle.telltales import TellTale


class _Cell(QWidget):
    """A clickable, focusable painted cell."""

    pressed = pyqtSignal()

    def __init__(self, height: int) -> None:
        super().__init__()
        self.setFixedHeight(height)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.hover = False

    def sizeHint(self) -> QSize:
        return QSize(150, self.height())

    def mousePressEvent(self, event: Any) -> None:
        self.pressed.emit()

    def keyPressEvent(self, event: Any) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.pressed.emit()
        else:
            super().keyPressEvent(event)

    def enterEvent(self, event: Any) -> None:
        self.hover = True
        self.update()

    def leaveEvent(self, event: Any) -> None:
        self.hover = False
        self.update()


def elided(text: str, font: QFont, width: float) -> str:
    """Text shortened with … to a width in pixels."""
    return QFontMetricsF(font).elidedText(text, Qt.TextElideMode.ElideRight, width)


def stage_word(state: StageState) -> str:
    """How a stage stands, in two or three words: as long as figures are not said, how many are measured."""
    if state.state == "not begun":
        return "not begun"
    if state.measured + state.assumed < state.asked_for:
        return f"{state.measured} of {state.asked_for} measured"
    n = len(state.questions)
    if state.state == "holds":
        return f"on {state.assumed} assumed" if state.assumed else "holds"
    return f"{n} question{'s' if n != 1 else ''}"


class StagePlate(_Cell):
    """One stage: its number, name and state."""

    def __init__(self, number: int, state: StageState) -> None:
        super().__init__(54)
        self.number, self.state, self.chosen = number, state, False
        self.setToolTip(f"F{number + 1}")

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect())
        painter.fillRect(box, QColor(SHEET if self.chosen else ("#ebe7dd" if self.hover else PAPER)))
        painter.setPen(QPen(QColor(LINE), 1))
        painter.drawLine(box.topRight(), box.bottomRight())
        if self.chosen:
            painter.fillRect(QRectF(0, 0, box.width(), 4), QColor(ACCENT))
        if self.hasFocus():
            painter.setPen(QPen(QColor(ACCENT), 2))
            painter.drawRect(box.adjusted(2, 2, -2, -2))
        paint_mark(painter, QRectF(10, 19, 17, 17), STAGE_STATE[self.state.state])
        bold, small = QFont(FONT, 11, QFont.Weight.Bold), QFont(FONT, 11)
        painter.setPen(QColor(ACCENT if self.chosen else INK))
        painter.setFont(bold)
        painter.drawText(
            QRectF(36, 7, box.width() - 38, 22),
            Qt.AlignmentFlag.AlignVCenter,
            elided(self.state.name, bold, box.width() - 40),
        )
        painter.setPen(QColor(SOFT))
        painter.setFont(small)
        word = stage_word(self.state)
        painter.drawText(
            QRectF(36, 28, box.width() - 38, 18),
            Qt.AlignmentFlag.AlignVCenter,
            elided(word, small, box.width() - 40),
        )
        painter.end()


class StageBar(QWidget):
    """All stages, with the chosen one marked."""

    wanted = pyqtSignal(str)

    def __init__(self, states: Sequence[StageState]) -> None:
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.plates: dict[str, StagePlate] = {}
        for i, state in enumerate(states):
            plate = StagePlate(i + 1, state)
            plate.pressed.connect(lambda k=state.id: self.wanted.emit(k))
            self.plates[state.id] = plate
            layout.addWidget(plate)

    def show_states(self, states: Sequence[StageState], chosen: str) -> None:
        for state in states:
            plate = self.plates[state.id]
            plate.state, plate.chosen = state, state.id == chosen
            plate.setAccessibleName(f"{state.name}: {state.state}")
            plate.update()


class TellTaleCell(_Cell):
    """One deciding number with its word, shape and colour."""

    def __init__(self) -> None:
        super().__init__(112)
        self.tale: TellTale | None = None

    def show_tale(self, tale: TellTale) -> None:
        if tale != self.tale:
            self.tale = tale
            self.setAccessibleName(f"{tale.title}: {tale.value}, {tale.word}")
            self.setToolTip(plain(f"{tale.title}: {tale.value}, {tale.word}. {tale.cause}."))
            self.update()

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect())
        tale = self.tale
        state = tale.state if tale else "open"
        painter.fillRect(
            box, QColor(STATE_PALE[state] if state in ("fails", "near") or self.hover else SHEET)
        )
        painter.setPen(QPen(QColor(LINE), 1))
        painter.drawLine(box.topRight(), box.bottomRight())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(STATE_INK[state]))
        painter.drawPolygon(
            QPolygonF(
                [
                    box.topLeft(),
                    box.topRight(),
                    box.topRight() + (box.bottomLeft() - box.topLeft()) * 0.045,
                    box.topLeft() + (box.bottomLeft() - box.topLeft()) * 0.045,
                ]
            )
        )
        if self.hasFocus():
            painter.setPen(QPen(QColor(ACCENT), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(2, 2, -2, -2))
        if tale is None:
            painter.end()
            return
        small, big, word = (
            QFont(FONT, 11),
            QFont(FONT, 15, QFont.Weight.Bold),
            QFont(FONT, 11, QFont.Weight.Bold),
        )
        wide = box.width() - 20
        painter.setPen(QColor(SOFT))
        painter.setFont(small)
        painter.drawText(
            QRectF(11, 7, wide, 19), Qt.AlignmentFlag.AlignVCenter, elided(tale.title, small, wide)
        )
        painter.setPen(QColor(INK))
        painter.setFont(big)
        painter.drawText(
            QRectF(11, 26, wide, 25), Qt.AlignmentFlag.AlignVCenter, elided(tale.value, big, wide)
        )
        paint_mark(painter, QRectF(11, 54, 13, 13), state)
        painter.setPen(QColor(STATE_INK[state]))
        painter.setFont(word)
        painter.drawText(
            QRectF(30, 51, wide - 18, 19), Qt.AlignmentFlag.AlignVCenter, elided(tale.word, word, wide - 18)
        )
        painter.setPen(QColor(SOFT))
        painter.setFont(small)
        painter.drawText(
            QRectF(11, 71, wide + 6, 38),
            int(Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap),
            tale.cause,
        )
        painter.end()


class TellTaleBar(QWidget):
    """The six, each a door to its cause."""

    wanted = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.cells = [TellTaleCell() for _ in range(6)]
        for cell in self.cells:
            cell.pressed.connect(lambda c=cell: self.wanted.emit(c.tale))
            layout.addWidget(cell)

    def show_tales(self, tales: Sequence[TellTale]) -> None:
        for cell, tale in zip(self.cells, tales, strict=True):
            cell.show_tale(tale)
