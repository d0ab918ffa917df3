"""Hole patterns: caliper readings in, a pattern and a plate out; and onto a mount's pad."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtWidgets import QInputDialog

from nimble_cradle.desk.kit.ask_file import file_to_open
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.photo_limits import picture_of
from nimble_cradle.desk.kit.photo_page import PhotoPage
from nimble_cradle.desk.kit.preview import Preview
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.rooms import offer, sentence_of
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.survey.hole_readings import HoleReadings
from nimble_cradle.files import read_file
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, removed
from nimble_cradle.job.job import Job
from nimble_cradle.job.journal import now
from nimble_cradle.job.open_job import MOST_PHOTO
from nimble_cradle.job.pattern import Hole, Pattern
from nimble_cradle.shop.patterns import pattern_drawing
from nimble_cradle.stock.threads import SIZES
from nimble_cradle.survey.hole_sources import with_pattern_on, with_photographed, with_traced
from nimble_cradle.survey.likeness import likeness
from nimble_cradle.survey.pattern import found_pattern
from nimble_cradle.survey.pattern_types import FoundHole
from nimble_cradle.survey.traced import MOST_BYTES, read_traced
from nimble_cradle.units import Display, show

TURNS = (("unknown", "not said"), ("clockwise", "clockwise"), ("anticlockwise", "anticlockwise"))


class HolesRoom(HoleReadings):
    """One pattern at a time."""

    title, key = "Holes", "holes"
    caution = ""

    def build(self) -> None:
        with self.two_sides():
            self._build_choice()
            self._build_entry()
            with self.folded("Readings against one another", "which agree, which do not"):
                self._build_readings()
            self.right_side()
            self._build_holes()
            with self.folded("The pattern: name, plate, mount, likeness"):
                self._build_pattern()

    def _build_choice(self) -> None:
        self.which = ChoiceBox()
        self.which.setAccessibleName("pattern")
        self.which.activated.connect(lambda _: self.refresh())
        self.column.addWidget(self.which)
        self.column.addWidget(
            row(
                button("New pattern", self.new_pattern),
                button("DXF, SVG …", self.ask_traced, "Holes of a traced bracket"),
                button("Photo …", self.ask_photo, "A straight-down photograph with a square or rule in it"),
            )
        )
        self.summary = words("", "")
        self.column.addWidget(self.summary)
        self.preview = Preview()
        self.column.addWidget(self.preview)

    def _build_holes(self) -> None:
        session = self.session
        self.column.addWidget(part("Holes"))
        self.holes = Table(
            ("Hole", "Place", "±", "Left for bolt"),
            wide=1,
            most_rows=5,
            row_height=42,
            chosen=lambda _: self.refresh(),
        )
        self.holes.setAccessibleName("Holes")
        self.column.addWidget(self.holes)
        self.diameter, self.slot = (
            QuantityField(session, "Measured diameter", "length"),
            QuantityField(session, "Slotted by", "length"),
        )
        self.bolt = ChoiceField(session, "Bolt", tuple((b, b) for b in SIZES))
        self.fit = ChoiceField(
            session, "Hole for it", (("fine", "fine"), ("medium", "medium"), ("coarse", "coarse"))
        )
        self.dowel = ChoiceField(
            session, "Is it a dowel", ((False, "no, a bolt"), (True, "yes, reamed to its diameter"))
        )
        self.editors: tuple[Any, ...] = (self.diameter, self.bolt, self.fit, self.slot, self.dowel)
        with self.folded("The chosen hole", "its bolt, its fit, a dowel"):
            for editor in self.editors:
                self.column.addWidget(editor)
            self.column.addWidget(
                row(
                    button("How the room is found", self.work, name="view"),
                    button("Strike out the hole", self.strike_hole, name="view"),
                )
            )

    def _build_pattern(self) -> None:
        session = self.session
        self.name, self.turn = (
            TextField(session, "Name"),
            ChoiceField(session, "Holes 1, 2, 3 go round", TURNS),
        )
        self.edge, self.plate = (
            QuantityField(session, "Hole centre to edge", "length"),
            QuantityField(session, "Plate", "length"),
        )
        self.fields = (self.name, self.turn, self.edge, self.plate)
        for field in self.fields:
            self.column.addWidget(field)
        self.mount = ChoiceBox()
        self.mount.setAccessibleName("mount")
        self.like = ChoiceBox()
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

    def refresh(self) -> None:
        """The chosen pattern as it is."""
        patterns, display = self.session.job.survey.patterns, self.session.display
        for box in (self.which, self.like):
            offer(box, [p.name for p in patterns])
        offer(self.mount, [mount.name for mount in self.session.job.mounts])
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
            self._show(pattern, display)

    def _show(self, pattern: Pattern, d: Display) -> None:
        found = found_pattern(pattern)
        said = (
            " ".join(question + "." for question in found.questions[:2])
            or "Every hole is pinned down and the readings agree."
        )
        origin = "from the crank pin" if found.from_pin else "hole 1 at nought, hole 2 to its right"
        self.summary.setText(
            f"{BOLD}{len(found.holes)} holes{PLAIN}, {sum(reading.used for reading in pattern.readings)}"
            " readings,"
            f" {found.dof} more than are needed, {origin}. {said}"
        )
        try:
            self.preview.show_drawing(pattern_drawing(pattern, d))
        except JobError:
            self.preview.show_drawing(None)
        self.next.setText(self._next_words(found.proposals, d))
        self.next_button.setVisible(bool(found.proposals))
        self._show_readings(pattern, found, d)
        self.holes.fill([(hole.id, self._hole_row(hole, d)) for hole in found.holes], self.holes.chosen_key())
        self._point_fields(pattern)

    def _hole_row(self, h: FoundHole, d: Display) -> tuple[tuple[str, str], ...]:
        return (
            (f"{h.number}, {show(h.hole_mm, 'length', d)}", ""),
            ("not pinned down" if h.free else self._place(h.at, d), ""),
            ("—" if h.free else show(h.plus_minus, "length", d, 2), ">"),
            ("—" if h.free else show(h.slack, "length", d, 2), "fails" if h.slack < 0 else "holds"),
        )

    def _point_fields(self, pattern: Pattern) -> None:
        """Let the fields edit the chosen hole, and the pattern."""
        base = f"survey/patterns/{pattern.id}"
        key = self.holes.chosen_key()
        hole = next((hole for hole in pattern.holes if hole.id == key), None)
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

    def _place(self, at: np.ndarray, d: Any) -> str:
        x, y = (float(c) for c in at)
        return (
            f"{show(abs(x), 'length', d)} {'right' if x >= 0 else 'left'}\n{show(abs(y), 'length', d)}"
            f" {'up' if y >= 0 else 'down'}"
        )

    def new_pattern(self) -> None:
        """A pattern with four holes to begin with."""
        job = self.session.job
        key = free_id("pattern", {pattern.id for pattern in job.survey.patterns})
        made = Pattern(
            id=key,
            name=f"Pattern {len(job.survey.patterns) + 1}",
            holes=tuple(Hole(id=f"hole-{k}") for k in range(1, 5)),
        )
        self.session.edit(f"Added {made.name}", added(job, "survey/patterns", made))
        self.which.setCurrentIndex(self.which.count() - 1)
        self.refresh()

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

    def ask_photo(self) -> None:
        """Ask for a photograph and let the holes be picked on it."""
        path = file_to_open(self, "Photograph of the face", "Photographs (*.jpg *.jpeg *.png)")
        if path is None:
            return
        try:
            image = picture_of(path.name, read_file(path, MOST_PHOTO))
        except JobError as error:
            self.refuse(error.message)
            return
        page = PhotoPage(self, image, self.session.display)
        if page.exec():
            self.add_photographed(path.stem, page.holes, page.plus_minus)

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
        with told_in(self.refusal):
            self.session.edit(
                f"{pattern.name} put on {mount.name}", with_pattern_on(self.session.job, pattern, mount)
            )
            self.refuse("")
            self.session.said.emit(f"{mount.name} has the holes of {pattern.name} now.")

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
        display = self.session.display
        worst = int(like.residuals.argmax()) + 1
        self.likeness.setText(
            f"{other.name} lies {show(like.rms, 'length', display, 2)} off on average; its mirror image"
            f" {show(like.mirrored_rms, 'length', display, 2)}. "
            + (
                "The mirror image fits: one of the two was noted from the other side."
                if like.mirrored
                else f"Worst: hole {worst}."
            )
        )

    def ask_traced(self) -> None:
        """A traced bracket as DXF or SVG."""
        path = file_to_open(self, "Traced outline with holes", "Drawings (*.dxf *.svg)")
        if path is None:
            return
        try:
            self.add_traced(path)
        except ShapeError as error:
            if "does not say its unit" not in str(error):
                return
            unit, taken = QInputDialog.getItem(
                self, "Unit", "The drawing does not say its unit. It is in", ["mm", "inch"], 0, False
            )
            if taken:
                self.add_traced(path, 1.0 if unit == "mm" else 25.4)

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
