"""Tags over the 3-D view: the tightest gaps with their figures at the very place, laid out so that none
covers another."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from nimble_cradle.desk.kit.style import STATE_INK, STATE_PALE, paint_mark


@dataclass(frozen=True)
class Tag:
    """A tag: what it points at (x, y in widget pixels), its words, its figure, its state, and whether it
    is chosen."""

    x: float
    y: float
    figure: str
    title: str
    state: str
    key: str
    chosen: bool = False


def place_tags(
    tags: list[tuple[float, float, float, float]], width: float, height: float, top: float
) -> list[QRectF]:
    """Boxes for tags given as (x, y, w, h) of their anchors, inside the view and apart from one another.

    Each is tried beside its anchor, then farther out in a ring; the first place free of other tags and of
    all anchors is taken.
    """
    placed: list[QRectF] = []
    anchors = [QRectF(x - 6, y - 6, 12, 12) for x, y, _, _ in tags]
    for x, y, w, h in tags:
        best = None
        for ring in range(1, 26):
            reach = 16.0 * ring
            for dx, dy in ((1, -1), (-1, -1), (1, 1), (-1, 1), (1, 0), (-1, 0), (0, -1), (0, 1)):
                left = x + dx * reach - (w if dx < 0 else w / 2 if dx == 0 else 0)
                box = QRectF(left, y + dy * reach - h / 2, w, h)
                if box.left() < 4 or box.right() > width - 4 or box.top() < top or box.bottom() > height - 4:
                    continue
                if all(not box.adjusted(-4, -4, 4, 4).intersects(other) for other in (*placed, *anchors)):
                    best = box
                    break
            if best is not None:
                break
        placed.append(best if best is not None else QRectF(-1000, -1000, w, h))
    return placed


class TagLayer(QWidget):
    """A clear sheet over the view that paints the tags; it lets the mouse through."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.tags: list[Tag] = []
        self.boxes: list[QRectF] = []
        self.caption = ""
        self.top = 6.0
        self._figure = QFont("B612", 11, QFont.Weight.Bold)
        self._title = QFont("B612", 11)

    def show_tags(self, tags: list[Tag], caption: str) -> None:
        self.caption = caption
        self.tags = tags
        bold, small = QFontMetricsF(self._figure), QFontMetricsF(self._title)
        sizes = [
            (
                tag.x,
                tag.y,
                40 + max(bold.horizontalAdvance(tag.figure), small.horizontalAdvance(tag.title)),
                bold.height() + small.height() + 8,
            )
            for tag in tags
        ]
        self.boxes = place_tags(sizes, self.width(), self.height() - (26 if caption else 0), self.top)
        self.update()

    def at(self, x: float, y: float) -> str:
        """Key of the tag under a point, or empty."""
        for tag, box in zip(self.tags, self.boxes, strict=True):
            if box.contains(QPointF(x, y)):
                return tag.key
        return ""

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for tag, box in zip(self.tags, self.boxes, strict=True):
            if box.x() < -500:
                continue
            ink = QColor(STATE_INK[tag.state])
            foot = QPointF(min(max(tag.x, box.left()), box.right()), min(max(tag.y, box.top()), box.bottom()))
            painter.setPen(QPen(QColor("#ffffff"), 3.4))
            painter.drawLine(QPointF(tag.x, tag.y), foot)
            painter.setPen(QPen(ink, 1.6))
            painter.drawLine(QPointF(tag.x, tag.y), foot)
        for tag, box in zip(self.tags, self.boxes, strict=True):
            if box.x() < -500:
                continue
            ink = QColor(STATE_INK[tag.state])
            painter.setPen(QPen(QColor("#ffffff"), 1.5))
            painter.setBrush(ink)
            painter.drawEllipse(QPointF(tag.x, tag.y), 4.5, 4.5)
            painter.setPen(QPen(ink, 2.6 if tag.chosen else 1.2))
            painter.setBrush(QColor(STATE_PALE[tag.state]))
            painter.drawRoundedRect(box, 3, 3)
            paint_mark(painter, QRectF(box.x() + 8, box.y() + box.height() / 2 - 8, 16, 16), tag.state)
            painter.setPen(QColor("#23272b"))
            painter.setFont(self._figure)
            painter.drawText(
                QRectF(box.x() + 32, box.y() + 3, box.width() - 34, box.height() / 2),
                Qt.AlignmentFlag.AlignVCenter,
                tag.figure,
            )
            painter.setFont(self._title)
            painter.drawText(
                QRectF(box.x() + 32, box.y() + box.height() / 2, box.width() - 34, box.height() / 2 - 3),
                Qt.AlignmentFlag.AlignVCenter,
                tag.title,
            )
        if self.caption:
            painter.setFont(QFont("B612", 11))
            painter.setPen(QColor("#3c444a"))
            painter.drawText(
                QRectF(10, self.height() - 26, self.width() - 20, 22),
                Qt.AlignmentFlag.AlignVCenter,
                self.caption,
            )
        painter.end()
