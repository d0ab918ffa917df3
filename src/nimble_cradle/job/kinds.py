"""Families in a job: parts of several kinds in one place, told apart by the word ``kind``."""

from __future__ import annotations

from types import UnionType
from typing import Any, Union, get_args, get_origin

from pydantic import BaseModel, GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema


class ByKind:
    """Marks ``Annotated[A | B, ByKind(A)]``: which of the models a value is, is told by ``kind``; without
    that word it is of the first kind, which files from before there was another hold without it."""

    def __init__(self, first: type[BaseModel]) -> None:
        self.first = first

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        models = get_args(source) if get_origin(source) in (Union, UnionType) else (source,)
        if len(models) == 1:
            return handler(source)
        choices = {kind_of(model): handler(model) for model in models}
        return core_schema.tagged_union_schema(choices, discriminator=self._kind)

    def _kind(self, value: Any) -> str:
        if isinstance(value, dict):
            return str(value.get("kind", kind_of(self.first)))
        return kind_of(type(value))


def kind_of(model: type[Any]) -> str:
    """The word of a family's data: its ``kind``, written in the file or not."""
    field = getattr(model, "model_fields", {}).get("kind")
    return str(field.default if field is not None else model.kind)


def every_kind(base: type[BaseModel]) -> frozenset[str]:
    """The words that may stand in ``kind`` of any model that is made from ``base``."""
    out: set[str] = set()
    for model in base.__subclasses__():
        field = model.model_fields.get("kind")
        words = get_args(field.annotation) if field is not None else ()
        if len(words) == 1:  # a choice of several words is a field like any other
            out.update(words)
        elif isinstance(getattr(model, "kind", None), str):
            out.add(model.kind)  # type: ignore[attr-defined]
        out |= every_kind(model)
    return frozenset(out)
