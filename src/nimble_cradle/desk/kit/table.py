"""A table: as high as its rows, its names never cut off, sorted by a click on a heading, copied,
searched. What is more than a handful of rows is folded under it and told by number."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from PyQt6.QtCore import QEvent, QObject, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from nimble_cradle.desk.kit.copying import copy_menu, put_on_clipboard
from nimble_cradle.desk.kit.label import plain
from nimble_cradle.desk.kit.look import look, px
from nimble_cradle.desk.kit.table_cells import (
    KEY_ROLE,
    LOOK_ROLE,
    MARK_ROLE,
    RIGHT_ROLE,
    SIDE,
    CellPainter,
    is_figure,
    order_of,
    words_height,
    words_width,
)

TableRow = tuple[str, Sequence[tuple[str, str]]]
"""Key of a row, and its cells: words and how they are shown (a state, ``>`` for right-aligned, or empty)."""
LEAST_NAME = 150
"""Pixels that the name keeps before a column is dropped for it: two words side by side."""


class Table(QWidget):
    """headings: of the columns; wide: the column with the names, which takes the room that is left.
    most_rows: so many are shown, the others are folded. widths: least pixels of each column. drop:
    columns that go, in this order, where the sheet is too narrow. chosen: told the key of a row that
    is chosen."""

    doubled = pyqtSignal()

    def __init__(
        self,
        headings: Sequence[str],
        wide: int = 0,
        most_rows: int = 8,
        chosen: Callable[[str], None] | None = None,
        row_height: int = 30,
        widths: Sequence[int] = (),
        drop: Sequence[int] = (),
    ) -> None:
        super().__init__()
        self.headings, self.most_rows, self._told = tuple(headings), most_rows, chosen
        self._wide, self._least_row, self._drop = wide, row_height, tuple(drop)
        self._least = [*widths, *[0] * (len(headings) - len(widths))]
        self._rows: list[TableRow] = []
        self._all_shown, self._sorted, self._seen = False, (-1, False), ""
        self._more_words = ""
        self.grid = _grid(self.headings, wide)
        self.grid.setItemDelegate(CellPainter(self.grid))
        port = self.grid.viewport()
        assert port is not None
        port.installEventFilter(self)
        self.grid.itemSelectionChanged.connect(self._tell)
        self.grid.cellPressed.connect(lambda *_: _leave_line())
        self.grid.cellDoubleClicked.connect(lambda *_: self.doubled.emit())
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._lay_out()
        self.setFocusProxy(self.grid)
        self._bind()

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.grid)
        self.foot = QWidget()
        line = QHBoxLayout(self.foot)
        line.setContentsMargins(0, 0, 0, 0)
        self.more = QPushButton()
        self.more.setObjectName("view")
        self.more.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find")
        self.search.setMaximumWidth(150)
        line.addWidget(self.more)
        line.addStretch(1)
        line.addWidget(self.search)
        column.addWidget(self.foot)
        self.foot.hide()

    def _bind(self) -> None:
        """Keys and clicks of the table itself."""
        self.more.clicked.connect(self.turn_fold)
        self.search.textChanged.connect(lambda _: self._fit())
        header = self.grid.horizontalHeader()
        assert header is not None
        header.sectionClicked.connect(self.sort_by)
        self.grid.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.grid.customContextMenuRequested.connect(lambda at: copy_menu(self.grid, at, self.text))
        QShortcut(
            QKeySequence.StandardKey.Copy,
            self.grid,
            lambda: put_on_clipboard(self.text(True)),
            context=Qt.ShortcutContext.WidgetShortcut,
        )

    def setAccessibleName(self, name: str | None) -> None:
        super().setAccessibleName(name)
        self.grid.setAccessibleName(name)
        self.search.setAccessibleName(f"Find in: {name}")
        self.more.setAccessibleName(f"More of: {name}")

    def item(self, row: int, column: int) -> QTableWidgetItem | None:
        """A cell as it is shown."""
        return self.grid.item(row, column)

    def rowCount(self) -> int:
        """Number of rows, the folded ones too."""
        return self.grid.rowCount()

    def currentRow(self) -> int:
        """The row that the keyboard is at, -1 for none."""
        return self.grid.currentRow()

    def selectRow(self, row: int) -> None:
        """Choose a row."""
        self.grid.setRowHidden(row, False)
        self.grid.selectRow(row)

    def setIconSize(self, size: QSize) -> None:
        """Room for a picture at the head of each row."""
        self.grid.setIconSize(size)
        self._least_row = max(self._least_row, size.height() + 6)

    def set_picture(self, row: int, picture: QIcon) -> None:
        """A picture at the head of a row."""
        cell = self.grid.item(row, 0)
        if cell is not None:
            cell.setIcon(picture)

    def fill(self, rows: Sequence[TableRow], chosen: str = "", more: str = "") -> None:
        """Show rows of (key, cells); a cell is (text, state or '' or '>' for right-aligned). more: what
        is said of those that are folded, after their number."""
        self._rows, self._more_words = list(rows), more
        self._show(chosen)

    def _show(self, chosen: str) -> None:
        """Write the rows into the cells, in the order that was asked for."""
        self.grid.blockSignals(True)
        rows = self._in_order()
        if self.grid.rowCount() != len(rows):
            self.grid.setRowCount(len(rows))
        self.grid.clearSelection()
        for r, (key, cells) in enumerate(rows):
            self._write(r, key, cells)
            if key and key == chosen:
                self.grid.setRowHidden(r, False)
                self.grid.selectRow(r)
        self.grid.blockSignals(False)
        self._fit()
        if chosen != self._seen:  # what is newly chosen is brought in sight
            self._seen = chosen

    def _in_order(self) -> list[TableRow]:
        column, down = self._sorted
        if column < 0:
            return self._rows
        return sorted(self._rows, key=lambda row: order_of(row[1][column][0]), reverse=down)

    def say(self, key: str, words: Mapping[int, str]) -> None:
        """Other words in some columns of one row, until it is filled anew."""
        for r in range(self.grid.rowCount()):
            first = self.grid.item(r, 0)
            if first is not None and first.data(KEY_ROLE) == key:
                for c, text in words.items():
                    cell = self.grid.item(r, c)
                    if cell is not None:
                        cell.setText(text)

    def _write(self, r: int, key: str, cells: Sequence[tuple[str, str]]) -> None:
        """One row's words, looks and mark."""
        mark = next((how for _, how in cells if how in look().inks), "")
        for c, (text, how) in enumerate(cells):
            item = self.grid.item(r, c)
            if item is None:
                item = QTableWidgetItem()
                self.grid.setItem(r, c, item)
            if item.text() != text:
                item.setText(text)
                item.setToolTip(plain(text))
            item.setData(LOOK_ROLE, how)
            item.setData(KEY_ROLE, key)
            item.setData(MARK_ROLE, mark if c == 0 else None)

    def sort_by(self, column: int) -> None:
        """Sort by a column; a second time the other way round, a third time as given."""
        now, down = self._sorted
        self._sorted = (column, False) if now != column else (column, True) if not down else (-1, False)
        header = self.grid.horizontalHeader()
        assert header is not None
        header.setSortIndicatorShown(self._sorted[0] >= 0)
        ascending = Qt.SortOrder.AscendingOrder
        header.setSortIndicator(column, Qt.SortOrder.DescendingOrder if self._sorted[1] else ascending)
        self._show(self.chosen_key())

    def turn_fold(self) -> None:
        """Show every row, or the first few again."""
        self._all_shown = not self._all_shown
        self._fit()

    def text(self, row_only: bool = False) -> str:
        """The table as lines of cells with tabs between, as a spreadsheet takes them; or its chosen row."""
        chosen = self.chosen_key()
        rows = [cells for key, cells in self._in_order() if not row_only or not chosen or key == chosen]
        lines = [[text.replace("\n", " – ") for text, _ in cells] for cells in rows]
        return "\n".join("\t".join(line) for line in ([] if row_only else [list(self.headings)]) + lines)

    def _fit(self) -> None:
        """Widths to the words, hidden rows, and the height that is left."""
        self._fit_columns()
        hidden = self._fold()
        header = self.grid.horizontalHeader()
        assert header is not None
        shown = [r for r in range(self.grid.rowCount()) if not self.grid.isRowHidden(r)]
        high = sum(self._fit_row(r) for r in shown) or px(self._least_row)
        self.grid.setFixedHeight(header.sizeHint().height() + high + 4)
        many = self.grid.rowCount() > self.most_rows
        self.foot.setVisible(many)
        self.more.setText(
            "Show fewer" if self._all_shown else f"{hidden} more{self._more_words}" if hidden else "All shown"
        )
        self.more.setEnabled(bool(hidden) or self._all_shown)

    def _fold(self) -> int:
        """Hide what is not looked for, and what is beyond the first rows and not chosen; gives how many."""
        wanted, chosen, hidden = self.search.text().casefold(), self.chosen_key(), 0
        for r in range(self.grid.rowCount()):
            words = " ".join(item.text() for item in self._cells(r)).casefold()
            key = self.grid.item(r, 0).data(KEY_ROLE)  # type: ignore[union-attr]
            short = r < self.most_rows or self._all_shown or (key == chosen and key != "") or wanted
            hide = not short or wanted not in words
            self.grid.setRowHidden(r, hide)
            hidden += hide
        return hidden

    def _cells(self, r: int) -> list[QTableWidgetItem]:
        cells = (self.grid.item(r, c) for c in range(self.grid.columnCount()))
        return [cell for cell in cells if cell is not None]

    def _fit_columns(self) -> None:
        """Every column as wide as its widest words, never narrower than it was; the names take the rest.
        Where they have too little, columns are dropped, then the others wrap."""
        others = [c for c in range(self.grid.columnCount()) if c != self._wide]
        for c in range(self.grid.columnCount()):
            self._set_side(c)
        for c in others:
            said = self._column(c)
            bold = any(cell.data(LOOK_ROLE) in look().inks for cell in said)
            need = max((words_width(cell.text(), bold) for cell in said), default=0)
            self._least[c] = max(self._least[c], min(need, self._widest()), words_width(self.headings[c]))
            self.grid.setColumnWidth(c, self._least[c])
        port = self.grid.viewport()
        room = port.width() if port is not None else 0
        for c in self._drop:
            self.grid.setColumnHidden(c, False)
        for c in self._drop:
            if room > 100 and room - self._taken() < px(LEAST_NAME):
                self.grid.setColumnHidden(c, True)
        if room > 100:
            self._squeeze(others, room)

    def _squeeze(self, others: list[int], room: int) -> None:
        """Let the widest columns wrap, each no narrower than its longest word, until names have room."""
        for c in sorted(others, key=lambda c: -self.grid.columnWidth(c)):
            lacking = px(LEAST_NAME) - (room - self._taken())
            if lacking > 0 and not self.grid.isColumnHidden(c):
                said = [self.headings[c], *(word for cell in self._column(c) for word in cell.text().split())]
                word = max(words_width(text, bold=True) for text in said)
                self.grid.setColumnWidth(c, max(word, self.grid.columnWidth(c) - lacking))

    def _column(self, c: int) -> list[QTableWidgetItem]:
        cells = (self.grid.item(r, c) for r in range(self.grid.rowCount()))
        return [cell for cell in cells if cell is not None]

    def _set_side(self, column: int) -> None:
        """A column that holds figures stands at the right, its heading over it; words stand at the left."""
        cells = self._column(column)
        figures = any(is_figure(cell.text(), cell.data(LOOK_ROLE) or "") for cell in cells)
        for cell in cells:
            how = cell.data(LOOK_ROLE) or ""
            cell.setData(RIGHT_ROLE, figures and (how == ">" or how in look().inks))
        heading = self.grid.horizontalHeaderItem(column)
        if heading is not None:
            side = Qt.AlignmentFlag.AlignRight if figures else Qt.AlignmentFlag.AlignLeft
            heading.setTextAlignment(side | Qt.AlignmentFlag.AlignVCenter)

    def _widest(self) -> int:
        """Most pixels that a column besides the names may take."""
        return max(px(90), int(0.42 * max(self.width(), 300)))

    def _taken(self) -> int:
        others = (c for c in range(self.grid.columnCount()) if c != self._wide)
        return sum(self.grid.columnWidth(c) for c in others if not self.grid.isColumnHidden(c))

    def _fit_row(self, r: int) -> int:
        """A row as high as its words; gives that height."""
        room = self.grid.viewport().width() - self._taken()  # type: ignore[union-attr]
        high = px(self._least_row)
        for c, cell in enumerate(self._cells(r)):
            if self.grid.isColumnHidden(c):
                continue
            wide = max(room, 60) if c == self._wide else self.grid.columnWidth(c)
            if c == 0:
                wide -= self._head_width(cell)
            high = max(high, words_height(cell.text(), wide) + 8)
        if self.grid.rowHeight(r) != high:
            self.grid.setRowHeight(r, high)
        return high

    def _head_width(self, cell: QTableWidgetItem) -> int:
        """Pixels that the picture and the mark take before the words."""
        mark = px(14) + SIDE if cell.data(MARK_ROLE) else 0
        return mark + (self.grid.iconSize().width() + SIDE if not cell.icon().isNull() else 0)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self.grid.viewport() and event is not None and event.type() == QEvent.Type.Resize:
            self._fit()
        return False

    def chosen_key(self) -> str:
        """Key of the chosen row, or empty."""
        items = self.grid.selectedItems()
        return str(items[0].data(KEY_ROLE)) if items else ""

    def _tell(self) -> None:
        key = self.chosen_key()
        if key and self._told is not None:
            self._told(key)


def _leave_line() -> None:
    """A click on a row leaves the field that was typed in, so that the next key is not typed there."""
    line = QApplication.focusWidget()
    if isinstance(line, QLineEdit):
        line.clearFocus()


def _grid(headings: Sequence[str], wide: int) -> QTableWidget:
    """The cells, without a scroll bar of their own: the page scrolls."""
    grid = QTableWidget(0, len(headings))
    grid.setHorizontalHeaderLabels(list(headings))
    vertical, horizontal = grid.verticalHeader(), grid.horizontalHeader()
    assert vertical is not None and horizontal is not None
    vertical.hide()
    vertical.setMinimumSectionSize(20)
    horizontal.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
    horizontal.setSectionResizeMode(wide, QHeaderView.ResizeMode.Stretch)
    horizontal.setHighlightSections(False)
    horizontal.setSectionsClickable(True)
    horizontal.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    grid.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    grid.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    grid.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
    grid.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    grid.setTabKeyNavigation(False)
    grid.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    grid.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return grid
