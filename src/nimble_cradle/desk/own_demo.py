"""The user's own copy of a demo job."""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

from nimble_cradle.demo import write_demo
from nimble_cradle.files import data_folder, there
from nimble_cradle.job.base import JobError
from nimble_cradle.job.journal import journal_path
from nimble_cradle.job.lock import Lock


def demo_file(name: str, fresh: bool = False) -> Path:
    """The user's own copy of a demo job in the data folder: made at the first start, or anew with
    ``fresh`` (the old one is kept under another name, with its journal). Raises JobError."""
    base = data_folder()
    try:
        base.mkdir(parents=True, exist_ok=True)
        path = base / f"{name}.cradle"
        if fresh and there(path):
            _keep_aside(path)
        if not there(path):
            write_demo(name, path)
    except OSError:
        path = write_demo(name, Path(tempfile.mkdtemp(prefix="nimble-cradle-")) / f"{name}.cradle")
    return path


def _keep_aside(path: Path) -> None:
    """Give a job and its journal another name. Raises JobError where it is open, OSError."""
    lock = Lock(path)
    if not lock.held:
        raise JobError(f"{path.name} cannot be begun again: {lock.why}.")
    try:
        n = 1
        while there(kept := path.with_name(f"{path.stem}-kept-{n}{path.suffix}")):
            n += 1
        for old, new in ((path, kept), (journal_path(path), journal_path(kept))):
            if there(old):
                os.rename(old, new)
        print(f"The copy so far is kept as {kept.name}.", file=sys.stderr)
    finally:
        lock.release()
