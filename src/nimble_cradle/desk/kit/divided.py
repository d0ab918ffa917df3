"""The window divided between the bay and the sheet: the border can be dragged or stepped, and rests at
widths that have proved good."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QSplitter, QSplitterHandle, QWidget

from nimble_cradle.desk.kit.look import look

NARROWEST, USUAL, TWO_COLUMNS = 420, 507, 760
"""Widths of the sheet in pixels: the least that holds a field, the usual one, the first that holds two
columns."""
SNAP = 24
"""Pixels from a good width within which the border goes there."""
LEAST_BAY = 300
"""Pixels that the bay keeps."""
MOST_SHARE = 2 / 3
"""Share of the window that the sheet takes at most: the bay must still be seen."""
FIRST_SHARE = 0.4
"""Share that the sheet takes of a new window: at 1280 wide the usual width, at 1920 two columns."""


class Border(QSplitterHandle):
    """The border with its grip; taken by hand it goes to the pointer, or to a good width near it."""

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(look().line))
        grip = QRectF(0, 0, self.width(), 46)
        grip.moveCenter(QPointF(self.rect().center()))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(look().edge))
        painter.drawRoundedRect(grip, 3, 3)
        painter.end()


class Divided(QSplitter):
    """The bay at the left, the sheet at the right. ``shared``: the user gave the sheet this share of the
    width."""

    shared = pyqtSignal(float)

    def __init__(self, bay: QWidget, sheet: QWidget, share: float | None) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.share = share
        self.setChildrenCollapsible(False)
        self.setHandleWidth(6)
        bay.setMinimumWidth(LEAST_BAY)
        sheet.setMinimumWidth(NARROWEST)
        self.addWidget(bay)
        self.addWidget(sheet)
        self.setStretchFactor(0, 1)
        border = self.handle(1)
        assert border is not None
        border.setToolTip("Drag, or Alt+Left and Alt+Right")
        border.setAccessibleName("Border between the bay and the sheet")
        self.splitterMoved.connect(lambda *_: self._dragged())

    def createHandle(self) -> QSplitterHandle:
        return Border(self.orientation(), self)

    def good_widths(self) -> list[int]:
        """Widths at which the border rests, the narrowest first."""
        most = self.most()
        return sorted({min(width, most) for width in (NARROWEST, USUAL, TWO_COLUMNS, most)})

    def most(self) -> int:
        """The widest that the sheet may be."""
        return max(NARROWEST, min(round(MOST_SHARE * self.width()), self.width() - LEAST_BAY - 6))

    def _dragged(self) -> None:
        self.set_sheet(_near(self.sizes()[1], self.good_widths()))

    def set_sheet(self, width: int) -> None:
        """Give the sheet a width, and remember it as a share."""
        width = max(NARROWEST, min(width, self.most()))
        self.share = width / max(1, self.width())
        self._give(width)
        self.shared.emit(self.share)

    def _give(self, width: int) -> None:
        self.blockSignals(True)
        self.setSizes([self.width() - 6 - width, width])
        self.blockSignals(False)

    def step(self, by: int) -> None:
        """The next good width: 1 wider, -1 narrower."""
        now = self.sizes()[1]
        wider, narrower = ([w for w in self.good_widths() if (w - now) * way > 2] for way in (1, -1))
        if by > 0 and wider:
            self.set_sheet(wider[0])
        elif by < 0 and narrower:
            self.set_sheet(narrower[-1])

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        share = FIRST_SHARE if self.share is None else self.share
        width = round(share * self.width())
        self._give(max(NARROWEST, min(_near(width, self.good_widths()), self.most())))


def _near(width: int, good: list[int]) -> int:
    """A good width within reach, or the width itself."""
    best = min(good, key=lambda g: abs(g - width))
    return best if abs(best - width) <= SNAP else width
