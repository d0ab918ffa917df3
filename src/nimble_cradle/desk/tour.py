"""A short tour that the user does: each step is done in the demo itself, and the next one waits for it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from nimble_cradle.desk.kit.label import BOLD, PLAIN, Label
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.words import button


class Toured(Protocol):
    """What the tour needs of the window."""

    session: Session
    stage: str

    @property
    def drawer(self) -> QWidget:
        """The working."""

    @property
    def cures(self) -> QWidget:
        """What would cure it."""

    def go(self, stage: str) -> None:
        """Show a stage."""

    def say(self, sentence: str) -> None:
        """A passing word."""


@dataclass(frozen=True, eq=False)
class Step:
    """What to do, and how one sees that it is done: by the window, and by what it was when the step began."""

    words: str
    done: Callable[[Toured, Any], bool]


STEPS: tuple[Step, ...] = (
    Step(
        "The fan stands in the radiator: the red tag and the first tell-tale say so. Press the Down arrow a"
        " few times: the engine goes back, and every figure follows.",
        lambda desk, began: desk.session.job.position.x < began.position.x - 0.5,
    ),
    Step(
        "Press 3 for steps of 10 mm, then Down until the fan has all the room it needs, running too.",
        lambda desk, began: not any(g.piece == "fan" and g.margin < 0 for g in desk.session.verdict.gaps),
    ),
    Step(
        "Click the first tell-tale below: it opens its cause, with the whole working.",
        lambda desk, began: desk.drawer.isVisible(),
    ),
    Step(
        "Press S: the program looks for the lowest, furthest-back seat that clears everything.",
        lambda desk, began: desk.session.settled is not None and desk.session.settled.ok,
    ),
    Step(
        "Press F6 for Mounts: the left bush is used up. Press Ctrl and K, and see what would cure it.",
        lambda desk, began: desk.stage == "mounts" and desk.cures.isVisible(),
    ),
    Step(
        "Press Ctrl and Z as often as you like: every step back is there. That is the tour.",
        lambda desk, began: (
            desk.session.job is not began and desk.session.place.log[-1]["what"].startswith("Und")
        ),
    ),
)
LOOK_MS = 200
"""How often it is looked whether a step is done: sooner than a hand goes on."""


class Tour(QWidget):
    """A line over the bay; goes on by itself, and away when it is put away."""

    def __init__(self, desk: Toured) -> None:
        super().__init__()
        self.desk, self.at = desk, -1
        self.began: Any = None
        self.setObjectName("notice")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        line = QHBoxLayout(self)
        line.setContentsMargins(11, 6, 8, 6)
        self.words = Label()
        self.words.setWordWrap(True)
        line.addWidget(self.words, 1)
        for text, act in (("Skip this", self.go_on), ("End the tour", self.end)):
            line.addWidget(button(text, act, name="view"), 0, Qt.AlignmentFlag.AlignTop)
        self.timer = QTimer(self)
        self.timer.setInterval(LOOK_MS)
        self.timer.timeout.connect(self._look)
        self.hide()

    def begin(self) -> None:
        """From the first step, at Position."""
        self.at = -1
        self.desk.go("position")
        self.show()
        self.timer.start()
        self.go_on()

    def go_on(self) -> None:
        """The next step, or the end."""
        self.at += 1
        if self.at >= len(STEPS):
            self.end()
            self.desk.say("The tour is over. F1 has every key.")
            return
        self.began = self.desk.session.job
        self.words.setText(f"{BOLD}{self.at + 1} of {len(STEPS)}{PLAIN}  {STEPS[self.at].words}")

    def end(self) -> None:
        """Put it away."""
        self.timer.stop()
        self.hide()

    def _look(self) -> None:
        if self.isVisible() and STEPS[self.at].done(self.desk, self.began):
            self.go_on()
