"""A simulated gauge. Digital calipers, levels and angle gauges act as a keyboard: the figure's keys, then
Enter. This one does the same into whatever field waits, so that the screens can be tried, and tested,
without any device."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QWidget

from nimble_cradle.units import Display, number_text


class SimulatedGauge:
    """Sends readings near a true value: spread is one sigma, mm or degrees; step is its last digit. The
    same seed reads the same."""

    def __init__(self, spread: float = 0.5, step: float = 0.1, seed: int = 0) -> None:
        self.spread, self.step = spread, step
        self._rng = np.random.default_rng(seed)

    def reads(self, true_value: float, display: Display | None = None) -> str:
        """What it would show for a true value, in mm (or inches where those are shown)."""
        value = true_value + float(self._rng.normal(0, self.spread))
        value = abs(round(value / self.step) * self.step)
        if display is not None and display.length == "in":
            return number_text(value / 25.4, 3)
        return number_text(value, 1 if self.step < 1 else 0)

    def send(self, text: str, to: QWidget | None = None) -> bool:
        """Type a reading and Enter into the field that waits. False where none does."""
        target = to or QApplication.focusWidget()
        if target is None:
            return False
        for letter in text:
            for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                QApplication.sendEvent(target, QKeyEvent(kind, 0, Qt.KeyboardModifier.NoModifier, letter))
        for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
            QApplication.sendEvent(
                target, QKeyEvent(kind, Qt.Key.Key_Return, Qt.KeyboardModifier.NoModifier, "\r")
            )
        return True
