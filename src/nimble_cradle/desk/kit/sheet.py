"""What every stage's sheet is built from: a scrolling column, the open questions on top, tables, use bars."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QKeyCombination, Qt
from PyQt6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.said_mark import SaidRow
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.words import heading, words
from nimble_cradle.judge.stages import caution
from nimble_cradle.judge.verdict import StageState
from nimble_cradle.telltales import TellTale


class Sheet(QScrollArea):
    """A stage's sheet. ``stage`` is its id; ``show_stage`` tells its open questions; ``has_figures``: it has
    a row that tells how many of its figures were measured."""

    stage = ""
    title = ""
    has_figures = False

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self._state: StageState | None = None
        self.remake()
        session.changed.connect(self._refresh_if_seen)
        session.selected.connect(self._refresh_if_seen)

    def remake(self) -> None:
        """Make the sheet's widgets for the job as it is; those of before go when what
        called for this has returned."""
        self._made_for = self.fingerprint()
        old = self.takeWidget()
        if old is not None:  # it may be in the middle of telling what made the sheet change
            for room in old.findChildren(Room):
                room.gone = True
            old.hide()
            old.setParent(None)
            old.deleteLater()
        inner = QWidget()
        inner.setObjectName("sheet")
        self.column = QVBoxLayout(inner)
        self.column.setContentsMargins(16, 12, 14, 14)
        self.column.setSpacing(6)
        self.setWidget(inner)
        self.column.addWidget(heading(self.title))
        self.asked = words("", "asked")
        self.asked.hide()
        self.column.addWidget(self.asked)
        if self.has_figures:
            self.column.addWidget(SaidRow(self.session, self.stage))
        self.build()
        if caution(self.stage):
            self.column.addSpacing(6)
            self.column.addWidget(words(caution(self.stage), "caution"))
        self.column.addStretch(1)
        port = self.viewport()
        if port is not None and port.width() > 100:
            inner.setFixedWidth(port.width())
        if self._state is not None:
            self.show_stage(self._state)

    def fingerprint(self) -> Any:
        """What of the job the sheet's widgets were made for; when it changes they are made anew."""
        return ()

    def build(self) -> None:
        """Make the widgets."""

    def refresh(self) -> None:
        """Show the present job."""

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        inner, port = self.widget(), self.viewport()
        if inner is not None and port is not None:
            inner.setFixedWidth(port.width())

    def _refresh_if_seen(self) -> None:
        if self.isVisible():
            self._refresh_all()

    def _refresh_all(self) -> None:
        if self._made_for != self.fingerprint():
            self.remake()
        self.refresh()

    def showEvent(self, event: Any) -> None:
        super().showEvent(event)
        self._refresh_all()

    def show_cause(self, tale: TellTale) -> None:
        """The cause of one of the six that leads here, with its working."""

    def press(self, combination: QKeyCombination) -> bool:
        """A key while no field has the keyboard; True where it was used."""
        return False

    def show_stage(self, state: StageState) -> None:
        """The stage's open questions, at most three in full."""
        self._state = state
        text = list(state.questions[:3])
        if len(state.questions) > 3:
            text.append(f"and {len(state.questions) - 3} more")
        self.asked.setText("\n".join(text))
        self.asked.setVisible(bool(text))
