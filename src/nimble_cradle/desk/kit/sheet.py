"""What every stage's sheet is built from: a scrolling column, the open questions on top, tables, use bars."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QKeyCombination, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHeaderView,
    QScrollArea,
    QSizePolicy,
    QStyledItemDelegate,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from nimble_cradle.desk.kit.fields import heading, words
from nimble_cradle.desk.kit.label import plain
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.said_mark import SaidRow
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.style import FINDING_STATE, STATE_INK, STATE_PALE, paint_mark
from nimble_cradle.findings.finding import Finding
from nimble_cradle.judge.stages import caution
from nimble_cradle.judge.verdict import StageState
from nimble_cradle.telltales import TellTale
from nimble_cradle.units import Display, show

STATE_ROLE = int(Qt.ItemDataRole.UserRole) + 1
KEY_ROLE = int(Qt.ItemDataRole.UserRole) + 2


class Sheet(QScrollArea):
    """A stage's sheet. ``stage`` is its id; ``show_stage`` tells its open questions."""

    stage = ""
    title = ""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self._state: StageState | None = None
        self.remake()
        session.changed.connect(self._refresh_if_seen)
        session.selected.connect(self._refresh_if_seen)

    def remake(self) -> None:
        """Make the sheet's widgets for the job as it is; those of before go when what
        called for this has returned."""
        self._made_for = self.fingerprint()
        old = self.takeWidget()
        if old is not None:  # it may be in the middle of telling what made the sheet change
            for room in old.findChildren(Room):
                room.gone = True
            old.hide()
            old.setParent(None)
            old.deleteLater()
        inner = QWidget()
        inner.setObjectName("sheet")
        self.column = QVBoxLayout(inner)
        self.column.setContentsMargins(16, 12, 14, 14)
        self.column.setSpacing(6)
        self.setWidget(inner)
        self.column.addWidget(heading(self.title))
        self.asked = words("", "asked")
        self.asked.hide()
        self.column.addWidget(self.asked)
        if self.stage in ("bay", "powertrain", "mounts", "crossmember"):
            self.column.addWidget(SaidRow(self.session, self.stage))
        self.build()
        if caution(self.stage):
            self.column.addSpacing(6)
            self.column.addWidget(words(caution(self.stage), "caution"))
        self.column.addStretch(1)
        port = self.viewport()
        if port is not None and port.width() > 100:
            inner.setFixedWidth(port.width())
        if self._state is not None:
            self.show_stage(self._state)

    def fingerprint(self) -> Any:
        """What of the job the sheet's widgets were made for; when it changes they are made anew."""
        return ()

    def build(self) -> None:
        """Make the widgets."""

    def refresh(self) -> None:
        """Show the present job."""

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        inner, port = self.widget(), self.viewport()
        if inner is not None and port is not None:
            inner.setFixedWidth(port.width())

    def _refresh_if_seen(self) -> None:
        if self.isVisible():
            self._refresh_all()

    def _refresh_all(self) -> None:
        if self._made_for != self.fingerprint():
            self.remake()
        self.refresh()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self._refresh_all()

    def show_cause(self, tale: TellTale) -> None:
        """The cause of one of the six that leads here, with its working."""

    def press(self, combination: QKeyCombination) -> bool:
        """A key while no field has the keyboard; True where it was used."""
        return False

    def show_stage(self, state: StageState) -> None:
        """The stage's open questions, at most three in full."""
        self._state = state
        text = list(state.questions[:3])
        if len(state.questions) > 3:
            text.append(f"and {len(state.questions) - 3} more")
        self.asked.setText("\n".join(text))
        self.asked.setVisible(bool(text))


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

    def fill(self, rows: Sequence[tuple[str, Sequence[tuple[str, str]]]], chosen: str = "") -> None:
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


class UseBars(QWidget):
    """Findings as bars of used capacity, hardest first; a click opens the working."""

    ROW = 34

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.findings: list[Finding] = []
        self.setMouseTracking(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_findings(self, findings: Sequence[Finding]) -> None:
        self.findings = sorted(findings, key=lambda f: -f.use)
        self.setFixedHeight(max(1, len(self.findings)) * self.ROW + 2)
        self.setAccessibleName("; ".join(f"{f.what} {100 * f.use:.0f} % {f.state}" for f in self.findings))
        self.update()

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide = self.width()
        for i, f in enumerate(self.findings):
            state = FINDING_STATE[f.state]
            y = i * self.ROW
            box = QRectF(0, y, wide, self.ROW - 4)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor("#f1eee6"))
            painter.drawRect(box)
            painter.setBrush(QColor(STATE_PALE[state]))
            painter.drawRect(QRectF(0, y, min(1.0, f.use) * wide, self.ROW - 4))
            painter.setBrush(QColor(STATE_INK[state]))
            painter.drawRect(QRectF(0, y + self.ROW - 7, min(1.0, f.use) * wide, 3))
            paint_mark(painter, QRectF(7, y + 7, 15, 15), state)
            painter.setPen(QColor("#23272b"))
            painter.drawText(
                QRectF(30, y, wide - 150, self.ROW - 6), int(Qt.AlignmentFlag.AlignVCenter), f.what
            )
            painter.setPen(QColor(STATE_INK[state]))
            painter.drawText(
                QRectF(wide - 190, y, 182, self.ROW - 6),
                int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight),
                f"{100 * f.use:.0f} %  {f.state}",
            )
        painter.end()

    def mousePressEvent(self, event: Any) -> None:
        k = int(event.position().y() // self.ROW)
        if 0 <= k < len(self.findings):
            show_finding(self.session, self.findings[k])


def show_finding(session: Session, f: Finding) -> None:
    """Open the working of a finding."""
    cure = f" What would help: {f.cure}." if f.use > 0.9 and f.cure else ""
    d = Display(session.display.length)
    session.show_work(
        f"{f.part_name}: {f.what}, {show(f.load, f.kind, d)} of {show(f.capacity, f.kind, d)}"
        f" ({100 * f.use:.0f} %, {f.state}). Governed by: {f.case}, with a factor of {f.factor:g} kept in"
        f" hand.{cure}",
        f.worked,
    )
