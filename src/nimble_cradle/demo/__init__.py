"""Jobs shipped with the program, each a folder laid out like a job file, so that a person can read its
job.json."""

from __future__ import annotations

from pathlib import Path

from nimble_cradle.job import store
from nimble_cradle.job.base import JobError

HERE = Path(__file__).parent
DEMOS = {"light-truck": "light_truck", "hatchback": "hatchback"}


def demo_folder(name: str) -> Path:
    """Where a demo job lies. Raises JobError with the names there are."""
    if name not in DEMOS:
        raise JobError(f"There is no demo job “{name}”; there is {', '.join(DEMOS)}.")
    return HERE / DEMOS[name]


def write_demo(name: str, path: Path) -> Path:
    """A fresh copy of a demo job as a job file at ``path``, which must be free. Raises JobError."""
    opened = store.read(demo_folder(name))
    store.write(path, opened.job, opened.log, fresh=True)
    return path
