"""Recalculate only what changed: a function of a job remembered by the very parts of the job that it reads.

Edits share the parts they do not touch, so identity is enough and costs nothing; undo finds the old parts
again.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount

T = TypeVar("T")
P = ParamSpec("P")

REMEMBERED: dict[str, tuple[Callable[[Job], Any], frozenset[str]]] = {}
"""Every remembered function by module and name: the plain function, and the parts that it says it reads."""
OF_MOUNT: dict[str, Callable[[Mount], Hashable]] = {}
"""What those read of a mount that do not read all of it."""


SHAPELESS = frozenset(
    {
        *("hardness_shore_a", "hardness_irhd", "stiffness_radial", "stiffness_axial"),
        *("bolt_class", "tightening_nm", "other_class", "other_tightening_nm"),
        *("thread_in", "thread_deep_mm", "note"),
    }
)
"""Figures of a mount that its shape does not depend on, nor where it stands."""
_SHAPES: OrderedDict[int, tuple[Mount, str]] = OrderedDict()
_LOCK = threading.Lock()


def shape_of(mount: Mount) -> Hashable:
    """Equal for mounts that differ in ``SHAPELESS`` figures alone."""
    with _LOCK:
        kept = _SHAPES.get(id(mount))
        if kept is not None and kept[0] is mount:
            _SHAPES.move_to_end(id(mount))
            return kept[1]
    told = repr(_without(mount.model_dump()))
    with _LOCK:
        _SHAPES[id(mount)] = mount, told
        while len(_SHAPES) > 64:
            _SHAPES.popitem(last=False)
    return told


def _without(data: Any) -> Any:
    """Plain data without what has no shape."""
    if isinstance(data, dict):
        return {key: _without(value) for key, value in data.items() if key not in SHAPELESS}
    return data


NOTED = frozenset({"items", "mounts", "panels", "openings", "cracks", "rods", "suspensions"})
"""Parts of a job whose notes nothing that is remembered reads."""
_ALIKE: OrderedDict[int, tuple[Any, Any]] = OrderedDict()


def noted(old: Job, new: Job) -> None:
    """Said of two jobs that differ in a note alone: those parts of theirs are one to what is remembered, so
    that typing a note works nothing out anew."""
    for part in NOTED:
        was, now = getattr(old, part), getattr(new, part)
        if was is not now:
            with _LOCK:
                _ALIKE[id(now)] = now, _first(was)
                while len(_ALIKE) > 64:
                    _ALIKE.popitem(last=False)


def _first(part: Any) -> Any:
    """The part that another one is alike but for notes; itself where it is like none."""
    kept = _ALIKE.get(id(part))
    return kept[1] if kept is not None and kept[0] is part else part


def remembered(
    *parts: str, most: int = 16, of_mount: Callable[[Mount], Hashable] | None = None
) -> Callable[[Callable[[Job], T]], Callable[[Job], T]]:
    """Keep results of ``function(job)`` for as long as ``parts`` (top-level names of the job) are the same
    objects. of_mount: all that it reads of a mount; mounts for which that is equal are the same to it."""

    def wrap(function: Callable[[Job], T]) -> Callable[[Job], T]:
        REMEMBERED[f"{function.__module__}.{function.__name__}"] = function, frozenset(parts)
        if of_mount is not None:
            OF_MOUNT[f"{function.__module__}.{function.__name__}"] = of_mount
        kept: OrderedDict[tuple[Hashable, ...], tuple[tuple[Any, ...], T]] = OrderedDict()
        lock = threading.Lock()

        @wraps(function)
        def call(job: Job) -> T:
            held = tuple(_first(getattr(job, part)) for part in parts)
            key: tuple[Hashable, ...] = tuple(id(part) for part in held)
            if of_mount is not None:
                own = tuple(of_mount(mount) for mount in job.mounts)
                key = tuple(own if name == "mounts" else k for name, k in zip(parts, key, strict=True))
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


def of_same(most: int = 64) -> Callable[[Callable[P, T]], Callable[P, T]]:
    """Keep results of a function for as long as its arguments are the very same frozen objects: what is made
    of one mount or panel is then made once, whatever else of the job changes."""

    def wrap(function: Callable[P, T]) -> Callable[P, T]:
        kept: OrderedDict[tuple[int, ...], tuple[tuple[Any, ...], T]] = OrderedDict()
        lock = threading.Lock()

        @wraps(function)
        def call(*args: P.args, **named: P.kwargs) -> T:
            assert not named, "by place only"
            key = tuple(id(arg) for arg in args)
            with lock:
                if key in kept:
                    kept.move_to_end(key)
                    return kept[key][1]
            result = function(*args)  # type: ignore[call-arg]
            with lock:
                kept[key] = (args, result)
                while len(kept) > most:
                    kept.popitem(last=False)
            return result

        return call

    return wrap
