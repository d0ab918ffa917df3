"""Recalculate only what changed: a function of a job remembered by the very parts of the job that it reads.

Edits share the parts they do not touch, so identity is enough and costs nothing; undo finds the old parts
again.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

from nimble_cradle.job.job import Job

T = TypeVar("T")

REMEMBERED: dict[str, tuple[Callable[[Job], Any], frozenset[str]]] = {}
"""Every remembered function by module and name: the plain function, and the parts that it says it reads."""


def remembered(*parts: str, most: int = 16) -> Callable[[Callable[[Job], T]], Callable[[Job], T]]:
    """Keep results of ``function(job)`` for as long as ``parts`` (top-level names of the job) are the same
    objects."""

    def wrap(function: Callable[[Job], T]) -> Callable[[Job], T]:
        REMEMBERED[f"{function.__module__}.{function.__name__}"] = function, frozenset(parts)
        kept: OrderedDict[tuple[int, ...], tuple[tuple[Any, ...], T]] = OrderedDict()
        lock = threading.Lock()

        @wraps(function)
        def call(job: Job) -> T:
            held = tuple(getattr(job, part) for part in parts)
            key = tuple(id(part) for part in held)
            with lock:
                if key in kept:
                    kept.move_to_end(key)
                    return kept[key][1]
            result = function(job)
            with lock:
                kept[key] = (held, result)
                while len(kept) > most:
                    kept.popitem(last=False)
            return result

        return call

    return wrap
