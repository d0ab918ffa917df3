"""A room whose edits may take long: one at a time off the interface's thread, told in words, stopped at
will, dropped when the job has changed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QProgressBar

from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.tasks import Outcome
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.job.job import Job
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.workers import Say, warm


class WorkingRoom(Room):
    """``run`` does the work; ``tell`` says what was done or is being done."""

    workers_read: tuple[str, ...] = ()
    """Modules that worker processes will need for this room's work: they are started when the room is
    entered."""

    def add_progress(self) -> None:
        """The progress bar, the stop button and the answer, where the room wants them. Work that an
        earlier room of this kind began goes on here."""
        self.progress = QProgressBar()
        self.progress.setRange(0, 0)
        self.stop_button = button("Stop", self.stop)
        self.column.addWidget(row(self.progress, self.stop_button, stretch=False))
        self.answer = words()
        self.column.addWidget(self.answer)
        if self.workers_read:
            warm(*self.workers_read)
        tasks = self.session.tasks
        self._busy(tasks.running(self.key))
        self.tell(tasks.words(self.key))
        tasks.told.connect(self._told)
        tasks.ended.connect(self._ended)

    @property
    def working(self) -> bool:
        """Whether work of this room is under way."""
        return self.session.tasks.running(self.key)

    def run(self, work: Callable[[Say], Any], done: Callable[[Any, Any], None]) -> None:
        """Long work; while it runs nothing else of this room may begin, and a job changed meanwhile makes
        its result unwanted.

        done: called as ``done(room, result)`` with the room that stands by then; it need not be the one
        that began.
        """
        began = self.session.job

        def judged(say: Say) -> Any:
            """The work, and the judgement of the job it leads to, so that the window need not wait for
            that."""
            result = work(say)
            after = result[0] if isinstance(result, tuple) else None
            if isinstance(after, Job):
                say("Measuring the gaps to it")
                verdict(after)
            return result

        if not self.session.tasks.begin(self.key, judged, (began, done)):
            self.refuse("Something is still being worked out: wait, or stop it.")
            return
        self.refuse("")
        self._busy(True)

    def _told(self, what_for: str, sentence: str) -> None:
        if what_for == self.key and not self.gone:
            self.tell(sentence)

    def _ended(self, what_for: str, outcome: Outcome) -> None:
        if what_for != self.key or self.gone:
            return
        self._busy(False)
        self.tell("")
        began, done = outcome.then
        if outcome.stopped:
            self.refuse("Stopped.")
        elif outcome.fault:
            self.refuse(outcome.fault)
        elif self.session.job is not began:
            self.refuse("The job was changed meanwhile, so the result was dropped: do it again.")
        else:
            done(self, outcome.result)

    def tell(self, sentence: str) -> None:
        """What was done, or is being done."""
        self.answer.setText(sentence)
        self.answer.setVisible(bool(sentence))

    def _busy(self, busy: bool) -> None:
        self.progress.setVisible(busy)
        self.stop_button.setVisible(busy)

    def stop(self) -> None:
        """Stop what runs."""
        self.session.tasks.stop(self.key)
