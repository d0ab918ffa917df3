"""Tags over the 3-D view: figures with what they belong to, at the edges, each with a leader to the very
place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from nimble_cradle.desk.bay_view.tag_places import Cover, Wanted, place_tags
from nimble_cradle.desk.kit.look import look, px, worn
from nimble_cradle.desk.kit.state_mark import paint_mark

BAR = 5
"""Pixels of the bar at a tag's left that tells its state."""


@dataclass(frozen=True)
class Tag:
    """A tag: what it points at (x, y in widget pixels), its figure, further lines, its state, its key, and
    whether it is chosen."""

    x: float
    y: float
    figure: str
    lines: tuple[str, ...]
    state: str
    key: str
    chosen: bool = False

    @property
    def title(self) -> str:
        """Its lines in one."""
        return " ".join(self.lines)


@dataclass(frozen=True)
class Overlay:
    """A line over the picture with its figure: a taped distance, or how far the engine or a face was
    dragged. ring: outline of that face where it would stand."""

    a: tuple[float, float]
    b: tuple[float, float]
    words: str
    ring: tuple[tuple[float, float], ...] = ()


class TagLayer(QWidget):
    """A clear sheet over the view that paints the tags; it lets the mouse through."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.tags: list[Tag] = []
        self.boxes: list[QRectF] = []
        self.caption = ""
        self.datum: tuple[float, float] | None = None
        self.overlay: Overlay | None = None
        self.lengths: list[Overlay] = []
        self._stood: dict[str, tuple[float, float]] = {}

    def _size(self, tag: Tag) -> tuple[float, float]:
        bold, plain = QFontMetricsF(worn().font(bold=True)), QFontMetricsF(worn().font())
        wide = max(
            bold.horizontalAdvance(tag.figure) + px(22), *(plain.horizontalAdvance(s) for s in tag.lines)
        )
        return wide + BAR + px(32), bold.height() + plain.height() * len(tag.lines) + 8

    def show_tags(self, tags: Sequence[Tag], caption: str, cover: Cover | None = None) -> None:
        """Show these. cover: where bodies are, once the picture is still; while it moves, tags that were
        there stay where they stood."""
        self.caption, self.tags = caption, list(tags)
        sizes = [self._size(tag) for tag in self.tags]
        if cover is None and all(tag.key in self._stood for tag in self.tags):
            self.boxes = [
                QRectF(*self._stood[t.key], *size) for t, size in zip(self.tags, sizes, strict=True)
            ]
        else:
            self._place(sizes, cover)
        self.update()

    def _place(self, sizes: Sequence[tuple[float, float]], cover: Cover | None) -> None:
        wanted = [
            Wanted(tag.x, tag.y, *size, self._stood.get(tag.key))
            for tag, size in zip(self.tags, sizes, strict=True)
        ]
        low = self.height() - (26 if self.caption else 0)
        corners = place_tags(wanted, self.width(), low, 0.0, cover)
        self.boxes = [
            QRectF(*(corner or (-2000.0, -2000.0)), *size)
            for corner, size in zip(corners, sizes, strict=True)
        ]
        pairs = zip(self.tags, corners, strict=True)
        self._stood = {tag.key: corner for tag, corner in pairs if corner is not None}

    def at(self, x: float, y: float) -> str:
        """Key of the tag under a point, or empty."""
        for tag, box in zip(self.tags, self.boxes, strict=True):
            if box.contains(QPointF(x, y)):
                return tag.key
        return ""

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_datum(painter)
        shown = [(t, b) for t, b in zip(self.tags, self.boxes, strict=True) if b.x() > -1000]
        for tag, box in shown:
            _paint_leader(painter, tag, box)
        for tag, box in shown:
            _paint_tag(painter, tag, box)
        taken: list[QRectF] = []
        for length in self.lengths:
            taken.append(_paint_length(painter, length, taken))
        if self.overlay is not None:
            _paint_overlay(painter, self.overlay, self.width())
        if self.caption:
            painter.setFont(worn().font())
            painter.setPen(QColor(look().ink))
            room = QRectF(10, self.height() - px(26), self.width() - 20, px(22))
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, self.caption)
        painter.end()

    def _paint_datum(self, painter: QPainter) -> None:
        """A ring with a cross where everything is measured from."""
        if self.datum is None:
            return
        spot = QPointF(*self.datum)
        for colour, wide in ((look().bay_foot, 4.0), (look().ink, 1.6)):
            painter.setPen(QPen(QColor(colour), wide))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(spot, 7, 7)
            for dx, dy in ((13, 0), (0, 13)):
                painter.drawLine(spot - QPointF(dx, dy), spot + QPointF(dx, dy))


def _paint_leader(painter: QPainter, tag: Tag, box: QRectF) -> None:
    """From a tag to its place."""
    foot = QPointF(min(max(tag.x, box.left()), box.right()), min(max(tag.y, box.top()), box.bottom()))
    for colour, wide in ((look().bay_foot, 3.4), (look().inks[tag.state], 1.6)):
        painter.setPen(QPen(QColor(colour), wide))
        painter.drawLine(QPointF(tag.x, tag.y), foot)


def _paint_tag(painter: QPainter, tag: Tag, box: QRectF) -> None:
    """Anchor and box: a bar for its state, the figure, then its lines."""
    ink = QColor(look().inks[tag.state])
    painter.setPen(QPen(QColor(look().bay_foot), 1.5))
    painter.setBrush(ink)
    painter.drawEllipse(QPointF(tag.x, tag.y), 4.5, 4.5)
    painter.setPen(QPen(ink, 2.6 if tag.chosen else 1.2))
    painter.setBrush(QColor(look().field))
    painter.drawRect(box)
    painter.fillRect(QRectF(box.x(), box.y(), BAR, box.height()), ink)
    bold, plain = worn().font(bold=True), worn().font()
    line = QFontMetricsF(bold).height()
    room = QRectF(box.x() + BAR + 7, box.y() + 4, box.width() - BAR - 10, line)
    size = px(14)
    paint_mark(painter, QRectF(room.x(), room.center().y() - size / 2, size, size), tag.state)
    painter.setPen(ink)
    painter.setFont(bold)
    painter.drawText(room.adjusted(size + 6, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, tag.figure)
    painter.setFont(plain)
    step = QFontMetricsF(plain).height()
    for k, words in enumerate(tag.lines):
        painter.setPen(QColor(look().ink if k == 0 else look().soft))
        under = QRectF(room.x() + size + 6, room.bottom() + k * step, room.width(), step)
        painter.drawText(under, Qt.AlignmentFlag.AlignVCenter, words)


def _paint_length(painter: QPainter, length: Overlay, taken: Sequence[QRectF]) -> QRectF:
    """A length from end to end, with a tick at both and its words beside its middle, clear of those taken;
    gives where they stand."""
    a, b = QPointF(*length.a), QPointF(*length.b)
    along = b - a
    long = max((along.x() ** 2 + along.y() ** 2) ** 0.5, 1e-6)
    side = QPointF(-along.y() / long, along.x() / long)
    for colour, wide in ((look().bay_foot, 4.0), (look().ink, 1.5)):
        painter.setPen(QPen(QColor(colour), wide))
        painter.drawLine(a, b)
        for end in (a, b):
            painter.drawLine(end - 6 * side, end + 6 * side)
    font = worn().font(bold=True)
    wide = QFontMetricsF(font).horizontalAdvance(length.words) + 12
    middle = (a + b) / 2
    box = QRectF(middle.x() + 10, middle.y() - px(12), wide, px(24))
    while any(box.intersects(other) for other in taken):
        box.translate(0, px(26))
    painter.setPen(QPen(QColor(look().ink), 1.0))
    painter.drawLine(middle, QPointF(box.left(), box.center().y()))
    painter.fillRect(box, QColor(look().field))
    painter.setFont(font)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, length.words)
    return box


def _paint_overlay(painter: QPainter, overlay: Overlay, width: float) -> None:
    """A line and its figure, at the hand, in the width of the picture."""
    a, b = QPointF(*overlay.a), QPointF(*overlay.b)
    for colour, wide in ((look().bay_foot, 5.0), (look().accent, 2.2)):
        painter.setPen(QPen(QColor(colour), wide))
        painter.drawLine(a, b)
        painter.drawPolygon(QPolygonF([QPointF(*corner) for corner in overlay.ring]))
    font = worn().font(13, True)
    wide = QFontMetricsF(font).horizontalAdvance(overlay.words) + 16
    box = QRectF(min(b.x() + 14, width - wide), b.y() - 14, wide, px(28))
    painter.fillRect(box, QColor(look().accent))
    painter.setFont(font)
    painter.setPen(QColor(look().on_accent))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, overlay.words)
