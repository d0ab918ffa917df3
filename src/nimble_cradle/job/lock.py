"""One writer for a job file: an advisory lock beside it that the system lets go of when the program dies."""

from __future__ import annotations

import contextlib
import fcntl
import os
from pathlib import Path
from typing import IO


class Lock:
    """Held while a window may save the job. ``held`` is False where that cannot be: ``why`` tells, and the
    job opens read-only."""

    def __init__(self, path: Path) -> None:
        self.path = path.with_name(path.name + ".lock")
        self.owner = ""
        self.why = ""
        self._stream: IO[str] | None = None
        try:
            stream = open(self.path, "a+", encoding="utf-8")  # noqa: SIM115 - held open for as long as the lock is
        except OSError:
            self.owner, self.why = "nobody", "its folder may not be written"
            return
        try:
            fcntl.flock(stream, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            stream.seek(0)
            self.owner = stream.read(200).strip() or "another window"
            self.why = f"it is open in {self.owner}"
            stream.close()
            return
        stream.seek(0)
        stream.truncate()
        stream.write(f"another window (process {os.getpid()})\n")
        stream.flush()
        self._stream = stream

    @property
    def held(self) -> bool:
        """Whether this process may write."""
        return self._stream is not None

    def release(self) -> None:
        """Let go and tidy up; safe to call twice."""
        if self._stream is not None:
            with contextlib.suppress(OSError):
                self.path.unlink()
            self._stream.close()
            self._stream = None
