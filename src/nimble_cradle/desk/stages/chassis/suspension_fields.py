"""The points of a suspension: a list, and the chosen one's place, the survey's point that it is, its move."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import fresh_body, part, stacked, words
from nimble_cradle.fit.pivots import pivots_of
from nimble_cradle.job.suspension import Pivot, Suspension
from nimble_cradle.units import show


class SuspensionFields(QWidget):
    """What is said of one suspension."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(6)
        self.first, self.more = DescribedFields(session, first=True), DescribedFields(session)
        self.table = Table(("Point", "Where it is", "Moved"), most_rows=9, chosen=self._choose)
        self.table.setAccessibleName("Points of the suspension")
        self.name, self.note = TextField(session, "Name"), TextField(session, "Note")
        self.chosen = ""
        self.body = QWidget()
        self.holder = QWidget()
        self.inner = stacked(self.holder, self.body)
        for widget in (
            self.first,
            part("Points at ride height, before anything is changed"),
            self.table,
            self.holder,
            words(
                "Moving the wheel's middle takes the whole upright along; arms and rod are made to fit.", ""
            ),
            self.more,
            self.name,
            self.note,
        ):
            self.column.addWidget(widget)
        self.one: Suspension | None = None
        self._shown: object = None

    def show_suspension(self, one: Suspension) -> None:
        """Show this one."""
        self.one = one
        path = f"suspensions/{one.id}"
        for fields in (self.first, self.more):
            fields.show_part(one, path, one.name)
        self.name.at(f"{path}/name")
        self.note.at(f"{path}/note")
        points = pivots_of(one)
        if self.chosen not in points:
            self.chosen = next(iter(points))
        self.table.fill([(key, self._row(word, p)) for key, (word, p) in points.items()], self.chosen)
        self._show_point()

    def _row(self, word: str, pivot: Pivot) -> tuple[tuple[str, str], ...]:
        where = f"point “{pivot.point}”" if pivot.point is not None else self._told(pivot.at)
        return (word, ""), (where, ">"), (self._told(pivot.moved) if any(pivot.moved) else "", ">")

    def _told(self, at: tuple[float, float, float]) -> str:
        return ", ".join(show(v, "length", self.session.display, 0).replace(" mm", "") for v in at)

    def _choose(self, key: str) -> None:
        self.chosen = key
        self._show_point()

    def _show_point(self) -> None:
        """Fields for the chosen point; made anew when another one is chosen."""
        if self.one is None:
            return
        word, pivot = pivots_of(self.one)[self.chosen]
        points = [(p.id, p.name) for p in self.session.job.survey.points]
        shown = self.one.id, self.chosen, pivot.point is None, tuple(points)
        if shown == self._shown:
            return
        self._shown = shown
        self.body, column = fresh_body(self.inner, self.body)
        path = f"suspensions/{self.one.id}/{self.chosen}"
        column.addWidget(part(word))
        choice = ChoiceField(self.session, "It is the survey's point", [(None, "none: typed here"), *points])
        column.addWidget(choice.at(f"{path}/point", word))
        if pivot.point is None:
            column.addWidget(VectorField(self.session, "Is at").at(f"{path}/at", word))
        link, _, end = self.chosen.rpartition("/")
        if link and end == "car":
            column.addWidget(
                TextField(self.session, "Name of the link").at(f"suspensions/{self.one.id}/{link}/name")
            )
        column.addWidget(VectorField(self.session, "Is moved by").at(f"{path}/moved", word))
