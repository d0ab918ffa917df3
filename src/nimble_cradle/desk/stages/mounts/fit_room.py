"""Fit-up: whether the bolts go in by hand, in which order, whether each can be reached."""

from __future__ import annotations

from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.table import Table, TableRow
from nimble_cradle.desk.kit.words import part, words
from nimble_cradle.desk.stages.mounts.mount_room import ChosenMount, MountRoom
from nimble_cradle.job.job import Job
from nimble_cradle.judge.cautions import LIFTING
from nimble_cradle.judge.studies import bolts_by_hand
from nimble_cradle.mounts.fit_up import FitUp, fitting_words
from nimble_cradle.seat.hands import Reach, reaches

FIT_UP = "fit-up of mounts"


class FitRoom(MountRoom):
    """All bolts of all mounts."""

    title, key = "Fit-up", "fit"
    caution = LIFTING
    waits = True

    def __init__(self, session: Session, chosen: ChosenMount) -> None:
        super().__init__(session, chosen)
        session.tasks.ended.connect(self._seen)

    def build(self) -> None:
        """What was found, the bolts."""
        self.said = words("", "")
        self.column.addWidget(self.said)
        self.over = part("Every bolt and nut: does a tool get at it?")
        self.column.addWidget(self.over)
        self.table = Table(("Bolt", "What reaches it"), most_rows=8)
        self.table.setAccessibleName("Bolts and what reaches them")
        self.column.addWidget(self.table)

    def refresh(self) -> None:
        job = self.session.job
        if len(job.mounts) < 2:
            self.said.setText("Two mounts are needed before their bolts can fight each other.")
            self._show([])
        elif not self.session.tasks.running(FIT_UP):
            if not self.said.text():
                self.said.setText("Being worked out …")
                self._show([])
            self.session.tasks.begin(FIT_UP, lambda _: _both(job), job)

    def _seen(self, what_for: str, outcome: object) -> None:
        """What was worked out, if it is still of this job."""
        if self.gone or what_for != FIT_UP:
            return
        result, fault, job = outcome.result, outcome.fault, outcome.then  # type: ignore[attr-defined]
        if job is not self.session.job:
            self.refresh()
            return
        if fault:
            self.said.setText(fault)
            self._show([])
            return
        fit, bolts = result
        self.said.setText("\n".join(fitting_words(fit)) if fit is not None else "")
        self._show([_row(k, reach) for k, reach in enumerate(bolts)])

    def _show(self, rows: list[TableRow]) -> None:
        """The bolts; no empty table where there are none to show."""
        self.table.fill(rows)
        self.over.setVisible(bool(rows))
        self.table.setVisible(bool(rows))


def _both(job: Job) -> tuple[FitUp | None, tuple[Reach, ...]]:
    return bolts_by_hand(job), reaches(job)


def _row(k: int, reach: Reach) -> TableRow:
    state = "fails" if not reach.reached else "open" if reach.spanner else "holds"
    return str(k), ((reach.name, ""), (reach.words, state))
