"""A job of one's own: its name and five questions."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QCheckBox, QComboBox, QDialog, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from nimble_cradle.design.begin import CHASSIS, DRIVEN, ENGINES, UNITS, Answers, things_of
from nimble_cradle.desk.kit.ask_file import folder_to_write
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.words import button, heading, row, words
from nimble_cradle.files import there

_BAD = '/\\:*?"<>|'


class NewJobPage(QDialog):
    """Asks and checks; ``path`` and ``answers`` are what came of it when it was accepted."""

    def __init__(self, parent: QWidget | None, folder: Path) -> None:
        super().__init__(parent)
        self.setWindowTitle("New job")
        self.setMinimumWidth(560)
        self.folder = folder
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(8)
        column.addWidget(heading("A job of your own"))
        column.addWidget(words("Every answer can be changed later. They decide what is measured first."))
        self.grid = QGridLayout()
        self.grid.setVerticalSpacing(8)
        self.grid.setColumnStretch(1, 1)
        column.addLayout(self.grid)
        self.name = QLineEdit("My job")
        self.name.setAccessibleName("Name of the job")
        self._ask("Its name", self.name)
        self.where = Label(str(folder))
        self.where.setWordWrap(True)
        self._ask("Kept in", row(self.where, button("Another folder …", self._other_folder, name="view")))
        self.chassis = self._choice("1  The chassis is", CHASSIS)
        self.engine = self._choice("2  The engine stands", ENGINES)
        self.driven = self._choice("3  Driven is", DRIVEN)
        self.units = self._choice("4  Lengths in", UNITS)
        self.fixed: dict[str, QCheckBox] = {}
        self.fixed_holder = QWidget()
        self._ask("5  Must stay as it is", self.fixed_holder)
        self.chassis.activated.connect(lambda _: self._offer_fixed())
        self._offer_fixed()
        self.refusal = Refusal()
        column.addWidget(self.refusal)
        column.addStretch(1)
        begin = button("Begin", self.begin, name="main")
        begin.setDefault(True)
        column.addWidget(row(begin, button("Not now", self.reject)))
        self.name.selectAll()
        self.name.setFocus()

    def _ask(self, question: str, widget: QWidget) -> None:
        k = self.grid.rowCount()
        self.grid.addWidget(Label(question), k, 0)
        self.grid.addWidget(widget, k, 1)

    def _choice(self, question: str, choices: Mapping[Any, str]) -> QComboBox:
        box = ChoiceBox()
        for key, said in choices.items():
            box.addItem(said, key)
        box.setAccessibleName(question)
        self._ask(question, box)
        return box

    def _offer_fixed(self) -> None:
        """What such a chassis has that may have to stay."""
        ticked = {key for key, box in self.fixed.items() if box.isChecked()} or {"rack"}
        self.fixed = {}
        for thing in things_of(self.chassis.currentData()):
            box = self.fixed[thing.id] = QCheckBox(thing.name)
            box.setChecked(thing.id in ticked)
        holder = QWidget()
        rows = QGridLayout(holder)
        rows.setContentsMargins(0, 0, 0, 0)
        for k, box in enumerate(self.fixed.values()):
            rows.addWidget(box, k // 3, k % 3)
        self.grid.replaceWidget(self.fixed_holder, holder)
        self.fixed_holder.hide()
        self.fixed_holder.deleteLater()
        self.fixed_holder = holder

    def _other_folder(self) -> None:
        found = folder_to_write(self, "Where the job is kept", self.folder)
        if found is not None:
            self.folder = found
            self.where.setText(str(found))

    @property
    def path(self) -> Path:
        """The file it would be."""
        stem = "".join("-" if c in _BAD or c.isspace() else c for c in self.name.text().strip().lower())
        return self.folder / f"{stem[:80]}.cradle"

    @property
    def answers(self) -> Answers:
        """What was answered."""
        return Answers(
            chassis=self.chassis.currentData(),
            engine=self.engine.currentData(),
            driven=self.driven.currentData(),
            units=self.units.currentData(),
            fixed=tuple(key for key, box in self.fixed.items() if box.isChecked()),
        )

    def begin(self) -> None:
        """Accept, or say why not."""
        if not self.name.text().strip():
            self.refusal.tell("Give it a name.")
        elif there(self.path):
            self.refusal.tell(f"{self.path.name} is there already: choose another name, or open it.")
        else:
            self.accept()
