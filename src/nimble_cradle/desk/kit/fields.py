"""Row widgets that own one value both ways: label, field with its unit, refusal at the place. What was
typed is kept."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from nimble_cradle.desk.kit.label import Label, plain
from nimble_cradle.desk.kit.said_mark import SaidMark
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.geometry.direction import AXIS_WORDS
from nimble_cradle.job.base import JobError
from nimble_cradle.units import Display, Kind, UnitError, parse, show

FORWARD, LEFT, UP = WAYS = AXIS_WORDS
RIGHT = (LEFT[1], LEFT[0])
"""Seen as one faces a plate, the first number is to the right."""


def heading(text: str) -> QLabel:
    """A sheet's title."""
    label = Label(text)
    label.setObjectName("heading")
    return label


def part(text: str) -> QLabel:
    """The title of a part of a sheet."""
    label = Label(text)
    label.setObjectName("part")
    return label


def words(text: str = "", name: str = "soft") -> QLabel:
    """A wrapped line of words. name: soft, refusal, caution, asked or ''."""
    label = Label(text)
    label.setObjectName(name)
    label.setWordWrap(True)
    label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    return label


def button(text: str, act: Callable[[], Any], tip: str = "", name: str = "") -> QPushButton:
    """A push button."""
    b = QPushButton(text.replace("&", "&&"))
    b.clicked.connect(lambda: act())
    if tip:
        b.setToolTip(plain(tip))
    if name:
        b.setObjectName(name)
    return b


def row(*widgets: QWidget, stretch: bool = True) -> QWidget:
    """Widgets side by side."""
    box = QWidget()
    layout = QHBoxLayout(box)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(6)
    for w in widgets:
        layout.addWidget(w)
    if stretch:
        layout.addStretch(1)
    return box


def fresh_body(column: QVBoxLayout, old: QWidget) -> tuple[QWidget, QVBoxLayout]:
    """A new empty part of a sheet at the end of ``column`` in the place of an old one, and the column
    inside it."""
    column.removeWidget(old)
    old.deleteLater()
    body = QWidget()
    inner = QVBoxLayout(body)
    inner.setContentsMargins(0, 0, 0, 0)
    inner.setSpacing(1)
    column.addWidget(body)
    return body, inner


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
        self.refusal = words("", "refusal")
        self.refusal.hide()
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
        self.said.at(self._said_path())
        self._clear_refusal()
        self.refresh()
        return self

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
        if self.path and self.refusal.isHidden() and not (self.line.hasFocus() and self.line.isModified()):
            self.line.setText(self._text(self._present()))
            self.line.setModified(False)

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
        self.refusal.setText(sentence)
        self.refusal.show()
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


class ChoiceField(QWidget):
    """One of a few words at a path of the job."""

    def __init__(self, session: Session, label: str, choices: Sequence[tuple[Any, str]]) -> None:
        super().__init__()
        self.session, self.path, self.owner = session, "", ""
        self.label = Label(label)
        self.label.setWordWrap(True)
        self.box = QComboBox()
        self.box.setMinimumWidth(120)
        self.box.setMaximumWidth(270)
        self.box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.box.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        self.refusal = words("", "refusal")
        self.refusal.hide()
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
        self.said.at(path)
        self.refusal.hide()
        self.refresh()
        return self

    def refresh(self) -> None:
        if not self.path:
            return
        self.said.refresh()
        value = self.session.value(self.path)
        for i, (choice, _) in enumerate(self.choices):
            if choice == value:
                self.box.setCurrentIndex(i)
                return
        self.box.setCurrentIndex(-1)

    def take(self, index: int) -> None:
        value, text = self.choices[index]
        owner = f"{self.owner}: " if self.owner else ""
        self.refusal.hide()
        try:
            self.session.set_value(self.path, value, f"{owner}{self.label.text().lower()} → {text}")
        except JobError as error:
            self.refusal.setText(str(error))
            self.refusal.show()
            self.refresh()


class TextField(QWidget):
    """A line of words at a path of the job."""

    def __init__(self, session: Session, label: str) -> None:
        super().__init__()
        self.session, self.path = session, ""
        self.label = Label(label)
        self.line = QLineEdit()
        self.refusal = words("", "refusal")
        self.refusal.hide()
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
        self.refusal.hide()
        self.refresh()
        return self

    def refresh(self) -> None:
        if self.path and self.refusal.isHidden() and not (self.line.hasFocus() and self.line.isModified()):
            self.line.setText(str(self.session.value(self.path) or ""))
            self.line.setCursorPosition(0)
            self.line.setModified(False)

    def take(self) -> None:
        if not self.path or not self.line.isModified():
            return
        try:
            self.line.setModified(False)
            self.refusal.hide()
            self.session.set_value(
                self.path, self.line.text().strip(), f"{self.label.text()} → {self.line.text().strip()}"
            )
        except JobError as error:
            self.refusal.setText(str(error))
            self.refusal.show()
            self.line.setModified(True)


class VectorField(QWidget):
    """Three numbers at ``path``/0..2, each with its own words for the two ways."""

    def __init__(
        self,
        session: Session,
        label: str,
        ways: Sequence[tuple[str, str] | None] = WAYS,
        names: Sequence[str] = ("", "", ""),
        kind: Kind = "length",
    ) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(1)
        self.parts = [
            _Component(session, label if k == 0 or names[k] else "", names[k], kind, way, k)
            for k, way in enumerate(ways)
        ]
        for component in self.parts:
            layout.addWidget(component)

    def at(self, path: str, owner: str = "") -> VectorField:
        for component in self.parts:
            component.at(path, owner)
        return self


class _Component(QuantityField):
    """One number of a vector: the whole vector is the value at the path."""

    def __init__(
        self, session: Session, label: str, name: str, kind: Kind, ways: tuple[str, str] | None, index: int
    ) -> None:
        super().__init__(session, f"{label} {name}".strip(), kind, ways=ways)
        self.index = index

    def _said_path(self) -> str:
        return self.path if self.index == 0 else ""

    def at(self, path: str, owner: str = "") -> QuantityField:
        super().at(path, owner)
        self.line.setObjectName(f"{path}/{self.index}")
        return self

    def _present(self) -> Any:
        vector = self.session.value(self.path)
        return None if vector is None else vector[self.index]

    def _stored(self, value: Any) -> Any:
        vector = self.session.value(self.path)
        return (*vector[: self.index], value, *vector[self.index + 1 :])
