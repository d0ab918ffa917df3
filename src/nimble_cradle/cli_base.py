"""What all commands share: bad use, one-line errors, files written."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import Any

from nimble_cradle.job.base import JobError


class UseError(Exception):
    """Bad use of the command: exit 2."""


class OneLineParser(argparse.ArgumentParser):
    """One line on standard error for bad use, without the whole usage text."""

    def error(self, message: str) -> Any:
        print(f"{self.prog}: {message} (--help tells more)", file=sys.stderr)
        raise SystemExit(2)


def written(path: Path, data: bytes) -> int:
    """Write a file and say so. Raises JobError."""
    try:
        path.write_bytes(data)
    except OSError as error:
        raise JobError(f"{path} could not be written: {error.strerror}.") from None
    print(path)
    return 0


def new_file(path: Path | None, what: str) -> None:
    """Refuse a name that is taken. Raises UseError."""
    if path is not None and path.exists():
        raise UseError(
            f"say with -o {what} that is not there yet: a job that may be open is never written over"
        )
