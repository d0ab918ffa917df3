"""Hole patterns: caliper readings in, a pattern and a plate out; and onto a mount's pad."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtWidgets import QComboBox, QFileDialog, QInputDialog, QLineEdit

from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.keymap import bind
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.photo_limits import picture_of
from nimble_cradle.desk.kit.photo_page import PhotoPage
from nimble_cradle.desk.kit.preview import Preview
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.rooms import Room, offer, sentence_of
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.survey.keys import DROP_KEYS
from nimble_cradle.files import read_file
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, removed
from nimble_cradle.job.job import Job
from nimble_cradle.job.journal import now
from nimble_cradle.job.open_job import MOST_PHOTO
from nimble_cradle.job.pattern import BETWEEN, Hole, HoleReading, Pattern
from nimble_cradle.shop.patterns import pattern_drawing
from nimble_cradle.stock.clearance_holes import clearance_hole
from nimble_cradle.stock.threads import SIZES
from nimble_cradle.survey.hole_sources import with_pattern_on, with_photographed, with_traced
from nimble_cradle.survey.holes import SLACK
from nimble_cradle.survey.likeness import likeness
from nimble_cradle.survey.pattern import found_pattern
from nimble_cradle.survey.pattern_types import FoundHole, FoundPattern, reading_words
from nimble_cradle.survey.traced import MOST_BYTES, read_traced
from nimble_cradle.units import Display, UnitError, parse, show

KINDS: tuple[tuple[str, str], ...] = (
    ("centres", "centre to centre of"),
    ("outer-edges", "over the outer edges to"),
    ("inner-edges", "between the edges to"),
    ("radius", "radius from the pin"),
    ("angle", "angle about the pin"),
    ("across", "right of the pin"),
    ("up", "above the pin"),
)
TURNS = (("unknown", "not said"), ("clockwise", "clockwise"), ("anticlockwise", "anticlockwise"))
LOOK = {
    "agrees": "holds",
    "out of line": "fails",
    "doubtful": "near",
    "unchecked": "open",
    "not used": "open",
}


class HolesRoom(Room):
    """One pattern at a time."""

    title, key = "Holes", "holes"

    def build(self) -> None:
        self._build_choice()
        self._build_entry()
        self._build_reading_buttons()
        self._build_holes()
        self._build_pattern()

    def _build_choice(self) -> None:
        self.which = QComboBox()
        self.which.setAccessibleName("pattern")
        self.which.activated.connect(lambda _: self.refresh())
        self.column.addWidget(
            row(
                self.which,
                button("New pattern", self.new_pattern),
                button("DXF, SVG …", self.ask_traced, "Holes of a traced bracket"),
                button("Photo …", self.ask_photo, "A straight-down photograph with a square or rule in it"),
                stretch=False,
            )
        )
        self.summary = words("", "")
        self.column.addWidget(self.summary)
        self.preview = Preview()
        self.column.addWidget(self.preview)

    def _build_entry(self) -> None:
        self.column.addWidget(part("A reading: type it and press Enter; the next one waits"))
        self.hole, self.kind, self.other = (QComboBox() for _ in range(3))
        for box, name in ((self.hole, "hole"), (self.kind, "hole reading"), (self.other, "other hole")):
            box.setAccessibleName(name)
        self.kind.addItems([text for _, text in KINDS])
        self.kind.currentIndexChanged.connect(
            lambda _: self.other.setVisible(KINDS[self.kind.currentIndex()][0] in BETWEEN)
        )
        self.value = QLineEdit()
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
        self.readings = Table(("Reading", "Reads", "Off by"), most_rows=6, widths=(0, 96, 116))
        self.readings.setAccessibleName("Hole readings")
        bind(DROP_KEYS, self.readings, self)
        self.column.addWidget(self.readings)

    def _build_reading_buttons(self) -> None:
        self.column.addWidget(
            row(
                button("Drop or use again", self.drop, "Delete", "view"),
                button("Strike out", self.strike, name="view"),
            )
        )

    def _build_holes(self) -> None:
        s = self.session
        self.column.addWidget(part("Holes"))
        self.holes = Table(
            ("Hole", "Place", "±", "Left for bolt"),
            most_rows=6,
            row_height=44,
            widths=(0, 140, 84, 110),
            chosen=lambda _: self.refresh(),
        )
        self.holes.setAccessibleName("Holes")
        self.column.addWidget(self.holes)
        self.diameter, self.slot = (
            QuantityField(s, "Measured diameter", "length"),
            QuantityField(s, "Slotted by", "length"),
        )
        self.bolt = ChoiceField(s, "Bolt", tuple((b, b) for b in SIZES))
        self.fit = ChoiceField(
            s, "Hole for it", (("fine", "fine"), ("medium", "medium"), ("coarse", "coarse"))
        )
        self.dowel = ChoiceField(
            s, "Is it a dowel", ((False, "no, a bolt"), (True, "yes, reamed to its diameter"))
        )
        self.editors: tuple[Any, ...] = (self.diameter, self.bolt, self.fit, self.slot, self.dowel)
        for editor in self.editors:
            self.column.addWidget(editor)
        self.column.addWidget(
            row(
                button("How the room is found", self.work, name="view"),
                button("Strike out the hole", self.strike_hole, name="view"),
            )
        )

    def _build_pattern(self) -> None:
        s = self.session
        self.column.addWidget(part("The pattern"))
        self.name, self.turn = TextField(s, "Name"), ChoiceField(s, "Holes 1, 2, 3 go round", TURNS)
        self.edge, self.plate = (
            QuantityField(s, "Hole centre to edge", "length"),
            QuantityField(s, "Plate", "length"),
        )
        self.fields = (self.name, self.turn, self.edge, self.plate)
        for field in self.fields:
            self.column.addWidget(field)
        self.mount = QComboBox()
        self.mount.setAccessibleName("mount")
        self.like = QComboBox()
        self.like.setAccessibleName("like")
        self.column.addWidget(
            row(
                self.mount,
                button("Put it on this mount's pad", self.put_on, "Its holes become the plate's"),
                stretch=False,
            )
        )
        self.column.addWidget(
            row(self.like, button("Compare, mirror image too", self.compare), stretch=False)
        )
        self.likeness = words()
        self.column.addWidget(self.likeness)

    @property
    def pattern(self) -> Pattern | None:
        """The pattern that is shown."""
        rows = self.session.job.survey.patterns
        return rows[min(max(self.which.currentIndex(), 0), len(rows) - 1)] if rows else None

    def refresh(self) -> None:
        """The chosen pattern as it is."""
        patterns, d = self.session.job.survey.patterns, self.session.display
        for box in (self.which, self.like):
            offer(box, [p.name for p in patterns])
        offer(self.mount, [m.name for m in self.session.job.mounts])
        pattern = self.pattern
        numbers = [str(i + 1) for i in range(len(pattern.holes))] if pattern else []
        for box in (self.hole, self.other):
            offer(box, [f"hole {n}" for n in numbers])
        for widget in (*self.editors, *self.fields):
            widget.setVisible(pattern is not None)
        if pattern is None:
            self.summary.setText(
                "Put calipers over pairs of holes, or a pin in the crank centre and read radius and angle."
                " More readings than are needed find the bad one."
            )
            self.next.setText("")
            for table in (self.readings, self.holes):
                table.fill([])
            self.preview.show_drawing(None)
        else:
            self._show(pattern, d)

    def _show(self, pattern: Pattern, d: Display) -> None:
        found = found_pattern(pattern)
        said = (
            " ".join(q + "." for q in found.questions[:2])
            or "Every hole is pinned down and the readings agree."
        )
        origin = "from the crank pin" if found.from_pin else "hole 1 at nought, hole 2 to its right"
        self.summary.setText(
            f"{BOLD}{len(found.holes)} holes{PLAIN}, {sum(r.used for r in pattern.readings)} readings,"
            f" {found.dof} more than are needed ({origin}). {said}"
        )
        try:
            self.preview.show_drawing(pattern_drawing(pattern, d))
        except JobError:
            self.preview.show_drawing(None)
        self.next.setText(self._next_words(found.proposals, d))
        self.next_button.setVisible(bool(found.proposals))
        self._show_readings(pattern, found, d)
        self.holes.fill([(h.id, self._hole_row(h, d)) for h in found.holes], self.holes.chosen_key())
        self._point_fields(pattern)

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

    def _hole_row(self, h: FoundHole, d: Display) -> tuple[tuple[str, str], ...]:
        return (
            (f"{h.number}\n{show(h.hole_mm, 'length', d)} hole", ""),
            ("not pinned down" if h.free else self._place(h.at, d), ""),
            ("—" if h.free else show(h.plus_minus, "length", d, 2), ">"),
            ("—" if h.free else show(h.slack, "length", d, 2), "fails" if h.slack < 0 else "holds"),
        )

    def _point_fields(self, pattern: Pattern) -> None:
        """Let the fields edit the chosen hole, and the pattern."""
        base = f"survey/patterns/{pattern.id}"
        key = self.holes.chosen_key()
        hole = next((h for h in pattern.holes if h.id == key), None)
        for editor, name in zip(
            self.editors, ("diameter_mm", "bolt", "fit", "slot_mm", "dowel"), strict=True
        ):
            editor.setVisible(hole is not None)
            if hole is not None:
                editor.at(
                    f"{base}/holes/{hole.id}/{name}", f"{pattern.name}, hole {pattern.holes.index(hole) + 1}"
                )
        self.name.at(f"{base}/name")
        for field, name in ((self.turn, "turn"), (self.edge, "edge_mm"), (self.plate, "plate_mm")):
            field.at(f"{base}/{name}", pattern.name)

    def _next_words(self, proposals: Any, d: Any) -> str:
        told = ", or ".join(
            f"{p.words} (about {show(p.value_mm, 'length', d, 0)}{', pins it' if p.pins else ''})"
            for p in proposals[:2]
        )
        return f"Worth taking next: {told}." if told else "Every pair has been read."

    def _place(self, at: np.ndarray, d: Any) -> str:
        x, y = (float(c) for c in at)
        return (
            f"{show(abs(x), 'length', d)} {'right' if x >= 0 else 'left'}\n{show(abs(y), 'length', d)}"
            f" {'up' if y >= 0 else 'down'}"
        )

    def new_pattern(self) -> None:
        """A pattern with four holes to begin with."""
        job = self.session.job
        key = free_id("pattern", {p.id for p in job.survey.patterns})
        made = Pattern(
            id=key,
            name=f"Pattern {len(job.survey.patterns) + 1}",
            holes=tuple(Hole(id=f"hole-{k}") for k in range(1, 5)),
        )
        self.session.edit(f"Added {made.name}", added(job, "survey/patterns", made))
        self.which.setCurrentIndex(self.which.count() - 1)
        self.refresh()

    def add_hole(self) -> None:
        """One more hole."""
        pattern = self.pattern
        if pattern is None:
            self.new_pattern()
            return
        key = free_id("hole", {h.id for h in pattern.holes})
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
            ids = [h.id for h in pattern.holes]
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
            p = found_pattern(pattern).proposals[0]
            ids = [h.id for h in pattern.holes]
            self.kind.setCurrentIndex(0)
            self.hole.setCurrentIndex(ids.index(p.hole))
            self.other.setCurrentIndex(ids.index(p.other))
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
            self.session.edit(
                f"{pattern.name}: struck out a reading",
                removed(self.session.job, f"survey/patterns/{pattern.id}/readings/{key}"),
            )

    def strike_hole(self) -> None:
        """Take the chosen hole out; refused while readings name it."""
        pattern, key = self.pattern, self.holes.chosen_key()
        if pattern is not None and key:
            try:
                self.session.edit(
                    f"{pattern.name}: struck out a hole",
                    removed(self.session.job, f"survey/patterns/{pattern.id}/holes/{key}"),
                )
                self.refuse("")
            except JobError as error:
                self.refuse(f"{error.message} Strike out its readings first.")

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

    def ask_photo(self) -> None:
        """Ask for a photograph and let the holes be picked on it."""
        name, _ = QFileDialog.getOpenFileName(
            self, "Photograph of the face", "", "Photographs (*.jpg *.jpeg *.png)"
        )
        if not name:
            return
        try:
            image = picture_of(Path(name).name, read_file(Path(name), MOST_PHOTO))
        except JobError as error:
            self.refuse(error.message)
            return
        page = PhotoPage(self, image, self.session.display)
        if page.exec():
            self.add_photographed(Path(name).stem, page.holes, page.plus_minus)

    def add_photographed(self, name: str, at: np.ndarray, plus_minus: float) -> None:
        """Holes picked on a photograph, mm, as a pattern."""
        self._take(
            f"{len(at)} holes from the photograph {name}",
            lambda: with_photographed(self.session.job, name, at, plus_minus, now()),
        )

    def _take(self, what: str, make: Callable[[], Job]) -> None:
        """Take a pattern that was made elsewhere and show it."""
        try:
            self.session.edit(what, make())
            self.refuse("")
            self.which.setCurrentIndex(self.which.count() - 1)
            self.refresh()
        except (JobError, ValueError) as error:
            self.refuse(sentence_of(error))

    def put_on(self) -> None:
        """The pattern's holes, centred, as the holes of the chosen mount's plate, as one faces it."""
        pattern, mounts = self.pattern, self.session.job.mounts
        if pattern is None or not mounts:
            self.refuse("There is no mount yet to put it on.")
            return
        mount = mounts[self.mount.currentIndex()]
        try:
            self.session.edit(
                f"{pattern.name} put on {mount.name}", with_pattern_on(self.session.job, pattern, mount)
            )
            self.refuse("")
            self.session.said.emit(f"{mount.name} has the holes of {pattern.name} now.")
        except JobError as error:
            self.refuse(error.message)

    def compare(self) -> None:
        """How well another pattern matches, as it is and mirrored."""
        pattern = self.pattern
        patterns = self.session.job.survey.patterns
        if pattern is None:
            return
        other = patterns[self.like.currentIndex()]
        a, b = found_pattern(pattern).at, found_pattern(other).at
        if len(a) != len(b) or len(a) < 3 or other is pattern:
            self.likeness.setText("Choose another pattern with as many holes, three or more, numbered alike.")
            return
        like = likeness(a, b)
        d = self.session.display
        worst = int(like.residuals.argmax()) + 1
        self.likeness.setText(
            f"{other.name} lies {show(like.rms, 'length', d, 2)} off on average; its mirror image"
            f" {show(like.mirrored_rms, 'length', d, 2)}. "
            + (
                "The mirror image fits: one of the two was noted from the other side."
                if like.mirrored
                else f"Worst: hole {worst}."
            )
        )

    def ask_traced(self) -> None:
        """A traced bracket as DXF or SVG."""
        name, _ = QFileDialog.getOpenFileName(self, "Traced outline with holes", "", "Drawings (*.dxf *.svg)")
        if not name:
            return
        try:
            self.add_traced(Path(name))
        except ShapeError as error:
            if "does not say its unit" not in str(error):
                return
            unit, taken = QInputDialog.getItem(
                self, "Unit", "The drawing does not say its unit. It is in", ["mm", "inch"], 0, False
            )
            if taken:
                self.add_traced(Path(name), 1.0 if unit == "mm" else 25.4)

    def add_traced(self, path: Path, unit_mm: float | None = None) -> None:
        """Holes of a traced file become a pattern with offsets from its own nought. Raises ShapeError
        where the unit must be asked."""
        try:
            traced = read_traced(path.name, read_file(path, MOST_BYTES), unit_mm)
            self._take(
                f"Traced {path.name}: {len(traced.holes)} holes",
                lambda: with_traced(self.session.job, path.stem, traced),
            )
            if traced.left_out:
                self.refuse(f"Not used of {path.name}: {', '.join(traced.left_out)}.")
        except JobError as error:
            self.refuse(error.message)
        except ShapeError as error:
            self.refuse(str(error))
            if unit_mm is None and "does not say its unit" in str(error):
                raise
