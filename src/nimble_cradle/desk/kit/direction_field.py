"""A direction as one reads it off a gauge: which way it points, and two angles off that."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, UP, QuantityField
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.geometry.direction import WAYS_OUT, direction, told
from nimble_cradle.job.base import JobError

_LEVEL = {"forward": LEFT, "back": LEFT, "left": FORWARD, "right": FORWARD}


class DirectionField(QWidget):
    """The direction at a path of the job. label: ``Its bolt`` makes ``Its bolt points``."""

    def __init__(self, session: Session, label: str) -> None:
        super().__init__()
        self.path = ""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(1)
        self.way = _WayField(session, f"{label} points")
        self.angles = [_AngleField(session, label, k) for k in range(2)]
        for widget in (self.way, *self.angles):
            layout.addWidget(widget)

    def at(self, path: str, owner: str = "") -> DirectionField:
        """Show the direction at a path."""
        self.path = path
        self.way.at(path, owner)
        self.way.box.setObjectName(f"{path}/way")
        for angle in self.angles:
            angle.at(path, owner)
        return self


class _WayField(ChoiceField):
    """Its main way; another one begins straight."""

    def __init__(self, session: Session, label: str) -> None:
        super().__init__(session, label, [(w, w) for w in WAYS_OUT])

    def refresh(self) -> None:
        vector = self.session.value(self.path) if self.path else None
        self.said.refresh()
        self.box.setCurrentIndex(-1 if vector is None else WAYS_OUT.index(told(vector).way))

    def take(self, index: int) -> None:
        vector = self.session.value(self.path)
        way = WAYS_OUT[index]
        if vector is None or told(vector).way == way:
            return
        owner = f"{self.owner}: " if self.owner else ""
        try:
            self.session.set_value(
                self.path, direction(way, 0.0, 0.0), f"{owner}{self.label.text().lower()} {way}"
            )
        except JobError as error:
            self.refusal.tell(str(error))
            self.refresh()


class _AngleField(QuantityField):
    """One angle off the main way."""

    def __init__(self, session: Session, of: str, index: int) -> None:
        super().__init__(session, of, "angle", ways=UP)
        self.of, self.index = of, index

    def at(self, path: str, owner: str = "") -> QuantityField:
        super().at(path, owner)
        self.line.setObjectName(f"{path}/angle-{self.index}")
        return self

    def _said_path(self) -> str:
        return ""

    def refresh(self) -> None:
        vector = self.session.value(self.path) if self.path else None
        if vector is not None:
            way = told(vector).way
            level = way in _LEVEL
            self.ways = (UP, _LEVEL[way])[self.index] if level else (FORWARD, LEFT)[self.index]
            aside = "to the side" if way in ("forward", "back") else "lengthwise"
            turns = ("up or down", aside) if level else ("leaning, from the side", "leaning, from the front")
            self.label.setText(f"{self.of}, {turns[self.index]}")
            self.name_line()
        super().refresh()

    def _present(self) -> Any:
        vector = self.session.value(self.path)
        if vector is None:
            return None
        angle = told(vector)[1 + self.index]
        return 0.0 if abs(float(angle)) < 5e-4 else angle

    def _stored(self, value: Any) -> Any:
        now = told(self.session.value(self.path))
        angles = [now.first, now.second]
        angles[self.index] = value
        try:
            return direction(now.way, *angles)
        except ValueError as error:
            said = str(error)
            raise JobError(f"{said[0].upper()}{said[1:]}.", self.path) from None
