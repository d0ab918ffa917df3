"""A photograph of a face with a square or rule in it: click four known points, then the holes; the
perspective is taken out."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen
from PyQt6.QtWidgets import QDialog, QLineEdit, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.survey.photo import Flat, flatten
from nimble_cradle.units import Display, UnitError, parse, show

PICK_PIXELS = 2.0
"""A pick is good to this many pixels of the photograph (common practice, no source)."""


class _Picture(QWidget):
    """The photograph, fitted into the page, with what was picked."""

    def __init__(self, page: PhotoPage, image: QImage) -> None:
        super().__init__()
        self.page, self.image = page, image
        self.setMinimumSize(760, 480)
        self.setCursor(Qt.CursorShape.CrossCursor)

    def frame(self) -> QRectF:
        """Where the photograph lies in the widget."""
        scale = min(self.width() / self.image.width(), self.height() / self.image.height())
        w, h = self.image.width() * scale, self.image.height() * scale
        return QRectF((self.width() - w) / 2, (self.height() - h) / 2, w, h)

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = self.frame()
        painter.drawImage(box, self.image)
        scale = box.width() / self.image.width()
        for k, (x, y) in enumerate(self.page.picked):
            at = QPointF(box.x() + x * scale, box.y() + y * scale)
            corner = k < 4
            for colour, wide in (("#ffffff", 4.0), ("#0b5f6b" if corner else "#ad2318", 2.0)):
                painter.setPen(QPen(QColor(colour), wide))
                if corner:
                    painter.drawLine(at + QPointF(-9, 0), at + QPointF(9, 0))
                    painter.drawLine(at + QPointF(0, -9), at + QPointF(0, 9))
                else:
                    painter.drawEllipse(at, 8, 8)
            painter.drawText(at + QPointF(11, -8), f"corner {k + 1}" if corner else f"hole {k - 3}")
        painter.end()

    def mousePressEvent(self, event: Any) -> None:
        box = self.frame()
        scale = box.width() / self.image.width()
        at = event.position()
        if box.contains(at):
            self.page.pick((at.x() - box.x()) / scale, (at.y() - box.y()) / scale)


class PhotoPage(QDialog):
    """Picks; ``holes`` and ``plus_minus`` hold the result in mm once it is accepted."""

    def __init__(self, parent: QWidget | None, image: QImage, display: Display) -> None:
        super().__init__(parent)
        self.setWindowTitle("Holes from a photograph")
        self.display = display
        self.picked: list[tuple[float, float]] = []
        self.holes = np.zeros((0, 2))
        self.plus_minus = 0.0
        self.told = words("", "")
        self.wide, self.high = QLineEdit(), QLineEdit()
        self.wide.setAccessibleName("Width of the square")
        self.high.setAccessibleName("Height of the square")
        for line, name in ((self.wide, "corner 1 to 2, e.g. 100"), (self.high, "corner 2 to 3, e.g. 80")):
            line.setPlaceholderText(name)
            line.textChanged.connect(self.refresh)
        self.picture = _Picture(self, image)
        self.refusal = Refusal()
        column = QVBoxLayout(self)
        column.addWidget(self.told)
        column.addWidget(row(words("The square or rule measures", ""), self.wide, words("by", ""), self.high))
        column.addWidget(self.picture, 1)
        column.addWidget(self.refusal)
        column.addWidget(
            row(
                button("Take the last pick back", self.back),
                button("Use these holes", self.use, name="main"),
                button("Leave it", self.reject),
            )
        )
        self.resize(900, 720)
        self.refresh()

    def pick(self, x: float, y: float) -> None:
        """A pick in pixels of the photograph."""
        self.picked.append((x, y))
        self.refresh()

    def back(self) -> None:
        """Take the last pick back."""
        if self.picked:
            self.picked.pop()
            self.refresh()

    def flat(self) -> Flat:
        """The transformation by the four corners. Raises ShapeError or UnitError."""
        wide, high = (parse(line.text(), "length", self.display) for line in (self.wide, self.high))
        if wide <= 0 or high <= 0:
            raise UnitError("The square's sides must be more than nought.")
        return flatten(self.picked[:4], ((0, 0), (wide, 0), (wide, high), (0, high)))

    def refresh(self) -> None:
        """Say what to do next."""
        n = len(self.picked)
        text = (
            f"Click corner {n + 1} of the square or rule, going round anticlockwise from the lower left."
            if n < 4
            else "Click the middle of each hole."
        )
        if n > 4 and self.wide.text() and self.high.text():
            try:
                flat = self.flat()
                at = flat.points(self.picked[4:])
                doubt = float(flat.plus_minus(self.picked[4:], PICK_PIXELS).max())
                text = f"{n - 4} holes. Picks are good to about {show(doubt, 'length', self.display, 2)}."
                if len(at) > 1:
                    text += (
                        f" Hole 1 to 2: {show(float(np.linalg.norm(at[0] - at[1])), 'length', self.display)}:"
                        " check it with calipers."
                    )
                self.refusal.hide()
            except (ShapeError, UnitError) as error:
                self._refuse(str(error))
        self.told.setText(text)
        self.picture.update()

    def _refuse(self, sentence: str) -> None:
        self.refusal.tell(sentence)

    def use(self) -> None:
        """Accept the holes, or say what is missing."""
        if len(self.picked) < 6:
            self._refuse("Four corners and two holes or more are needed.")
            return
        try:
            flat = self.flat()
        except (ShapeError, UnitError) as error:
            self._refuse(str(error))
            return
        self.holes = flat.points(self.picked[4:])
        self.plus_minus = float(flat.plus_minus(self.picked[4:], PICK_PIXELS).max())
        self.accept()
