"""Rows of points of a surface, typed one by one."""

from __future__ import annotations

from pydantic import ValidationError
from PyQt6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.words import words
from nimble_cradle.job.from_points import GridFrom
from nimble_cradle.job.job import as_job_error


class GridField(QWidget):
    """A grid of heights as lines of figures: the first line the places left or right, then a line for each
    place forward."""

    def __init__(self, session: Session, base: str, owner: str) -> None:
        super().__init__()
        self.session, self.base, self.owner = session, base, owner
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            words(
                "Places to the left (right with a minus), then for each place forward: that place, a colon,"
                " and the heights over the point. mm."
            )
        )
        self.lines: list[QLineEdit] = []
        self.column = column
        self.refusal = Refusal(session)
        column.addWidget(self.refusal)
        session.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """One line for the places, one for each row."""
        made = self.session.value(self.base)
        if not isinstance(made, GridFrom) or not self.refusal.isHidden():
            return
        texts = [
            ", ".join(f"{v:g}" for v in made.left),
            *(
                f"{x:g}: " + ", ".join(f"{z:g}" for z in heights)
                for x, heights in zip(made.forward, made.heights, strict=True)
            ),
            "",
        ]
        while len(self.lines) < len(texts):
            line = QLineEdit()
            line.setAccessibleName("Points of a row of the grid")
            line.editingFinished.connect(self.take)
            self.lines.append(line)
            self.column.insertWidget(len(self.lines), line)
        for k, line in enumerate(self.lines):
            line.setVisible(k < len(texts))
            line.setText(texts[k] if k < len(texts) else "")
            line.setModified(False)
        self.lines[len(texts) - 1].setPlaceholderText("one more place forward: e.g. 450: 12, 30, 12")

    def take(self) -> None:
        """Read all lines."""
        if not any(line.isModified() for line in self.lines):
            return
        try:
            left = tuple(float(v) for v in self.lines[0].text().split(","))
            rows = [
                line.text().partition(":")
                for line in self.lines[1:]
                if line.isVisible() and line.text().strip()
            ]
            order = sorted((float(x), tuple(float(z) for z in heights.split(","))) for x, _, heights in rows)
            made = self.session.value(self.base)
            after = GridFrom(
                points=made.points,
                size_plus_minus_mm=made.size_plus_minus_mm,
                forward=tuple(x for x, _ in order),
                left=left,
                heights=tuple(z for _, z in order),
            )
            self.refusal.hide()
            self.session.set_value(
                self.base, after, f"{self.owner}: {len(order)} rows of {len(left)} heights"
            )
            self.refresh()
        except ValidationError as error:
            self._refuse(as_job_error(error).message)
        except ValueError:
            self._refuse("A grid line is figures with commas between, e.g. 450: 12, 30, 12.")

    def _refuse(self, sentence: str) -> None:
        self.refusal.tell(sentence)
