"""A number with its unit at a path of the job."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QLineEdit, QWidget

from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.said_mark import SaidMark
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.geometry.direction import AXIS_WORDS
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.units import Display, Kind, UnitError, parse, show

FORWARD, LEFT, UP = WAYS = AXIS_WORDS
RIGHT = (LEFT[1], LEFT[0])
"""Seen as one faces a plate, the first number is to the right."""


def show_with_way(
    value: float, kind: Kind, display: Display, ways: tuple[str, str] | None, decimals: int | None
) -> str:
    """A quantity as text; with ``ways`` its side is told by a word and never by a sign."""
    if ways is None:
        return show(value, kind, display, decimals)
    text = show(abs(value), kind, display, decimals)
    return text if float(f"{value:.6f}") == 0 else f"{text} {ways[0] if value > 0 else ways[1]}"


def parse_with_way(
    typed: str, kind: Kind, display: Display, ways: tuple[str, str] | None, present: float
) -> float:
    """Read what ``show_with_way`` writes; a number without a side keeps the side that it had, a minus
    turns it. Raises UnitError."""
    if ways is None:
        return parse(typed, kind, display)
    text = typed.strip()
    last = text.rsplit(" ", 1)[-1].lower() if " " in text else ""
    for way, sign in ((ways[0], 1.0), (ways[1], -1.0)):
        if (
            last
            and way.startswith(last)
            and len(last) >= 1
            and last.isalpha()
            and last not in ("in", "mm", "cm", "m", "ft", "deg")
        ):
            return sign * parse(text.rsplit(" ", 1)[0], kind, display)
    return parse(text, kind, display) * (-1.0 if present < 0 else 1.0)


class QuantityField(QWidget):
    """A number at a path of the job. Enter or leaving takes it; Esc brings the old one back."""

    def __init__(
        self,
        session: Session,
        label: str,
        kind: Kind,
        *,
        decimals: int | None = None,
        ways: tuple[str, str] | None = None,
        optional: str = "",
        whole: bool = False,
    ) -> None:
        super().__init__()
        self.session, self.kind, self.decimals, self.ways, self.optional, self.whole = (
            session,
            kind,
            decimals,
            ways,
            optional,
            whole,
        )
        self.path = ""
        self.owner = ""
        self.label = Label(label)
        self.label.setWordWrap(True)
        self.line = QLineEdit()
        self.line.setMinimumWidth(120)
        self.line.setMaximumWidth(210)
        self.line.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.refusal = Refusal(self.session)
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 1, 0, 1)
        layout.setVerticalSpacing(3)
        layout.addWidget(self.label, 0, 0)
        layout.addWidget(self.line, 0, 1)
        self.said = SaidMark(session)
        layout.addWidget(self.said, 0, 2)
        layout.addWidget(self.refusal, 1, 0, 1, 3)
        layout.setColumnStretch(0, 1)
        self.line.editingFinished.connect(self.take)
        self.line.returnPressed.connect(self.line.selectAll)
        session.changed.connect(self.refresh)

    def at(self, path: str, owner: str = "") -> QuantityField:
        """Show the value at ``path``; owner is the part's name for the logbook."""
        self.path, self.owner = path, owner
        self.line.setObjectName(path)
        self.name_line()
        self.said.at(self._said_path())
        self._clear_refusal()
        self.refresh()
        return self

    def name_line(self) -> None:
        """What the line is called by those who do not see its label."""
        name = self.label.text()
        self.line.setAccessibleName(f"{self.owner}: {name}" if self.owner else name)

    def _said_path(self) -> str:
        """The path whose mark stands beside the field."""
        return self.path

    def _text(self, value: Any) -> str:
        if value is None:
            return self.optional
        if self.whole:
            return f"{value}"
        return show_with_way(float(value), self.kind, self.session.display, self.ways, self.decimals)

    def _present(self) -> Any:
        """The number that the field shows."""
        return self.session.value(self.path)

    def _stored(self, value: Any) -> Any:
        """What goes to the path for a new number."""
        return value

    def refresh(self) -> None:
        """Show the job's value, unless something refused stands in the field."""
        self.said.refresh()
        if self.path and not self.refusal.isHidden():
            self._try_again()
        if self.path and self.refusal.isHidden() and not (self.line.hasFocus() and self.line.isModified()):
            self.line.setText(self._text(self._present()))
            self.line.setModified(False)

    def told(self) -> str:
        """The figure as the head of a folded group tells it."""
        return f"{self.label.text().split(',')[0].lower()} {self.line.text()}"

    def _try_again(self) -> None:
        """What was refused may have become possible by another edit: say so, and take nothing by itself."""
        try:
            value = self._stored(self._read(self.line.text(), self._present()))
            with_value(self.session.job, self.path, value)
        except (UnitError, JobError):
            return
        self.refusal.tell(f"{self.line.text()} is possible now: Enter takes it now.", stays=True)
        self._mark(False)

    def take(self) -> None:
        """Read what was typed and make it an edit, or say at the place why not."""
        if not self.path or not self.line.isModified():
            return
        present = self._present()
        try:
            value = self._read(self.line.text(), present)
            owner = f"{self.owner}: " if self.owner else ""
            self._clear_refusal()
            self.line.setModified(False)
            self.session.set_value(
                self.path,
                self._stored(value),
                f"{owner}{self.label.text().lower()} {self._text(present)} → {self._text(value)}",
            )
            self.refresh()
        except (UnitError, JobError) as error:
            self.refuse(str(error))
            self.line.setModified(True)

    def _read(self, typed: str, present: Any) -> Any:
        """The number that was typed; None where an optional one was emptied. Raises UnitError."""
        if self.optional and typed.strip().lower() in ("", self.optional):
            return None
        value = parse_with_way(typed, self.kind, self.session.display, self.ways, float(present or 0.0))
        if not self.whole:
            return value
        if abs(value - round(value)) > 1e-9:
            raise UnitError(f"“{typed}” must be a whole number.")
        return round(value)

    def refuse(self, sentence: str) -> None:
        """Keep what was typed and say why it was not taken."""
        self.refusal.tell(sentence, stays=True)
        self._mark(True)

    def _clear_refusal(self) -> None:
        self.refusal.hide()
        self._mark(False)

    def _mark(self, refused: bool) -> None:
        self.line.setProperty("refused", refused)
        style = self.line.style()
        if style is not None:
            style.unpolish(self.line)
            style.polish(self.line)

    def keyPressEvent(self, event: Any) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.line.setModified(False)
            self._clear_refusal()
            self.refresh()
            return
        super().keyPressEvent(event)
