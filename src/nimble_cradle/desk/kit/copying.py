"""Words onto the clipboard."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QAbstractScrollArea, QApplication, QMenu


def put_on_clipboard(text: str) -> None:
    """Let ``text`` be pasted elsewhere."""
    board = QApplication.clipboard()
    if board is not None:
        board.setText(text)


def copy_menu(owner: QAbstractScrollArea, at: QPoint, text: Callable[[bool], str]) -> None:
    """A menu at a place of ``owner`` that copies. text: called with True for what is chosen, False for
    all."""
    menu = QMenu(owner)
    for words, only in (("Copy this row", True), ("Copy the table", False)):
        action = menu.addAction(words)
        assert action is not None
        action.triggered.connect(lambda _=False, o=only: put_on_clipboard(text(o)))
    port = owner.viewport()
    if port is not None:
        menu.popup(port.mapToGlobal(at))
