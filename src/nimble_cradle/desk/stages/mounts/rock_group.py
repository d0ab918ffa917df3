"""Rock it and compare: a push by hand, and how stiff the bushes are by it."""

from __future__ import annotations

from PyQt6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.quantity_field import WAYS as AXES
from nimble_cradle.desk.kit.quantity_field import parse_with_way
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.job.base import JobError
from nimble_cradle.judge.studies import pushed_at, rocked_of, with_rocked
from nimble_cradle.mounts.push import WAYS, Push
from nimble_cradle.mounts.rocked import Rocked, rocked_words
from nimble_cradle.units import UnitError, parse

ROCK = "rock it and compare"


class RockGroup(QWidget):
    """Five entries, what they say of the bushes, and one press to take it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.found: Rocked | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            words(
                "Engine off and cold: push at one point with a scale, and read there how far it goes. Or film"
                " the engine from outside while it pulls in first gear against the brake, and read it there.",
                "",
            )
        )
        self.force = _line("Push", "how hard, e.g. 400 N or 80 % of full torque")
        self.at = _line("Where on the engine", "where on the engine, e.g. 100 forward, 0, 300 up")
        self.way = ChoiceBox()
        self.way.setAccessibleName("Way of the push")
        self.way.addItems([f"to the {w}" if w in ("left", "right") else w for w in WAYS])
        self.moved = _line("It moved", "it moved, e.g. 2.5 mm")
        self.within = _line("Read within", "within, e.g. 0.2 mm")
        self.refusal = Refusal(session)
        self.said = words("", "")
        self.take = button("Make the bushes so stiff", self.taken, name="view")
        for widget in (
            row(self.force, self.way, stretch=False),
            self.at,
            row(self.moved, self.within, stretch=False),
            row(button("Compare", self.compare, name="view")),
            self.refusal,
            self.said,
            row(self.take),
        ):
            column.addWidget(widget)
        self.take.hide()
        session.tasks.ended.connect(self._seen)
        session.changed.connect(self._let_go)

    def _let_go(self) -> None:
        """What was found is of the job as it was."""
        if self.found is not None:
            self.found = None
            self.take.hide()
            self.said.setText("The job has changed since: compare again.")

    def push(self) -> Push:
        """The push as it was typed. Raises JobError."""
        display = self.session.display
        try:
            parts = self.at.text().split(",")
            if len(parts) != 3:
                raise UnitError("Three places are wanted, e.g. 100 forward, 0, 300 up.")
            x, y, z = (parse_with_way(p, "length", display, w, 1.0) for p, w in zip(parts, AXES, strict=True))
            typed = self.force.text().strip()
            share = typed.partition("%")[0].strip() if "%" in typed else ""
            return Push(
                0.0 if share else parse(typed, "force", display),
                pushed_at(self.session.job, (x, y, z)),
                tuple(WAYS)[self.way.currentIndex()],
                parse(self.moved.text(), "length", display),
                parse(self.within.text(), "length", display) if self.within.text().strip() else 0.2,
                parse(share, "number", display) / 100 if share else 0.0,
            )
        except UnitError as error:
            raise JobError(str(error)) from None

    def compare(self) -> None:
        """Work it out, off the window's way."""
        self.found = None
        self.take.hide()
        self.said.setText("")
        self.refusal.tell("")
        with told_in(self.refusal):
            push, job = self.push(), self.session.job
            if not self.session.tasks.begin(ROCK, lambda _: (rocked_of(job, push), push), job):
                raise JobError("The last push is still being worked out; compare again when it is there.")
            self.said.setText("Being worked out …")

    def _seen(self, what_for: str, outcome: object) -> None:
        if what_for != ROCK:
            return
        result, fault, job = outcome.result, outcome.fault, outcome.then  # type: ignore[attr-defined]
        if fault or job is not self.session.job:
            self.said.setText("")
            self.refusal.tell(fault or "The job has changed meanwhile: compare again.")
            return
        self.found, push = result
        self.said.setText("\n".join(rocked_words(self.found, push)))
        self.take.show()

    def taken(self) -> None:
        """The bonded bushes are as stiff as the push showed, as figures that were measured."""
        if self.found is None:
            return
        found, self.found = self.found, None
        with told_in(self.refusal):
            job = with_rocked(self.session.job, found)
            self.session.edit(f"Rocked: the bushes are {found.times:.2f} times as stiff as said", job)
        self.take.hide()
        self.said.setText("Taken; it is in the logbook and can be undone.")


def _line(name: str, example: str) -> QLineEdit:
    line = QLineEdit()
    line.setAccessibleName(name)
    line.setPlaceholderText(example)
    return line
