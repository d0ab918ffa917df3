"""How a cell of a table is painted and how high its words make it. The first line is what it is about,
further lines are softer; a state is told by its ink and weight, and by its shape at the head of the
row."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any

from PyQt6.QtCore import QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate

from nimble_cradle.desk.kit.look import look, px, worn
from nimble_cradle.desk.kit.state_mark import paint_mark

LOOK_ROLE = int(Qt.ItemDataRole.UserRole) + 1
"""How a cell is shown: a state, ``>`` for right-aligned, or empty."""
KEY_ROLE = int(Qt.ItemDataRole.UserRole) + 2
MARK_ROLE = int(Qt.ItemDataRole.UserRole) + 3
"""The state of the whole row, at its first cell."""
RIGHT_ROLE = int(Qt.ItemDataRole.UserRole) + 4
"""Whether the cell's words stand at the right."""
SIDE = 5
"""Pixels left free at both sides of a cell's words."""
ROUNDING = 4
"""Pixels by which a painter may set words wider than they were measured (seen: 3)."""
_FIGURE = re.compile(r"-?\d+(?:[.,]\d+)?")
_BELOW = ("hits", "short", "lacks", "overlap")
"""Words that stand where a sign would."""


@lru_cache(maxsize=4096)
def _lines(text: str, width: int, text_size: float, bold: bool) -> int:
    """Height in pixels of words wrapped to a width. text_size: only tells when all is to be measured anew."""
    metrics = QFontMetrics(worn().font(bold=bold))
    flags = int(Qt.TextFlag.TextWordWrap)
    return metrics.boundingRect(QRect(0, 0, max(width, 20), 10_000), flags, text).height()


def words_height(text: str, width: int) -> int:
    """Pixels that a cell needs for its words at a width of the column."""
    room = width - 2 * SIDE
    if _widest(text, worn().text, False) <= room - ROUNDING:
        return QFontMetrics(worn().font()).lineSpacing() * (text.count("\n") + 1)
    return _lines(text, room - ROUNDING, worn().text, False)


@lru_cache(maxsize=4096)
def _widest(text: str, text_size: float, bold: bool) -> int:
    metrics = QFontMetrics(worn().font(bold=bold))
    return max((metrics.horizontalAdvance(line) for line in text.split("\n")), default=0)


def words_width(text: str, bold: bool = False) -> int:
    """Pixels that a cell needs to hold its words without wrapping."""
    return 2 * SIDE + ROUNDING + 1 + _widest(text, worn().text, bold)


def order_of(text: str) -> tuple[int, float, str]:
    """What a cell is sorted by: its figure, below nothing where a word says so; else its words."""
    found = _FIGURE.search(text)
    if found is None or (found.start() > 0 and not text.lower().startswith(_BELOW)):
        return 1, 0.0, text.casefold()
    figure = float(found[0].replace(",", "."))
    return 0, -abs(figure) if any(word in text for word in _BELOW) else figure, ""


def is_figure(text: str, how: str) -> bool:
    """Whether a cell holds a figure: it is meant for the right, or has a state and begins with one."""
    return how == ">" or (how in look().inks and order_of(text)[0] == 0)


class CellPainter(QStyledItemDelegate):
    """Paints cells. The mark of the row has its own place left of the first cell's words."""

    def paint(self, painter: QPainter | None, option: Any, index: Any) -> None:
        if painter is None:
            return
        how, mark = index.data(LOOK_ROLE) or "", index.data(MARK_ROLE) or ""
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        painter.fillRect(option.rect, QColor(look().accent_pale if chosen else look().field))
        room = QRectF(option.rect).adjusted(SIDE, 0, -SIDE, 0)
        room = self._head(painter, room, index, mark)
        state = how if how in look().inks else ""
        painter.setFont(worn().font(bold=bool(state)))
        side = Qt.AlignmentFlag.AlignRight if index.data(RIGHT_ROLE) else Qt.AlignmentFlag.AlignLeft
        _words(painter, room, str(index.data() or ""), int(side), state)
        painter.restore()

    def _head(self, painter: QPainter, room: QRectF, index: Any, mark: str) -> QRectF:
        """The picture and the mark before the first cell's words; gives the room that is left."""
        picture = index.data(Qt.ItemDataRole.DecorationRole)
        if picture is not None:
            size = self.parent().iconSize()  # type: ignore[union-attr]
            at = QRect(int(room.x()), int(room.center().y() - size.height() / 2), size.width(), size.height())
            picture.paint(painter, at)
            room = room.adjusted(size.width() + SIDE, 0, 0, 0)
        if mark:
            size_px = px(14)
            paint_mark(painter, QRectF(room.x(), room.center().y() - size_px / 2, size_px, size_px), mark)
            room = room.adjusted(size_px + SIDE, 0, 0, 0)
        return room

    def sizeHint(self, option: Any, index: Any) -> QSize:
        text = str(index.data() or "")
        return QSize(words_width(text, bool(index.data(LOOK_ROLE))), px(30))


def _words(painter: QPainter, room: QRectF, text: str, side: int, state: str) -> None:
    """Words in the middle of a cell's height, wrapped; lines after the first are softer."""
    flags = side | int(Qt.AlignmentFlag.AlignVCenter) | int(Qt.TextFlag.TextWordWrap)
    head, _, rest = text.partition("\n")
    painter.setPen(QColor(look().inks[state] if state else look().ink))
    if not rest:
        painter.drawText(room, flags, text)
        return
    above = painter.boundingRect(room, flags, head).height()
    below = painter.boundingRect(room, flags, rest).height()
    top = room.center().y() - (above + below) / 2
    flags = side | int(Qt.AlignmentFlag.AlignTop) | int(Qt.TextFlag.TextWordWrap)
    painter.drawText(QRectF(room.x(), top, room.width(), above), flags, head)
    painter.setPen(QColor(look().soft))
    painter.drawText(QRectF(room.x(), top + above, room.width(), below), flags, rest)
