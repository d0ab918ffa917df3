"""A button that has the missing mounts and chassis sides proposed, off the interface's thread."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.design.propose import WANTED, Proposal, proposed
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.tasks import Outcome
from nimble_cradle.desk.kit.words import button, row, words

PROPOSAL = "proposal of mounts"


class Proposing(QWidget):
    """It is there while something is missing; what was done, or not, is told under it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.press = button(
            "Propose what is missing", self.begin, "Mounts up to three, each with its chassis side", "view"
        )
        self.said = words("", "")
        column.addWidget(row(self.press))
        column.addWidget(self.said)
        session.tasks.ended.connect(self._ended)
        self.refresh()

    def refresh(self) -> None:
        """Show or hide it for the present job."""
        job = self.session.job
        missing = len(job.mounts) < WANTED or any(mount.foot is None for mount in job.mounts)
        self.press.setVisible(missing)
        self.press.setEnabled(not self.session.tasks.running(PROPOSAL))
        self.said.setVisible(bool(self.said.text()))

    def begin(self) -> None:
        """Begin; the job that it is for is told with the result."""
        job, rack = self.session.job, self.session.rack
        self.said.setText("Being worked out …")
        self.session.tasks.begin(PROPOSAL, lambda _: proposed(job, rack), job)
        self.refresh()

    def _ended(self, what_for: str, outcome: Outcome) -> None:
        if what_for != PROPOSAL or not self.isVisible():
            return
        told: Proposal | None = outcome.result
        if outcome.fault or told is None:
            self.said.setText(outcome.fault)
        elif outcome.then is not self.session.job:
            self.said.setText("The job was changed meanwhile: press again.")
        else:
            self.said.setText("\n".join(told.done))
            if told.job is not self.session.job:
                self.session.edit("Proposed mounts from block to rail", told.job)
        self.refresh()
