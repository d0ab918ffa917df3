"""The engine raised or lowered at all mounts or at the chosen one."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from nimble_cradle.design.raising import raised
from nimble_cradle.desk.kit.quantity_field import UP, parse_with_way
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.job.base import JobError
from nimble_cradle.job.mounts import Mount
from nimble_cradle.units import UnitError


class RaiseGroup(QWidget):
    """One entry, two buttons, and what it asks of every chassis side. mount: the chosen one."""

    def __init__(self, session: Session, mount: Callable[[], Mount | None]) -> None:
        super().__init__()
        self.session, self.mount = session, mount
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.by = QLineEdit()
        self.by.setAccessibleName("Raise or lower by")
        self.by.setPlaceholderText("e.g. 9.5 up, or 3/8 in down")
        self.refusal = Refusal(session)
        self.said = words("", "")
        for widget in (
            self.by,
            row(
                button("At every mount", self.all_of_them, name="view"),
                button("At this mount", self.this_one, name="view"),
            ),
            self.refusal,
            self.said,
        ):
            column.addWidget(widget)

    def all_of_them(self) -> None:
        """All mounts by as much."""
        self._take([mount.id for mount in self.session.job.mounts], "every mount")

    def this_one(self) -> None:
        """The chosen mount alone: the engine leans."""
        mount = self.mount()
        if mount is not None:
            self._take([mount.id], mount.name)

    def _take(self, keys: list[str], where: str) -> None:
        self.refusal.tell("")
        self.said.setText("")
        with told_in(self.refusal):
            try:
                mm = parse_with_way(self.by.text(), "length", self.session.display, UP, 1.0)
            except UnitError as error:
                raise JobError(str(error)) from None
            found = raised(self.session.job, dict.fromkeys(keys, mm))
            self.session.edit(f"Engine {mm:+g} mm at {where}", found.job)
            self.said.setText("\n".join(found.done) or "Nothing changes.")
