"""Scans: brought in with their unit asked, put to scale, placed by pairs, refined, cropped, split,
thinned."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtWidgets import QInputDialog, QLineEdit

from nimble_cradle.desk.kit.ask_file import file_to_open
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.label import BOLD, PLAIN, plain
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.rooms import offer
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.survey.scan_placing import ScanPlacing
from nimble_cradle.files import open_to_read, read_file
from nimble_cradle.geometry.mesh import KINDS, unit_said
from nimble_cradle.geometry.scan import UNITS
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.read_archive import MOST_FILE
from nimble_cradle.survey import scans
from nimble_cradle.survey.words import point_name
from nimble_cradle.units import UnitError, parse, show

ROUND = 15.0
"""The box between two picks is grown by this all round, mm, so that two picks on one face span something."""


class ScanRoom(ScanPlacing):
    """One scan at a time. Picks are made in the picture; pairs wait here until the scan is placed by them."""

    title, key = "Scans", "scans"
    caution = ""

    def build(self) -> None:
        self._build_choice()
        self._build_pairs()
        self._build_scale()
        self._build_placing()
        self._build_refining()
        self._build_thinning()

    def _build_choice(self) -> None:
        session = self.session
        self.pairs = []
        self.which = ChoiceBox()
        self.which.setAccessibleName("scan")
        self.which.activated.connect(lambda _: self._chosen())
        self.column.addWidget(
            row(
                self.which,
                button("Bring in a scan …", self.ask, "STL, OBJ, PLY, OFF, GLB, 3MF"),
                stretch=False,
            )
        )
        self.summary = words("", "")
        self.column.addWidget(self.summary)
        self.add_progress()
        self.column.addWidget(self.refusal)
        self.doubt = QuantityField(session, "Scan good to, give or take", "length")
        self.column.addWidget(self.doubt)

    def _build_refining(self) -> None:
        self.column.addWidget(part("Refine on what is taped"))
        self.column.addWidget(
            row(
                button("Refine everywhere", lambda: self.refine(False)),
                button("Refine between the two picks", lambda: self.refine(True), "The box that they span"),
            )
        )
        self.column.addWidget(
            row(
                button(
                    "Show how far it is off",
                    self.show_map,
                    "Colour and pattern by distance to the other items",
                    "view",
                ),
                button("Plain again", self.hide_map, name="view"),
            )
        )

    def _build_thinning(self) -> None:
        session = self.session
        self.column.addWidget(part("Cut down: the box between the last two picks, 15 mm round them"))
        self.column.addWidget(
            row(
                button("Keep only that", lambda: self.crop(True), name="view"),
                button("Take that away", lambda: self.crop(False), name="view"),
                button("Split it off", self.split, "As an item of its own", "view"),
            )
        )
        self.deviation = QLineEdit("0.5")
        self.deviation.setAccessibleName("Thin out within, mm")
        self.deviation.setObjectName("deviation")
        self.deviation.setMaximumWidth(120)
        self.column.addWidget(
            row(words("Thin out within", ""), self.deviation, button("Thin out", self.thin), stretch=False)
        )
        session.picked.connect(self._picked)

    def refresh(self) -> None:
        """The chosen scan as it is."""
        job, display = self.session.job, self.session.display
        offer(self.which, [i.name for i in scans.scan_items(job)])
        offer(self.point, [point_name(job.survey, point.id) for point in job.survey.points])
        key = self.item_id
        self.doubt.setVisible(bool(key))
        if not key:
            self.summary.setText(
                "Walk round the bay with the scanner, bring the mesh in here, and say its unit. Then put it"
                " to scale by one taped distance: a scan is a picture until it is measured."
            )
        else:
            try:
                found = scans.scan_of(job, key)
                size = " × ".join(
                    show(float(c), "length", display, 0) for c in np.ptp(found.placed.vertices, axis=0)
                )
                note = (
                    f" {found.item.note[0].upper()}{found.item.note[1:].rstrip('.')}."
                    if found.item.note
                    else ""
                )
                self.summary.setText(
                    f"{BOLD}{found.item.name}{PLAIN}: {len(found.scan.faces):,} triangles, {size}.{note}"
                )
            except JobError as error:
                self.summary.setText(error.message)
            self.doubt.at(
                f"items/{key}/plus_minus_mm", job.items[[item.id for item in job.items].index(key)].name
            )
        marks = self.session.marks
        apart = (
            f", the last two {show(float(np.linalg.norm(marks[-1] - marks[-2])), 'length', display)} apart"
            if len(marks) > 1
            else ""
        )
        self.picks.setText(f"{len(marks)} picked{apart}" if marks else "none yet")
        self._show_pairs()

    def ask(self) -> None:
        """Ask for a file and its unit, then read it off the interface's thread."""
        kinds = " ".join(f"*.{k}" for k in KINDS)
        path = file_to_open(self, "Scan", f"Meshes ({kinds})")
        if path is None:
            return
        try:
            with open_to_read(path) as stream:
                head = stream.read(MOST_FILE if path.suffix.lower() == ".3mf" else 200)
        except JobError as error:
            self.refuse(error.message)
            return
        said = unit_said(path.name, head)
        units = list(UNITS)
        hint = f"{path.name} says it is in {said}." if said else f"{path.name} does not say its unit."
        unit, taken = QInputDialog.getItem(
            self,
            "Unit of the scan",
            plain(f"{hint} It is in"),
            units,
            units.index(said) if said else 0,
            False,
        )
        if taken:
            self.bring(path, unit)

    def bring(self, path: Path, unit: str) -> None:
        """Read a scan in the unit that was said."""
        job = self.session.job

        def work(say: Callable[[str], None]) -> Any:
            """Read, put right, and add; the job of the moment is looked at again when it is done."""
            say(f"Reading {path.name}")
            data = read_file(path, MOST_FILE)
            scan = scans.read_scan(path.name, data, unit, say)
            say(f"Putting {len(scan.faces):,} triangles in the job")
            after, key = scans.with_scan(job, path.name, scan)
            scans.ready(after, key)
            return after, key

        def done(room: ScanRoom, result: tuple[Job, str]) -> None:
            """Take it."""
            after, key = result
            room.session.edit(f"Brought in the scan {path.name}, in {unit}", after)
            room.which.setCurrentIndex(room.which.count() - 1)
            room.refresh()
            room.session.select("item", key)
            room.tell("It is in. Put it to scale by a taped distance, then place it by three points or more.")

        self.run(work, done)

    def _box(self) -> tuple[np.ndarray, np.ndarray]:
        a, b = self._two()
        return np.minimum(a, b) - ROUND, np.maximum(a, b) + ROUND

    def refine(self, between: bool) -> None:
        """Lay it more closely on the other items."""
        try:
            region = self._box() if between else None
            job, key, display = self.session.job, self.item_id, self.session.display
            scans.scan_of(job, key)
        except JobError as error:
            self.refuse(error.message)
            return

        def work(say: Callable[[str], None]) -> Any:
            """The refinement."""
            say("Laying the scan on the taped items")
            return scans.refined(job, key, region)

        def done(room: ScanRoom, result: Any) -> None:
            """Take it."""
            after, fine = result
            room.session.edit(
                f"Scan refined on the taped items: {fine.rms:.2f} mm rms over {100 * fine.kept:.0f} % of it",
                after,
            )
            room.tell(
                f"{show(fine.rms, 'length', display, 2)} off on average over the nearest"
                f" {100 * fine.kept:.0f} % of"
                f" it; at most {show(fine.worst, 'length', display, 2)} there."
                + (f" Not held against {', '.join(fine.loose)}." if fine.loose else "")
            )

        self.run(work, done)

    def show_map(self) -> None:
        """Colour and pattern by how far the scan is off."""
        job, key = self.session.job, self.item_id

        def work(say: Callable[[str], None]) -> Any:
            """Distances."""
            say("Measuring how far it is off")
            scans.scan_of(job, key)
            return scans.off_by(job, key)

        def done(room: ScanRoom, off: Any) -> None:
            """Show them, and their figures."""
            room.session.scan_map = (key, off, job)
            room.session.selected.emit()
            half, most, share = scans.off_figures(
                off, next(item for item in job.items if item.id == key).give_or_take
            )
            near, far = (show(v, "length", room.session.display) for v in (half, most))
            room.tell(
                f"Half of what lies near taped items is within {near}, nine tenths within {far};"
                f" {100 * share:.0f} % of the scan is within its give-or-take (green, plain), up to twice"
                " that is amber with edges, more is red dots; grey has nothing taped near it."
            )

        self.run(work, done)

    def hide_map(self) -> None:
        """The scan in its own colour again."""
        self.session.scan_map = None
        self.session.selected.emit()

    def crop(self, inside: bool) -> None:
        """Keep or take away the box between the picks."""
        self._cut(
            lambda job, key, box: (scans.with_crop(job, key, box, inside),),
            "Scan cropped" if inside else "Part of the scan taken away",
        )

    def split(self) -> None:
        """The box between the picks becomes an item of its own."""

        def named(room: ScanRoom, result: Any) -> None:
            """Say where it is."""
            room.tell("It is an item of its own now: name it on Bay.")
            room.session.select("item", result[1])

        self._cut(scans.with_split, "Split off a part of the scan", named)

    def _cut(
        self,
        work: Callable[[Job, str, Any], Any],
        what: str,
        then: Callable[[ScanRoom, Any], None] | None = None,
    ) -> None:
        try:
            box = self._box()
        except JobError as error:
            self.refuse(error.message)
            return
        job, key = self.session.job, self.item_id

        def done(room: ScanRoom, result: Any) -> None:
            """Take it."""
            room.session.edit(what, result[0])
            if then is not None:
                then(room, result)

        self.run(lambda _: work(job, key, box), done)

    def thin(self) -> None:
        """Thin out within a stated deviation."""
        try:
            deviation = parse(self.deviation.text(), "length", self.session.display)
            if deviation <= 0:
                raise UnitError("The deviation must be more than nought.")
            job, key = self.session.job, self.item_id
            before = len(scans.scan_of(job, key).scan.faces)
        except (UnitError, JobError) as error:
            self.refuse(str(error))
            return

        def done(room: ScanRoom, result: Any) -> None:
            """Take it."""
            after, count, worst = result
            room.session.edit(
                f"Scan thinned out from {before:,} to {count:,} triangles within {worst:.2f} mm", after
            )
            room.tell(
                f"{before:,} triangles became {count:,}; every old point is within"
                f" {show(worst, 'length', room.session.display, 2)} of the new surface."
            )

        self.run(lambda say: scans.with_thinning(job, key, deviation, say), done)
