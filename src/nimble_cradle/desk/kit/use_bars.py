"""Findings as bars of used capacity."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QSizePolicy, QWidget

from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.style import FINDING_STATE, STATE_INK, STATE_PALE, paint_mark
from nimble_cradle.findings.finding import Finding
from nimble_cradle.units import Display, show


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
        self.setAccessibleName(
            "; ".join(
                f"{finding.what} {100 * finding.use:.0f} % {finding.state}" for finding in self.findings
            )
        )
        self.update()

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide = self.width()
        for i, finding in enumerate(self.findings):
            state = FINDING_STATE[finding.state]
            y = i * self.ROW
            box = QRectF(0, y, wide, self.ROW - 4)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor("#f1eee6"))
            painter.drawRect(box)
            painter.setBrush(QColor(STATE_PALE[state]))
            painter.drawRect(QRectF(0, y, min(1.0, finding.use) * wide, self.ROW - 4))
            painter.setBrush(QColor(STATE_INK[state]))
            painter.drawRect(QRectF(0, y + self.ROW - 7, min(1.0, finding.use) * wide, 3))
            paint_mark(painter, QRectF(7, y + 7, 15, 15), state)
            painter.setPen(QColor("#23272b"))
            painter.drawText(
                QRectF(30, y, wide - 150, self.ROW - 6), int(Qt.AlignmentFlag.AlignVCenter), finding.what
            )
            painter.setPen(QColor(STATE_INK[state]))
            painter.drawText(
                QRectF(wide - 190, y, 182, self.ROW - 6),
                int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight),
                f"{100 * finding.use:.0f} %  {finding.state}",
            )
        painter.end()

    def mousePressEvent(self, event: Any) -> None:
        k = int(event.position().y() // self.ROW)
        if 0 <= k < len(self.findings):
            show_finding(self.session, self.findings[k])


def show_finding(session: Session, f: Finding) -> None:
    """Open the working of a finding."""
    cure = f" What would help: {f.cure}." if f.use > 0.9 and f.cure else ""
    display = Display(session.display.length)
    session.show_work(
        f"{f.part_name}: {f.what}, {show(f.load, f.kind, display)} of {show(f.capacity, f.kind, display)}"
        f" ({100 * f.use:.0f} %, {f.state}). Governed by: {f.case}, with a factor of {f.factor:g} kept in"
        f" hand.{cure}",
        f.worked,
    )
