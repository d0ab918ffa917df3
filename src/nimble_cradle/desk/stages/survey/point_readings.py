"""Readings of points: typed, judged, taken again, and what is worth measuring next."""

from __future__ import annotations

from PyQt6.QtWidgets import QLineEdit

from nimble_cradle.design.what_to_measure import next_to_measure
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.columns import Fold
from nimble_cradle.desk.kit.fields import TextField
from nimble_cradle.desk.kit.gauge import SimulatedGauge
from nimble_cradle.desk.kit.keymap import bind
from nimble_cradle.desk.kit.quantity_field import WAYS, parse_with_way
from nimble_cradle.desk.kit.rooms import Room, sentence_of
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.survey.keys import PROPOSAL_KEYS, READING_KEYS
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import METHOD_PLUS_MINUS
from nimble_cradle.job.edits import added, free_id, removed, with_value
from nimble_cradle.job.journal import now
from nimble_cradle.job.survey import ALONE, Reading, SurveyPoint
from nimble_cradle.survey.network import expected, network
from nimble_cradle.survey.network_types import CheckedReading
from nimble_cradle.survey.words import reading_words
from nimble_cradle.units import UnitError, show


class PointReadings(Room):
    """The readings of a room of points."""

    next_fold: Fold
    reading_fold: Fold

    def _build_entry(self) -> None:
        self.replacing = ""
        self.gauge = SimulatedGauge(0.4, 0.5)
        self.summary = words("", "")
        self.column.addWidget(self.summary)
        self.column.addWidget(part("A reading: type it and press Enter; the next one waits"))
        self.point, self.kind, self.other, self.method, self.datum = (ChoiceBox() for _ in range(5))
        self.kind.addItems([text for _, text in KINDS])
        self.kind.currentIndexChanged.connect(lambda _: self._fit_entry())
        self.method.addItems([f"{m} ± {pm:g} mm" for m, pm in METHOD_PLUS_MINUS.items()])
        self.value = QLineEdit()
        self.value.setAccessibleName("What the tape reads")
        self.value.setObjectName("reading value")
        self.value.returnPressed.connect(self.take)
        for box, name in (
            (self.point, "point"),
            (self.kind, "kind"),
            (self.other, "other point"),
            (self.method, "method"),
            (self.datum, "datum"),
        ):
            box.setAccessibleName(name)
        self.column.addWidget(
            row(self.point, button("New point", self.add_point, "P: another numbered point"), stretch=False)
        )
        self.column.addWidget(row(self.kind, self.other, self.datum, stretch=False))
        self.column.addWidget(row(self.value, self.method, button("Take", self.take, "Enter"), stretch=False))

    def _build_practice(self) -> None:
        with self.folded("Practice, in a demo only", "a simulated gauge") as self.practice:
            self.column.addWidget(
                row(
                    button(
                        "Let a simulated gauge read",
                        self.practise,
                        "It types a likely reading into the waiting field, as a real gauge does",
                        "view",
                    )
                )
            )
        self.practice.setVisible(self.session.job.demo)  # nothing made up is ever written into a real job

    def _build_proposals(self) -> None:
        self.next_title = part("Worth measuring next")
        self.column.addWidget(self.next_title)
        self.next = Table(("Reading", "Doubt", "After it"), most_rows=3, row_height=44, widths=(0, 92, 92))
        self.next.setAccessibleName("Worth measuring next")
        self.next.doubled.connect(lambda: self.adopt())
        bind(PROPOSAL_KEYS, self.next.grid, self)
        self.column.addWidget(self.next)
        self.column.addWidget(row(button("Take this one", self.adopt, "N: puts it into the entry line")))

    def _build_readings(self) -> None:
        session = self.session
        self.readings = Table(("Reading", "Reads", "Off by"), most_rows=5, chosen=self._tell)
        self.readings.setAccessibleName("Readings")
        self.column.addWidget(self.readings)
        self.column.addWidget(
            row(
                button("Drop or use again", self.drop, "Delete", "view"),
                button("Retake", self.retake, "R", "view"),
                button("Strike out", self.strike, name="view"),
                button("How it is judged", self.work, "W", "view"),
            )
        )
        bind(READING_KEYS, self.readings.grid, self)
        self.reading_note = TextField(session, "Note to it")
        self.column.addWidget(self.reading_note)

    def _fit_entry(self) -> None:
        kind = KINDS[self.kind.currentIndex()][0]
        self.other.setVisible(kind not in ALONE)
        self.datum.setVisible(kind in ("forward", "left", "up") and bool(self.session.job.survey.datums))
        self.value.setEnabled(kind != "plumb")
        ways = OFFSET.get(kind)
        self.value.setPlaceholderText(
            {"plumb": "nothing to type: press Take"}.get(kind, f"e.g. 312 {ways[1]}" if ways else "e.g. 846")
        )

    def _refresh_readings(self) -> None:
        """Readings, those that need a look first, and the note of the chosen one."""
        survey, net = self.session.job.survey, network(self.session.job)
        lacking = sum(reading.state in ("out of line", "doubtful") for reading in net.readings)
        self.reading_fold.tell(f"{len(net.readings)} taken, {lacking or 'none'} to look at")
        both = sorted(
            zip(survey.readings, net.readings, strict=True),
            key=lambda rc: rc[1].state not in ("out of line", "doubtful"),
        )
        self.readings.fill([(r.id, self._reading_row(r, c)) for r, c in both], self.readings.chosen_key())
        key = self.readings.chosen_key()
        self.reading_note.setVisible(bool(key) and self.session.value(f"survey/readings/{key}") is not None)
        if self.reading_note.isVisibleTo(self) and self.reading_note.path != f"survey/readings/{key}/note":
            self.reading_note.at(f"survey/readings/{key}/note")

    def _refresh_proposals(self) -> None:
        """What is worth measuring next."""
        display = self.session.display
        what, self.proposals = next_to_measure(self.session.job, self.session.verdict)
        self.next_title.setText(f"Worth measuring next {what}")
        self.next_fold.tell(self.proposals[0].words if self.proposals else "nothing that would help")
        self.next.fill(
            [
                (
                    proposal.reading.id,
                    (
                        (proposal.words, ""),
                        (
                            "not pinned"
                            if proposal.pins
                            else f"± {show(proposal.doubt_before_mm, 'length', display, 2)}",
                            ">",
                        ),
                        (
                            "pins it"
                            if proposal.pins
                            else f"± {show(proposal.doubt_after_mm, 'length', display, 2)}",
                            ">",
                        ),
                    ),
                )
                for proposal in self.proposals
            ],
            self.next.chosen_key(),
        )

    def _reading_row(self, reading: Reading, checked: CheckedReading) -> tuple[tuple[str, str], ...]:
        display = self.session.display
        value = "plumb" if reading.kind == "plumb" else show(abs(reading.value_mm), "length", display)
        word = {
            "agrees": show(abs(checked.residual), "length", display),
            "unchecked": "unchecked",
            "not used": "dropped",
            "doubtful": "doubtful",
        }.get(checked.state) or show(abs(checked.off), "length", display)
        return (checked.words, ""), (value, ">"), (word, LOOK[checked.state])

    def _tell(self, key: str) -> None:
        reading = next((r for r in self.session.job.survey.readings if r.id == key), None)
        if reading is not None:
            self.session.select("point", reading.point)
            self.refresh()

    def add_point(self) -> None:
        """Another numbered point, chosen in the entry line at once."""
        job = self.session.job
        key = free_id("point", {point.id for point in job.survey.points})
        self.session.edit(
            "Added a point",
            added(job, "survey/points", SurveyPoint(id=key, name=f"Point {len(job.survey.points) + 1}")),
        )
        self.session.select("point", key)
        self.point.setCurrentIndex(len(self.session.job.survey.points) - 1)
        self.kind.setCurrentIndex(0)
        self.value.setFocus()

    def take(self) -> None:
        """Take the reading that was typed; offsets go on to the next direction by themselves."""
        survey = self.session.job.survey
        if not survey.points:
            self.refuse("There is no point yet: press New point first.")
            return
        kind = KINDS[self.kind.currentIndex()][0]
        try:
            value = (
                0.0
                if kind == "plumb"
                else parse_with_way(self.value.text(), "length", self.session.display, OFFSET.get(kind), 1.0)
            )
            other = "" if kind in ALONE else survey.points[self.other.currentIndex()].id
            offsets = kind in ("forward", "left", "up")
            reading = Reading(
                id=free_id("reading", {r.id for r in survey.readings}),
                kind=kind,
                point=survey.points[self.point.currentIndex()].id,
                other=other,
                value_mm=value,
                method=tuple(METHOD_PLUS_MINUS)[self.method.currentIndex()],
                when=now(),
                datum=(
                    survey.datums[self.datum.currentIndex() - 1].id
                    if offsets and self.datum.currentIndex() > 0
                    else ""
                ),
            )
            job = self.session.job
            if self.replacing:
                job = with_value(job, f"survey/readings/{self.replacing}/used", False)
            text = reading_words(survey, reading)
            self.session.edit(
                f"{'Retook' if self.replacing else 'Measured'} {text}:"
                f" {self.value.text().strip() or 'plumb'}",
                added(job, "survey/readings", reading),
            )
            self.refuse("")
            self.value.clear()
            if kind in AFTER and not self.replacing:
                self.kind.setCurrentIndex([k for k, _ in KINDS].index(AFTER[kind]))
            self.replacing = ""
            self.value.setFocus()
        except (UnitError, JobError, ValueError) as error:
            self.refuse(sentence_of(error))

    def practise(self) -> None:
        """Let the simulated gauge read what the entry line waits for, near where the survey has it; in a
        demo only."""
        if not self.session.job.demo:
            self.refuse("This is no demo: a reading that is made up does not go into it.")
            return
        survey, net = self.session.job.survey, network(self.session.job)
        kind = KINDS[self.kind.currentIndex()][0]
        if not survey.points or kind == "plumb":
            self.refuse("There is nothing here that a gauge could read.")
            return
        other = "" if kind in ALONE else survey.points[self.other.currentIndex()].id
        true = expected(survey, net, kind, survey.points[self.point.currentIndex()].id, other)
        assert true is not None
        self.value.setFocus()
        text = self.gauge.reads(true, self.session.display)
        self.gauge.send(f"{text} {OFFSET[kind][1]}" if kind in OFFSET and true < 0 else text, self.value)

    def _show_in_entry(self, reading: Reading) -> None:
        ids = [point.id for point in self.session.job.survey.points]
        self.point.setCurrentIndex(ids.index(reading.point))
        self.kind.setCurrentIndex([k for k, _ in KINDS].index(reading.kind))
        if reading.other:
            self.other.setCurrentIndex(ids.index(reading.other))
        self.method.setCurrentIndex(tuple(METHOD_PLUS_MINUS).index(reading.method))
        self.value.clear()
        self.value.setFocus()

    def adopt(self) -> None:
        """Put the chosen proposal (or the best) into the entry line."""
        key = self.next.chosen_key()
        found = next(
            (proposal for proposal in self.proposals if proposal.reading.id == key),
            self.proposals[0] if self.proposals else None,
        )
        if found is not None:
            self._show_in_entry(found.reading)

    def retake(self) -> None:
        """Take the chosen reading again: the old one is dropped when the new one is there."""
        reading = self.session.value(f"survey/readings/{self.readings.chosen_key()}")
        if isinstance(reading, Reading):
            self.replacing = reading.id
            self._show_in_entry(reading)
            self.session.said.emit(f"Take it again: {reading_words(self.session.job.survey, reading)}")

    def drop(self) -> None:
        """Leave the chosen reading out, or use it again."""
        reading = self.session.value(f"survey/readings/{self.readings.chosen_key()}")
        if isinstance(reading, Reading):
            said = reading_words(self.session.job.survey, reading)
            what = f"{'Dropped' if reading.used else 'Used again'}: {said}"
            path = f"survey/readings/{reading.id}/used"
            self.session.set_value(path, not reading.used, what)

    def strike(self) -> None:
        """Take the chosen reading off the list."""
        key = self.readings.chosen_key()
        if key:
            self.session.edit("Struck out a reading", removed(self.session.job, f"survey/readings/{key}"))

    def work(self) -> None:
        """How the chosen reading is judged."""
        key = self.readings.chosen_key()
        found = next((reading for reading in network(self.session.job).readings if reading.id == key), None)
        if found is not None and found.worked is not None:
            self.session.show_work(f"{found.words}: {found.state}", found.worked)
        elif found is not None:
            self.refuse(f"Nothing else checks “{found.words}”: take one more reading that does.")


KINDS: tuple[tuple[str, str], ...] = (
    ("forward", "forward of the datum"),
    ("left", "left of the datum"),
    ("up", "above the datum"),
    ("distance", "distance to"),
    ("rise", "height above"),
    ("plumb", "plumb with"),
    ("from-left-wall", "from the left wall"),
    ("from-right-wall", "from the right wall"),
)


AFTER = {"forward": "left", "left": "up"}


LOOK = {
    "agrees": "holds",
    "out of line": "fails",
    "doubtful": "near",
    "unchecked": "open",
    "not used": "open",
}


OFFSET = {"forward": WAYS[0], "left": WAYS[1], "up": WAYS[2], "rise": WAYS[2]}
