"""The working drawer: formula, numbers with where they came from, source, and what is left out, for any
figure."""

from __future__ import annotations

from html import escape
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from nimble_cradle.calc import Quantity, Worked
from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.look import look


def _figure(value: Any) -> str:
    if isinstance(value, float):
        return f"{value:,.4g}".replace(",", " ") if abs(value) < 1e4 else f"{value:,.0f}".replace(",", " ")
    return escape(str(value))


def _symbol(q: Quantity) -> str:
    return escape(q.name.replace("_", " "))


def working_html(worked: Worked) -> str:
    """One calculation with its numbers as HTML."""
    calculation, soft = worked.calculation, look().soft
    cells = "".join(
        f"<tr><td>{escape(quantity.meaning)}</td><td align=right><b>&nbsp;&nbsp;{_figure(v)}"
        f" {escape(quantity.unit)}</b></td><td"
        f" style='color:{soft}'>&nbsp;&nbsp;{_symbol(quantity)}{', ' + escape(o) if o else ''}</td></tr>"
        for quantity, v, o in worked.inputs
    )
    results = "".join(
        f"<tr><td style='color:{look().accent}'><b>{escape(quantity.meaning)}</b></td><td align=right"
        f" style='color:{look().accent}'><b>&nbsp;&nbsp;{_figure(v)} {escape(quantity.unit)}</b></td><td"
        f" style='color:{soft}'>&nbsp;&nbsp;{_symbol(quantity)}</td></tr>"
        for quantity, v in worked.outputs
    )
    return (
        f"<p><b>{escape(calculation.title)}</b><br>{escape(calculation.formula)}</p><table cellspacing=0"
        f" cellpadding=2>{cells}{results}</table><p style='color:{soft}'>Source:"
        f" {escape(calculation.source)}.<br>Leaves out: {escape(calculation.leaves_out)}.</p>"
    )


class WorkingDrawer(QFrame):
    """Slides in under the bay; Esc or its button puts it away."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("drawer")
        self.title = Label()
        self.title.setWordWrap(True)
        self.title.setObjectName("part")
        close = QPushButton("Put away")
        close.setObjectName("view")
        close.setToolTip("Esc")
        close.clicked.connect(self.hide)
        head = QWidget()
        top = QHBoxLayout(head)
        top.setContentsMargins(0, 0, 0, 0)
        top.addWidget(self.title, 1)
        top.addWidget(close, 0, Qt.AlignmentFlag.AlignTop)
        self.text = QTextBrowser()
        self.text.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 10, 4)
        column.setSpacing(2)
        column.addWidget(head)
        column.addWidget(self.text, 1)
        self.hide()

    def show_work(self, title: str, worked: tuple[Worked, ...]) -> None:
        """Show the working of a figure."""
        self.title.setText(title)
        self.text.setHtml("<hr>".join(working_html(w) for w in worked))
        self.show()
        self._fit()

    def _fit(self) -> None:
        """As high as its words need, up to 340 pixels."""
        document = self.text.document()
        assert document is not None
        document.setTextWidth(max(200, self.width() - 40))
        self.setFixedHeight(
            min(
                340,
                int(document.size().height()) + self.title.heightForWidth(max(200, self.width() - 160)) + 34,
            )
        )
