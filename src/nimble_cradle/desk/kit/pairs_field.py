"""Points in a plane, typed in words: the holes of a plate, the outline of a prism."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.quantity_field import RIGHT, UP, parse_with_way, show_with_way
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.job.base import JobError
from nimble_cradle.units import UnitError


class PairsField(QWidget):
    """A list of points in a plane (points of a plate, an outline), one line a point; an emptied line takes
    the point away.

    The first number is to the right or left and the second up or down, as one faces the plane. ways: where
    the numbers are told otherwise (the profiles of a tunnel are to the car's left).
    """

    def __init__(
        self, session: Session, intro: str, noun: str, ways: tuple[tuple[str, str], ...] = (RIGHT, UP)
    ) -> None:
        super().__init__()
        self.ways = ways
        self.session, self.path, self.owner = session, "", ""
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 2, 0, 2)
        self.column.setSpacing(3)
        self.noun = noun
        self.column.addWidget(words(intro))
        self.lines: list[QLineEdit] = []
        self.refusal = Refusal(session)
        self.column.addWidget(self.refusal)
        self.column.addWidget(row(button(f"Add a {noun}", self.add, name="view")))
        session.changed.connect(self.refresh)

    def at(self, path: str, owner: str) -> None:
        """Show the points at a path."""
        self.path, self.owner = path, owner
        self.refusal.hide()
        self.refresh()

    def _points(self) -> tuple[tuple[float, float], ...]:
        return tuple(self.session.value(self.path) or ()) if self.path else ()

    def refresh(self) -> None:
        """One line for each point, unless something refused stands there."""
        if not self.refusal.isHidden():
            return
        points = self._points()
        while len(self.lines) > len(points):
            self.lines.pop().deleteLater()
        while len(self.lines) < len(points):
            line = QLineEdit()
            line.editingFinished.connect(partial(self.take, len(self.lines)))
            self.column.insertWidget(1 + len(self.lines), line)
            self.lines.append(line)
        for k, (line, point) in enumerate(zip(self.lines, points, strict=True)):
            line.setObjectName(f"{self.path}/{k}")
            line.setAccessibleName(f"{self.owner}: {self.noun} {k + 1}")
            if not (line.hasFocus() and line.isModified()):
                line.setText(
                    ", ".join(
                        show_with_way(c, "length", self.session.display, way, None)
                        for c, way in zip(point, self.ways, strict=True)
                    )
                )
                line.setModified(False)

    def add(self) -> None:
        """One more point, in the middle, or beside it where that is taken."""
        points = self._points()
        place = (0.0, 0.0)
        while place in points:
            place = (place[0] + 25.0, 0.0)
        with told_in(self.refusal):
            self._set((*points, place))

    def _set(self, points: tuple[tuple[float, float], ...]) -> None:
        self.session.set_value(
            self.path, points, f"{self.owner}: {len(points)} {self.noun}{'' if len(points) == 1 else 's'}"
        )

    def take(self, k: int) -> None:
        """Read one line."""
        points = self._points()
        if k >= min(len(self.lines), len(points)) or not self.lines[k].isModified():
            return
        line = self.lines[k]
        typed = line.text().strip()
        try:
            new: tuple[tuple[float, float], ...] = ()
            if typed:
                both = [c for c in typed.split(",") if c.strip()]
                if len(both) != 2:
                    raise UnitError(
                        f"“{typed}” is not a {self.noun}: two lengths with a comma between, e.g. 40 left,"
                        " 25 up."
                    )
                u, v = (
                    parse_with_way(c, "length", self.session.display, way, old)
                    for c, way, old in zip(both, self.ways, points[k], strict=True)
                )
                new = ((u, v),)
            self.refusal.hide()
            line.setModified(False)
            self._set((*points[:k], *new, *points[k + 1 :]))
        except (UnitError, JobError) as error:
            self.refusal.tell(str(error))
            line.setModified(True)
