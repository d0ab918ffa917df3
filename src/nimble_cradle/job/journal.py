"""The edit journal beside a job file: each edit is on disk within a fraction of a second, so a killed program
loses nothing.

One JSON line a row, ended by a line feed. ``{"base": digest}`` names the save that the rows after it build
on: the first line, and once more just before a save takes its name. An edit has its time, its words and
the top-level parts of the job that it changed, whole. ``{"judged": true}`` says that the program lived to
judge what stands before it: at recovery the edits after it are tried first.
"""

from __future__ import annotations

import base64
import contextlib
import os
import queue
import threading
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

from nimble_cradle.files import beside, open_plain, sync_folder, why
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.read_archive import Row, line_of

MOST_BYTES = 2_000_000_000
"""Bytes of a journal that is read: no more than a whole job may hold."""
MOST_WORDS = 4000
"""Letters of an edit's words that are kept."""
AGAIN = 0.5
"""So long after a failed write it is tried again, s."""
PHOTO_STARTS = (b"\xff\xd8\xff", b"\x89PNG\r\n\x1a\n")

CUT_OFF = "a last entry that was cut off while it was being written"
Tried = Callable[[Job], str]
"""Tries a job where nothing can be harmed; gives what went wrong, or empty."""


def now() -> str:
    """Time of an edit, UTC, to the second."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def journal_path(path: Path) -> Path:
    """Where the journal of a job file is kept."""
    return beside(path, ".journal")


def aside_path(path: Path) -> Path:
    """Where rows go that could not be applied."""
    return beside(path, ".journal-aside")


def changed_parts(before: Job, after: Job) -> Row:
    """The top-level parts (by their names in the file) in which two jobs differ, as plain data, new meshes
    in base64."""
    out: Row = {}
    for name, field_ in Job.model_fields.items():
        old, new = getattr(before, name), getattr(after, name)
        if old is not new and old != new:
            out[field_.alias or name] = after.model_dump(mode="json", by_alias=True, include={name})[
                field_.alias or name
            ]
    if "meshes" in out:
        kept = {mesh.sha256 for mesh in before.meshes}
        out["mesh bytes"] = {
            mesh.name: base64.b64encode(mesh.data).decode()
            for mesh in after.meshes
            if mesh.sha256 not in kept
        }
    return out


class Journal:
    """Writes rows on its own thread, in order, each flushed and synced. Where that fails (a full disk)
    they are kept and written as soon as it can be done; ``failed`` says so meanwhile. ``close`` waits for
    the last.
    """

    def __init__(self, path: Path, digest: str, unjudged: bool = False) -> None:
        self.path = journal_path(path)
        self.failed = ""
        self._unjudged = unjudged
        self._base = digest
        self._waiting: list[bytes] = []
        self._handle: int | None = None
        self._length = 0
        self._queue: queue.Queue[bytes | None] = queue.Queue()
        self._thread = threading.Thread(target=self._run, name="journal", daemon=True)
        self._thread.start()

    def record(self, what: str, parts: Row) -> Row:
        """Put one edit on its way to disk; gives the logbook row."""
        row = {"time": now(), "what": what[:MOST_WORDS]}
        self._unjudged = True
        self._queue.put(line_of({**row, "set": parts}))
        return row

    def judged(self) -> None:
        """The last edit has its verdict: the program lived through it."""
        if self._unjudged:
            self._unjudged = False
            self._queue.put(line_of({"judged": True}))

    def base(self, digest: str) -> None:
        """A save of all so far is about to take its name; waits until that is written, if it can be."""
        self._queue.put(line_of({"base": digest}))
        self.flush()

    def flush(self) -> None:
        """Wait until everything recorded so far is on disk, or could not be written (``failed``)."""
        self._queue.join()

    def close(self, remove: bool = False) -> None:
        """Stop; with ``remove`` the journal is deleted (after a save)."""
        self._queue.put(None)
        self._thread.join()
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None
        if remove:
            with contextlib.suppress(OSError):
                os.unlink(self.path)

    def _run(self) -> None:
        leaving = False
        while not leaving:
            taken = 0
            try:
                row = self._queue.get(timeout=AGAIN if self._waiting else None)
                while True:
                    taken += 1
                    leaving = leaving or row is None
                    if row is not None:
                        self._waiting.append(row)
                    row = self._queue.get_nowait()
            except queue.Empty:
                pass
            try:
                self._write()
                self.failed = ""
            except (OSError, JobError) as error:
                said = why(error) if isinstance(error, OSError) else error.message
                self.failed = f"the edit journal cannot be written ({said})"
            for _ in range(taken):
                self._queue.task_done()

    def _write(self) -> None:
        """What is waiting, whole, or nothing of it. Raises OSError, JobError."""
        if not self._waiting:
            return
        if self._handle is None:
            self._handle = open_plain(self.path, os.O_WRONLY | os.O_CREAT | os.O_APPEND, follow=False)
            self._length = os.fstat(self._handle).st_size
            if os.fstat(self._handle).st_nlink != 1:
                os.close(self._handle)
                self._handle = None
                raise JobError("its file is another file too")
            sync_folder(self.path.parent)
        start = line_of({"base": self._base}) if self._length == 0 else b""
        data = memoryview(start + b"".join(self._waiting))
        try:
            written = 0
            while written < len(data):
                written += os.write(self._handle, data[written:])
            os.fsync(self._handle)
        except OSError:
            with contextlib.suppress(OSError):
                os.ftruncate(self._handle, self._length)
            raise
        self._length += len(data)
        self._waiting.clear()
