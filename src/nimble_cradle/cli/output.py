"""What all commands share: bad use, one-line errors, files written."""

from __future__ import annotations

import argparse
import codecs
import json
import math
import sys
from pathlib import Path
from typing import Any, TextIO

from nimble_cradle.files import printable, there, why, write_new
from nimble_cradle.job.base import JobError


class UseError(Exception):
    """Bad use of the command: exit 2."""


class OneLineParser(argparse.ArgumentParser):
    """One line on standard error for bad use, without the whole usage text."""

    def error(self, message: str) -> Any:
        print(f"{self.prog}: {message} (--help tells more)", file=sys.stderr)
        raise SystemExit(2)


_PLAIN = str.maketrans(
    {
        "“": '"', "”": '"', "‘": "'", "’": "'", "–": "-", "—": "-", "−": "-", "…": "...", "×": "x", "→": "->",
        "°": " deg", "±": "+-", "·": "*", "²": "2", "³": "3", "≤": "<=", "≥": ">=", "½": " 1/2", "¼": " 1/4",
        "¾": " 3/4", "µ": "u", "Ø": "dia ", "⌀": "dia ",
    }
)  # fmt: skip


def _plain(error: UnicodeError) -> tuple[str, int]:
    """What stands in for letters that an output cannot take."""
    assert isinstance(error, UnicodeEncodeError)
    letters = error.object[error.start : error.end].translate(_PLAIN)
    return "".join(c if ord(c) < 128 else "?" for c in letters), error.end


def plain_output() -> None:
    """An output that cannot take a letter (latin-1, ASCII) shows the nearest that it can."""
    codecs.register_error("nimble-cradle", _plain)
    for stream in (sys.stdout, sys.stderr):
        reconfigure = getattr(stream, "reconfigure", None)
        if reconfigure is not None:
            reconfigure(errors="nimble-cradle")


def _takes_every_letter(stream: TextIO) -> bool:
    return (stream.encoding or "ascii").lower().replace("-", "").startswith("utf")


def json_text(data: Any) -> str:
    """Data as JSON for standard output: always valid (a number that is none is null), in letters that the
    output takes."""
    return json.dumps(
        _finite(data), indent=1, ensure_ascii=not _takes_every_letter(sys.stdout), allow_nan=False
    )


def _finite(data: Any) -> Any:
    if isinstance(data, float):
        return data if math.isfinite(data) else None
    if isinstance(data, dict):
        return {k: _finite(v) for k, v in data.items()}
    return [_finite(v) for v in data] if isinstance(data, list | tuple) else data


def written(path: Path, data: bytes) -> int:
    """Write a file that was not there and say so. Raises JobError."""
    name = printable(str(path), 100)
    try:
        write_new(path, data)
    except FileExistsError:
        raise JobError(
            f"{name} is there already; choose another name, or take it away first: nothing is written over."
        ) from None
    except OSError as error:
        raise JobError(f"{name} could not be written: {why(error)}.") from None
    print(path)
    return 0


def new_file(path: Path | None, what: str) -> None:
    """Refuse a name that is taken. Raises UseError."""
    if path is not None and there(path):
        raise UseError(
            f"say with -o {what} that is not there yet: a job that may be open is never written over"
        )
