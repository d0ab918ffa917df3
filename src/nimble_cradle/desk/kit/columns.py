"""Parts of a page: two sides where there is room for both, and groups that are folded until they are
wanted."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.label import plain
from nimble_cradle.desk.kit.look import look, px, worn
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.session import Session

TWO_SIDES = 712
"""Pixels of width from which two columns stand side by side, each at least 350 wide."""
TOLD = 4
"""Figures that a folded group tells of itself: as many as fit a line of the usual sheet."""


class Sides(QWidget):
    """Two columns: side by side where the sheet is wide, else one under the other."""

    def __init__(self) -> None:
        super().__init__()
        self._across = QBoxLayout(QBoxLayout.Direction.TopToBottom, self)
        self._across.setContentsMargins(0, 0, 0, 0)
        self._across.setSpacing(6)
        self.left, self.right = (self._side() for _ in range(2))

    def _side(self) -> QVBoxLayout:
        """A column that takes half of the width, whatever is in it."""
        holder = QWidget()
        holder.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self._across.addWidget(holder, 1)
        return column

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        wide = self.width() >= TWO_SIDES
        way = QBoxLayout.Direction.LeftToRight if wide else QBoxLayout.Direction.TopToBottom
        if self._across.direction() != way:
            self._across.setDirection(way)
            self._across.setSpacing(20 if wide else 6)


class FoldButton(QAbstractButton):
    """The head of a group: an arrow, its title, and what is in it as long as it is closed."""

    def __init__(self, title: str, fold: Fold) -> None:
        super().__init__()
        self.title, self.fold = title, fold
        self.setCheckable(True)
        self.setText(title)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        return QSize(200, px(32))

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect())
        painter.fillRect(box, QColor(look().accent_pale if self.underMouse() else look().band))
        _paint_arrow(painter, QPointF(px(14), box.center().y()), self.isChecked())
        painter.setFont(worn().font(bold=True))
        painter.setPen(QColor(look().accent))
        room = box.adjusted(px(28), 0, -8, 0)
        painter.drawText(room, int(Qt.AlignmentFlag.AlignVCenter), self.title)
        if not self.isChecked():
            used = QFontMetrics(painter.font()).horizontalAdvance(self.title) + px(14)
            if room.width() - used > px(60):
                self._paint_told(painter, room.adjusted(used, 0, 0, 0))
        if self.hasFocus():
            painter.setPen(QPen(QColor(look().ink), 2))
            painter.drawRect(box.adjusted(1, 1, -1, -1))
        painter.end()

    def _paint_told(self, painter: QPainter, room: QRectF) -> None:
        """What is in the group, as much as there is room for."""
        said = self.fold.words()
        font = worn().font()
        painter.setFont(font)
        painter.setPen(QColor(look().soft))
        shown = QFontMetrics(font).elidedText(said, Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight), shown)
        self.setToolTip(plain(said))
        self.setAccessibleDescription(said)


def _paint_arrow(painter: QPainter, middle: QPointF, down: bool) -> None:
    r = px(5)
    points = ((-r, -r / 2), (r, -r / 2), (0, r * 0.7)) if down else ((-r / 2, -r), (r * 0.7, 0), (-r / 2, r))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(look().accent))
    painter.drawPolygon(QPolygonF([middle + QPointF(x, y) for x, y in points]))


class Fold(QWidget):
    """A group that is closed until it is wanted; what is in it is told at its head. It stays as it was left,
    for as long as the window lives."""

    def __init__(self, session: Session, title: str, told: str = "", open_first: bool = False) -> None:
        super().__init__()
        self.session, self.title, self.told = session, title, told
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 2, 0, 2)
        whole.setSpacing(4)
        self.button = FoldButton(title, self)
        self.body = QWidget()
        self.column = QVBoxLayout(self.body)
        self.column.setContentsMargins(8, 0, 0, 4)
        self.column.setSpacing(6)
        whole.addWidget(self.button)
        whole.addWidget(self.body)
        self.open(bool(session.kept.get(self._key, open_first)))
        self.button.toggled.connect(self.open)
        session.changed.connect(self.button.update)

    @property
    def _key(self) -> str:
        return f"fold {self.title}"

    def open(self, wanted: bool = True) -> None:
        """Open it, or close it."""
        self.session.kept[self._key] = wanted
        self.body.setVisible(wanted)
        self.button.blockSignals(True)
        self.button.setChecked(wanted)
        self.button.blockSignals(False)

    def tell(self, said: str) -> None:
        """Say what is in it."""
        self.told = said
        self.button.update()

    def words(self) -> str:
        """What is in it: what was told, or its first figures."""
        if self.told:
            return self.told
        kinds = (QuantityField, ChoiceField, TextField)
        fields = [
            field
            for field in self.body.findChildren(QWidget)
            if isinstance(field, kinds) and not field.isHidden() and field.path
        ]
        fields.sort(key=lambda field: field.mapTo(self.body, field.rect().topLeft()).y())
        return ", ".join(said for field in fields[:TOLD] if (said := field.told()))


class Columns:
    """What a sheet and a room have in common: a column that parts are put into, one after another."""

    session: Session
    column: QVBoxLayout

    @contextmanager
    def folded(self, title: str, told: str = "", open_first: bool = False) -> Iterator[Fold]:
        """What is put into the column in the block goes into a closed group. told: what is in it, where its
        figures do not tell that."""
        fold = Fold(self.session, title, told, open_first)
        outer = self.column
        outer.addWidget(fold)
        self.column = fold.column
        try:
            yield fold
        finally:
            self.column = outer

    @contextmanager
    def two_sides(self) -> Iterator[Sides]:
        """What is put into the column in the block goes to the left side until ``right_side`` is called."""
        sides = Sides()
        outer = self.column
        outer.addWidget(sides)
        self.column, self._sides = sides.left, sides
        try:
            yield sides
        finally:
            sides.left.addStretch(1)
            sides.right.addStretch(1)
            self.column = outer

    _sides: Sides

    def right_side(self) -> None:
        """From here on the right side."""
        self.column = self._sides.right
