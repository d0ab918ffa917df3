"""Movements and loads of a donor's rubber, as they were measured: a line for each."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, row, words


class LoadTable(QWidget):
    """Rows of movement and load at a path of the job."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.path, self.owner = session, "", ""
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 2, 0, 2)
        self.column.setSpacing(3)
        self.column.addWidget(words("Loads that were measured; without any the two heights count."))
        self.fields: list[tuple[QuantityField, QuantityField]] = []
        self.refusal = Refusal(session)
        self.column.addWidget(self.refusal)
        self.column.addWidget(
            row(
                button("Add a measured load", self.add, name="view"),
                button("Take the last one away", self.drop, name="view"),
            )
        )

    def show_rows(self, path: str, owner: str) -> None:
        """Show the rows at a path."""
        count = len(self.session.value(path) or ())
        if path == self.path and count == len(self.fields):
            return
        self.path, self.owner = path, owner
        for pair in self.fields:
            for field in pair:
                field.hide()
                field.deleteLater()
        self.fields = []
        for k in range(count):
            pair = (
                QuantityField(self.session, f"Load {k + 1}: squeezed by", "length"),
                QuantityField(self.session, f"Load {k + 1}", "force"),
            )
            for i, field in enumerate(pair):
                self.column.insertWidget(1 + 2 * k + i, field.at(f"{path}/{k}/{i}", owner))
            self.fields.append(pair)

    def add(self) -> None:
        """One more row, further on, to be typed over."""
        with told_in(self.refusal):
            rows = tuple(self.session.value(self.path) or ())
            last = rows[-1] if rows else (0.0, 0.0)
            more = [(last[0] + 2.0, last[1] + 300.0)]
            if not rows:  # a table needs two
                more.append((4.0, 700.0))
            self.session.set_value(self.path, (*rows, *more), f"{self.owner}: one more load measured")

    def drop(self) -> None:
        """The last row goes; of two both go."""
        with told_in(self.refusal):
            rows = tuple(self.session.value(self.path) or ())
            left = rows[:-1] if len(rows) > 2 else ()
            self.session.set_value(self.path, left, f"{self.owner}: one load less")
