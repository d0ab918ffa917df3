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

    _happened = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._known: dict[str, str] = {}
        self._happened.connect(self._show)

    def catch(self) -> None:
        """From now on."""
        sys.excepthook = self._caught
        threading.excepthook = lambda args: self._caught(args.exc_type, args.exc_value, args.exc_traceback)

    def _caught(self, kind: type[BaseException], error: BaseException | None, trace: Any) -> None:
        if error is None or issubclass(kind, KeyboardInterrupt | SystemExit):
            app = QApplication.instance()
            if app is not None:
                app.quit()
            return
        place = "".join(traceback.format_tb(trace))
        if place not in self._known:
            done = [str(row.get("what", "")) for d in _desks() for row in d.session.place.log[-10:]]
            self._known[place] = fault_sentence(error, report_fault(error.with_traceback(trace), done))
            print(f"nimble-cradle: {self._known[place]}", file=sys.stderr)
        self._happened.emit(self._known[place])

    def _show(self, sentence: str) -> None:
        for desk in _desks():
            place = desk.session.place
            safe = (
                "This window keeps no journal: save under another name."
                if place.read_only
                else (
                    f"Save now: {place.trouble}."
                    if place.trouble
                    else "Your work is safe in the journal beside the job; the window goes on."
                )
            )
            desk.notify(f"{sentence} {safe}")


def _desks() -> list[Desk]:
    return [w for w in QApplication.topLevelWidgets() if isinstance(w, Desk)]
