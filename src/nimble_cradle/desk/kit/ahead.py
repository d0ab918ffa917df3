"""The engine while a key is held: shown where it goes at once, judged on another thread, the newest place
first."""

from __future__ import annotations

import threading
from collections.abc import Callable
from contextlib import suppress

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from nimble_cradle.job.job import Job
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.verdict import verdict

LOOK_MS = 4
"""How often it is looked whether a verdict is there: less than a picture takes."""


class _Judging:
    """One job judged on a thread of its own."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.found: Verdict | None = None
        self._thread = threading.Thread(target=self._run, name="judging", daemon=True)
        self._thread.start()

    def _run(self) -> None:
        with suppress(Exception):  # it comes again, on the interface's thread, where it is waited for
            self.found = verdict(self.job)

    @property
    def over(self) -> bool:
        """Whether it has ended, with a verdict or with a fault."""
        return self.found is not None or not self._thread.is_alive()

    def wait(self) -> Verdict:
        """The verdict, as soon as it is there; a fault of the thread comes again here."""
        self._thread.join()
        return verdict(self.job) if self.found is None else self.found


class Ahead(QObject):
    """Where the engine is going. take: called with a job and its verdict, on the interface's thread, each
    a later place than the one before. ``gone``: the place that is shown has changed."""

    gone = pyqtSignal()

    def __init__(self, take: Callable[[Job, Verdict], None]) -> None:
        super().__init__()
        self._take = take
        self.job: Job | None = None
        """The newest place, or None where nothing is under way."""
        self._work: _Judging | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_MS)
        self._timer.timeout.connect(self._look)

    def go(self, job: Job) -> None:
        """Go on to a later place."""
        self.job = job
        if self._work is None:
            self._work = _Judging(job)
            self._timer.start()
        self.gone.emit()

    def arrive(self) -> None:
        """Wait for the newest place, and have it taken."""
        while self._work is not None:
            self._done(self._work)

    def _look(self) -> None:
        if self._work is not None and self._work.over:
            self._done(self._work)

    def _done(self, work: _Judging) -> None:
        """A verdict is there: on to the newest place, or at rest. Where judging failed the engine stays where
        it was judged last, and nothing is under way any more."""
        try:
            found = work.wait()
        except Exception:
            self._work = self.job = None
            self._timer.stop()
            self.gone.emit()
            raise
        on = self.job is not None and self.job is not work.job
        self._work = None
        if not on:
            self.job = None
            self._timer.stop()
        self._take(work.job, found)
        if on and self.job is not None and self._work is None:
            self._work = _Judging(self.job)
