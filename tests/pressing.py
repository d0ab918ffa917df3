"""The hands of the window tests: keys, clicks and what is read off the screen."""

from __future__ import annotations

from typing import Any

from nimble_cradle.desk.kit.columns import Fold
from nimble_cradle.desk.kit.rooms import Room, Rooms
from nimble_cradle.desk.window import Desk
from PyQt6 import QtTest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QLabel, QLineEdit, QPushButton, QWidget

QTest: Any = QtTest.QTest
"""Its stubs know no static methods."""


Key = Qt.Key
NONE, CTRL, SHIFT = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
)


def press(desk: Desk, key: Qt.Key, modifier: Qt.KeyboardModifier = NONE, times: int = 1) -> None:
    """Press a key where the focus is."""
    for _ in range(times):
        QTest.keyClick(QApplication.focusWidget() or desk, key, modifier)
        QApplication.processEvents()


def press_on(widget: QWidget, key: Qt.Key, modifier: Qt.KeyboardModifier = NONE) -> None:
    """Press a key with the focus on a widget."""
    unfold(widget)
    widget.setFocus()
    QTest.keyClick(widget, key, modifier)
    QApplication.processEvents()


def tale(desk: Desk, tale_id: str) -> Any:
    return next(c.tale for c in desk.tales.cells if c.tale is not None and c.tale.id == tale_id)


def margin(desk: Desk, piece: str, item: str) -> float:
    return next(g.margin for g in desk.session.verdict.gaps if (g.piece, g.item) == (piece, item))


def field(desk: Desk, path: str) -> QLineEdit:
    """The visible line that edits a path of the job."""
    found = desk.stack.currentWidget().findChild(QLineEdit, path)  # type: ignore[union-attr]
    assert isinstance(found, QLineEdit), path
    unfold(found)
    return found


def type_in(desk: Desk, path: str, text: str) -> QLineEdit:
    """Type into a field as a user does: click, select all, type, Enter."""
    line = field(desk, path)
    desk.stack.currentWidget().ensureWidgetVisible(line)  # type: ignore[union-attr]
    QTest.mouseClick(line, Qt.MouseButton.LeftButton)
    line.selectAll()
    QTest.keyClicks(line, text)
    QTest.keyClick(line, Key.Key_Return)
    QApplication.processEvents()
    return line


def refusal(line: QLineEdit) -> str:
    """The sentence shown beside a field, or empty."""
    labels = [w for w in line.parentWidget().findChildren(QLabel) if w.objectName() == "refusal"]  # type: ignore[union-attr]
    return labels[0].text() if labels and not labels[0].isHidden() else ""


def unfold(widget: QWidget) -> None:
    """Enter the room that a widget is in, and open the groups that hide it, by clicks on their heads, the
    outermost first."""
    enter(widget)
    folds = []
    holder = widget.parentWidget()
    while holder is not None:
        if isinstance(holder, Fold) and not holder.button.isChecked() and holder.body.isAncestorOf(widget):
            folds.append(holder)
        holder = holder.parentWidget()
    for fold in reversed(folds):
        QTest.mouseClick(fold.button, Qt.MouseButton.LeftButton)
        QApplication.processEvents()


def enter(widget: QWidget) -> None:
    """Enter the room that a widget is in, by a click on its door."""
    holder: QWidget | None = widget
    room: Room | None = None
    while holder is not None and not isinstance(holder, Rooms):
        room = holder if isinstance(holder, Room) else room
        holder = holder.parentWidget()
    if holder is not None and room is not None and holder.present is not room and not room.gone:
        door = holder.group.buttons()[holder.rooms.index(room)]
        QTest.mouseClick(door, Qt.MouseButton.LeftButton)
        QApplication.processEvents()


def unfold_all(inside: QWidget) -> None:
    """Open every group of a page."""
    for fold in inside.findChildren(Fold):
        if not fold.button.isChecked():
            fold.open(True)


def questions(desk: Desk, stage: str) -> str:
    """What the sheet of a stage asks, all of it: by its link where it tells only the first ones."""
    asked = desk.sheets[stage].asked
    if "more</a>" in asked.text():
        asked.linkActivated.emit("more")
    return asked.text()


def click(desk: Desk, text: str) -> None:
    """Click the button with these words; where its group is closed, open that first."""
    there = [b for b in desk.findChildren(QPushButton) if b.text() == text and b.isEnabled()]
    if not any(b.isVisible() for b in there):
        for button in there:
            unfold(button)
    found = [b for b in desk.findChildren(QPushButton) if b.text() == text and b.isVisible()]
    assert found, text
    QTest.mouseClick(found[0], Qt.MouseButton.LeftButton)
    QApplication.processEvents()


def click_button(inside: QWidget, text: str) -> None:
    """Click the visible button that says ``text``."""
    there = [b for b in inside.findChildren(QPushButton) if b.text() == text]
    if not any(b.isVisibleTo(inside) for b in there):
        for button in there:
            unfold(button)
    button = next(b for b in inside.findChildren(QPushButton) if b.text() == text and b.isVisibleTo(inside))
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    QApplication.processEvents()


def type_into(inside: QWidget, path: str, text: str) -> Any:
    """Type into a room's field and give the field."""
    line = inside.findChild(QLineEdit, path)
    assert isinstance(line, QLineEdit), path
    unfold(line)
    owner = line.parentWidget()
    line.setFocus()
    line.selectAll()
    QTest.keyClicks(line, text)
    QTest.keyClick(line, Key.Key_Return)
    QApplication.processEvents()
    return owner
