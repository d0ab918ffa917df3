"""What every part of a job shares: frozen, strict about unknown names, finite numbers, and errors with a
place."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from datetime import date
from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, StringConstraints

from nimble_cradle.errors import JobError as JobError

Finite = Annotated[float, Field(allow_inf_nan=False, ge=-1e6, le=1e6)]
Positive = Annotated[float, Field(allow_inf_nan=False, gt=0, le=1e6)]
NotNegative = Annotated[float, Field(allow_inf_nan=False, ge=0, le=1e6)]
Vec2 = tuple[Finite, Finite]
Vec3 = tuple[Finite, Finite, Finite]
Id = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f\u2028\u2029\x85]")


def _shown(text: Any) -> Any:
    """Text without what no screen and no file can show: halves of letters (lone surrogates) and letters that
    steer a machine."""
    if not isinstance(text, str):
        return text
    whole = text.encode("utf-16-le", "surrogatepass").decode("utf-16-le", "replace")
    return _CONTROL.sub(" ", whole)


def _one_line(text: Any) -> Any:
    return text.replace("\n", " ").replace("\t", " ") if isinstance(text, str) else text


Name = Annotated[
    str, StringConstraints(min_length=1, max_length=80), BeforeValidator(_one_line), BeforeValidator(_shown)
]
Words = Annotated[str, StringConstraints(max_length=4000), BeforeValidator(_shown)]


def _day(text: str) -> str:
    try:
        if not re.fullmatch(r"|(19|20|21)\d\d-\d\d-\d\d", text, re.ASCII):
            raise ValueError
        return text and date.fromisoformat(text).isoformat()
    except ValueError:
        raise ValueError(f"“{text[:20]}” is no date; write year-month-day, as in 2026-03-28") from None


Day = Annotated[str, AfterValidator(_day)]
"""A date, year-month-day (ISO 8601), or empty where it is not said."""


def _not_zero(v: Vec3) -> Vec3:
    if sum(c * c for c in v) < 1e-12:
        raise ValueError("a direction cannot be all noughts")
    return v


Direction = Annotated[Vec3, AfterValidator(_not_zero)]


class Part(BaseModel):
    """Base of every part of a job. Frozen; unknown names in a file are refused by name."""

    model_config = ConfigDict(frozen=True, extra="forbid")


def told_apart(word: str, ids: Sequence[str]) -> None:
    """Raises ValueError where two rows have one id."""
    twice = next((key for key, count in Counter(ids).items() if count > 1), None)
    if twice is not None:
        raise ValueError(f"two {word}s have the id “{twice}”; ids must differ")
