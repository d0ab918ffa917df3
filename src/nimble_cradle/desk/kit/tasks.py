"""Long work off the interface's thread. It belongs to the open job and not to the room that began it: a room
may be made anew, or go, while its work runs."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from nimble_cradle.job.base import JobError
from nimble_cradle.workers import Say, Stopped


@dataclass(frozen=True, eq=False)
class Outcome:
    """How some work ended. result: what it gave; fault: one sentence where it gave nothing; then: what
    whoever began it wants done with the result; stopped: whether the user no
    longer wants it, though it may have been done by then."""

    result: Any
    fault: str
    then: Any
    stopped: bool = False


class Task:
    """One piece of work on a thread of its own. The thread touches no widget: it leaves its words and its
    outcome here, where ``Tasks`` finds them."""

    def __init__(self, work: Callable[[Say], Any], then: Any) -> None:
        self._work, self._then = work, then
        self.words = ""
        self.stopped = False
        self.outcome: Outcome | None = None
        self._thread = threading.Thread(target=self._run, name="task", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        """Its result is no longer wanted; it ends at the next words it would tell."""
        self.stopped = True

    def wait(self) -> None:
        """Wait until it has ended."""
        self._thread.join()

    def _say(self, words: str) -> None:
        if self.stopped:
            raise Stopped
        if words:  # a look whether it is still wanted has none
            self.words = words

    def _run(self) -> None:
        result, fault = None, ""
        try:
            result = self._work(self._say)
        except Stopped:
            fault = "Stopped."
        except JobError as error:
            fault = error.message
        except MemoryError:
            fault = "There is not enough memory for that."
        except Exception as error:  # at the edge of a thread: told at the place, and the window lives on
            fault = f"That did not work ({type(error).__name__}: {error})."
        self.outcome = Outcome(result, fault, self._then, self.stopped)


class Tasks(QObject):
    """The work under way, by what it is for: one of a kind at a time.

    told: (what for, new words). ended: (what for, Outcome), once the work is no longer under way.
    """

    told = pyqtSignal(str, str)
    ended = pyqtSignal(str, object)

    def __init__(self) -> None:
        super().__init__()
        self._running: dict[str, Task] = {}
        self._told: dict[str, str] = {}
        self._timer = QTimer(self)
        self._timer.setInterval(20)
        self._timer.timeout.connect(self._look)

    def begin(self, what_for: str, work: Callable[[Say], Any], then: Any) -> bool:
        """Begin; False where work for the same thing is under way."""
        if what_for in self._running:
            return False
        self._running[what_for] = Task(work, then)
        self._told[what_for] = ""
        self._timer.start()
        return True

    def running(self, what_for: str) -> bool:
        """Whether work for this is under way."""
        return what_for in self._running

    def words(self, what_for: str) -> str:
        """The last words of the work for this, or empty."""
        return self._told.get(what_for, "")

    def stop(self, what_for: str) -> None:
        """The result of the work for this is no longer wanted."""
        if what_for in self._running:
            self._running[what_for].stop()

    def close(self) -> None:
        """Stop everything and tell nobody."""
        self._timer.stop()
        for task in self._running.values():
            task.stop()
        self._running.clear()

    def _look(self) -> None:
        """What the threads have left since the last look."""
        for what_for, task in list(self._running.items()):
            outcome = task.outcome
            if outcome is not None:
                del self._running[what_for], self._told[what_for]
                self.ended.emit(what_for, outcome)
            elif task.words != self._told[what_for]:
                self._told[what_for] = task.words
                self.told.emit(what_for, task.words)
        if not self._running:
            self._timer.stop()
