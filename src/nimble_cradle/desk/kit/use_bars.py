"""Findings as bars of used capacity."""

from __future__ import annotations

import math
from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen, QResizeEvent
from PyQt6.QtWidgets import QAbstractButton, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from nimble_cradle.cures.lack import Subject
from nimble_cradle.desk.kit.label import plain
from nimble_cradle.desk.kit.look import look, px, worn
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.state_mark import FINDING_STATE, paint_mark
from nimble_cradle.findings.finding import Finding
from nimble_cradle.units import Display, show

SHOWN = 3
"""Findings that are shown though they hold: the hardest ones. Whatever does not hold is always shown."""
_WRAPPED = int(Qt.TextFlag.TextWordWrap) | int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop)
CURED_FROM = 0.9
"""From this use on a cure is told: where a finding is near."""


class UseBar(QAbstractButton):
    """One finding as a bar; a click opens its working. What would help stands under one that is near or does
    not hold."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.finding: Finding | None = None
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.clicked.connect(self._open)

    def show_finding(self, finding: Finding) -> None:
        """Show another finding."""
        self.finding = finding
        self.setAccessibleName(f"{finding.what}: {_percent(finding)}, {finding.state}")
        self.setAccessibleDescription(self._help())
        self.setToolTip(plain(f"{finding.what}: {_percent(finding)}. {finding.case}"))
        self._fit()
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """As many lines as its words need at this width."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        high = self.sizeHint().height()
        if high != self.height() or self.minimumHeight() != high:
            self.setFixedHeight(high)

    def _room(self) -> float:
        """Width for words, beside the mark, px."""
        return max(self.width() - 14.0 - px(23), 60.0)

    def _said(self) -> str:
        return "" if self.finding is None else f"{_percent(self.finding)}  {self.finding.state}"

    def _high(self, text: str, beside: float, bold: bool = False) -> float:
        """Height of words that wrap in the room less ``beside``, px."""
        metrics = QFontMetricsF(worn().font(bold=bold))
        wide = max(self._room() - beside, 60.0)
        return metrics.boundingRect(QRectF(0, 0, wide, 4000.0), _WRAPPED, text).height()

    def _beside(self) -> float:
        """What the figure at the right takes, px."""
        return QFontMetricsF(worn().font(bold=True)).horizontalAdvance(self._said()) + px(12)

    def _help(self) -> str:
        """What would help, or nothing."""
        finding = self.finding
        needed = finding is not None and finding.use > CURED_FROM and finding.cure
        return f"would help: {finding.cure}" if finding is not None and needed else ""

    def sizeHint(self) -> QSize:
        if self.finding is None:
            return QSize(200, px(30))
        one = self._high("x", 0.0)
        more = self._high(self.finding.what, self._beside()) - one
        help_ = self._help()
        more += self._high(help_, 0.0) if help_ else 0.0
        return QSize(200, math.ceil(px(30) + more))

    def paintEvent(self, event: object) -> None:
        if self.finding is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        state = FINDING_STATE[self.finding.state]
        box = QRectF(self.rect())
        used = QRectF(0, 0, min(1.0, self.finding.use) * box.width(), box.height())
        painter.fillRect(box, QColor(look().band))
        painter.fillRect(used, QColor(look().pales[state]))
        painter.fillRect(used.adjusted(0, box.height() - 3, 0, 0), QColor(look().inks[state]))
        line = QRectF(7, 0, box.width() - 14, px(28))
        paint_mark(painter, QRectF(7, (line.height() - px(15)) / 2, px(15), px(15)), state)
        self._write(painter, line.adjusted(px(23), 0, 0, 0), state)
        if self.hasFocus():
            painter.setPen(QPen(QColor(look().ink), 2))
            painter.drawRect(box.adjusted(1, 1, -1, -1))
        painter.end()

    def _write(self, painter: QPainter, line: QRectF, state: str) -> None:
        """What it is, how much is used, and what would help."""
        assert self.finding is not None
        middle = int(Qt.AlignmentFlag.AlignVCenter)
        painter.setFont(worn().font())
        painter.setPen(QColor(look().ink))
        top = (px(30) - self._high("x", 0.0)) / 2
        high = self._high(self.finding.what, self._beside())
        words = QRectF(line.left(), top, line.width() - self._beside(), high)
        painter.drawText(words, _WRAPPED, self.finding.what)
        help_ = self._help()
        if help_:
            painter.setPen(QColor(look().soft))
            under = QRectF(line.left(), top + high, line.width(), self._high(help_, 0.0))
            painter.drawText(under, _WRAPPED, help_)
        painter.setFont(worn().font(bold=True))
        painter.setPen(QColor(look().inks[state]))
        right = middle | int(Qt.AlignmentFlag.AlignRight)
        painter.drawText(line, right, self._said())

    def _open(self) -> None:
        if self.finding is not None:
            show_finding(self.session, self.finding)


def _percent(finding: Finding) -> str:
    return f"{100 * finding.use:.0f} %"


class UseBars(QWidget):
    """Findings as bars of used capacity, hardest first; those that hold well are folded."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.findings: list[Finding] = []
        self.bars: list[UseBar] = []
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(3)
        self.more = QPushButton()
        self.more.setObjectName("view")
        self.more.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.more.clicked.connect(self._turn)
        self.column.addWidget(self.more, 0, Qt.AlignmentFlag.AlignLeft)
        self._all = False

    def show_findings(self, findings: Sequence[Finding]) -> None:
        """Show these."""
        self.findings = sorted(findings, key=lambda f: -f.use)
        lacking = sum(finding.use > CURED_FROM for finding in self.findings)
        shown = len(self.findings) if self._all else max(SHOWN, lacking)
        for k, finding in enumerate(self.findings[:shown]):
            self._bar(k).show_finding(finding)
        for k, bar in enumerate(self.bars):
            bar.setVisible(k < min(shown, len(self.findings)))
        left = len(self.findings) - shown
        self.more.setText("Show fewer" if self._all else f"{left} more, all hold")
        self.more.setVisible(left > 0 or (self._all and len(self.findings) > SHOWN))

    def _bar(self, k: int) -> UseBar:
        """The bar of a row, made where there is none yet."""
        while len(self.bars) <= k:
            bar = UseBar(self.session)
            self.column.insertWidget(len(self.bars), bar)
            self.bars.append(bar)
        return self.bars[k]

    def _turn(self) -> None:
        """All of them, or the hardest again."""
        self._all = not self._all
        self.show_findings(self.findings)


def show_finding(session: Session, f: Finding) -> None:
    """Open the working of a finding."""
    session.asked_about = Subject("finding", f"{f.part}/{f.code}")
    cure = f" What would help: {f.cure}." if f.use > CURED_FROM and f.cure else ""
    display = Display(session.display.length)
    session.show_work(
        f"{f.part_name}: {f.what}, {show(f.load, f.kind, display)} of {show(f.capacity, f.kind, display)},"
        f" {_percent(f)}, {f.state}. Governed by: {f.case}, with a factor of {f.factor:g} kept in"
        f" hand.{cure}",
        f.worked,
    )
