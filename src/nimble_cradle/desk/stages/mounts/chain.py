"""The chain from block to rail: a bar for every part, in the way of the load, filled as far as it is used."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPen
from PyQt6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.label import plain
from nimble_cradle.desk.kit.look import look, px, worn
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.state_mark import FINDING_STATE, paint_mark
from nimble_cradle.desk.kit.use_bars import show_finding
from nimble_cradle.judge.load_path import Link

LIMIT_AT = 0.72
"""Where all of a part's capacity stands, so that more than all shows too."""


class ChainBar(QAbstractButton):
    """One part. A click opens the working of its hardest check."""

    def __init__(self, session: Session, number: int) -> None:
        super().__init__()
        self.session, self.number = session, number
        self.link: Link | None = None
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.clicked.connect(self._open)

    @property
    def _state(self) -> str:
        finding = self.link.finding if self.link is not None else None
        return "open" if finding is None else FINDING_STATE[finding.state]

    def show_link(self, link: Link) -> None:
        """Show another part."""
        self.link = link
        told = "not judged" if link.finding is None else f"{_share(link)}, {link.finding.what}"
        self.setAccessibleName(f"{self.number}, {link.part}: {told}")
        self.setToolTip(plain(f"{link.part}: {told}"))
        self.setFixedHeight(px(28))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(200, px(28))

    def paintEvent(self, event: object) -> None:
        if self.link is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box, state = QRectF(self.rect()), self._state
        limit = LIMIT_AT * box.width()
        painter.fillRect(box, QColor(look().band))
        used = QRectF(0, 0, min((self.link.use or 0.0) * limit, box.width()), box.height())
        painter.fillRect(used, QColor(look().pales[state]))
        painter.fillRect(used.adjusted(0, box.height() - 3, 0, 0), QColor(look().inks[state]))
        painter.setPen(QPen(QColor(look().soft), 1))
        painter.drawLine(int(limit), 0, int(limit), self.height())
        paint_mark(painter, QRectF(7, (box.height() - px(15)) / 2, px(15), px(15)), state)
        self._write(painter, box, state)
        if self.hasFocus():
            painter.setPen(QPen(QColor(look().ink), 2))
            painter.drawRect(box.adjusted(1, 1, -1, -1))
        painter.end()

    def _write(self, painter: QPainter, box: QRectF, state: str) -> None:
        assert self.link is not None
        middle = int(Qt.AlignmentFlag.AlignVCenter)
        painter.setFont(worn().font())
        painter.setPen(QColor(look().soft))
        painter.drawText(box.adjusted(px(28), 0, 0, 0), middle, str(self.number))
        painter.setPen(QColor(look().ink))
        painter.drawText(box.adjusted(px(54), 0, 0, 0), middle, self.link.part)
        painter.setFont(worn().font(bold=True))
        painter.setPen(QColor(look().inks[state]))
        right = middle | int(Qt.AlignmentFlag.AlignRight)
        painter.drawText(box.adjusted(0, 0, -8, 0), right, _share(self.link))

    def _open(self) -> None:
        if self.link is not None and self.link.finding is not None:
            show_finding(self.session, self.link.finding)


def _share(link: Link) -> str:
    return "not judged" if link.use is None else f"{100 * link.use:.0f} %"


class Chain(QWidget):
    """All parts of a mount, block first."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.bars: list[ChainBar] = []
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(2)
        self.setAccessibleName("From block to rail")

    def show_links(self, links: Sequence[Link]) -> None:
        """Show these."""
        while len(self.bars) < len(links):
            bar = ChainBar(self.session, len(self.bars) + 1)
            self.bars.append(bar)
            self.column.addWidget(bar)
        for k, bar in enumerate(self.bars):
            if k < len(links):
                bar.show_link(links[k])
            bar.setVisible(k < len(links))
