"""A sentence beside a field or a button that says why not: in sight, and gone when its cause has gone."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QScrollArea, QWidget

from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.session import Session


class Refusal(Label):
    """Hidden until something is refused. What was refused for the job as it was goes with the next job; told
    with ``stays`` it is put away by who told it."""

    def __init__(self, session: Session | None = None) -> None:
        super().__init__()
        if session is not None:
            session.changed.connect(self.let_go)
        self.setObjectName("refusal")
        self.setWordWrap(True)
        self.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.stays = False
        self.hide()

    def tell(self, sentence: str, stays: bool = False) -> None:
        """Show a sentence and bring it in sight; an empty one puts it away."""
        self.stays = stays
        self.setText(sentence)
        self.setVisible(bool(sentence))
        if sentence:
            QTimer.singleShot(0, self._in_sight)

    def let_go(self) -> None:
        """The job has changed: what was refused for the one before is of no matter."""
        if not self.stays:
            self.tell("")

    def _in_sight(self) -> None:
        try:
            page = page_of(self)
            if page is not None and self.isVisible():
                page.ensureWidgetVisible(self, 0, 24)
        except RuntimeError:  # its page was made anew meanwhile
            return


def page_of(widget: QWidget) -> QScrollArea | None:
    """The page that a widget scrolls with, or None."""
    found: Any = widget.parentWidget()
    while found is not None and not isinstance(found, QScrollArea):
        found = found.parentWidget()
    return found
