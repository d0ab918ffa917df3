"""Rooms of a sheet: parts of one stage that are shown one at a time, with a row of buttons to choose."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import ValidationError
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QComboBox, QPushButton, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.columns import Columns
from nimble_cradle.desk.kit.flow import flow
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.job.job import as_job_error


def sentence_of(error: Exception) -> str:
    """The one sentence of a refusal, whoever raised it."""
    return as_job_error(error).message if isinstance(error, ValidationError) else str(error)


def offer(box: QComboBox, names: list[str]) -> None:
    """Set a box's choices and keep the chosen number."""
    if [box.itemText(i) for i in range(box.count())] != names:
        at = box.currentIndex()
        box.blockSignals(True)
        box.clear()
        box.addItems(names)
        box.setCurrentIndex(min(max(at, 0), len(names) - 1))
        box.blockSignals(False)


class Room(QWidget, Columns):
    """One room: ``title`` on its button; ``caution``: what is said above everything of it; None for that of
    its stage, empty where its work hurts nobody; ``refresh`` shows the present job; ``refuse`` says at the
    place why not."""

    title = ""
    key = ""
    caution: str | None = None
    waits = False
    """Whether it is shown anew only when the engine rests: for what takes long to work out."""
    asks = True
    """Whether the stage's open questions stand above it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.gone = False
        """Whether it was taken out of its sheet; the widgets live on until what called it has returned."""
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(6)
        self.refusal = Refusal(session)
        self.build()

    def build(self) -> None:
        """Make the widgets."""

    def refresh(self) -> None:
        """Show the present job."""

    def refuse(self, sentence: str) -> None:
        """One sentence, or none."""
        self.refusal.tell(sentence)


class Rooms(QWidget):
    """The buttons (``bar``), in as many rows as they need, and the chosen room. Rooms given as classes
    are made when they are first entered; ``entered`` tells when another one is shown."""

    entered = pyqtSignal()

    def __init__(self, rooms: Sequence[Room | type[Room]], session: Session | None = None) -> None:
        super().__init__()
        self.session = session
        self.rooms: list[Room | type[Room]] = list(rooms)
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(0, 0, 0, 0)
        self.body.setSpacing(6)
        self.group = QButtonGroup(self)
        doors = [_door(room.title) for room in self.rooms]
        for k, door in enumerate(doors):
            self.group.addButton(door, k)
        self.bar = flow(doors, 4)
        self.group.idClicked.connect(self._go)
        for room in self.rooms:
            if isinstance(room, Room):
                self.body.addWidget(room)
        self.group.buttons()[0].setChecked(True)
        self.at = 0
        self._go(0)
        self.present.session.rested.connect(self._rest)

    def _made(self, k: int) -> Room:
        room = self.rooms[k]
        if not isinstance(room, Room):
            assert self.session is not None
            room = self.rooms[k] = room(self.session)
            self.body.addWidget(room)
        return room

    def _go(self, k: int) -> None:
        self.at = k
        self._made(k)
        for i, room in enumerate(self.rooms):
            if isinstance(room, Room):
                room.setVisible(i == k)
        self.present.refresh()
        self.entered.emit()

    def go(self, key: str) -> None:
        """Show the room called ``key``."""
        k = next(i for i, room in enumerate(self.rooms) if room.key == key)
        self.group.buttons()[k].setChecked(True)
        self._go(k)

    def room(self, key: str) -> Room:
        """The room called ``key``, made if need be."""
        return self._made(next(i for i, room in enumerate(self.rooms) if room.key == key))

    @property
    def present(self) -> Room:
        """The room that is shown."""
        return self._made(self.at)

    def refresh(self) -> None:
        """Show the present job in the chosen room; one that takes long waits until the engine rests."""
        if not (self.present.waits and self.present.session.moving):
            self.present.refresh()

    def _rest(self) -> None:
        """The engine rests."""
        if self.present.waits and self.isVisible():
            self.present.refresh()


def _door(title: str) -> QPushButton:
    """A room's button."""
    made = QPushButton(title)
    made.setCheckable(True)
    made.setObjectName("room")
    return made
