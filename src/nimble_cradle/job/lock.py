"""One writer for a job file. The system lets go of the lock when the program dies.

Two locks are held: one on a small file beside the job (so that it holds for the name, whatever is put in the
job's place), and one on the job file itself (so that it holds for the file, whatever name it is reached by).
"""

from __future__ import annotations

import contextlib
import fcntl
import os
from pathlib import Path

from nimble_cradle.errors import JobError
from nimble_cradle.files import beside, open_plain, why

_ATTEMPTS = 50
"""Tries to take a lock whose file is replaced meanwhile, before it is told."""


class Lock:
    """Held while a window may save the job. ``held`` is False where that cannot be: ``why`` tells, and the
    job opens read-only. path: the file itself, no link to it."""

    def __init__(self, path: Path) -> None:
        self.job_file = path
        self.path = beside(path, ".lock")
        self.why = ""
        self._name: int | None = None
        self._file: int | None = None
        try:
            self._name = self._own()
            if self._name is not None:
                os.ftruncate(self._name, 0)
                os.write(self._name, f"process {os.getpid()}\n".encode())
                self.follow()
        except JobError as error:
            self.why = f"what should be its lock cannot be used: {error.message}"
        except OSError as error:
            self.why = f"no lock can be kept beside it: {why(error)}"
        if self.why:
            self.release()

    def _own(self) -> int | None:
        """The locked file beside the job; None where another holds it. What is locked must still be what the
        name stands for: its last owner may just have taken it away. Raises OSError, JobError."""
        for _ in range(_ATTEMPTS):
            handle = open_plain(self.path, os.O_RDWR | os.O_CREAT, follow=False)
            if os.fstat(handle).st_nlink > 1:
                os.close(handle)
                raise JobError(f"{self.path.name} is another file too (a hard link).")
            if not self._lock(handle, handle):
                return None
            if _same(handle, self.path):
                return handle
            os.close(handle)
        self.why = "its lock changes hands too fast"
        return None

    def _lock(self, handle: int, told: int) -> bool:
        """Lock an open file; False where another has it (``why`` says who, as ``told`` says)."""
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            return True
        except BlockingIOError:
            owner = ""
            with contextlib.suppress(OSError):
                owner = os.pread(told, 60, 0).decode("ascii", "replace").strip()
            by = f" ({owner})" if owner.startswith("process ") and owner[8:].isdigit() else ""
            self.why = f"it is open in another window{by}"
        except OSError:
            self.why = "the drive that it lies on cannot lock files; copy it to a drive of this machine"
        os.close(handle)
        return False

    def follow(self) -> None:
        """Lock the file that the job's name stands for now (after each save it is a new one)."""
        if self._file is not None:
            os.close(self._file)
            self._file = None
        try:
            handle = open_plain(self.job_file, follow=False)
        except (OSError, JobError):
            return  # not there yet, or not to be read: the name alone is held
        if self._lock(handle, self._name if self._name is not None else handle):
            self._file = handle

    @property
    def held(self) -> bool:
        """Whether this process may write."""
        return self._name is not None

    def release(self) -> None:
        """Let go and tidy up; safe to call twice. A lock that is no longer ours is left where it is."""
        if self._name is not None:
            with contextlib.suppress(OSError):
                if _same(self._name, self.path):
                    os.unlink(self.path)
            os.close(self._name)
            self._name = None
        if self._file is not None:
            os.close(self._file)
            self._file = None


def _same(handle: int, path: Path) -> bool:
    """Whether a name stands for the file that is open."""
    try:
        there, here = os.stat(path, follow_symlinks=False), os.fstat(handle)
    except OSError:
        return False
    return (there.st_dev, there.st_ino) == (here.st_dev, here.st_ino)
