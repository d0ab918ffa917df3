"""A refusal told where the work was done, in a label, instead of raised."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.job.base import JobError


@contextmanager
def told_in(refusal: Refusal) -> Iterator[None]:
    """What a JobError says is shown in ``refusal``; the work in the block ends there."""
    try:
        yield
    except JobError as error:
        refusal.tell(error.message)
