"""A row that goes on in the next line where it is too long for its place, so that no button is ever cut
off."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import QComboBox, QLayout, QLayoutItem, QLineEdit, QProgressBar, QWidget

from nimble_cradle.desk.kit.label import Label


class FlowLayout(QLayout):
    """Widgets side by side, in as many lines as they need. gap: pixels between them, both ways; share: fields
    and boxes share what is left of their line."""

    def __init__(self, parent: QWidget, gap: int = 6, share: bool = False) -> None:
        super().__init__(parent)
        self.gap, self.share = gap, share
        self.items: list[QLayoutItem] = []
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self.items.append(item)

    def count(self) -> int:
        return len(self.items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self.items[index] if 0 <= index < len(self.items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self.items.pop(index) if 0 <= index < len(self.items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._place(QRect(0, 0, width, 0), move=False)

    def sizeHint(self) -> QSize:
        sizes = [item.sizeHint() for item in self._seen()]
        wide = sum(size.width() for size in sizes) + self.gap * max(0, len(sizes) - 1)
        return QSize(wide, max((size.height() for size in sizes), default=0))

    def minimumSize(self) -> QSize:
        sizes = [item.minimumSize() for item in self._seen()]
        return QSize(max((s.width() for s in sizes), default=0), max((s.height() for s in sizes), default=0))

    def setGeometry(self, box: QRect) -> None:
        super().setGeometry(box)
        left, top, right, bottom = self.getContentsMargins()
        self._place(box.adjusted(left or 0, top or 0, -(right or 0), -(bottom or 0)), move=True)

    def _seen(self) -> list[QLayoutItem]:
        return [item for item in self.items if not item.isEmpty()]

    def _lines(self, width: int) -> list[list[QLayoutItem]]:
        """What stands in each line of a width."""
        lines: list[list[QLayoutItem]] = [[]]
        used = 0
        for item in self._seen():
            wide = item.sizeHint().width()
            if lines[-1] and used + wide > width:
                lines.append([])
                used = 0
            lines[-1].append(item)
            used += wide + self.gap
        return lines

    def _more(self, line: list[QLayoutItem], width: int) -> int:
        """Pixels that each field of a line gets besides what it needs."""
        growing = sum(_grows(item) for item in line)
        used = sum(item.sizeHint().width() for item in line) + self.gap * (len(line) - 1)
        return max(0, (width - used) // growing) if self.share and growing else 0

    def _place(self, box: QRect, move: bool) -> int:
        """Line by line, each item in the middle of its line's height; gives the height that is needed."""
        y = box.y()
        for line in self._lines(box.width()):
            high = max((item.sizeHint().height() for item in line), default=0)
            x, more = box.x(), self._more(line, box.width())
            for item in line:
                size = item.sizeHint()
                wide = min(size.width(), max(box.width(), 1)) + (more if _grows(item) else 0)
                if move:
                    at = QPoint(x, y + (high - size.height()) // 2)
                    item.setGeometry(QRect(at, QSize(wide, size.height())))
                x += wide + self.gap
            y += high + self.gap
        return y - self.gap - box.y()


def _grows(item: QLayoutItem) -> bool:
    """Whether it is better the wider it is."""
    return isinstance(item.widget(), (QLineEdit, QComboBox, QProgressBar, Label))


def flow(widgets: Sequence[QWidget], gap: int = 6, share: bool = False) -> QWidget:
    """A widget that holds others in a flow."""
    holder = QWidget()
    layout = FlowLayout(holder, gap, share)
    for widget in widgets:
        layout.addWidget(widget)
    policy = holder.sizePolicy()
    policy.setHeightForWidth(True)
    holder.setSizePolicy(policy)
    return holder
