"""The edit journal beside a job file: each edit is on disk within a fraction of a second, so a killed program
loses nothing.

One JSON line a row, ended by a line feed. ``{"base": digest}`` names the save that the rows after it build
on: the first line, and once more just before a save takes its name. An edit has its time, its words and
the top-level parts of the job that it changed, whole. ``{"judged": true}`` says that the program lived to
judge what stands before it: at recovery the edits after it are tried first.
"""

from __future__ import annotations

import base64
import binascii
import contextlib
import os
import queue
import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

from pydantic import ValidationError

from nimble_cradle.files import (
    beside,
    open_plain,
    printable,
    replace_file,
    sync_folder,
    there,
    why,
    write_new,
)
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job, MeshFile
from nimble_cradle.job.store import PHOTO_NAME, Row, line_of, read, row_of

MOST_BYTES = 2_000_000_000
MOST_WORDS = 4000
"""Letters of an edit's words that are kept."""
AGAIN = 0.5
"""So long after a failed write it is tried again, s."""
PHOTO_STARTS = (b"\xff\xd8\xff", b"\x89PNG\r\n\x1a\n")

_CUT_OFF = "a last entry that was cut off while it was being written"
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
        kept = {m.sha256 for m in before.meshes}
        out["mesh bytes"] = {
            m.name: base64.b64encode(m.data).decode() for m in after.meshes if m.sha256 not in kept
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


@dataclass
class Recovered:
    """What the journal brought back: the job, its photographs, and the logbook's rows. dropped: what could
    not be brought back, in words."""

    job: Job
    photos: dict[str, bytes]
    rows: list[Row] = field(default_factory=list)
    dropped: list[str] = field(default_factory=list)


@dataclass(frozen=True)
class _Line:
    """One edit of a journal: its line as it stands there, what it says, and whether it was judged."""

    line: bytes
    row: Row
    judged: bool = True


def recover(
    path: Path, job: Job, photos: dict[str, bytes], digests: tuple[str, ...], tried: Tried | None = None
) -> Recovered:
    """Replay the journal of ``path`` on the job as saved.

    digests: of the save, by which its journal knows it. tried: asked of edits that no verdict came back for;
    one that it cannot live through is left out. A line that was cut off is dropped, one that does not apply
    is put in ``….journal-aside``, and the others stand. A journal of another save is renamed
    ``….journal-old``. Raises JobError where a journal is there that cannot be read.
    """
    out = Recovered(job, dict(photos))
    where = journal_path(path)
    if not there(where):
        return out
    lines, torn = _lines(where)
    if not lines:  # killed while its first line was being written
        out.dropped += [_CUT_OFF] if torn else []
        with contextlib.suppress(OSError):
            os.unlink(where)
        return out
    start = max((k for k, row in enumerate(lines) if row.row.get("base") in digests), default=None)
    if start is None:
        set_aside(path)
        return out
    edits = _edits(lines[start + 1 :])
    aside: list[bytes] = []
    taken: list[_Line] = []
    for edit in edits:
        try:
            _apply(out, edit.row)
            taken.append(edit)
        except (JobError, ValidationError, KeyError, TypeError, ValueError, OverflowError) as error:
            aside.append(edit.line)
            out.dropped.append(f"{_words(edit.row)}, which does not apply ({_short(error)})")
    if tried is not None and any(not e.judged for e in taken) and tried(out.job):
        out, taken = _tried_one_by_one(job, photos, taken, tried, aside, out.dropped)
    if torn:
        out.dropped.append(_CUT_OFF)
    if aside:
        _keep_aside(path, aside)
    if torn or aside or start:
        rows = [line_of({"base": lines[start].row["base"]}), *(e.line + b"\n" for e in taken)]
        replace_file(where, b"".join([*rows, line_of({"judged": True})]))
    return out


def _lines(where: Path) -> tuple[list[_Line], bool]:
    """The whole lines of a journal, and whether its last one was cut off. Raises JobError."""
    name = printable(where.name)
    try:
        handle = open_plain(where, follow=False)
    except OSError as error:
        raise JobError(f"{name} cannot be read: {why(error)}.") from None
    with os.fdopen(handle, "rb") as stream:
        if os.fstat(handle).st_size > MOST_BYTES:
            raise JobError(f"{name} is larger than any journal.")
        out: list[_Line] = []
        for line in stream:  # ended by a line feed and by nothing else
            if not line.endswith(b"\n"):
                return out, True
            row = row_of(line[:-1])
            out.append(_Line(line[:-1], row if row is not None else {"what": "a line that makes no sense"}))
    return out, False


def _edits(lines: list[_Line]) -> list[_Line]:
    """The edits among some lines, each with whether a verdict came back after it."""
    out: list[_Line] = []
    judged = False
    for line in reversed(lines):
        if "judged" in line.row:
            judged = True
        elif "base" not in line.row:
            out.append(_Line(line.line, line.row, judged))
    return out[::-1]


def _apply(out: Recovered, row: Row) -> None:
    """One edit on what was brought back so far; nothing of it where it does not apply."""
    parts = dict(row["set"])
    pictures = {name: base64.b64decode(text) for name, text in dict(parts.pop("photo bytes", {})).items()}
    for name, data in pictures.items():
        if not PHOTO_NAME.fullmatch(name) or not data.startswith(PHOTO_STARTS):
            raise JobError(f"“{printable(str(name))}” is no photograph")
    fresh = {name: base64.b64decode(text) for name, text in dict(parts.pop("mesh bytes", {})).items()}
    if parts:
        out.job = with_parts(out.job, parts, fresh)
    out.photos |= pictures
    out.rows.append({"time": str(row.get("time", ""))[:40], "what": str(row.get("what", ""))[:MOST_WORDS]})


def with_parts(job: Job, parts: Row, fresh: dict[str, bytes]) -> Job:
    """The job with top-level parts, by their names in the file, replaced by plain data. fresh: bytes of
    meshes that it did not have. Raises JobError, ValidationError; what is not replaced is shared."""
    names = {f.alias or name: name for name, f in Job.model_fields.items()}
    unknown = [key for key in parts if key not in names]
    if unknown:
        raise JobError(f"“{printable(unknown[0])}” is no part of a job")
    values = {alias: getattr(job, name) for alias, name in names.items()}
    values |= parts
    if "meshes" in parts:
        had = {(m.name, m.sha256): m for m in job.meshes}
        values["meshes"] = [_mesh(had, fresh, dict(entry)) for entry in parts["meshes"]]
    made = Job.model_validate(values)
    for alias, name in names.items():
        if alias not in parts:
            made.__dict__[name] = getattr(job, name)
    return made


def _mesh(had: dict[tuple[str, str], MeshFile], fresh: dict[str, bytes], entry: Row) -> MeshFile:
    name = str(entry.get("name"))
    found = had.get((name, str(entry.get("sha256"))))
    if found is None:
        found = MeshFile.of(name, fresh[name])
        if found.sha256 != entry.get("sha256"):
            raise JobError(f"the mesh “{printable(name)}” is not the one that is meant")
    return found


def _tried_one_by_one(
    job: Job,
    photos: dict[str, bytes],
    edits: list[_Line],
    tried: Tried,
    aside: list[bytes],
    dropped: list[str],
) -> tuple[Recovered, list[_Line]]:
    """The edits again, each that was not judged tried; those that cannot be lived through are left out."""
    out = Recovered(job, dict(photos), dropped=dropped)
    taken: list[_Line] = []
    for edit in edits:
        before = Recovered(out.job, dict(out.photos), list(out.rows), out.dropped)
        try:
            _apply(out, edit.row)
        except (JobError, ValidationError, KeyError, TypeError, ValueError, OverflowError) as error:
            aside.append(edit.line)
            out.dropped.append(f"{_words(edit.row)}, which does not apply ({_short(error)})")
            continue
        fault = "" if edit.judged else tried(out.job)
        if fault:
            out = before
            aside.append(edit.line)
            out.dropped.append(f"{_words(edit.row)}, which {fault}")
        else:
            taken.append(edit)
    return out, taken


def _words(row: Row) -> str:
    return f"“{printable(str(row.get('what', 'an edit without words')), 80)}”"


def _short(error: Exception) -> str:
    if isinstance(error, JobError):
        return printable(error.message.rstrip("."), 100)
    return (
        "it is damaged"
        if isinstance(error, binascii.Error | KeyError | TypeError)
        else "its figures cannot be"
    )


def _keep_aside(path: Path, lines: list[bytes]) -> None:
    """Put lines where they are not lost; never through a link."""
    where = aside_path(path)
    data = b"".join(line + b"\n" for line in lines)
    try:
        handle = open_plain(where, os.O_WRONLY | os.O_CREAT | os.O_APPEND, follow=False)
    except (OSError, JobError):
        with contextlib.suppress(OSError):
            write_new(beside(path, f".journal-aside-{now().replace(':', '')}"), data)
        return
    with os.fdopen(handle, "ab") as stream, contextlib.suppress(OSError):
        stream.write(data)


def set_aside(path: Path) -> None:
    """Rename the journal so that it is neither replayed nor lost."""
    where = journal_path(path)
    for n in range(1, 100):
        old = beside(path, f".journal-old{'' if n == 1 else f'-{n}'}")
        if not there(old):
            with contextlib.suppress(FileNotFoundError):
                os.replace(where, old)
            return


def builds_on(path: Path, other: Path) -> bool:
    """Whether the journal of ``path`` builds on the save that is kept as ``other``."""
    try:
        opened = read(other)
        lines, _ = _lines(journal_path(path))
    except (JobError, OSError):
        return False
    return any(line.row.get("base") in (opened.digest, opened.job_digest) for line in lines)
