"""Taped points: readings go in one after another, every point with its plus-or-minus, every reading
against the others, and the reading worth taking next."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QComboBox, QLineEdit

from nimble_cradle.design.what_to_measure import next_to_measure
from nimble_cradle.desk.kit.fields import TextField
from nimble_cradle.desk.kit.gauge import SimulatedGauge
from nimble_cradle.desk.kit.keymap import bind
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.quantity_field import WAYS, QuantityField, parse_with_way, show_with_way
from nimble_cradle.desk.kit.rooms import Room, offer, sentence_of
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.survey.keys import PROPOSAL_KEYS, READING_KEYS
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import METHOD_PLUS_MINUS
from nimble_cradle.job.edits import added, free_id, removed, with_value
from nimble_cradle.job.journal import now
from nimble_cradle.job.survey import ALONE, Reading, SurveyPoint
from nimble_cradle.survey.network import expected, network
from nimble_cradle.survey.network_types import CheckedReading, PlacedPoint
from nimble_cradle.survey.next_reading import Proposal
from nimble_cradle.survey.words import point_name, reading_words
from nimble_cradle.units import UnitError, show

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


class PointsRoom(Room):
    """Entry line, points, readings, and what to measure next."""

    title, key = "Points", "points"

    def build(self) -> None:
        self._build_entry()
        self._build_practice()
        self._build_proposals()
        self._build_readings()
        self._build_points()
        self._build_point_editors()
        self._build_width()

    def _build_entry(self) -> None:
        self.replacing = ""
        self.gauge = SimulatedGauge(0.4, 0.5)
        self.summary = words("", "")
        self.column.addWidget(self.summary)
        self.column.addWidget(part("A reading: type it and press Enter; the next one waits"))
        self.point, self.kind, self.other, self.method, self.datum = (QComboBox() for _ in range(5))
        self.kind.addItems([text for _, text in KINDS])
        self.kind.currentIndexChanged.connect(lambda _: self._fit_entry())
        self.method.addItems([f"{m} ± {pm:g} mm" for m, pm in METHOD_PLUS_MINUS.items()])
        self.value = QLineEdit()
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
        self.practice = row(
            button(
                "Practice gauge",
                self.practise,
                "A simulated gauge types a likely reading into the waiting field, as real ones do",
                "view",
            )
        )
        self.practice.setVisible(self.session.job.demo)  # nothing made up is ever written into a real job
        self.column.addWidget(self.practice)
        self.column.addWidget(self.refusal)

    def _build_proposals(self) -> None:
        self.next_title = part("Worth measuring next")
        self.column.addWidget(self.next_title)
        self.next = Table(("Reading", "Doubt", "After it"), most_rows=3, row_height=44, widths=(0, 92, 92))
        self.next.setAccessibleName("Worth measuring next")
        self.next.cellDoubleClicked.connect(lambda *_: self.adopt())
        bind(PROPOSAL_KEYS, self.next, self)
        self.column.addWidget(self.next)
        self.column.addWidget(row(button("Take this one", self.adopt, "N: puts it into the entry line")))

    def _build_readings(self) -> None:
        s = self.session
        self.column.addWidget(part("Readings against one another"))
        self.readings = Table(
            ("Reading", "Reads", "Off by"), most_rows=7, row_height=44, widths=(0, 96, 116), chosen=self._tell
        )
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
        bind(READING_KEYS, self.readings, self)
        self.reading_note = TextField(s, "Note to it")
        self.column.addWidget(self.reading_note)

    def _build_points(self) -> None:
        s = self.session
        self.column.addWidget(part("Points"))
        self.points = Table(
            ("Point", "Forward / back", "Left / right", "Up / down"),
            most_rows=7,
            row_height=44,
            widths=(0, 116, 106, 106),
            chosen=lambda key: s.select("point", key),
        )
        self.points.setAccessibleName("Points")
        self.column.addWidget(self.points)
        self.name = TextField(s, "Name")
        self.note = TextField(s, "Note")
        self.rough = QLineEdit()
        self.rough.setObjectName("roughly")
        self.rough.setPlaceholderText("400 forward, 250 left, 100 up")
        self.rough.returnPressed.connect(self.set_rough)
        self.rough_button = button("Roughly there", self.set_rough, "Tells two mirror images apart", "view")
        self.given_button = button("Its place is known from elsewhere", self.set_given, name="view")
        self.given = VectorField(s, "Known place", WAYS)
        self.given_doubt = QuantityField(s, "Known place, give or take", "length")

    def _build_point_editors(self) -> None:
        self.editors = (
            self.name,
            self.note,
            self.given_button,
            self.given,
            self.given_doubt,
            row(
                self.rough,
                self.rough_button,
                button("Strike out the point", self.strike_point, name="view"),
                stretch=False,
            ),
        )
        for editor in self.editors:
            self.column.addWidget(editor)

    def _build_width(self) -> None:
        s = self.session
        self.column.addWidget(part("Wall to wall"))
        self.width_field = QuantityField(
            s, "Width that the centre line halves", "length", optional="not taken"
        ).at("survey/width_mm", "Survey")
        self.column.addWidget(self.width_field)
        self.column.addWidget(
            QuantityField(s, "Width, give or take", "length").at("survey/width_plus_minus_mm", "Survey")
        )
        self.proposals: tuple[Proposal, ...] = ()
        self._fit_entry()

    def _fit_entry(self) -> None:
        kind = KINDS[self.kind.currentIndex()][0]
        self.other.setVisible(kind not in ALONE)
        self.datum.setVisible(kind in ("forward", "left", "up") and bool(self.session.job.survey.datums))
        self.value.setEnabled(kind != "plumb")
        ways = OFFSET.get(kind)
        self.value.setPlaceholderText(
            {"plumb": "nothing to type: press Take"}.get(kind, f"e.g. 312 {ways[1]}" if ways else "e.g. 846")
        )

    def refresh(self) -> None:
        """Points, readings and proposals as they are."""
        survey, net = self.session.job.survey, network(self.session.job)
        names = [point_name(survey, p.id) for p in survey.points]
        for box in (self.point, self.other):
            offer(box, names)
        offer(self.datum, ["main datum", *(t.name for t in survey.datums)])
        self._fit_entry()
        self.summary.setText(self._summary())
        self._refresh_readings()
        self._refresh_proposals()
        kind, key = self.session.selection
        chosen = key if kind == "point" else ""
        self.points.fill([(p.id, self._point_row(i, p)) for i, p in enumerate(net.points, start=1)], chosen)
        for editor in self.editors:
            editor.setVisible(bool(chosen))
        if chosen and self.session.value(f"survey/points/{chosen}") is not None:
            self._show_point(f"survey/points/{chosen}")

    def _refresh_readings(self) -> None:
        """Readings, those that need a look first, and the note of the chosen one."""
        survey, net = self.session.job.survey, network(self.session.job)
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
        d = self.session.display
        what, self.proposals = next_to_measure(self.session.job, self.session.verdict)
        self.next_title.setText(f"Worth measuring next {what}")
        self.next.fill(
            [
                (
                    p.reading.id,
                    (
                        (p.words, ""),
                        ("not pinned" if p.pins else f"± {show(p.doubt_before_mm, 'length', d, 2)}", ">"),
                        ("pins it" if p.pins else f"± {show(p.doubt_after_mm, 'length', d, 2)}", ">"),
                    ),
                )
                for p in self.proposals
            ],
            self.next.chosen_key(),
        )

    def _show_point(self, base: str) -> None:
        """The editors of the chosen point, whose path is ``base``."""
        self.name.at(f"{base}/name")
        self.note.at(f"{base}/note")
        known = self.session.value(f"{base}/given") is not None
        self.given_button.setText("Only its readings count" if known else "Its place is known from elsewhere")
        for field in (self.given, self.given_doubt):
            field.setVisible(known)
        if known:
            self.given.at(f"{base}/given", "Point")
            self.given_doubt.at(f"{base}/given_plus_minus_mm", "Point")
        about, d = self.session.value(f"{base}/roughly"), self.session.display
        if not self.rough.isModified():
            told = [
                show_with_way(c, "length", d, w, 0) for c, w in zip(about or (), WAYS, strict=bool(about))
            ]
            self.rough.setText(", ".join(told))

    def set_given(self) -> None:
        """The chosen point's place is known, to be typed over; or only by its readings again."""
        kind, key = self.session.selection
        point = self.session.value(f"survey/points/{key}") if kind == "point" else None
        if point is None:
            return
        found = network(self.session.job).point(key)
        x, y, z = (0.0, 0.0, 0.0) if found.free else (round(float(c), 1) for c in found.at)
        made = (x, y, z) if point.given is None else None
        self.session.set_value(
            f"survey/points/{key}/given",
            made,
            f"{point.name}: {'place known' if made else 'by its readings'}",
        )

    def _summary(self) -> str:
        net, d = network(self.session.job), self.session.display
        if not net.points:
            return (
                "Number the places that matter with a paint pen and make each a point here. Tape it from the"
                " datum (forward, left, up), or by its distances from three points that are known. More"
                " readings than are needed is right: they check one another."
            )
        pinned = [p for p in net.points if not p.free]
        worst = max(pinned, key=lambda p: float(p.plus_minus.max()), default=None)
        text = (
            f"{BOLD}{len(pinned)} of {len(net.points)}{PLAIN} points pinned down by"
            f" {sum(r.used for r in self.session.job.survey.readings)} readings"
        )
        text += (
            f", {net.dof} more than are needed. "
            if net.dof
            else ", none more than is needed: nothing checks them. "
        )
        if worst is not None:
            text += (
                f"Least sure: {worst.name}, give or take"
                f" {BOLD}{show(float(worst.plus_minus.max()), 'length', d)}{PLAIN}. "
            )
        for tie in net.ties:
            if tie.residuals:
                name = point_name(self.session.job.survey, tie.residuals[0][0])
                text += (
                    f"{tie.name} is tied in, {show(tie.rms, 'length', d)} on average; worst {name},"
                    f" {show(tie.residuals[0][1], 'length', d)}. "
                )
        return text

    def _reading_row(self, reading: Reading, checked: CheckedReading) -> tuple[tuple[str, str], ...]:
        d = self.session.display
        value = "plumb" if reading.kind == "plumb" else show(abs(reading.value_mm), "length", d)
        word = {
            "agrees": show(abs(checked.residual), "length", d),
            "unchecked": "unchecked",
            "not used": "dropped",
            "doubtful": "doubtful",
        }.get(checked.state) or show(abs(checked.off), "length", d)
        return (checked.words, ""), (value, ">"), (word, LOOK[checked.state])

    def _point_row(self, number: int, p: PlacedPoint) -> tuple[tuple[str, str], ...]:
        d = self.session.display
        if len(p.free) == 1 and p.free[0] == "every way":
            return (f"{number} {p.name}\nnot pinned down", ""), ("—", ">"), ("—", ">"), ("—", ">")
        cells = [
            (f"{show_with_way(float(c), 'length', d, w, None)}\n± {show(float(pm), 'length', d)}", ">")
            for c, pm, w in zip(p.at, p.plus_minus, WAYS, strict=True)
        ]
        return ((f"{number} {p.name}" + (f"\nfree {', '.join(p.free)}" if p.free else ""), ""), *cells)

    def _tell(self, key: str) -> None:
        reading = next((r for r in self.session.job.survey.readings if r.id == key), None)
        if reading is not None:
            self.session.select("point", reading.point)
            self.refresh()

    def add_point(self) -> None:
        """Another numbered point, chosen in the entry line at once."""
        job = self.session.job
        key = free_id("point", {p.id for p in job.survey.points})
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
        ids = [p.id for p in self.session.job.survey.points]
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
            (p for p in self.proposals if p.reading.id == key), self.proposals[0] if self.proposals else None
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
            self.session.set_value(
                f"survey/readings/{reading.id}/used",
                not reading.used,
                f"{'Dropped' if reading.used else 'Used again'}:"
                f" {reading_words(self.session.job.survey, reading)}",
            )

    def strike(self) -> None:
        """Take the chosen reading off the list."""
        key = self.readings.chosen_key()
        if key:
            self.session.edit("Struck out a reading", removed(self.session.job, f"survey/readings/{key}"))

    def strike_point(self) -> None:
        """Take the chosen point off the list; refused while readings or items use it."""
        kind, key = self.session.selection
        if kind == "point":
            try:
                name = self.session.value(f"survey/points/{key}/name")
                self.session.edit(
                    f"Struck out the point {name}", removed(self.session.job, f"survey/points/{key}")
                )
                self.session.select("", "")
                self.refuse("")
            except JobError as error:
                self.refuse(f"{error.message} Strike that out first.")

    def set_rough(self) -> None:
        """About where the chosen point is, which tells two mirror images apart."""
        kind, key = self.session.selection
        if kind != "point":
            return
        typed = self.rough.text().strip()
        try:
            parts = [p for p in typed.split(",") if p.strip()]
            if typed and len(parts) != 3:
                raise UnitError("Three places are wanted, e.g. 400 forward, 250 left, 100 up.")
            about: Any = (
                tuple(
                    parse_with_way(p, "length", self.session.display, w, 1.0)
                    for p, w in zip(parts, WAYS, strict=True)
                )
                if typed
                else None
            )
            self.rough.setModified(False)
            self.session.set_value(
                f"survey/points/{key}/roughly",
                about,
                f"{self.session.value(f'survey/points/{key}/name')} is roughly at {typed or 'no place said'}",
            )
            self.refuse("")
        except (UnitError, JobError) as error:
            self.refuse(sentence_of(error))

    def work(self) -> None:
        """How the chosen reading is judged."""
        key = self.readings.chosen_key()
        found = next((r for r in network(self.session.job).readings if r.id == key), None)
        if found is not None and found.worked is not None:
            self.session.show_work(f"{found.words}: {found.state}", found.worked)
        elif found is not None:
            self.refuse(f"Nothing else checks “{found.words}”: take one more reading that does.")
