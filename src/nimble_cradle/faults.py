"""A fault of the program itself: kept in a report for whoever mends it, told in one sentence."""

from __future__ import annotations

import os
import platform
import sys
import tempfile
import time
import traceback
from collections.abc import Sequence
from pathlib import Path

from nimble_cradle import __version__
from nimble_cradle.files import data_folder

MOST_REPORTS = 50
"""So many are kept; the oldest go."""


def report_fault(error: BaseException, doing: Sequence[str] = ()) -> Path | None:
    """Write down what happened and give the file; None where nothing can be written.

    doing: what was done before, oldest first. The report holds no figure of the job.
    """
    text = "\n".join(
        [
            f"Nimble Cradle {__version__}, Python {platform.python_version()}, {platform.system()}",
            time.strftime("%Y-%m-%d %H:%M:%S"),
            " ".join(Path(a).name for a in sys.argv[:2]),
            "",
            "".join(traceback.format_exception(error)),
            *(["Done before:", *doing] if doing else []),
            "",
        ]
    )
    name = time.strftime("fault-%Y%m%d-%H%M%S") + f"-{os.getpid()}"
    for folder in (data_folder() / "faults", Path(tempfile.gettempdir())):
        try:
            folder.mkdir(parents=True, exist_ok=True)
            path = _free(folder, name)
            path.write_text(text, encoding="utf-8", errors="backslashreplace")
            if folder.name == "faults":  # in the system's own folder nothing is taken away
                for old in sorted(folder.glob("fault-*.txt"))[:-MOST_REPORTS]:
                    old.unlink(missing_ok=True)
            return path
        except (OSError, RuntimeError):
            continue
    return None


def _free(folder: Path, name: str) -> Path:
    """A name that is not taken."""
    n, path = 1, folder / f"{name}.txt"
    while path.exists():
        n += 1
        path = folder / f"{name}-{n}.txt"
    return path


def fault_sentence(error: BaseException, report: Path | None) -> str:
    """What went wrong and where the report lies."""
    where = f" What happened is written in {report}." if report is not None else ""
    return f"Something went wrong inside the program ({type(error).__name__}).{where}"
