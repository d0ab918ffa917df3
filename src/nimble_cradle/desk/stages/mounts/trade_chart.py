"""Movement across, shake up: a dot for every hardness, the present one ringed, the forbidden side hatched."""

from __future__ import annotations

import math
from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QColor, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from nimble_cradle.desk.kit.look import look, px, worn
from nimble_cradle.mounts.trade_off import TradePoint
from nimble_cradle.units import Display, show

MOST_SHOWN = 3.0
"""A share of the firing that is passed on beyond this is drawn at the top."""


class TradeChart(QWidget):
    """The points of one bush. ``dragged``: a hardness between them is held; ``let_go``: it stays there."""

    dragged = pyqtSignal(float)
    let_go = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.trial: TradePoint | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip("Drag along the line, or use the arrow keys, to try a hardness")
        self.points: tuple[TradePoint, ...] = ()
        self.now: float | None = None
        self.most = 0.5
        self.display = Display()
        self.setFixedHeight(px(240))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_points(
        self, points: Sequence[TradePoint], now: float | None, most: float, display: Display
    ) -> None:
        """Draw these. now: the hardness there is; most: the shake that is wished for."""
        self.points, self.now, self.most, self.display = tuple(points), now, most, display
        told = "; ".join(
            f"{p.hardness:g}: {show(p.moved, 'length', display)}, {100 * p.shake:.0f} %" for p in points
        )
        self.setAccessibleName(f"Movement against shake by hardness: {told}")
        self.update()

    def show_trial(self, trial: TradePoint | None) -> None:
        """Ring a hardness that is tried; none."""
        self.trial = trial
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self.hold(event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self.hold(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.let_go.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        step = {Qt.Key.Key_Left: -1.0, Qt.Key.Key_Right: 1.0}.get(event.key()) if event else None  # type: ignore[call-overload]
        if step is None or not self.points:
            super().keyPressEvent(event)
            return
        here = self.trial.hardness if self.trial is not None else self.now or self.points[0].hardness
        low, high = self.points[0].hardness, self.points[-1].hardness
        self.dragged.emit(min(max(round(here) + step, low), high))
        self.let_go.emit()

    def hold(self, mouse: QPointF) -> None:
        """Try the hardness of the place on the line that is nearest to the mouse."""
        if len(self.points) < 2:
            return
        places = [self.at(p) for p in self.points]
        best = (math.inf, self.points[0].hardness)
        for k, (a, b) in enumerate(zip(places, places[1:], strict=False)):
            along = b - a
            long = max(QPointF.dotProduct(along, along), 1e-9)
            t = min(max(QPointF.dotProduct(mouse - a, along) / long, 0.0), 1.0)
            off = mouse - a - t * along
            one, two = self.points[k].hardness, self.points[k + 1].hardness
            best = min(best, (QPointF.dotProduct(off, off), one + t * (two - one)))
        self.dragged.emit(float(round(best[1])))

    def _room(self) -> QRectF:
        return QRectF(px(52), px(8), self.width() - px(70), self.height() - px(58))

    def _most(self) -> tuple[float, float]:
        """The movement at the right and the shake at the top."""
        moved = 1.1 * max(p.moved for p in self.points)
        return moved, min(1.15 * max(*(p.shake for p in self.points), 1.3 * self.most), MOST_SHOWN)

    def at(self, p: TradePoint) -> QPointF:
        """Where a point stands on the chart."""
        room, (most_x, most_y) = self._room(), self._most()
        return QPointF(
            room.left() + min(p.moved, most_x) / most_x * room.width(),
            room.bottom() - min(p.shake, most_y) / most_y * room.height(),
        )

    def paintEvent(self, event: object) -> None:
        if not self.points:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(worn().font())
        room, (most_x, most_y) = self._room(), self._most()
        painter.fillRect(room, QColor(look().field))
        limit = room.bottom() - self.most / most_y * room.height()
        forbidden = QRectF(room.left(), room.top(), room.width(), limit - room.top())
        painter.fillRect(forbidden, QBrush(QColor(look().pales["near"]), Qt.BrushStyle.BDiagPattern))
        painter.setPen(QPen(QColor(look().inks["near"]), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(room.left(), limit), QPointF(room.right(), limit))
        painter.drawText(
            QPointF(room.left() + px(6), limit + px(18)), f"wished: {100 * self.most:.0f} % or less"
        )
        painter.setPen(QPen(QColor(look().soft), 1))
        painter.drawRect(room)
        for k in range(1, 4):
            y = room.bottom() - k / 3 * room.height()
            painter.drawText(
                QRectF(0, y - px(10), px(46), px(20)),
                int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter),
                f"{100 * most_y * k / 3:.0f} %",
            )
        self._dots(painter, [self.at(p) for p in self.points])
        if self.trial is not None:
            painter.setPen(QPen(QColor(look().ink), 2.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(self.at(self.trial), px(8), px(8))
        painter.setPen(QColor(look().soft))
        painter.drawText(
            QRectF(room.left(), room.bottom() + px(4), room.width(), px(20)),
            int(Qt.AlignmentFlag.AlignRight),
            show(most_x, "length", self.display),
        )
        painter.drawText(
            QRectF(room.left(), room.bottom() + px(24), room.width(), px(22)),
            int(Qt.AlignmentFlag.AlignLeft),
            "across: movement of the engine; up: firing felt idling",
        )
        painter.end()

    def _dots(self, painter: QPainter, places: Sequence[QPointF]) -> None:
        """The points, joined; hollow where they are good only while nothing strays, the present one
        ringed."""
        painter.setPen(QPen(QColor(look().soft), 1))
        painter.drawPolyline(QPolygonF(places))
        taken: list[QRectF] = []
        for p, place in zip(self.points, places, strict=True):
            ink = QColor(look().accent)
            painter.setPen(QPen(ink, 2))
            painter.setBrush(QColor(look().field) if p.narrow else ink)
            painter.drawEllipse(place, px(5), px(5))
            if self.now is not None and abs(p.hardness - self.now) < 2.5:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(place, px(10), px(10))
            painter.setPen(QColor(look().ink))
            text = f"{p.hardness:g}"
            where = self._beside(painter, place, text)
            met = painter.fontMetrics()
            room = QRectF(where.x(), where.y() - met.ascent(), met.horizontalAdvance(text), met.ascent())
            if not any(room.intersects(other) for other in taken):
                taken.append(room)
                painter.drawText(where, text)

    def _beside(self, painter: QPainter, place: QPointF, text: str) -> QPointF:
        """Where a dot's text begins: above it and to the right, unless that is off the chart."""
        met = painter.fontMetrics()
        wide, high = met.horizontalAdvance(text), met.ascent()
        right = place.x() + px(8) + wide < self.width()
        above = place.y() - px(6) - high > 0
        return place + QPointF(px(8) if right else -px(8) - wide, -px(6) if above else px(8) + high)
