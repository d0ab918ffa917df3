"""Long work off the interface's thread: words while it runs, its result back on the interface's thread, or
nothing if no longer wanted."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from nimble_cradle.job.base import JobError


class Stopped(Exception):
    """The user stopped it."""


class Task(QObject):
    """Runs ``work(say)`` on a thread; ``say`` tells words and raises Stopped once the user has stopped it."""

    told = pyqtSignal(str)
    ended = pyqtSignal(object, str)

    def __init__(
        self,
        work: Callable[[Callable[[str], None]], Any],
        told: Callable[[str], Any],
        done: Callable[[Any], Any],
        failed: Callable[[str], Any],
    ) -> None:
        super().__init__()
        self._work, self._done, self._failed = work, done, failed
        self.stopped = False
        self.over = False
        self.told.connect(told)
        self.ended.connect(self._end)
        self._thread = threading.Thread(target=self._run, name="task", daemon=True)

    def start(self) -> Task:
        """Begin."""
        self._thread.start()
        return self

    def stop(self) -> None:
        """Its result is no longer wanted."""
        self.stopped = True

    def wait(self) -> None:
        """Wait for the thread (its result may still be on the way)."""
        self._thread.join()

    def _say(self, words: str) -> None:
        if self.stopped:
            raise Stopped
        self.told.emit(words)

    def _run(self) -> None:
        try:
            result, fault = self._work(self._say), ""
        except Stopped:
            result, fault = None, "Stopped."
        except JobError as error:
            result, fault = None, error.message
        except MemoryError:
            result, fault = None, "There is not enough memory for that."
        except (
            Exception
        ) as error:  # at the edge of a thread: a fault is told at the place and the window lives on
            result, fault = None, f"That did not work ({type(error).__name__}: {error})."
        with contextlib.suppress(RuntimeError):  # the window may be gone by now
            self.ended.emit(result, fault)

    def _end(self, result: Any, fault: str) -> None:
        self.over = True
        if self.stopped:
            self._failed("Stopped.")
        elif fault:
            self._failed(fault)
        else:
            self._done(result)
