"""A place, told as one says it: so far forward, left, up."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, UP, WAYS, QuantityField
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.units import Kind


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
            _Component(session, _component_label(label, names[k], way), kind, way, k)
            for k, way in enumerate(ways)
        ]
        for component in self.parts:
            layout.addWidget(component)

    def at(self, path: str, owner: str = "") -> VectorField:
        for component in self.parts:
            component.at(path, owner)
        return self


_AXES: dict[frozenset[str], str] = {
    frozenset(FORWARD): "lengthwise",
    frozenset(LEFT): "across",
    frozenset(UP): "in height",
}


def _component_label(label: str, name: str, way: tuple[str, str] | None) -> str:
    """What one number is called: no two of them alike."""
    axis = _AXES[frozenset(way)] if way is not None and (not name or name.startswith("from ")) else ""
    said = " ".join(word for word in (axis, name) if word)
    return f"{label}, {said}" if said else label


class _Component(QuantityField):
    """One number of a vector: the whole vector is the value at the path."""

    def __init__(
        self, session: Session, label: str, kind: Kind, ways: tuple[str, str] | None, index: int
    ) -> None:
        super().__init__(session, label, kind, ways=ways)
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
