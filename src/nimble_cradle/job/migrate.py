"""Steps from older schemas to the present one. Each step is a function from plain data to plain data."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import SCHEMA

STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: dict, 2: dict}
"""Schema number -> the step from it to the next. 1 to 2: the survey, motion and items made from points
came; 2 to 3: the wish, cuts and moves of items came. What was there stays."""


def migrate(data: dict[str, Any]) -> dict[str, Any]:
    """Bring plain job data to the present schema. Raises JobError where a step is missing."""
    while (schema := int(data["schema"])) < SCHEMA:
        if schema not in STEPS:
            raise JobError(f"Schema {schema} is older than this program can read.", "schema")
        data = {**STEPS[schema](data), "schema": schema + 1}
    return data
