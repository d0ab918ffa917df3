"""A section drawn to scale: what was there, what is left, what is put back."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from nimble_cradle.desk.kit.look import look
from nimble_cradle.strength.opened import THREAD
from nimble_cradle.strength.section import Wall

HIGH, EDGE = 132, 12
"""Height of the picture and room at its edge, pixels."""


class SectionPicture(QWidget):
    """Walls seen along the member from behind or from its right end, up at the top. was, cut, mended: of
    before, of what is left, of what it is at last."""

    def __init__(self) -> None:
        super().__init__()
        self.was: Sequence[Wall] = ()
        self.cut: Sequence[Wall] = ()
        self.mended: Sequence[Wall] = ()
        self.size_words = ""
        self.setFixedHeight(HIGH)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_walls(
        self, was: Sequence[Wall], cut: Sequence[Wall], mended: Sequence[Wall], size_words: str
    ) -> None:
        """Draw these."""
        there = [[w for w in walls if w.thickness > THREAD] for walls in (was, cut, mended)]
        self.was, self.cut, self.mended = there
        self.size_words = size_words
        self.setAccessibleName(
            f"Section, {size_words}: {len(was)} walls, {len(cut)} left, {len(mended)} as put back"
        )
        self.update()

    def paintEvent(self, event: object) -> None:
        if not self.was:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        points = np.array([p for w in (*self.was, *self.mended) for p in (w.start, w.end)])
        low, high = points.min(0), points.max(0)
        span = np.maximum(high - low, 1.0)
        scale = min((self.width() * 0.55 - 2 * EDGE) / span[0], (HIGH - 2 * EDGE) / span[1])
        middle = (low + high) / 2
        centre = QPointF(EDGE + self.width() * 0.275 - EDGE, HIGH / 2)

        def at(p: Sequence[float]) -> QPointF:
            # seen from behind the car's left is on the left, so across is drawn to the left
            return QPointF(centre.x() - scale * (p[0] - middle[0]), centre.y() - scale * (p[1] - middle[1]))

        ink = QColor(look().ink)
        gone, put = QColor(look().edge), QColor(look().accent)
        for walls, colour, style, wider in (
            (self.was, gone, Qt.PenStyle.DashLine, 0.0),
            (self.mended, put, Qt.PenStyle.SolidLine, 1.5),
            (self.cut, ink, Qt.PenStyle.SolidLine, 0.0),
        ):
            for wall in walls:
                pen = QPen(colour, max(wall.thickness * scale, 1.5) + wider, style)
                pen.setCapStyle(Qt.PenCapStyle.FlatCap)
                painter.setPen(pen)
                painter.drawLine(QLineF(at(wall.start), at(wall.end)))
        self._key(painter, gone, ink, put)
        painter.end()

    def _key(self, painter: QPainter, gone: QColor, ink: QColor, put: QColor) -> None:
        """What each line is, and the outside size."""
        left, top = int(self.width() * 0.6), EDGE + 12
        painter.setPen(ink)
        painter.drawText(left, top, self.size_words)
        rows = [(gone, Qt.PenStyle.DashLine, "cut away"), (ink, Qt.PenStyle.SolidLine, "stays")]
        if self.mended:
            rows.append((put, Qt.PenStyle.SolidLine, "put back"))
        if self.cut == self.was and not self.mended:
            rows = []  # nothing is cut
        for k, (colour, style, word) in enumerate(rows):
            y = top + 30 + 26 * k
            painter.setPen(QPen(colour, 3, style))
            painter.drawLine(left, y - 5, left + 34, y - 5)
            painter.setPen(ink)
            painter.drawText(left + 44, y, word)
