"""The list of every field of a job file, as docs/job-file.md holds it; made from the job model."""

from __future__ import annotations

import json
import typing
from typing import Any

from nimble_cradle.job.base import Part
from nimble_cradle.job.job import Job
from pydantic_core import PydanticUndefined

INTRO = """What each part needs, and what it may have beside that, with what stands where it is left
out. An id is small letters, figures and `-`, at most 40.

"""


def parts(kind: Any) -> list[type[Part]]:
    """The parts that an annotation names."""
    if isinstance(kind, type) and issubclass(kind, Part):
        return [kind]
    return [m for a in typing.get_args(kind) for m in parts(a)]


def every_part() -> list[type[Part]]:
    """All parts of a job, the job itself first, each where it is first met."""
    found: list[type[Part]] = [Job]
    for kind in found:
        for field in kind.model_fields.values():
            found += [m for m in dict.fromkeys(parts(field.annotation)) if m not in found]
    return found


def _usual(value: Any) -> str:
    if isinstance(value, Part) or (isinstance(value, tuple) and any(isinstance(v, Part) for v in value)):
        return "its own defaults" if isinstance(value, Part) else "a first table"
    if value is None:
        return "none"
    if value in ((), "", {}):
        return "empty"
    return f"`{json.dumps(value, ensure_ascii=False)}`"


def _row(kind: type[Part]) -> str:
    need, may = [], []
    for name, field in kind.model_fields.items():
        if field.exclude:
            continue
        key, within = field.alias or name, parts(field.annotation)
        of = f" ({', '.join(m.__name__ for m in within)})" if within else ""
        if field.is_required():
            need.append(f"`{key}`{of}")
        else:
            usual = (
                field.default
                if field.default is not PydanticUndefined
                else field.get_default(call_default_factory=True)
            )
            may.append(f"`{key}`{of}: {_usual(usual)}")
    return f"| {kind.__name__} | {', '.join(need) or 'nothing'} | {'; '.join(may)} |"


def every_field_text() -> str:
    """The table, as Markdown."""
    head = "| part | needs | may have: and else stands |\n|---|---|---|\n"
    return INTRO + head + "\n".join(_row(kind) for kind in every_part()) + "\n"
