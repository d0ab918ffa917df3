"""Readings of holes: typed, judged, dropped, and what is worth taking next."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QComboBox, QLineEdit

from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.keymap import bind
from nimble_cradle.desk.kit.rooms import Room, sentence_of
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.survey.keys import DROP_KEYS
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, removed
from nimble_cradle.job.journal import now
from nimble_cradle.job.pattern import BETWEEN, Hole, HoleReading, Pattern
from nimble_cradle.stock.clearance_holes import clearance_hole
from nimble_cradle.survey.holes import SLACK
from nimble_cradle.survey.pattern import found_pattern
from nimble_cradle.survey.pattern_types import FoundPattern, reading_words
from nimble_cradle.units import Display, UnitError, parse, show


class HoleReadings(Room):
    """The readings of a room of hole patterns."""

    which: QComboBox
    holes: Table

    def new_pattern(self) -> None:
        """A pattern to begin with; told by the whole room."""
        raise NotImplementedError

    def _build_entry(self) -> None:
        self.column.addWidget(part("A reading: type it and press Enter; the next one waits"))
        self.hole, self.kind, self.other = (ChoiceBox() for _ in range(3))
        for box, name in ((self.hole, "hole"), (self.kind, "hole reading"), (self.other, "other hole")):
            box.setAccessibleName(name)
        self.kind.addItems([text for _, text in KINDS])
        self.kind.currentIndexChanged.connect(
            lambda _: self.other.setVisible(KINDS[self.kind.currentIndex()][0] in BETWEEN)
        )
        self.value = QLineEdit()
        self.value.setAccessibleName("What it reads")
        self.value.setObjectName("hole value")
        self.value.setPlaceholderText("e.g. 86.4")
        self.value.returnPressed.connect(self.take)
        self.column.addWidget(row(self.hole, self.kind, self.other, stretch=False))
        self.column.addWidget(
            row(
                self.value,
                button("Take", self.take, "Enter"),
                button("New hole", self.add_hole),
                stretch=False,
            )
        )
        self.column.addWidget(self.refusal)
        self.next = words()
        self.next_button = button("Take that next", self.adopt, name="view")
        self.next_button.setMaximumWidth(150)
        self.column.addWidget(row(self.next, self.next_button, stretch=False))

    def _build_readings(self) -> None:
        self.readings = Table(("Reading", "Reads", "Off by"), most_rows=6, widths=(0, 96, 116))
        self.readings.setAccessibleName("Hole readings")
        bind(DROP_KEYS, self.readings.grid, self)
        self.column.addWidget(self.readings)
        self.column.addWidget(
            row(
                button("Drop or use again", self.drop, "Delete", "view"),
                button("Strike out", self.strike, name="view"),
            )
        )

    @property
    def pattern(self) -> Pattern | None:
        """The pattern that is shown."""
        rows = self.session.job.survey.patterns
        return rows[min(max(self.which.currentIndex(), 0), len(rows) - 1)] if rows else None

    def _show_readings(self, pattern: Pattern, found: FoundPattern, d: Display) -> None:
        """Readings, those that need a look first."""
        rows = []
        for r, c in sorted(
            zip(pattern.readings, found.readings, strict=True),
            key=lambda rc: rc[1].state not in ("out of line", "doubtful"),
        ):
            kind: Any = "angle" if r.kind == "angle" else "length"
            said_of = {
                "agrees": show(abs(c.residual), kind, d, 2),
                "unchecked": "unchecked",
                "not used": "dropped",
                "doubtful": "doubtful",
            }
            off = said_of.get(c.state) or show(abs(c.off), kind, d, 2)
            rows.append((r.id, ((c.words, ""), (show(r.value, kind, d, 2), ">"), (off, LOOK[c.state]))))
        self.readings.fill(rows, self.readings.chosen_key())

    def _next_words(self, proposals: Any, d: Any) -> str:
        told = ", or ".join(
            p.words + (", pins it" if p.pins else f", about {show(p.value_mm, 'length', d, 0)}")
            for p in proposals[:2]
        )
        return f"Worth taking next: {told}." if told else "Every pair has been read."

    def add_hole(self) -> None:
        """One more hole."""
        pattern = self.pattern
        if pattern is None:
            self.new_pattern()
            return
        key = free_id("hole", {hole.id for hole in pattern.holes})
        self.session.edit(
            f"{pattern.name}: one more hole",
            added(self.session.job, f"survey/patterns/{pattern.id}/holes", Hole(id=key)),
        )
        self.hole.setCurrentIndex(self.hole.count() - 1)

    def take(self) -> None:
        """Take the reading; the other hole steps on, so that a row of distances is typed one after
        another."""
        pattern = self.pattern
        if pattern is None or not pattern.holes:
            self.refuse("There is no pattern yet: press New pattern first.")
            return
        kind = KINDS[self.kind.currentIndex()][0]
        try:
            value = parse(self.value.text(), "angle" if kind == "angle" else "length", self.session.display)
            ids = [hole.id for hole in pattern.holes]
            reading = HoleReading(
                id=free_id("reading", {r.id for r in pattern.readings}),
                kind=kind,
                hole=ids[self.hole.currentIndex()],
                value=value,
                other=ids[self.other.currentIndex()] if kind in BETWEEN else "",
                when=now(),
            )
            self.session.edit(
                f"{pattern.name}: {reading_words(pattern, reading)} {self.value.text().strip()}",
                added(self.session.job, f"survey/patterns/{pattern.id}/readings", reading),
            )
            self.refuse("")
            self.value.clear()
            self._step(kind)
            self.value.setFocus()
        except (UnitError, JobError, ValueError) as error:
            self.refuse(sentence_of(error))

    def _step(self, kind: str) -> None:
        """On to the next pair, or the next hole."""
        n = self.hole.count()
        if kind not in BETWEEN:
            self.hole.setCurrentIndex((self.hole.currentIndex() + 1) % n)
        elif self.other.currentIndex() + 1 < n:
            self.other.setCurrentIndex(self.other.currentIndex() + 1)
        elif self.hole.currentIndex() + 2 < n:
            self.hole.setCurrentIndex(self.hole.currentIndex() + 1)
            self.other.setCurrentIndex(self.hole.currentIndex() + 1)

    def adopt(self) -> None:
        """Put the best proposal into the entry line."""
        pattern = self.pattern
        if pattern is not None and found_pattern(pattern).proposals:
            proposal = found_pattern(pattern).proposals[0]
            ids = [hole.id for hole in pattern.holes]
            self.kind.setCurrentIndex(0)
            self.hole.setCurrentIndex(ids.index(proposal.hole))
            self.other.setCurrentIndex(ids.index(proposal.other))
            self.value.setFocus()

    def drop(self) -> None:
        """Leave the chosen reading out, or use it again."""
        pattern, key = self.pattern, self.readings.chosen_key()
        if pattern is not None and key:
            reading = next(r for r in pattern.readings if r.id == key)
            self.session.set_value(
                f"survey/patterns/{pattern.id}/readings/{key}/used",
                not reading.used,
                f"{pattern.name}: {'dropped' if reading.used else 'used again'}"
                f" {reading_words(pattern, reading)}",
            )

    def strike(self) -> None:
        """Take the chosen reading off the list."""
        pattern, key = self.pattern, self.readings.chosen_key()
        if pattern is not None and key:
            path = f"survey/patterns/{pattern.id}/readings/{key}"
            after = removed(self.session.job, path)
            self.session.edit(f"{pattern.name}: struck out a reading", after)

    def work(self) -> None:
        """What the chosen hole's bolt has left."""
        pattern = self.pattern
        if pattern is None:
            return
        for hole, h in zip(found_pattern(pattern).holes, pattern.holes, strict=True):
            if hole.id == self.holes.chosen_key() or not self.holes.chosen_key():
                size, bolt = clearance_hole(h.bolt, h.fit)
                self.session.show_work(
                    f"{pattern.name}, hole {hole.number}",
                    SLACK.work(
                        {"hole": "ISO 273", "doubt": "readings and slot"},
                        hole=size,
                        bolt=bolt,
                        doubt=max(hole.plus_minus - h.slot_mm / 2, 0.0),
                    ),
                )
                return


KINDS: tuple[tuple[str, str], ...] = (
    ("centres", "centre to centre of"),
    ("outer-edges", "over the outer edges to"),
    ("inner-edges", "between the edges to"),
    ("radius", "radius from the pin"),
    ("angle", "angle about the pin"),
    ("across", "right of the pin"),
    ("up", "above the pin"),
)


LOOK = {
    "agrees": "holds",
    "out of line": "fails",
    "doubtful": "near",
    "unchecked": "open",
    "not used": "open",
}
