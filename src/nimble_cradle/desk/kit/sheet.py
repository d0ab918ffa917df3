"""What every stage's sheet is built from. From the top down: its name, its rooms, the caution, the open
questions, then what the stage puts into the column."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QKeyCombination, Qt
from PyQt6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.columns import Columns
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.rooms import Room, Rooms
from nimble_cradle.desk.kit.said_mark import SaidRow
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.words import heading, words
from nimble_cradle.judge.stages import caution
from nimble_cradle.judge.verdict import StageState
from nimble_cradle.telltales import TellTale

QUESTIONS = 2
"""Open questions that are told in full; of more only the number, so that the answer stays in sight."""


class Sheet(QScrollArea, Columns):
    """A stage's sheet. ``stage`` is its id; ``show_stage`` tells its open questions; ``has_figures``: it has
    a row that tells how many of its figures were measured."""

    stage = ""
    title = ""
    has_figures = False
    rooms: Rooms

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName(self.title)
        self._state: StageState | None = None
        self._all_asked = False
        self.remake()
        session.changed.connect(self._refresh_if_seen)
        session.selected.connect(self._refresh_if_seen)

    def remake(self) -> None:
        """Make the sheet's widgets for the job as it is; those of before go when what
        called for this has returned."""
        self._made_for = self.fingerprint()
        self._take_down()
        inner = QWidget()
        inner.setObjectName("sheet")
        self.column = QVBoxLayout(inner)
        self.column.setContentsMargins(16, 10, 14, 14)
        self.column.setSpacing(6)
        self.setWidget(inner)
        self._build_top()
        self.build()
        self.column.addStretch(1)
        port = self.viewport()
        if port is not None and port.width() > 100:
            inner.setFixedWidth(port.width())
        if self._state is not None:
            self.show_stage(self._state)

    def _take_down(self) -> None:
        """Put the widgets away; they may be in the middle of telling what made the sheet change."""
        old = self.takeWidget()
        if old is None:
            return
        for room in old.findChildren(Room):
            room.gone = True
        old.hide()
        old.setParent(None)
        old.deleteLater()

    def _build_top(self) -> None:
        """Name, place of the rooms' buttons, caution, questions."""
        self.column.addWidget(heading(self.title))
        self._doors = QVBoxLayout()
        self.column.addLayout(self._doors)
        self.caution = words(caution(self.stage), "caution")
        self.caution.setAccessibleName("Caution")
        self.caution.setVisible(bool(caution(self.stage)))
        self.column.addWidget(self.caution)
        self.asked = words("", "asked")
        self.asked.hide()
        self.asked.linkActivated.connect(lambda _: self._turn_questions())
        self.column.addWidget(self.asked)
        self.refusal = Refusal(self.session)
        if self.has_figures:
            self.column.addWidget(SaidRow(self.session, self.stage))

    def add_rooms(self, rooms: Rooms) -> None:
        """Put rooms into the sheet: their buttons under its name, the caution of the one that is shown above
        everything of it."""
        self.rooms = rooms
        self._doors.addWidget(rooms.bar)
        self.column.addWidget(rooms)
        rooms.entered.connect(self._entered)
        self._show_caution()

    def _entered(self) -> None:
        """Another room is shown."""
        self._show_caution()
        if self._state is not None:
            self.show_stage(self._state)

    def _show_caution(self) -> None:
        """The caution of the room that is shown, or of the stage."""
        own = self.rooms.present.caution
        said = caution(self.stage) if own is None else own
        self.caution.setText(said)
        self.caution.setVisible(bool(said))

    def refuse(self, sentence: str) -> None:
        """One sentence, or none."""
        self.refusal.tell(sentence)

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

    def _turn_questions(self) -> None:
        """All open questions, or the first ones again."""
        self._all_asked = not self._all_asked
        if self._state is not None:
            self.show_stage(self._state)

    def show_stage(self, state: StageState) -> None:
        """The stage's open questions: the first ones in full, the number of the others."""
        self._state = state
        asked, more = state.questions, len(state.questions) - QUESTIONS
        text = list(asked if self._all_asked else asked[:QUESTIONS])
        self.asked.setText("\n".join(text))
        if more > 0:
            self.asked.add_link("fewer questions" if self._all_asked else f"{more} more")
        here = not hasattr(self, "rooms") or self.rooms.present.asks
        self.asked.setVisible(bool(text) and here)
