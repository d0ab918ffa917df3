"""One map of all keys: what is bound comes from it, and F1 shows it. Each stage adds its own."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from PyQt6.QtCore import QKeyCombination, Qt
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QWidget

FREE = ("F10", "F11")
"""Left to the desktop: F10 opens menus, F11 fills the screen (common practice, no source)."""


@dataclass(frozen=True)
class Key:
    """Keys that do one kind of thing. keys: as Qt writes them (``Ctrl+Up``); acts: for each the name of a
    method of what they are bound to, with an argument after a blank; empty for what the toolkit or a field
    does by itself. says: what they do; shown: how the keys are written on the page where they are many."""

    keys: tuple[str, ...]
    says: str
    acts: tuple[str, ...] = ()
    shown: str = ""

    @property
    def words(self) -> str:
        """How the keys are written on the page."""
        return self.shown or ", ".join(key.replace("+", " ") for key in self.keys)


@dataclass(frozen=True)
class KeyGroup:
    """The keys of one place, with its title on the page. place: what binds them (a stage's id, ``table``)."""

    title: str
    rows: tuple[Key, ...]
    place: str = ""

    def act(self, combination: QKeyCombination) -> str:
        """What a key does here, or empty."""
        pressed = QKeySequence(combination).toString(QKeySequence.SequenceFormat.PortableText)
        return next((act for key, act in self.bound() if key == pressed), "")

    def bound(self) -> Iterable[tuple[str, str]]:
        """(key, act) of every key that does something here."""
        for row in self.rows:
            yield from zip(row.keys, row.acts, strict=False)


def perform(owner: object, act: str) -> bool:
    """Call the method that ``act`` names, with its argument where it has one; False where it says that the
    key was not for it."""
    name, _, argument = act.partition(" ")
    method = getattr(owner, name)
    return (method(argument) if argument else method()) is not False


def bind(group: KeyGroup, widget: QWidget, owner: object) -> None:
    """Make a group's keys work while ``widget`` has the keyboard."""
    for key, act in group.bound():
        QShortcut(
            QKeySequence(key),
            widget,
            lambda a=act: perform(owner, a),
            context=Qt.ShortcutContext.WidgetShortcut,
        )
