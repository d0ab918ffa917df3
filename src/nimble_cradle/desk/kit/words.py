"""Words, buttons and rows of which sheets are built."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QLineEdit, QPushButton, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.flow import flow
from nimble_cradle.desk.kit.label import Label, plain


def heading(text: str) -> Label:
    """A sheet's title."""
    label = Label(text)
    label.setObjectName("heading")
    return label


def part(text: str) -> Label:
    """The title of a part of a sheet."""
    label = Label(text)
    label.setObjectName("part")
    return label


def words(text: str = "", name: str = "soft") -> Label:
    """A wrapped line of words. name: soft, refusal, caution, asked or ''."""
    label = Label(text)
    label.setObjectName(name)
    label.setWordWrap(True)
    label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return label


def button(text: str, act: Callable[[], Any], tip: str = "", name: str = "") -> QPushButton:
    """A push button."""
    b = QPushButton(text.replace("&", "&&"))
    b.clicked.connect(lambda: act())
    if tip:
        b.setToolTip(plain(tip))
    if name:
        b.setObjectName(name)
    return b


def row(*widgets: QWidget, stretch: bool = True) -> QWidget:
    """Widgets side by side, going on in the next line where they are too many; without ``stretch`` fields
    and boxes share what is left of a line."""
    for widget in widgets:
        if isinstance(widget, QComboBox):
            widget.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        elif isinstance(widget, QLineEdit) and widget.placeholderText():
            wide = widget.fontMetrics().horizontalAdvance(widget.placeholderText()) + 24
            widget.setMinimumWidth(min(300, wide))
    return flow(widgets, share=not stretch)


def stacked(holder: QWidget, *widgets: QWidget) -> QVBoxLayout:
    """Widgets one under another in ``holder``, without room between them."""
    column = QVBoxLayout(holder)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(0)
    for widget in widgets:
        column.addWidget(widget)
    return column


def fresh_body(column: QVBoxLayout, old: QWidget) -> tuple[QWidget, QVBoxLayout]:
    """A new empty part of a sheet at the end of ``column`` in the place of an old one, and the column
    inside it."""
    column.removeWidget(old)
    old.hide()  # until it is gone nothing of it can be seen or pressed
    old.deleteLater()
    body = QWidget()
    inner = QVBoxLayout(body)
    inner.setContentsMargins(0, 0, 0, 0)
    inner.setSpacing(1)
    column.addWidget(body)
    return body, inner
