"""Fields made from the descriptions in a part's own model: a title, a unit by the end of the name, words for
choices, only_where another field has one of some values. So a new family of parts has its screen with its
data."""

from __future__ import annotations

from types import UnionType
from typing import Any, Literal, Union, get_args, get_origin

from pydantic.fields import FieldInfo
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.job.base import Part
from nimble_cradle.units import Kind

_KINDS: dict[str, Kind] = {"mm": "length", "nm": "torque", "deg": "angle", "mpa": "stress", "kg": "mass"}
"""Kind of quantity by the last word of a field's name."""


def quantity_of(name: str) -> Kind:
    """The kind of quantity that a field's name tells: ``length_mm``, ``stiffness_radial``."""
    if name.startswith("stiffness"):
        return "stiffness"
    return _KINDS.get(name.rpartition("_")[2], "number")


def described(model: type[Part]) -> dict[str, FieldInfo]:
    """The fields of a model that have a title, by name, in its order."""
    return {name: field for name, field in model.model_fields.items() if field.title}


def made_field(session: Session, name: str, field: FieldInfo) -> QuantityField | ChoiceField:
    """The widget of one described field. Raises TypeError for a field that is no number and no choice."""
    title, extra = str(field.title), _extra(field)
    plain = _without_none(field.annotation)
    if get_origin(plain) is Literal:
        words = extra.get("words", {})
        return ChoiceField(
            session, title, [(value, words.get(value, str(value))) for value in get_args(plain)]
        )
    if plain is bool:
        words = extra["words"]
        return ChoiceField(session, title, [(False, words["no"]), (True, words["yes"])])
    if plain is not float:
        raise TypeError(f"“{name}” is described but is no number and no choice")
    return QuantityField(
        session,
        title,
        extra.get("quantity") or quantity_of(name),
        decimals=extra.get("decimals"),
        optional=extra.get("unsaid", ""),
    )


def _extra(field: FieldInfo) -> dict[str, Any]:
    return field.json_schema_extra if isinstance(field.json_schema_extra, dict) else {}


def _without_none(annotation: Any) -> Any:
    """A type without its ``None`` and its limits."""
    if get_origin(annotation) in (Union, UnionType):
        annotation = next(a for a in get_args(annotation) if a is not type(None))
    return get_args(annotation)[0] if hasattr(annotation, "__metadata__") else annotation


class DescribedFields(QWidget):
    """The described fields of a part of a job, of whatever family it is. first: only the one that is changed
    most, else all others."""

    def __init__(self, session: Session, first: bool = False) -> None:
        super().__init__()
        self.session, self.first = session, first
        self.model: type[Part] | None = None
        self.path = ""
        self.fields: dict[str, QuantityField | ChoiceField] = {}
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(6)

    def show_part(self, part: Part | None, path: str, owner: str) -> None:
        """Show the part at ``path``; nothing where there is none."""
        self.setVisible(part is not None)
        if part is None:
            return
        if type(part) is not self.model:
            self._make(type(part))
        if path != self.path:
            self.path = path
            for name, field in self.fields.items():
                field.at(f"{path}/{name}", owner)
        for name, field in self.fields.items():
            other, *among = _extra(type(part).model_fields[name]).get("only_where", [""])
            field.setVisible(not other or getattr(part, other) in among)

    def _make(self, model: type[Part]) -> None:
        """Fields for another family; those of before go."""
        for old in self.fields.values():
            old.hide()
            old.deleteLater()
        self.model, self.path = model, ""
        self.fields = {
            name: made_field(self.session, name, field)
            for name, field in described(model).items()
            if bool(_extra(field).get("first")) == self.first
        }
        for field in self.fields.values():
            self.column.addWidget(field)
