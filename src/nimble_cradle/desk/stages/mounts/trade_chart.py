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

LINES = (0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0)
"""Shares of the firing at which a height may be named; going up, shares grow by ratios, so that soft and far
too hard can be told apart on one chart."""
LEAST = 0.01
"""A share below this is drawn as this."""


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

    def _across(self) -> tuple[float, float]:
        """The movement at the left and at the right."""
        moved = [p.moved for p in self.points]
        return 0.9 * min(moved), max(1.08 * max(moved), 0.9 * min(moved) + 0.1)

    def _up(self, shake: float) -> float:
        """Height of a share on the chart: none at its foot, 1 at its top, not beyond."""
        shown = [max(s, LEAST) for s in (self.most, *(p.shake for p in self.points))]
        low, high = math.log(0.7 * min(shown)), math.log(1.2 * max(shown))
        return min(max((math.log(max(shake, LEAST)) - low) / (high - low), 0.0), 1.0)

    def at(self, p: TradePoint) -> QPointF:
        """Where a point stands on the chart."""
        room, (least, most) = self._room(), self._across()
        along = min(max((p.moved - least) / (most - least), 0.0), 1.0)
        return QPointF(room.left() + along * room.width(), room.bottom() - self._up(p.shake) * room.height())

    def paintEvent(self, event: object) -> None:
        if not self.points:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(worn().font())
        room = self._room()
        painter.fillRect(room, QColor(look().field))
        limit = room.bottom() - self._up(self.most) * room.height()
        forbidden = QRectF(room.left(), room.top(), room.width(), limit - room.top())
        painter.fillRect(forbidden, QBrush(QColor(look().pales["near"]), Qt.BrushStyle.BDiagPattern))
        painter.setPen(QPen(QColor(look().inks["near"]), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(room.left(), limit), QPointF(room.right(), limit))
        self._wish(painter, room, limit)
        painter.setPen(QPen(QColor(look().soft), 1))
        painter.drawRect(room)
        for line in LINES:
            if not 0.0 < self._up(line) < 1.0:
                continue
            y = room.bottom() - self._up(line) * room.height()
            painter.drawLine(QPointF(room.left() - px(4), y), QPointF(room.left(), y))
            painter.drawText(
                QRectF(0, y - px(10), px(46), px(20)),
                int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter),
                f"{100 * line:.0f} %",
            )
        self._dots(painter, [self.at(p) for p in self.points])
        if self.trial is not None:
            painter.setPen(QPen(QColor(look().ink), 2.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(self.at(self.trial), px(8), px(8))
        painter.setPen(QColor(look().soft))
        ends = (Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignRight)
        for moved, side in zip(self._across(), ends, strict=True):
            painter.drawText(
                QRectF(room.left(), room.bottom() + px(4), room.width(), px(20)),
                int(side),
                show(moved, "length", self.display),
            )
        painter.drawText(
            QRectF(room.left(), room.bottom() + px(24), room.width(), px(22)),
            int(Qt.AlignmentFlag.AlignLeft),
            "across: movement of the engine; up: firing felt idling",
        )
        painter.end()

    def _wish(self, painter: QPainter, room: QRectF, limit: float) -> None:
        """The wish in words beside its line, where no dot stands."""
        text = f"wished: {100 * self.most:.0f} % or less"
        met = painter.fontMetrics()
        wide, high = met.horizontalAdvance(text), met.height()
        free = [
            QRectF(x, y, wide, high)
            for y in (limit + px(3), limit - px(3) - high)
            for x in (room.left() + px(6), room.right() - px(6) - wide)
            if room.contains(QRectF(x, y, wide, high))
        ]
        places = [self.at(p) for p in self.points]
        words = min(
            free, key=lambda r: sum(r.adjusted(-30, -15, 30, 15).contains(q) for q in places), default=room
        )
        painter.drawText(words, int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop), text)

    def _dots(self, painter: QPainter, places: Sequence[QPointF]) -> None:
        """The points, joined; hollow where they are good only while nothing strays, the present one
        ringed."""
        painter.setPen(QPen(QColor(look().soft), 1))
        painter.drawPolyline(QPolygonF(places))
        taken = [QRectF(q.x() - px(6), q.y() - px(6), px(12), px(12)) for q in places]
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
            met = painter.fontMetrics()
            wide, high = met.horizontalAdvance(text), met.ascent()
            right, left, above, below = px(8), -px(8) - wide, -px(6), px(8) + high
            for dx, foot in ((right, above), (right, below), (left, above), (left, below)):
                corner = place + QPointF(dx, foot)
                room = QRectF(corner.x(), corner.y() - high, wide, high)
                if self._room().contains(room) and not any(room.intersects(other) for other in taken):
                    taken.append(room)
                    painter.drawText(corner, text)
                    break
