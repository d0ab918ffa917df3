"""A plain line chart: values against travel, a legend on the lines, limits as bands."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from nimble_cradle.desk.kit.look import look

COLOURS = (look().accent, "#9a5b00", "#5a3f9e", "#2c6636")
STEPS = (*(k * 10.0**n for n in range(-3, 3) for k in (1, 2, 5)), 1e6)
STYLES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DashDotLine, Qt.PenStyle.DotLine)


@dataclass(frozen=True)
class Curve:
    """One line: name, x and y values."""

    name: str
    x: tuple[float, ...]
    y: tuple[float, ...]


class Chart(QWidget):
    """Curves against a common x. limit: a y that should not be passed, with its words; nought: what x = 0
    is."""

    def __init__(self, x_words: str, y_words: str) -> None:
        super().__init__()
        self.x_words, self.y_words = x_words, y_words
        self.nought = "ride"
        self.curves: tuple[Curve, ...] = ()
        self.limit: tuple[float, str] | None = None
        self.setFixedHeight(236)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_curves(self, curves: Sequence[Curve], limit: tuple[float, str] | None = None) -> None:
        """Draw these."""
        self.curves, self.limit = tuple(curves), limit
        self.setAccessibleName(
            "; ".join(f"{curve.name} from {curve.y[0]:.2f} to {curve.y[-1]:.2f}" for curve in curves)
        )
        self.update()

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.curves:
            painter.end()
            return
        xs = np.concatenate([curve.x for curve in self.curves])
        ys = np.concatenate([curve.y for curve in self.curves])
        low_x, high_x = float(xs.min()), float(xs.max())
        low_y, high_y = (
            min(0.0, 1.12 * float(ys.min())),
            float(max(ys.max(), self.limit[0] if self.limit else 0.0)) * 1.12 + 1e-6,
        )
        room = QRectF(46, 10, self.width() - 60, self.height() - 84)

        def at(x: float, y: float) -> QPointF:
            return QPointF(
                room.left() + (x - low_x) / max(high_x - low_x, 1e-9) * room.width(),
                room.bottom() - (y - low_y) / (high_y - low_y) * room.height(),
            )

        painter.fillRect(room, QColor("#ffffff"))
        painter.setPen(QPen(QColor(look().line), 1))
        step = next(s for s in STEPS if (high_y - low_y) / s <= 6)
        for k in range(int(np.ceil(low_y / step)), int(high_y / step) + 1):
            painter.setPen(QPen(QColor(look().line), 1))
            painter.drawLine(at(low_x, k * step), at(high_x, k * step))
            painter.setPen(QColor(look().soft))
            painter.drawText(
                QRectF(0, at(low_x, k * step).y() - 10, 40, 20),
                int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter),
                f"{k * step:g}",
            )
        for x in (low_x, 0.0, high_x):
            painter.setPen(QPen(QColor(look().line), 1))
            painter.drawLine(at(x, low_y), at(x, high_y))
            painter.setPen(QColor(look().soft))
            painter.drawText(
                QRectF(at(x, low_y).x() - 30, room.bottom() + 2, 60, 18),
                int(Qt.AlignmentFlag.AlignHCenter),
                f"{x:+.0f}" if x else self.nought,
            )
        if self.limit is not None:
            painter.setPen(QPen(QColor(look().inks["fails"]), 1.2, Qt.PenStyle.DashLine))
            painter.drawLine(at(low_x, self.limit[0]), at(high_x, self.limit[0]))
            painter.drawText(
                QRectF(room.left() + 6, at(low_x, self.limit[0]).y() - 20, 300, 18),
                int(Qt.AlignmentFlag.AlignLeft),
                self.limit[1],
            )
        x = room.left()
        for k, c in enumerate(self.curves):
            pen = QPen(QColor(COLOURS[k % 4]), 2.2, STYLES[k % 4])
            painter.setPen(pen)
            painter.drawPolyline(QPolygonF([at(a, b) for a, b in zip(c.x, c.y, strict=True)]))
            y = room.bottom() + 42
            painter.drawLine(QPointF(x, y), QPointF(x + 26, y))
            painter.setPen(QColor(look().ink))
            wide = painter.fontMetrics().horizontalAdvance(c.name)
            painter.drawText(QRectF(x + 31, y - 10, wide + 4, 20), int(Qt.AlignmentFlag.AlignVCenter), c.name)
            x += wide + 46
        painter.setPen(QColor(look().soft))
        painter.drawText(
            QRectF(room.left(), room.bottom() + 54, room.width(), 18),
            int(Qt.AlignmentFlag.AlignLeft),
            f"{self.y_words} against {self.x_words}",
        )
        painter.end()
