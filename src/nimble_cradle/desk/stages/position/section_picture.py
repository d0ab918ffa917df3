"""A section as a picture."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from nimble_cradle.desk.kit.look import LIGHT
from nimble_cradle.desk.kit.state_mark import GAP_STATE
from nimble_cradle.fit.section import BaySection

_FILL = {"item": "#e6e2d8", "piece": "#cfe3e5", "made": "#9fc7cc"}


class SectionPicture(QWidget):
    """The section, drawn to fit round the engine."""

    def __init__(self) -> None:
        super().__init__()
        self.cut: BaySection | None = None
        self.words: list[str] = []
        self.setFixedHeight(380)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_section(self, cut: BaySection | None, names: list[str]) -> None:
        """Draw this; names: what each dimension says."""
        self.cut, self.words = cut, names
        self.setAccessibleName("" if cut is None else f"Section {cut.title}")
        self.update()

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor("#ffffff"))
        if self.cut is None:
            painter.end()
            return
        pieces = [line.outline.points for line in self.cut.lines if line.kind == "piece"] or [
            line.outline.points for line in self.cut.lines
        ]
        points = np.vstack(pieces)
        low, high = points.min(0) - 110.0, points.max(0) + 110.0
        scale = min(self.width() / (high - low)[0], self.height() / (high - low)[1])
        off = (np.array([self.width(), self.height()]) - scale * (high - low)) / 2

        def at(p: Any) -> QPointF:
            x, y = (np.asarray(p) - low) * scale + off
            return QPointF(float(x), self.height() - float(y))

        for kinds in (("item",), ("running", "ghost"), ("piece",), ("made",)):
            for line in self.cut.lines:
                if line.kind not in kinds:
                    continue
                ghost = line.kind in ("ghost", "running")
                painter.setPen(
                    QPen(
                        QColor(
                            LIGHT.soft
                            if ghost
                            else LIGHT.accent
                            if line.kind in ("piece", "made")
                            else LIGHT.ink
                        ),
                        1.2,
                        Qt.PenStyle.DashLine if ghost else Qt.PenStyle.SolidLine,
                    )
                )
                painter.setBrush(
                    QColor(_FILL[line.kind]) if line.outline.closed and not ghost else Qt.BrushStyle.NoBrush
                )
                shape = QPolygonF([at(point) for point in line.outline.points])
                if line.outline.closed:
                    painter.drawPolygon(shape)
                else:
                    painter.drawPolyline(shape)
        taken: list[QRectF] = []
        for dimension, text in zip(self.cut.dimensions, self.words, strict=True):
            colour = QColor(LIGHT.inks[GAP_STATE[dimension.gap.state]])
            painter.setPen(QPen(colour, 2))
            a, b = at(dimension.a), at(dimension.b)
            painter.drawLine(a, b)
            wide = painter.fontMetrics().horizontalAdvance(text) + 12
            middle = (a + b) / 2
            box = QRectF(
                min(max(middle.x() + 10, 2), self.width() - wide - 2),
                min(max(middle.y() - 11, 2), self.height() - 24),
                wide,
                22,
            )
            while any(box.intersects(t) for t in taken) and box.bottom() < self.height() - 4:
                box.translate(0, 24)
            taken.append(box)
            painter.setPen(QPen(colour, 1))
            painter.setBrush(QColor("#ffffff"))
            painter.drawRect(box)
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), text)
        painter.end()
