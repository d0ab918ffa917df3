"""What is dropped in a circle is collected on the interface's thread alone: threads that work make the
collector run too, and a widget that it finds must not die on one of them."""

from __future__ import annotations

import gc
import time

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QApplication

TICK_MS = 400
ALL_EVERY_S = 20.0
"""How often it is looked whether there is something to collect, and at most how often everything is."""


class Tidying(QObject):
    """While one is at work the collector does not run by itself."""

    def __init__(self) -> None:
        super().__init__(QApplication.instance())
        self._all = time.monotonic()
        gc.disable()
        self.timer = QTimer(self)
        self.timer.timeout.connect(self.tidy)
        self.timer.start(TICK_MS)

    def tidy(self) -> None:
        """Collect what the collector by itself would have by now: the young, the older, or all."""
        counts, most = gc.get_count(), gc.get_threshold()
        now = time.monotonic()
        if counts[2] > most[2] and now > self._all + ALL_EVERY_S:
            self._all = now
            gc.collect()
        elif counts[1] > most[1]:
            gc.collect(1)
        elif counts[0] > most[0]:
            gc.collect(0)

    def end(self) -> None:
        """From now on it runs by itself again, unless another one is at work."""
        self.timer.stop()
        app = QApplication.instance()
        at_work = [] if app is None else [one for one in app.findChildren(Tidying) if one.timer.isActive()]
        if not at_work:
            gc.enable()
        self.deleteLater()
