"""An open job file: its present job, undo, logbook, journal and lock, in one place that has no window in
it."""

from __future__ import annotations

import base64
import contextlib
import re
import time
from pathlib import Path
from typing import Any

from nimble_cradle.job import journal as journals
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.history import History
from nimble_cradle.job.job import Job
from nimble_cradle.job.lock import Lock

MOST_PHOTO = 40_000_000


class Workplace:
    """A job file that is open for work. ``read_only`` says why nothing can be saved under this name, or is
    empty."""

    def __init__(self, path: Path) -> None:
        self.path = path
        opened = store.read(path)
        self._lock = Lock(path)
        self.read_only = opened.read_only
        if not self._lock.held:
            self.read_only = self._lock.why
        self.photos = opened.photos
        self.log: list[dict[str, Any]] = list(opened.log)
        self.saved = opened.job
        job = opened.job
        recovered: tuple[dict[str, Any], ...] = ()
        if not self.read_only:
            if opened.migrated_from is not None:
                self._keep_original(opened.migrated_from)
            photos = dict(self.photos)
            job, recovered = journals.recover(path, opened.job, opened.digest, photos)
            self.photos = tuple(sorted(photos.items()))
        self.recovered = len(recovered)
        self.log += recovered
        self.history = History(job)
        self._journal = None if self.read_only else journals.Journal(path, opened.digest)

    def _keep_original(self, schema: int) -> None:
        kept = self.path.with_name(f"{self.path.name}.schema-{schema}")
        if not kept.exists():
            kept.write_bytes(self.path.read_bytes())

    @property
    def job(self) -> Job:
        """The present job."""
        return self.history.job

    @property
    def unsaved(self) -> bool:
        """Whether the present job differs from the file."""
        return self.job is not self.saved and self.job != self.saved

    @property
    def trouble(self) -> str:
        """What is wrong with the journal, or empty."""
        return self._journal.failed if self._journal else ""

    def edit(self, what: str, after: Job, merge: str = "") -> bool:
        """Make ``after`` the present job under the name ``what``. False where nothing changed."""
        before = self.job
        if after is before or after == before:
            return False
        self.history.push(what, after, merge, time.monotonic())
        self._record(what, before, after)
        return True

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
        """A remark in the logbook that changes nothing in the job."""
        self._record(f"Note: {text.strip()}", self.job, self.job)

    def add_photo(self, name: str, data: bytes) -> str:
        """Keep a photograph with the job; gives the name it has there. Raises JobError for what is no JPEG
        or PNG, or too large."""
        if not data.startswith((b"\xff\xd8\xff", b"\x89PNG\r\n\x1a\n")):
            raise JobError(f"{name} is not a photograph this program keeps: it takes JPEG and PNG.")
        if len(data) > MOST_PHOTO:
            raise JobError(
                f"{name} is too large for a photograph ({len(data) / 1e6:.0f} MB; at most"
                f" {MOST_PHOTO // 1_000_000})."
            )
        stem, _, kind = name.rpartition(".")
        stem = re.sub(r"[^A-Za-z0-9_-]+", "-", stem).strip("-.")[:60] or "photo"
        kept = dict(self.photos)
        there = next((k for k, v in kept.items() if v == data), None)
        if there is not None:
            return there
        n, key = 1, f"{stem}.{kind.lower() or 'jpg'}"
        while key in kept:
            n += 1
            key = f"{stem}-{n}.{kind.lower() or 'jpg'}"
        self.photos = tuple(sorted({**kept, key: data}.items()))
        if self._journal:
            self._journal.record(
                f"Kept the photograph {key}", {"photo bytes": {key: base64.b64encode(data).decode()}}
            )
        return key

    def photo(self, name: str) -> bytes:
        """A photograph's bytes. Raises JobError."""
        for key, data in self.photos:
            if key == name:
                return data
        raise JobError(f"There is no photograph “{name}” in the job.")

    def _record(self, what: str, before: Job, after: Job) -> None:
        parts = journals.changed_parts(before, after)
        row = self._journal.record(what, parts) if self._journal else {"time": journals.now(), "what": what}
        last = self.log[-1] if self.log else None
        nudges = (
            what.startswith("Nudged") and last is not None and str(last.get("what", "")).startswith("Nudged")
        )
        if nudges and last is not None and str(last.get("time", ""))[:16] == row["time"][:16]:
            self.log[-1] = row
        else:
            self.log.append(row)

    def flush(self) -> None:
        """Wait until the journal is on disk."""
        if self._journal:
            self._journal.flush()

    def save(self) -> None:
        """Save under the same name. Raises JobError where it cannot be done; the last save then still
        stands."""
        if self.read_only:
            raise JobError(f"This job cannot be saved here: {self.read_only}. Use Save as.")
        assert self._journal is not None
        job = self.job
        digest = store.write(self.path, job, tuple(self.log), self.photos)
        self.saved = job
        self._journal.close(remove=True)
        self._journal = journals.Journal(self.path, digest)

    def save_as(self, path: Path) -> None:
        """Save under another name and go on there. Raises JobError."""
        if path.resolve() == self.path.resolve() and not self.read_only:
            self.save()
            return
        lock = Lock(path)
        if not lock.held:
            raise JobError(f"{path.name} cannot be written: {lock.why}.")
        try:
            digest = store.write(path, self.job, tuple(self.log), self.photos)
        except JobError:
            lock.release()
            raise
        journals.set_aside(path)
        self.close(keep_journal=False)
        self.path, self._lock, self.read_only, self.saved = path, lock, "", self.job
        self._journal = journals.Journal(path, digest)

    def close(self, keep_journal: bool = True) -> None:
        """Let go of the file. The journal stays (for the next start) unless told otherwise."""
        if self._journal:
            self._journal.close(remove=not keep_journal or not self.unsaved)
            self._journal = None
        with contextlib.suppress(OSError):
            self._lock.release()
