"""Words, buttons and rows of which sheets are built."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.label import Label, plain


def heading(text: str) -> QLabel:
    """A sheet's title."""
    label = Label(text)
    label.setObjectName("heading")
    return label


def part(text: str) -> QLabel:
    """The title of a part of a sheet."""
    label = Label(text)
    label.setObjectName("part")
    return label


def words(text: str = "", name: str = "soft") -> QLabel:
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
    """Widgets side by side."""
    box = QWidget()
    layout = QHBoxLayout(box)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(6)
    for widget in widgets:
        layout.addWidget(widget)
    if stretch:
        layout.addStretch(1)
    return box


def fresh_body(column: QVBoxLayout, old: QWidget) -> tuple[QWidget, QVBoxLayout]:
    """A new empty part of a sheet at the end of ``column`` in the place of an old one, and the column
    inside it."""
    column.removeWidget(old)
    old.deleteLater()
    body = QWidget()
    inner = QVBoxLayout(body)
    inner.setContentsMargins(0, 0, 0, 0)
    inner.setSpacing(1)
    column.addWidget(body)
    return body, inner
