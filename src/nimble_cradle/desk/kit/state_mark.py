"""The shape of a state: told by shape and colour together, the same everywhere."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from nimble_cradle.desk.kit.look import look

GAP_STATE = {"fouls": "fails", "too tight": "fails", "tight": "near", "clear": "holds"}
FINDING_STATE = {"does not hold": "fails", "near": "near", "holds": "holds"}
STAGE_STATE = {"not begun": "open", "open questions": "near", "holds": "holds"}


def paint_mark(painter: QPainter, box: QRectF, state: str) -> None:
    """The shape of a state: disc with a tick (holds), triangle (near), square with a cross (fails), ring
    (open)."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    ink = QColor(look().inks[state])
    spot, r = box.center(), min(box.width(), box.height()) / 2 - 0.5
    white = QPen(
        QColor(look().sheet),
        max(1.4, r / 4.2),
        Qt.PenStyle.SolidLine,
        Qt.PenCapStyle.RoundCap,
        Qt.PenJoinStyle.RoundJoin,
    )
    if state == "open":
        painter.setPen(QPen(ink, max(1.6, r / 4)))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(spot, r - 1, r - 1)
        painter.restore()
        return
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ink)
    if state == "holds":
        painter.drawEllipse(spot, r, r)
        painter.setPen(white)
        painter.drawPolyline(
            QPolygonF(
                [
                    spot + QPointF(-r * 0.45, 0.0),
                    spot + QPointF(-r * 0.1, r * 0.38),
                    spot + QPointF(r * 0.48, -r * 0.36),
                ]
            )
        )
    elif state == "near":
        painter.drawPolygon(
            QPolygonF([spot + QPointF(0, -r), spot + QPointF(r, r * 0.8), spot + QPointF(-r, r * 0.8)])
        )
        painter.setPen(white)
        painter.drawLine(spot + QPointF(0, -r * 0.35), spot + QPointF(0, r * 0.2))
        painter.drawPoint(spot + QPointF(0, r * 0.55))
    else:
        painter.drawRect(QRectF(spot.x() - r * 0.9, spot.y() - r * 0.9, 1.8 * r, 1.8 * r))
        painter.setPen(white)
        painter.drawLine(spot + QPointF(-r * 0.42, -r * 0.42), spot + QPointF(r * 0.42, r * 0.42))
        painter.drawLine(spot + QPointF(-r * 0.42, r * 0.42), spot + QPointF(r * 0.42, -r * 0.42))
    painter.restore()


class Mark(QWidget):
    """A state's shape as a small widget."""

    def __init__(self, state: str = "open", size: int = 16) -> None:
        super().__init__()
        self.state = state
        self._size = size
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(self._size, self._size)

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        paint_mark(painter, QRectF(0, 0, self._size, self._size), self.state)
        painter.end()
