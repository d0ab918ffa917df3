"""A seeded random walk over the real window: keys, clicks, typed figures, rooms entered and left, tasks
begun and left, undo, sizes. What it does is told by ``Walk.done``, so that a fault can be walked to again."""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import Any

from nimble_cradle.desk.window import Desk
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QInputMethodEvent
from PyQt6.QtWidgets import (
    QApplication,
    QComboBox,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QListWidget,
    QPlainTextEdit,
    QPushButton,
    QTableWidget,
    QWidget,
)

from pressing import QTest

Key, Mod = Qt.Key, Qt.KeyboardModifier
NONE, CTRL, SHIFT = Mod.NoModifier, Mod.ControlModifier, Mod.ShiftModifier
KEYS: tuple[tuple[Qt.Key, Any], ...] = (
    *((k, m) for k in (Key.Key_Up, Key.Key_Down, Key.Key_Left, Key.Key_Right) for m in (NONE, CTRL, SHIFT)),
    *((k, m) for k in (Key.Key_PageUp, Key.Key_PageDown) for m in (NONE, CTRL, SHIFT)),
    *((getattr(Key, f"Key_F{k}"), NONE) for k in (*range(1, 10), 12)),
    *((getattr(Key, f"Key_{k}"), m) for k in range(1, 7) for m in (NONE, CTRL)),
    *((getattr(Key, f"Key_{c}"), NONE) for c in "WLPGSTA"),
    *((k, NONE) for k in (Key.Key_Period, Key.Key_Comma, Key.Key_Escape, Key.Key_Tab, Key.Key_Return)),
    (Key.Key_Z, CTRL),
    (Key.Key_Z, CTRL | SHIFT),
    (Key.Key_U, CTRL),
    (Key.Key_S, CTRL),
)
TYPED = (
    "0", "1", "-1", "7", "12 left", "3/8", "1 1/4\"", "2' 3\"", "60-4", "1e9", "-1e9", "0.001", "", " ",
    "nan", "abc", "1000000", "55mm", "90", "-360", "½", "1,5", "12 12", "🔧", "x" * 300,
)  # fmt: skip
SIZES = ((1280, 800), (1024, 700), (1600, 1000), (700, 500))


def no_dialogs(set_: Callable[[object, str, object], Any]) -> None:
    """Dialogs of the system that would wait for an answer are left at once. set_: as ``setattr``."""
    for name in ("getSaveFileName", "getOpenFileName"):
        set_(QFileDialog, name, staticmethod(lambda *_, **__: ("", "")))
    set_(QFileDialog, "getExistingDirectory", staticmethod(lambda *_, **__: ""))
    set_(QInputDialog, "getItem", staticmethod(lambda *_, **__: ("", False)))


class Walk:
    """Steps over a window. done: what was done, oldest first."""

    def __init__(self, desk: Desk, seed: int) -> None:
        self.desk, self.rng = desk, random.Random(seed)
        self.done: list[str] = []
        self.ways: tuple[tuple[int, Callable[[], str]], ...] = (
            (5, self.key),
            (6, self.button),
            (5, self.type),
            (3, self.choose),
            (3, self.row),
            (1, self.size),
            (2, self.mouse),
            (2, self.undo),
            (2, self.room),
            (1, self.stop),
            (1, self.tick),
        )

    def step(self) -> None:
        """One thing done, and the window given a moment."""
        modal = QApplication.activeModalWidget()
        if modal is not None:
            self.done.append(f"Esc on {type(modal).__name__}")
            QTest.keyClick(modal, Key.Key_Escape)
        else:
            way = self.rng.choices([w for _, w in self.ways], [n for n, _ in self.ways])[0]
            self.done.append(way.__name__)
            said = way()
            self.done[-1] = f"{way.__name__} {said}"
        for _ in range(self.rng.choice((1, 1, 2, 6))):
            QApplication.processEvents()

    def seen(self, kind: type[Any]) -> list[Any]:
        """Widgets of a kind that can be used now."""
        return [w for w in self.desk.findChildren(kind) if w.isVisible() and w.isEnabled()]

    def one(self, kind: type) -> Any:
        """One of them, or None."""
        found = self.seen(kind)
        return self.rng.choice(found) if found else None

    def key(self) -> str:
        """A key where the focus is."""
        key, modifier = self.rng.choice(KEYS)
        QTest.keyClick(QApplication.focusWidget() or self.desk, key, modifier)
        return f"{key.name} {modifier}"

    def button(self) -> str:
        """Any button in sight."""
        button = self.one(QPushButton)
        if button is None:
            return "none"
        text = button.text()
        self.done[-1] = f"button {text}"
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        return str(text)

    def type(self) -> str:
        """Into any field, with or without Enter."""
        line = self.one(QLineEdit)
        if line is None:
            return "none"
        name, text, enter = line.objectName(), self.rng.choice(TYPED), self.rng.random() < 0.8
        self.done[-1] = f"type {text!r} into {name}"
        line.setFocus()
        line.selectAll()
        if text.isascii():
            QTest.keyClicks(line, text)
        else:
            written = QInputMethodEvent()
            written.setCommitString(text)
            QApplication.sendEvent(line, written)
        if enter:
            QTest.keyClick(line, Key.Key_Return)
        return f"{text!r} into {name}{'' if enter else ', no Enter'}"

    def choose(self) -> str:
        """An entry of any box, by the keyboard, as its list would have it."""
        box = self.one(QComboBox)
        if box is None or box.count() == 0:
            return "none"
        at = self.rng.randrange(box.count())
        self.done[-1] = f"choose {box.itemText(at)} of {box.accessibleName()}"
        box.setFocus()
        box.setCurrentIndex(at)
        box.activated.emit(at)
        return f"{at} of {box.accessibleName()}"

    def row(self) -> str:
        """A row of any table, or a tick of a list."""
        table = self.one(self.rng.choice((QTableWidget, QTableWidget, QListWidget)))
        if isinstance(table, QTableWidget) and table.rowCount():
            at = self.rng.randrange(table.rowCount())
            name = table.accessibleName()
            table.selectRow(at)
            return f"{at} of {name}"
        if isinstance(table, QListWidget) and table.count():
            item = table.item(self.rng.randrange(table.count()))
            assert item is not None
            ticked = item.checkState() == Qt.CheckState.Checked
            item.setCheckState(Qt.CheckState.Unchecked if ticked else Qt.CheckState.Checked)
            return "tick"
        return "none"

    def size(self) -> str:
        """Another size of the window."""
        w, h = self.rng.choice(SIZES)
        self.desk.resize(w, h)
        return f"{w} x {h}"

    def mouse(self) -> str:
        """A drag or a click in the picture."""
        canvas = self.desk.view.gl
        if not canvas.isVisible():
            return "none"
        a, b = (
            QPoint(self.rng.randrange(max(1, canvas.width())), self.rng.randrange(max(1, canvas.height())))
            for _ in range(2)
        )
        QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=a)
        if self.rng.random() < 0.5:
            QTest.mouseMove(canvas, b)
            a = b
        QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=a)
        return f"{a.x()}, {a.y()}"

    def undo(self) -> str:
        """Some steps back or forward."""
        for _ in range(self.rng.choice((1, 1, 5))):
            (self.desk.session.undo if self.rng.random() < 0.6 else self.desk.session.redo)()
        return ""

    def room(self) -> str:
        """Any room of any stage."""
        rooms = [b for b in self.seen(QPushButton) if b.objectName() == "room"]
        if not rooms or self.rng.random() < 0.4:
            stage = self.rng.choice(sorted(self.desk.stage_bar.plates))
            self.desk.go(stage)
            return stage
        room = self.rng.choice(rooms)
        text = room.text()
        QTest.mouseClick(room, Qt.MouseButton.LeftButton)
        return str(text)

    def stop(self) -> str:
        """Whatever is being worked out is stopped, or waited for a little."""
        for button in self.seen(QPushButton):
            if button.text() == "Stop":
                QTest.mouseClick(button, Qt.MouseButton.LeftButton)
                return "Stop"
        return ""

    def tick(self) -> str:
        """A pause in which threads may bring what they found."""
        QTest.qWait(self.rng.choice((1, 40, 200)))
        return ""


def at_rest(desk: Desk) -> None:
    """End whatever is being worked out and write what is on its way to the journal."""
    desk.session.tasks.close()
    note = desk.findChild(QPlainTextEdit)
    if isinstance(note, QWidget):
        note.clearFocus()
    desk.session.place.flush()
