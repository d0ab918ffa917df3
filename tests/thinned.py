"""Long rows of alike cases: all where ``./run test --long`` asks for it, every so-and-so-many else."""

from __future__ import annotations

import os
from collections.abc import Sequence
from typing import TypeVar

T = TypeVar("T")

LONG = bool(os.environ.get("NIMBLE_CRADLE_LONG"))


def some_of(rows: Sequence[T], step: int) -> list[T]:
    """Every ``step``-th of them, the first and the last among them; all in a long run."""
    return list(rows) if LONG else [*rows[:-1:step], rows[-1]]
