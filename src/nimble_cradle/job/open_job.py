"""An open job file: its present job, undo, logbook, journal and lock, in one place that has no window in
it."""

from __future__ import annotations

import base64
import contextlib
import os
import re
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from nimble_cradle.files import beside, printable, read_file, real, sweep, there, why, write_new
from nimble_cradle.job import journal as journals
from nimble_cradle.job import recover, store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.history import History
from nimble_cradle.job.job import Job
from nimble_cradle.job.lock import Lock
from nimble_cradle.job.read_archive import MOST_TOTAL

MOST_PHOTO = 40_000_000
"""Bytes of one photo: above what cameras make as JPEG (common experience)."""
MOST_PHOTOS = 500
"""More are not found again on one page."""
MOST_PHOTO_BYTES = 1_000_000_000
"""Bytes of all photos: half of what a job file may hold."""
MOST_NOTE = 4000
"""Letters of a note: two pages of print."""


@dataclass(frozen=True)
class _Saved:
    """What is in the file: all that would be lost with the rest."""

    job: Job
    log: tuple[dict[str, Any], ...]
    photos: tuple[tuple[str, bytes], ...]


class OpenJob:
    """A job file that is open for work. ``read_only`` says why nothing can be saved under this name, or is
    empty. path: the file itself, where it was reached through a link.

    tried: asked of a job that was edited last when the program ended, before it is taken up again; gives what
    is wrong with it, or empty. recovered: so many edits came back from the journal; dropped: what of it did
    not, in words. told: what else there is to say on opening.
    """

    def __init__(self, path: Path, tried: journals.Tried | None = None) -> None:
        self.path = real(path)
        self.read_only = ""
        self.told = ""
        self.recovered = 0
        self.dropped: tuple[str, ...] = ()
        self._lock: Lock | None = None
        self._journal: journals.Journal | None = None
        if os.path.isdir(self.path):
            self.read_only = "it is a folder laid out like a job; Save as makes a file of it"
        elif there(self.path):
            self._take_lock()
        try:
            opened = self._read()
            self.photos, self.log = opened.photos, list(opened.log)
            self._saved = _Saved(opened.job, opened.log, opened.photos)
            if opened.read_only:
                self.read_only = opened.read_only
                self._let_go()
            job = opened.job
            if not self.read_only:
                job = self._begin(opened, tried)
            self.history = History(job)
        except BaseException:
            self._let_go()
            raise

    def _take_lock(self) -> None:
        """Be the one who writes, or say why that cannot be."""
        if not os.access(self.path, os.W_OK):
            self.read_only = "you may not write to it"
            return
        self._lock = Lock(self.path)
        if not self._lock.held:
            self.read_only = self._lock.why
            self._lock = None

    def _read(self) -> store.Opened:
        """The file; where it was cut off while being written in place, the save before it, if its journal
        says that it belongs there. Raises JobError."""
        self._stamp = _stamp(self.path)
        try:
            return store.read(self.path)
        except JobError:
            if self._lock is None:
                raise
            previous = beside(self.path, ".previous")
            if not recover.builds_on(self.path, previous):
                raise
            opened = store.read(previous)
            self.told = (
                "the last save of it had been cut off; this is the one before it, with what came since"
            )
            return opened

    def _begin(self, opened: store.Opened, tried: journals.Tried | None) -> Job:
        """What was in the journal, and a journal from here on. Raises JobError."""
        sweep(self.path)
        try:
            if opened.migrated_from is not None:
                self._keep_original(opened.migrated_from)
            found = recover.recover(
                self.path, opened.job, dict(opened.photos), (opened.digest, opened.job_digest), tried
            )
        except (JobError, OSError) as error:
            words = (
                error.message
                if isinstance(error, JobError)
                else f"beside it nothing can be written: {why(error)}"
            )
            self.read_only = words.rstrip(".")
            self._let_go()
            return opened.job
        self.recovered, self.dropped = len(found.rows), tuple(found.dropped)
        self.photos = tuple(sorted(found.photos.items()))
        for row in found.rows:
            self._log(row)
        self._journal = journals.Journal(self.path, opened.digest, bool(found.rows))
        return found.job

    def _keep_original(self, schema: int) -> None:
        """The file as it was before it was brought to the present schema; whole, or not there. Raises
        OSError, JobError."""
        kept = beside(self.path, f".schema-{schema}")
        if there(kept):
            return
        stand_in = beside(self.path, f".{os.getpid()}.part", hidden=True)
        with contextlib.suppress(FileNotFoundError):
            os.unlink(stand_in)
        write_new(stand_in, read_file(self.path, MOST_TOTAL))
        try:
            os.link(stand_in, kept, follow_symlinks=False)
        except FileExistsError:
            pass
        except OSError:
            os.rename(stand_in, kept)
            return
        os.unlink(stand_in)

    @property
    def job(self) -> Job:
        """The present job."""
        return self.history.job

    @property
    def unsaved(self) -> bool:
        """Whether anything here is not in the file: the job, a line of the logbook, a photograph."""
        saved = self._saved
        return (
            self.photos != saved.photos
            or len(self.log) != len(saved.log)
            or tuple(self.log) != saved.log
            or (self.job is not saved.job and self.job != saved.job)
        )

    def count_as_saved(self) -> None:
        """Nothing here is wanted (a picture was taken, a test is over): do not ask for it."""
        self._saved = _Saved(self.job, tuple(self.log), self.photos)

    @property
    def trouble(self) -> str:
        """What is wrong with the journal, or empty."""
        return self._journal.failed if self._journal else ""

    def edit(self, what: str, after: Job, merge: str = "", asked: float | None = None) -> bool:
        """Make ``after`` the present job under the name ``what``. asked: when it was asked for, by the
        monotonic clock, where that was not now. False where nothing changed."""
        before = self.job
        if after is before or after == before:
            return False
        self.history.push(what, after, merge, time.monotonic() if asked is None else asked)
        self._record(what, before, after)
        return True

    def judged(self) -> None:
        """The last edit has its verdict."""
        if self._journal:
            self._journal.judged()

    def shown(self) -> None:
        """The last edit has just been shown."""
        self.history.shown(time.monotonic())

    def undo(self) -> str:
        """Undo one step; gives its words, or empty at the beginning."""
        step = self.history.undo()
        if step is None:
            return ""
        self._record(f"Undone: {step.what}", step.after, step.before)
        return step.what

    def redo(self) -> str:
        """Redo one step; gives its words, or empty at the end."""
        step = self.history.redo()
        if step is None:
            return ""
        self._record(f"Done again: {step.what}", step.before, step.after)
        return step.what

    def note(self, text: str) -> None:
        """A remark in the logbook that changes nothing in the job. Raises JobError where it is too long."""
        if len(text.strip()) > MOST_NOTE:
            raise JobError(f"A remark has at most {MOST_NOTE:,} letters, not {len(text.strip()):,}.")
        self._record(f"Note: {text.strip()}", self.job, self.job)

    def add_photo(self, name: str, data: bytes) -> str:
        """Keep a photograph with the job; gives the name it has there. Raises JobError for what is no JPEG
        or PNG, or too large, one or all together."""
        shown = printable(name)
        if not data.startswith(journals.PHOTO_STARTS):
            raise JobError(f"{shown} is not a photograph this program keeps: it takes JPEG and PNG.")
        if len(data) > MOST_PHOTO:
            raise JobError(
                f"{shown} is too large for a photograph ({len(data) / 1e6:.0f} MB; at most"
                f" {MOST_PHOTO // 1_000_000})."
            )
        kept = dict(self.photos)
        found = next((k for k, v in kept.items() if v == data), None)
        if found is not None:
            return found
        if len(kept) >= MOST_PHOTOS or sum(map(len, kept.values())) + len(data) > MOST_PHOTO_BYTES:
            raise JobError(
                f"{shown} is one too many: a job keeps at most {MOST_PHOTOS} photographs, together"
                f" {MOST_PHOTO_BYTES // 10**6:,} MB."
            )
        stem = re.sub(r"[^A-Za-z0-9_-]+", "-", name.rpartition(".")[0]).strip("-_")[:60] or "photo"
        kind = "png" if data.startswith(journals.PHOTO_STARTS[1]) else "jpg"
        n, key = 1, f"{stem}.{kind}"
        while key in kept:
            n += 1
            key = f"{stem}-{n}.{kind}"
        self.photos = tuple(sorted({**kept, key: data}.items()))
        what, parts = f"Kept the photograph {key}", {"photo bytes": {key: base64.b64encode(data).decode()}}
        self._log(
            self._journal.record(what, parts) if self._journal else {"time": journals.now(), "what": what}
        )
        return key

    def photo(self, name: str) -> bytes:
        """A photograph's bytes. Raises JobError."""
        for key, data in self.photos:
            if key == name:
                return data
        raise JobError(f"There is no photograph “{printable(name)}” in the job.")

    def _record(self, what: str, before: Job, after: Job) -> None:
        parts = journals.changed_parts(before, after)
        self._log(
            self._journal.record(what, parts) if self._journal else {"time": journals.now(), "what": what}
        )

    def _log(self, row: dict[str, Any]) -> None:
        """A row at the end of the logbook; nudges within a minute are one."""
        last = self.log[-1] if self.log else {}
        nudges = all(str(r.get("what", "")).startswith("Nudged") for r in (last, row))
        if nudges and str(last.get("time", ""))[:16] == str(row.get("time", ""))[:16]:
            self.log[-1] = row
        else:
            self.log.append(row)

    def flush(self) -> None:
        """Wait until the journal is on disk."""
        if self._journal:
            self._journal.flush()

    def save(self) -> None:
        """Save under the same name. Raises JobError where it cannot be done, or where the file is no longer
        the one that was opened; the last save then still stands."""
        if self.read_only:
            raise JobError(f"This job cannot be saved here: {self.read_only}. Use Save as.")
        now = _stamp(self.path)
        name = printable(self.path.name)
        if now is None:
            raise JobError(
                f"{name} is no longer there: it was moved or removed while it was open here. Save as keeps"
                " your work."
            )
        if now != self._stamp:
            raise JobError(
                f"{name} was changed by something else while it was open here. Save as, under another name,"
                " keeps both; under its own name it replaces that."
            )
        self._save()

    def _save(self) -> None:
        assert self._journal is not None and self._lock is not None
        if not self._lock.held:
            raise JobError("This job cannot be saved here: its lock is lost. Use Save as.")
        state = _Saved(self.job, tuple(self.log), self.photos)
        digest = store.write(self.path, state.job, state.log, state.photos, announce=self._journal.base)
        self._stamp = _stamp(self.path)
        self._lock.follow()
        self._saved = state
        self._journal.close(remove=True)
        self._journal = journals.Journal(self.path, digest)

    def save_as(self, path: Path) -> None:
        """Save under another name and go on there; what stood there is kept as the save before. Raises
        JobError."""
        path = real(path)
        if path == self.path and not self.read_only:
            self._save()
            return
        if os.path.isdir(path):
            raise JobError(f"{printable(path.name)} is a folder.")
        lock = Lock(path)
        if not lock.held:
            raise JobError(f"{printable(path.name)} cannot be written: {lock.why}.")
        state = _Saved(self.job, tuple(self.log), self.photos)
        try:
            digest = store.write(path, state.job, state.log, state.photos)
            if there(journals.journal_path(path)):
                recover.set_aside(path)
        except (JobError, OSError) as error:
            lock.release()
            if isinstance(error, JobError):
                raise
            raise JobError(f"{printable(path.name)} could not be saved: {why(error)}.") from None
        self.close(keep_journal=False)
        lock.follow()
        self.path, self._lock, self.read_only = path, lock, ""
        self._saved, self._stamp = state, _stamp(path)
        self._journal = journals.Journal(path, digest)

    def close(self, keep_journal: bool = True) -> None:
        """Let go of the file. The journal stays (for the next start) unless told otherwise."""
        if self._journal:
            self._journal.close(remove=not keep_journal or not self.unsaved)
            self._journal = None
        self._let_go()

    def _let_go(self) -> None:
        if self._lock is not None:
            self._lock.release()
            self._lock = None


def _stamp(path: Path) -> tuple[int, ...] | None:
    """What tells that a file is still the one that it was; None where there is none."""
    try:
        s = os.stat(path)
    except (OSError, ValueError):
        return None
    return s.st_dev, s.st_ino, s.st_size, s.st_mtime_ns
