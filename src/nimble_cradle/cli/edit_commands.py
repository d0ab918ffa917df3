"""Commands that change a job into a new file: any value by its path, and what is said of how figures were
come by."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from nimble_cradle.cli.output import UseError, json_text, new_file
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import value_at, with_value
from nimble_cradle.job.said import fact_at, facts, how, typed, with_said


def add_edit_commands(rows: Any) -> None:
    """Add them to the command's own parsers."""
    edit = rows.add_parser("edit", help="a job with values typed anew, by their paths")
    edit.add_argument("job", type=Path)
    edit.add_argument(
        "values", nargs="+", metavar="path=value", help="the value as in job.json, or plain words"
    )
    edit.add_argument("--assumed", action="store_true", help="the figures typed are assumed, not measured")
    edit.add_argument(
        "-o", "--out", type=Path, required=True, metavar="JOB", help="a job file that is not there yet"
    )
    edit.add_argument("--json", action="store_true")
    edit.set_defaults(run=_edit)

    said = rows.add_parser("said", help="how the figures of a job were come by: measured, assumed, not said")
    said.add_argument("job", type=Path)
    said.add_argument("--rest", choices=("measured", "assumed"), help="say it of every figure not said yet")
    said.add_argument("-o", "--out", type=Path, metavar="JOB", help="write the job here, with --rest")
    said.add_argument("--json", action="store_true")
    said.set_defaults(run=_said)


def _edit(a: argparse.Namespace) -> int:
    new_file(a.out, "a job file")
    opened = store.read(a.job)
    job = opened.job
    done: list[dict[str, Any]] = []
    for pair in a.values:
        path, sign, text = pair.partition("=")
        if not sign or not path:
            raise UseError(f"“{pair}” is not path=value, such as mounts/left/bush/hardness_shore_a=50")
        try:
            value = json.loads(text)
        except json.JSONDecodeError:
            value = text
        if isinstance(value, list):
            value = tuple(tuple(v) if isinstance(v, list) else v for v in value)
        before = value_at(job, path)
        job = typed(job, with_value(job, path, value), path)
        fact = fact_at(job, path)
        if a.assumed and fact is not None:
            job = with_said(job, [fact.path], "assumed")
        done.append({"path": path, "was": _plain(before), "is": _plain(value_at(job, path))})
    store.write(a.out, job, opened.log, opened.photos, fresh=True)
    if a.json:
        print(json_text({"job": str(a.out), "edits": done}))
    else:
        for row in done:
            print(f"{row['path']}: {row['was']} → {row['is']}")
        print(a.out)
    return 0


def _plain(value: Any) -> Any:
    """A value as data."""
    if hasattr(value, "model_dump"):
        return value.model_dump(mode="json")
    return [_plain(v) for v in value] if isinstance(value, tuple) else value


def _said(a: argparse.Namespace) -> int:
    opened = store.read(a.job)
    job = opened.job
    if a.rest is not None:
        if a.out is None:
            raise UseError("say with -o a job file that is not there yet")
        new_file(a.out, "a job file")
        job = with_said(job, [fact.path for fact in facts(job) if fact.path not in job.said], a.rest)
        store.write(a.out, job, opened.log, opened.photos, fresh=True)
    elif a.out is not None:
        raise UseError("-o goes with --rest")
    rows = [
        {"path": fact.path, "name": fact.name, "stage": fact.stage, "how": how(job, fact)}
        for fact in facts(job)
    ]
    if a.json:
        print(json_text(rows))
    else:
        for row in rows:
            print(f"{row['how']:9} {row['name']} ({row['path']})")
        measured = sum(row["how"] == "measured" for row in rows)
        print(f"{measured} of {len(rows)} figures measured")
    if not rows:
        raise JobError("There is no figure to speak of yet.", "said")
    return 0
