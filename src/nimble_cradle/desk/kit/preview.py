"""A template on the screen, drawn from the same record as the print."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from nimble_cradle.shop.page import Circle, Drawing
from nimble_cradle.shop.page import Path as DrawnPath
from nimble_cradle.shop.svg import STYLE


class Preview(QWidget):
    """One template, drawn from the same record as the print."""

    def __init__(self) -> None:
        super().__init__()
        self.drawing: Drawing | None = None
        self.setFixedHeight(165)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_drawing(self, drawing: Drawing | None) -> None:
        self.drawing = drawing
        self.update()

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor("#ffffff"))
        painter.setPen(QColor("#d5cfc2"))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        if self.drawing is None:
            painter.end()
            return
        x0, y0, x1, y1 = self.drawing.extent()
        scale = min((self.width() - 30) / (x1 - x0), (self.height() - 24) / (y1 - y0))
        dx, dy = (self.width() - scale * (x1 - x0)) / 2, (self.height() - scale * (y1 - y0)) / 2

        def at(p: tuple[float, float]) -> QPointF:
            return QPointF(dx + (p[0] - x0) * scale, self.height() - dy - (p[1] - y0) * scale)

        for mark in self.drawing.marks:
            pen = QPen(QColor(STYLE[mark.layer]), 1.6 if mark.layer == "CUT" else 1.0)
            if mark.layer in ("MARK", "FOLD"):
                pen.setStyle(Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if isinstance(mark, DrawnPath):
                polygon = QPolygonF([at(point) for point in mark.points])
                if mark.closed:
                    painter.drawPolygon(polygon)
                else:
                    painter.drawPolyline(polygon)
            elif isinstance(mark, Circle):
                painter.drawEllipse(at(mark.centre), mark.radius * scale, mark.radius * scale)
            elif mark.height * scale > 9 or (len(mark.text) < 9 and mark.height * scale > 3.5):
                font = QFont("B612")
                font.setPixelSize(max(12, int(mark.height * scale * 1.2)))
                painter.setFont(font)
                painter.drawText(at(mark.at), mark.text)
        painter.setPen(QPen(QColor("#23272b"), 2))
        foot = QRectF(12, self.height() - 10, 50 * scale, 0)
        painter.drawLine(foot.topLeft(), foot.topRight())
        painter.setFont(QFont("B612", 8))
        painter.drawText(QPointF(foot.right() + 5, self.height() - 6), "50 mm")
        painter.end()
