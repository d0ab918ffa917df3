"""Findings as bars of used capacity."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QPainter, QPen
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
        self.setFixedHeight(self.sizeHint().height())
        self.update()

    def _help(self) -> str:
        """What would help, or nothing."""
        finding = self.finding
        needed = finding is not None and finding.use > CURED_FROM and finding.cure
        return f"would help: {finding.cure}" if finding is not None and needed else ""

    def sizeHint(self) -> QSize:
        return QSize(200, px(50 if self._help() else 30))

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
        painter.drawText(line, middle, self.finding.what)
        help_ = self._help()
        if help_:
            painter.setPen(QColor(look().soft))
            painter.drawText(line.translated(0, px(20)), middle, help_)
        painter.setFont(worn().font(bold=True))
        painter.setPen(QColor(look().inks[state]))
        right = middle | int(Qt.AlignmentFlag.AlignRight)
        painter.drawText(line, right, f"{_percent(self.finding)}  {self.finding.state}")

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
