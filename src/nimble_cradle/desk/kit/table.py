"""A table that keeps its height to its rows, with states painted in its cells."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QSizePolicy,
    QStyledItemDelegate,
    QTableWidget,
    QTableWidgetItem,
)

from nimble_cradle.desk.kit.label import plain
from nimble_cradle.desk.kit.style import STATE_INK, STATE_PALE, paint_mark

STATE_ROLE = int(Qt.ItemDataRole.UserRole) + 1
KEY_ROLE = int(Qt.ItemDataRole.UserRole) + 2

TableRow = tuple[str, Sequence[tuple[str, str]]]
"""Key of a row, and its cells: words and how they are shown (a state, ``>`` for right-aligned, or empty)."""


class StateDelegate(QStyledItemDelegate):
    """Paints the shape of a state before a cell's words, and the paleness of the state behind them."""

    def paint(self, painter: QPainter | None, option: Any, index: Any) -> None:
        state = index.data(STATE_ROLE)
        if painter is None or not state:
            super().paint(painter, option, index)
            return
        painter.fillRect(option.rect, QColor(STATE_PALE[state]))
        box = QRectF(option.rect)
        paint_mark(painter, QRectF(box.x() + 6, box.center().y() - 7, 14, 14), state)
        painter.setPen(QColor(STATE_INK[state]))
        painter.drawText(
            box.adjusted(26, 0, -4, 0),
            int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft) | int(Qt.TextFlag.TextWordWrap),
            str(index.data()),
        )

    def sizeHint(self, option: Any, index: Any) -> QSize:
        size = super().sizeHint(option, index)
        return QSize(size.width() + 22, size.height())


class Table(QTableWidget):
    """A table that keeps its height to its rows and tells which row's key was chosen."""

    def __init__(
        self,
        headings: Sequence[str],
        wide: int = 0,
        most_rows: int = 8,
        chosen: Callable[[str], None] | None = None,
        row_height: int = 30,
        widths: Sequence[int] = (),
    ) -> None:
        super().__init__(0, len(headings))
        self.setHorizontalHeaderLabels(list(headings))
        self._most, self._row = most_rows, row_height
        vertical, horizontal = self.verticalHeader(), self.horizontalHeader()
        assert vertical is not None and horizontal is not None
        vertical.hide()
        vertical.setDefaultSectionSize(row_height)
        horizontal.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        horizontal.setSectionResizeMode(wide, QHeaderView.ResizeMode.Stretch)
        for column, width in enumerate(widths):
            if width:
                horizontal.setSectionResizeMode(column, QHeaderView.ResizeMode.Fixed)
                self.setColumnWidth(column, width)
        horizontal.setHighlightSections(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setWordWrap(row_height > 34)
        self.setItemDelegate(StateDelegate(self))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._told = chosen
        self._seen = ""
        self.itemSelectionChanged.connect(self._tell)

    def fill(self, rows: Sequence[TableRow], chosen: str = "") -> None:
        """Show rows of (key, cells); a cell is (text, state or '' or '>' for right-aligned)."""
        self.blockSignals(True)
        if self.rowCount() != len(rows):
            self.setRowCount(len(rows))
        self.clearSelection()
        for r, (key, cells) in enumerate(rows):
            for c, (text, look) in enumerate(cells):
                item = self.item(r, c)
                if item is None:
                    item = QTableWidgetItem()
                    self.setItem(r, c, item)
                if item.text() != text:
                    item.setText(text)
                    item.setToolTip(plain(text))
                item.setData(STATE_ROLE, look if look in STATE_INK else None)
                item.setData(KEY_ROLE, key)
                if look == ">":
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            if key and key == chosen:
                self.selectRow(r)
        self.blockSignals(False)
        header = self.horizontalHeader()
        assert header is not None
        self.setFixedHeight(header.sizeHint().height() + self._row * max(1, min(len(rows), self._most)) + 4)
        if (
            chosen != self._seen
        ):  # what is newly chosen is brought in sight; else it stays where it was scrolled
            self._seen = chosen
            if self.selectedItems():
                self.scrollToItem(self.selectedItems()[0])

    def chosen_key(self) -> str:
        """Key of the chosen row, or empty."""
        items = self.selectedItems()
        return str(items[0].data(KEY_ROLE)) if items else ""

    def _tell(self) -> None:
        key = self.chosen_key()
        if key and self._told is not None:
            self._told(key)
