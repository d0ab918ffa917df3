"""Row widgets that own one value both ways: label, field with its unit, refusal at the place. What was
typed is kept."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QSizePolicy, QWidget

from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.said_mark import SaidMark
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.job.base import JobError


class ChoiceField(QWidget):
    """One of a few words at a path of the job."""

    def __init__(self, session: Session, label: str, choices: Sequence[tuple[Any, str]]) -> None:
        super().__init__()
        self.session, self.path, self.owner = session, "", ""
        self.label = Label(label)
        self.label.setWordWrap(True)
        self.box = ChoiceBox()
        self.box.setAccessibleName(label)
        self.box.setMinimumWidth(120)
        self.box.setMaximumWidth(270)
        self.box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.box.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        self.refusal = Refusal(session)
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 1, 0, 1)
        layout.addWidget(self.label, 0, 0)
        layout.addWidget(self.box, 0, 1)
        self.said = SaidMark(session)
        layout.addWidget(self.said, 0, 2)
        layout.addWidget(self.refusal, 1, 0, 1, 3)
        layout.setColumnStretch(0, 1)
        self.offer(choices)
        self.box.activated.connect(self.take)
        session.changed.connect(self.refresh)

    def offer(self, choices: Sequence[tuple[Any, str]]) -> None:
        """Set the choices: (value, words)."""
        if getattr(self, "choices", None) == list(choices):
            return
        self.choices = list(choices)
        self.box.blockSignals(True)
        self.box.clear()
        self.box.addItems([text for _, text in self.choices])
        self.box.blockSignals(False)

    def at(self, path: str, owner: str = "") -> ChoiceField:
        self.path, self.owner = path, owner
        self.box.setObjectName(path)
        self.box.setAccessibleName(f"{owner}: {self.label.text()}" if owner else self.label.text())
        self.said.at(path)
        self.refusal.hide()
        self.refresh()
        return self

    def refresh(self) -> None:
        if self.path:
            self.said.refresh()
            value = self.session.value(self.path)
            values = [choice for choice, _ in self.choices]
            self.box.setCurrentIndex(values.index(value) if value in values else -1)

    def _words_of(self, value: Any) -> str:
        """A value in the words of its choice."""
        return next((text for choice, text in self.choices if choice == value), "nothing")

    def told(self) -> str:
        """The choice as the head of a folded group tells it."""
        return self.box.currentText()

    def take(self, index: int) -> None:
        value, text = self.choices[index]
        before = self._words_of(self.session.value(self.path))
        owner = f"{self.owner}: " if self.owner else ""
        self.refusal.hide()
        try:
            self.session.set_value(self.path, value, f"{owner}{self.label.text().lower()} {before} → {text}")
        except JobError as error:
            self.refusal.tell(str(error), stays=True)
            self.refresh()


class TextField(QWidget):
    """A line of words at a path of the job."""

    def __init__(self, session: Session, label: str) -> None:
        super().__init__()
        self.session, self.path = session, ""
        self.label = Label(label)
        self.line = QLineEdit()
        self.refusal = Refusal(session)
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 1, 0, 1)
        layout.addWidget(self.label, 0, 0)
        layout.addWidget(self.line, 0, 1)
        layout.addWidget(self.refusal, 1, 0, 1, 2)
        layout.setColumnStretch(1, 1)
        self.line.editingFinished.connect(self.take)
        session.changed.connect(self.refresh)

    def at(self, path: str) -> TextField:
        self.path = path
        self.line.setObjectName(path)
        self.line.setAccessibleName(self.label.text())
        self.refusal.hide()
        self.refresh()
        return self

    def refresh(self) -> None:
        if self.path and self.refusal.isHidden() and not (self.line.hasFocus() and self.line.isModified()):
            self.line.setText(str(self.session.value(self.path) or ""))
            self.line.setCursorPosition(0)
            self.line.setModified(False)

    def told(self) -> str:
        """The words as the head of a folded group tells them."""
        return self.line.text()

    def take(self) -> None:
        if not self.path or not self.line.isModified():
            return
        try:
            self.line.setModified(False)
            self.refusal.hide()
            typed = self.line.text().strip()
            before = self.session.value(self.path) or "nothing"
            self.session.set_value(self.path, typed, f"{self.label.text()} {before} → {typed}")
        except JobError as error:
            self.refusal.tell(str(error), stays=True)
            self.line.setModified(True)
