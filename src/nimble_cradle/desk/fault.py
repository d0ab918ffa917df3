"""What nobody caught while the window is up: told once in a sentence, kept in a report, and the window goes
on. Without this the toolkit ends the program."""

from __future__ import annotations

import sys
import threading
import traceback
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QApplication

from nimble_cradle.desk.window import Desk
from nimble_cradle.faults import fault_sentence, report_fault


class Faults(QObject):
    """Catches what nobody caught, on any thread. A fault that comes again is not written down again."""

    _happened = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._known: dict[str, str] = {}
        self._showing = False
        self._happened.connect(self._show)

    def catch(self) -> None:
        """From now on."""
        sys.excepthook = self._caught
        threading.excepthook = lambda args: self._caught(args.exc_type, args.exc_value, args.exc_traceback)

    def _caught(self, kind: type[BaseException], error: BaseException | None, trace: Any) -> None:
        """On whatever thread it happened; windows are looked at on the interface's own alone."""
        if error is not None and not issubclass(kind, KeyboardInterrupt | SystemExit):
            self._happened.emit(error.with_traceback(trace))
        elif QApplication.instance() is not None:
            QApplication.quit()

    def _show(self, error: BaseException) -> None:
        if self._showing:  # a fault in the telling itself
            return
        self._showing = True
        try:
            place = "".join(traceback.format_tb(error.__traceback__))
            if place not in self._known:
                done = [str(row.get("what", "")) for d in _desks() for row in d.session.place.log[-10:]]
                self._known[place] = fault_sentence(error, report_fault(error, done))
                print(f"nimble-cradle: {self._known[place]}", file=sys.stderr)
            for desk in _desks():
                desk.notify(f"{self._known[place]} {_safe(desk)}")
        finally:
            self._showing = False


def _safe(desk: Desk) -> str:
    """Where the work of a window is safe."""
    place = desk.session.place
    if place.read_only:
        return "This window keeps no journal: save under another name."
    if place.trouble:
        return f"Save now: {place.trouble}."
    return "Your work is safe in the journal beside the job; the window goes on."


def _desks() -> list[Desk]:
    return [w for w in QApplication.topLevelWidgets() if isinstance(w, Desk)]
