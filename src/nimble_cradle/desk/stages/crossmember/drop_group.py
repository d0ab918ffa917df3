"""Taking the crossmember out with the engine in: whether it drops out, and how."""

from __future__ import annotations

from typing import Any

from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.tasks import Outcome
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.judge.cautions import LIFTING
from nimble_cradle.seat.drop_out import drop_out

DROP = "drop out"


class DropGroup(Room):
    """Looked for when asked; told as long as the job is what it was found for."""

    def __init__(self, session: Session) -> None:
        self.told = ""
        self.of: Any = None
        super().__init__(session)
        session.tasks.ended.connect(self._ended)
        session.tasks.told.connect(self._heard)

    def build(self) -> None:
        """The caution, the button, what was found."""
        self.begin_button = button("Look for a way", self.begin, "Bolts out, gearbox held up", "view")
        self.said = words("", "")
        for widget in (words(LIFTING, ""), row(self.begin_button), self.refusal, self.said):
            self.column.addWidget(widget)

    def begin(self) -> None:
        """Begin to look."""
        job = self.session.job
        if self.session.tasks.begin(DROP, lambda say: drop_out(job, say), job):
            self.refresh()

    def _heard(self, what_for: str, said: str) -> None:
        if what_for == DROP and not self.gone:
            self.said.setText(f"{said} …")

    def _ended(self, what_for: str, outcome: Any) -> None:
        if what_for != DROP or self.gone:
            return
        assert isinstance(outcome, Outcome)
        if outcome.result is not None:
            self.told, self.of = outcome.result.words, outcome.then
        self.refuse("" if outcome.stopped else outcome.fault)
        self.refresh()

    def refresh(self) -> None:
        busy = self.session.tasks.running(DROP)
        self.begin_button.setEnabled(not busy)
        if busy:
            self.said.setText("Being looked for …")
        elif self.of is self.session.job:
            self.said.setText(self.told)
        else:
            self.said.setText("" if self.of is None else "The job has changed since: look again.")
        self.said.setVisible(bool(self.said.text()))
