"""The edit journal beside a job file: each edit is on disk within a fraction of a second, so a killed program
loses nothing.

One JSON line per edit with the time, its name, and the top-level parts of the job that it changed, whole.
The first line names the save it builds on; a journal that builds on another save is set aside, never
replayed.
"""

from __future__ import annotations

import base64
import contextlib
import json
import os
import queue
import threading
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.store import job_from_data

Row = dict[str, Any]


def now() -> str:
    """Time of an edit, UTC, to the second."""
    return datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def journal_path(path: Path) -> Path:
    """Where the journal of a job file is kept."""
    return path.with_name(path.name + ".journal")


def changed_parts(before: Job, after: Job) -> Row:
    """The top-level parts (by their names in the file) in which two jobs differ, as plain data, new meshes
    in base64."""
    out: Row = {}
    for name, field in Job.model_fields.items():
        old, new = getattr(before, name), getattr(after, name)
        if old is not new and old != new:
            out[field.alias or name] = after.model_dump(mode="json", by_alias=True, include={name})[
                field.alias or name
            ]
    if "meshes" in out:
        kept = {m.sha256 for m in before.meshes}
        out["mesh bytes"] = {
            m.name: base64.b64encode(m.data).decode() for m in after.meshes if m.sha256 not in kept
        }
    return out


class Journal:
    """Writes edits on its own thread, in order, each flushed and synced. ``close`` waits for the last of
    them."""

    def __init__(self, path: Path, digest: str) -> None:
        self.path = journal_path(path)
        self.failed = ""
        self._queue: queue.Queue[Row | None] = queue.Queue()
        self._digest = digest
        self._thread = threading.Thread(target=self._run, name="journal", daemon=True)
        self._thread.start()

    def record(self, what: str, parts: Row) -> Row:
        """Put one edit on its way to disk; gives the logbook row."""
        row = {"time": now(), "what": what}
        self._queue.put({**row, "set": parts})
        return row

    def flush(self) -> None:
        """Wait until everything recorded so far is on disk."""
        self._queue.join()

    def close(self, remove: bool = False) -> None:
        """Stop; with ``remove`` the journal is deleted (after a save)."""
        self._queue.put(None)
        self._thread.join()
        if remove:
            with contextlib.suppress(FileNotFoundError):
                self.path.unlink()

    def _run(self) -> None:
        stream = None
        while True:
            row = self._queue.get()
            try:
                if row is None:
                    break
                if stream is None:
                    stream = open(self.path, "a", encoding="utf-8")  # noqa: SIM115 - open for the life of the thread
                    if stream.tell() == 0:
                        stream.write(json.dumps({"base": self._digest}) + "\n")
                stream.write(json.dumps(row, ensure_ascii=False) + "\n")
                stream.flush()
                if self._queue.empty():
                    os.fsync(stream.fileno())
            except OSError as error:
                self.failed = f"the edit journal cannot be written ({error.strerror}); save often"
            finally:
                self._queue.task_done()
        if stream is not None:
            stream.close()


def recover(
    path: Path, job: Job, digest: str, photos: dict[str, bytes] | None = None
) -> tuple[Job, tuple[Row, ...]]:
    """Replay the journal of ``path`` on the job as saved. Gives the job and the logbook rows of what was
    recovered; photographs that were kept since go to ``photos``.

    A journal that builds on another save is renamed ``…journal-old``. A last line cut short by a power cut
    is dropped.
    """
    where = journal_path(path)
    try:
        lines = where.read_text(encoding="utf-8", errors="replace").splitlines()
    except (FileNotFoundError, PermissionError):
        return job, ()
    rows = []
    for line in lines:
        try:
            rows.append(json.loads(line))
        except json.JSONDecodeError:
            break
    if not rows or not isinstance(rows[0], dict) or rows[0].get("base") != digest:
        set_aside(path)
        return job, ()
    done: list[Row] = []
    meshes = {m.name: m.data for m in job.meshes}
    for row in rows[1:]:
        try:
            parts = dict(row["set"])
            pictures = {name: base64.b64decode(text) for name, text in parts.pop("photo bytes", {}).items()}
            if photos is not None:
                photos |= pictures
            meshes |= {name: base64.b64decode(text) for name, text in parts.pop("mesh bytes", {}).items()}
            job = job_from_data({**job.model_dump(mode="json", by_alias=True), **parts}, meshes)
        except (JobError, KeyError, TypeError, ValueError):
            break
        done.append({"time": row.get("time", ""), "what": row.get("what", "")})
    return job, tuple(done)


def set_aside(path: Path) -> None:
    """Rename the journal so that it is neither replayed nor lost."""
    where = journal_path(path)
    with contextlib.suppress(FileNotFoundError):
        os.replace(where, where.with_name(where.name + "-old"))
