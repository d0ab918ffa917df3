"""Named edits: functions from a job to the next job, each with the words that the logbook keeps.

Any value in a job can be named by a path such as ``mounts/left/bush/hardness_shore_a`` or
``items/rack/shapes/0/diameter``: tuples of parts that have an id are walked by id, others by index.
"""

from __future__ import annotations

import re
from typing import Any

from pydantic import BaseModel, ValidationError

from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job, MeshFile, as_job_error
from nimble_cradle.job.remember import NOTED, noted


def _index(rows: tuple[Any, ...], key: str, path: str) -> int:
    for i, row in enumerate(rows):
        if getattr(row, "id", None) == key:
            return i
    if key.isdigit() and int(key) < len(rows):
        return int(key)
    raise JobError(f"There is nothing called “{key}” there.", path)


def value_at(job: Job, path: str) -> Any:
    """The value at a path. Raises JobError where there is none."""
    here: Any = job
    for key in path.split("/"):
        if isinstance(here, tuple):
            here = here[_index(here, key, path)]
        elif isinstance(here, BaseModel) and key in type(here).model_fields:
            here = getattr(here, key)
        else:
            raise JobError(f"There is no “{key}” there.", path)
    return here


def with_value(job: Job, path: str, value: Any) -> Job:
    """The job with one value replaced, validated. Raises JobError with the path of the fault; ``job`` is
    untouched.

    Unchanged parts are shared with the old job, so caches keyed by them hold.
    """
    keys = path.split("/")
    try:
        changed = _replaced(job, keys, value, path)
    except ValidationError as error:
        raise as_job_error(error, "/".join(keys[:-1])) from None
    assert isinstance(changed, Job)
    if keys[-1] == "note" and keys[0] in NOTED:
        noted(job, changed)
    return changed


def _replaced(here: Any, keys: list[str], value: Any, path: str) -> Any:
    if not keys:
        return value
    if isinstance(here, tuple):
        i = _index(here, keys[0], path)
        return (*here[:i], _replaced(here[i], keys[1:], value, path), *here[i + 1 :])
    if not isinstance(here, BaseModel) or keys[0] not in type(here).model_fields:
        raise JobError(f"There is no “{keys[0]}” there.", path)
    fields = {name: getattr(here, name) for name in type(here).model_fields}
    fields[keys[0]] = _replaced(fields[keys[0]], keys[1:], value, path)
    made = type(here)(**fields)
    for name, part in fields.items():
        if name != keys[0]:
            made.__dict__[name] = part
    return made


def figures(part: BaseModel, path: str = "") -> dict[str, float | int | str | bool | None]:
    """Every figure, word and choice of a job (or a part of one) by the path that ``with_value`` takes."""
    out: dict[str, float | int | str | bool | None] = {}
    rows: list[tuple[str, Any]] = [(n, getattr(part, n)) for n in type(part).model_fields]
    while rows:
        name, value = rows.pop(0)
        if isinstance(value, BaseModel):
            out |= figures(value, f"{path}{name}/")
        elif isinstance(value, tuple):
            for k, row in enumerate(value):
                key = getattr(row, "id", k)
                rows.append((f"{name}/{key}", row))
        elif value is None or isinstance(value, float | int | str | bool):
            out[path + name] = value
    return out


def free_id(stem: str, taken: set[str]) -> str:
    """An id that is not taken: ``stem-1``, ``stem-2`` ..."""
    n = 1
    while f"{stem}-{n}" in taken:
        n += 1
    return f"{stem}-{n}"


def added(job: Job, path: str, part: BaseModel) -> Job:
    """The job with a part added at the end of the tuple at ``path`` (items, mounts, powertrain/pieces
    ...). Raises JobError."""
    rows = value_at(job, path)
    return with_value(job, path, (*rows, part))


def removed(job: Job, path: str) -> Job:
    """The job without the part at ``path`` (e.g. ``items/heater-stubs``). Raises JobError."""
    parent, _, key = path.rpartition("/")
    rows = value_at(job, parent)
    if not isinstance(rows, tuple):
        raise JobError("Only a row of a list can be removed.", path)
    i = _index(rows, key, path)
    try:
        return with_value(job, parent, (*rows[:i], *rows[i + 1 :]))
    except JobError as error:  # what still uses it is told by its name, not by its id
        name = getattr(rows[i], "name", key)
        raise JobError(error.message.replace(f"“{key}”", f"“{name}”"), error.place) from None


def with_mesh(job: Job, name: str, data: bytes) -> Job:
    """The job with a mesh file added or replaced. Raises JobError for a name that is no plain file name."""
    try:
        mesh = MeshFile.of(name, data)
    except ValidationError as error:
        raise as_job_error(error, "meshes") from None
    kept = tuple(m for m in job.meshes if m.name != name)
    return with_value(job, "meshes", (*kept, mesh))


def free_mesh_name(job: Job, name: str, data: bytes) -> str:
    """A name for a mesh file that a job can keep: its own made plain, and another where a different mesh has
    that name already (items drawn by that one stay as they are)."""
    stem, _, kind = name.rpartition(".")
    stem = re.sub(r"[^A-Za-z0-9_-]+", "-", stem).strip("-_")[:60] or "mesh"
    kind = re.sub(r"[^a-z0-9]+", "", kind.lower())[:8]
    n, key = 1, f"{stem}.{kind}"
    had = {mesh.name: mesh.data for mesh in job.meshes}
    while had.get(key, data) != data:
        n += 1
        key = f"{stem}-{n}.{kind}"
    return key
