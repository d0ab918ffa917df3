"""A room whose edits may take long: one at a time off the interface's thread, told in words, stopped at
will, dropped when the job has changed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QProgressBar

from nimble_cradle.crew import warm
from nimble_cradle.desk.fields import button, row, words
from nimble_cradle.desk.sheets.rooms import Room
from nimble_cradle.desk.task import Task
from nimble_cradle.job.job import Job
from nimble_cradle.verdict import verdict


class WorkingRoom(Room):
    """``run`` does the work; ``tell`` says what was done or is being done."""

    task: Task | None = None
    workers_read: tuple[str, ...] = ()
    """Modules that worker processes will need for this room's work: they are started when the room is
    entered."""

    def add_progress(self) -> None:
        """The progress bar, the stop button and the answer, where the room wants them."""
        self.progress = QProgressBar()
        self.progress.setRange(0, 0)
        self.progress.hide()
        self.stop_button = button("Stop", self.stop)
        self.stop_button.hide()
        self.column.addWidget(row(self.progress, self.stop_button, stretch=False))
        self.answer = words()
        self.answer.hide()
        self.column.addWidget(self.answer)
        if self.workers_read:
            warm(*self.workers_read)

    def run(self, work: Callable[[Callable[[str], None]], Any], done: Callable[[Any], None]) -> None:
        """Long work; while it runs nothing else of this room may begin, and a job changed meanwhile makes
        its result unwanted."""
        if self.task is not None and not self.task.over:
            self.refuse("Something is still being worked out: wait, or stop it.")
            return
        began = self.session.job
        self.refuse("")
        self.progress.show()
        self.stop_button.show()

        def judged(say: Callable[[str], None]) -> Any:
            """The work, and the judgement of the job it leads to, so that the window need not wait for
            that."""
            result = work(say)
            after = result[0] if isinstance(result, tuple) else None
            if isinstance(after, Job):
                say("Measuring the gaps to it")
                verdict(after)
            return result

        def ended(result: Any) -> None:
            """Back on the interface's thread."""
            self._idle()
            if self.session.job is not began:
                self.refuse("The job was changed meanwhile, so the result was dropped: do it again.")
            else:
                done(result)

        def failed(sentence: str) -> None:
            """One sentence at the place."""
            self._idle()
            self.refuse(sentence)

        self.task = Task(judged, self.tell, ended, failed).start()

    def tell(self, sentence: str) -> None:
        """What was done, or is being done."""
        self.answer.setText(sentence)
        self.answer.setVisible(bool(sentence))

    def _idle(self) -> None:
        self.progress.hide()
        self.stop_button.hide()
        self.tell("")

    def stop(self) -> None:
        """Stop what runs."""
        if self.task is not None:
            self.task.stop()
