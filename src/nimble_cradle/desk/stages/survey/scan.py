"""Scans: brought in with their unit asked, put to scale, placed by pairs, refined, cropped, split,
thinned."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtWidgets import QComboBox, QFileDialog, QInputDialog, QLineEdit

from nimble_cradle.desk.kit.label import BOLD, PLAIN, plain
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.rooms import offer
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.files import open_to_read, read_file
from nimble_cradle.geometry.mesh import KINDS, unit_said
from nimble_cradle.geometry.scan import UNITS
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.read_archive import MOST_FILE
from nimble_cradle.survey import scans
from nimble_cradle.survey.network import network
from nimble_cradle.survey.words import point_name
from nimble_cradle.units import UnitError, parse, show

ROUND = 15.0
"""The box between two picks is grown by this all round, mm, so that two picks on one face span something."""


class ScanRoom(WorkingRoom):
    """One scan at a time. Picks are made in the picture; pairs wait here until the scan is placed by them."""

    title, key = "Scans", "scans"

    def build(self) -> None:
        self._build_choice()
        self._build_pairs()
        self._build_scale()
        self._build_placing()
        self._build_refining()
        self._build_thinning()

    def _build_choice(self) -> None:
        s = self.session
        self.pairs: list[tuple[np.ndarray, str]] = []
        self.which = QComboBox()
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
        self.doubt = QuantityField(s, "Scan good to, give or take", "length")
        self.column.addWidget(self.doubt)

    def _build_pairs(self) -> None:
        self.column.addWidget(part("Picked points"))
        self.picks = words()
        self.column.addWidget(
            row(
                button("Pick on the scan", self.pick, "Then click on it in the picture"),
                button("Forget them", self.forget, name="view"),
                self.picks,
                stretch=False,
            )
        )

    def _build_scale(self) -> None:
        self.column.addWidget(part("Scale: the last two picks are really this far apart"))
        self.known = QLineEdit()
        self.known.setObjectName("known distance")
        self.known.setPlaceholderText("a taped distance, e.g. 850")
        self.known.returnPressed.connect(self.scale)
        self.column.addWidget(row(self.known, button("Put to scale", self.scale, "Enter"), stretch=False))

    def _build_placing(self) -> None:
        self.column.addWidget(part("Place: pairs of a pick and a surveyed point"))
        self.point = QComboBox()
        self.point.setAccessibleName("surveyed point")
        self.column.addWidget(
            row(self.point, button("The last pick is this point", self.pair), stretch=False)
        )
        self.table = Table(("Pair", "Off by"), most_rows=5, widths=(0, 110))
        self.table.setAccessibleName("Pairs")
        self.column.addWidget(self.table)
        self.column.addWidget(
            row(
                button("Place it by the pairs", self.place, "Three or more"),
                button("It stands right already", self.stands, name="view"),
                button("Take the pair out", self.unpair, name="view"),
            )
        )

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
        s = self.session
        self.column.addWidget(part("Cut down: the box between the last two picks, 15 mm round them"))
        self.column.addWidget(
            row(
                button("Keep only that", lambda: self.crop(True), name="view"),
                button("Take that away", lambda: self.crop(False), name="view"),
                button("Split it off", self.split, "As an item of its own", "view"),
            )
        )
        self.deviation = QLineEdit("0.5")
        self.deviation.setObjectName("deviation")
        self.deviation.setMaximumWidth(120)
        self.column.addWidget(
            row(words("Thin out within", ""), self.deviation, button("Thin out", self.thin), stretch=False)
        )
        s.picked.connect(self._picked)

    @property
    def item_id(self) -> str:
        """The chosen scan's item, or empty."""
        items = scans.scan_items(self.session.job)
        return items[min(max(self.which.currentIndex(), 0), len(items) - 1)].id if items else ""

    def refresh(self) -> None:
        """The chosen scan as it is."""
        job, d = self.session.job, self.session.display
        offer(self.which, [i.name for i in scans.scan_items(job)])
        offer(self.point, [point_name(job.survey, p.id) for p in job.survey.points])
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
                    show(float(c), "length", d, 0) for c in np.ptp(found.placed.vertices, axis=0)
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
            self.doubt.at(f"items/{key}/plus_minus_mm", job.items[[i.id for i in job.items].index(key)].name)
        marks = self.session.marks
        apart = (
            f", the last two {show(float(np.linalg.norm(marks[-1] - marks[-2])), 'length', d)} apart"
            if len(marks) > 1
            else ""
        )
        self.picks.setText(f"{len(marks)} picked{apart}" if marks else "none yet")
        self._show_pairs()

    def _show_pairs(self) -> None:
        job, d = self.session.job, self.session.display
        net = network(job)
        places = {p.id: p.at for p in net.points}
        known = [(at, key) for at, key in self.pairs if key in places]
        self.table.fill(
            [
                (
                    str(k),
                    (
                        (f"pick {k + 1} is {point_name(job.survey, key)}", ""),
                        (show(float(np.linalg.norm(at - places[key])), "length", d), ">"),
                    ),
                )
                for k, (at, key) in enumerate(known)
            ],
            self.table.chosen_key(),
        )

    def _chosen(self) -> None:
        self.forget()
        self.session.select("item", self.item_id)
        self.refresh()

    def ask(self) -> None:
        """Ask for a file and its unit, then read it off the interface's thread."""
        kinds = " ".join(f"*.{k}" for k in KINDS)
        name, _ = QFileDialog.getOpenFileName(self, "Scan", "", f"Meshes ({kinds})")
        if not name:
            return
        path = Path(name)
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

    def pick(self) -> None:
        """The next click in the picture is a pick."""
        if not self.item_id:
            self.refuse("Bring in a scan first.")
            return
        self.refuse("")
        self.session.picking = self.item_id
        self.session.said.emit("Click on the scan in the picture; Esc leaves it.")

    def _picked(self, point: Any, key: str) -> None:
        if not self.isVisible():
            return
        if key != self.item_id:
            self.refuse("That was not the scan: click on the scan itself.")
            return
        self.refuse("")
        self.session.marks.append(np.asarray(point))
        self.session.picking = ""
        self.session.selected.emit()
        self.refresh()

    def forget(self) -> None:
        """No picks and no pairs."""
        self.session.marks.clear()
        self.pairs.clear()
        self.session.selected.emit()
        self.refresh()

    def _two(self) -> tuple[np.ndarray, np.ndarray]:
        if len(self.session.marks) < 2:
            raise JobError("Pick two points on the scan first.")
        return self.session.marks[-2], self.session.marks[-1]

    def _box(self) -> tuple[np.ndarray, np.ndarray]:
        a, b = self._two()
        return np.minimum(a, b) - ROUND, np.maximum(a, b) + ROUND

    def scale(self) -> None:
        """Put to scale by a taped distance between the last two picks."""
        try:
            two, known = self._two(), parse(self.known.text(), "length", self.session.display)
        except (JobError, UnitError) as error:
            self.refuse(str(error))
            return
        job, key = self.session.job, self.item_id

        def done(room: ScanRoom, result: tuple[Job, float]) -> None:
            """Take it; the second pick goes with the scan."""
            after, factor = result
            room.session.marks[-1:] = [two[0] + factor * (two[1] - two[0])]
            room.pairs.clear()
            room.session.edit(f"Scan put to scale: times {factor:.5f}", after)
            room.tell(
                f"It was {abs(factor - 1) * 100:.2f} % too {'small' if factor > 1 else 'large'}; that is put"
                " right."
            )
            room.refresh()

        self.run(lambda _: scans.scaled(job, key, two, known), done)

    def pair(self) -> None:
        """The last pick is the chosen surveyed point."""
        points = self.session.job.survey.points
        if not self.session.marks or not points:
            self.refuse("Pick a point on the scan, and have surveyed points to lay it on.")
            return
        self.pairs.append((self.session.marks[-1], points[self.point.currentIndex()].id))
        self.refuse("")
        self.refresh()

    def unpair(self) -> None:
        """Take the chosen pair out."""
        key = self.table.chosen_key()
        if key:
            del self.pairs[int(key)]
            self.refresh()

    def place(self) -> None:
        """Lay the scan on the pairs."""
        try:
            net = network(self.session.job)
            loose = [key for _, key in self.pairs if net.point(key).free]
            if loose:
                raise JobError(f"{net.point(loose[0]).name} is not pinned down yet.")
            job, key = self.session.job, self.item_id
            pairs = tuple(self.pairs)
            picked, known = [at for at, _ in pairs], [net.point(k).at for _, k in pairs]
        except JobError as error:
            self.refuse(error.message)
            return
        except KeyError:
            self.refuse("A point of the pairs is no longer in the survey: take that pair out.")
            return

        def done(room: ScanRoom, result: Any) -> None:
            """Take it."""
            after, fit = result
            worst = point_name(room.session.job.survey, pairs[fit.worst][1])
            room.pairs = [(fit.points(at), k) for at, k in room.pairs]
            room.session.marks[:] = [fit.points(m) for m in room.session.marks]
            room.session.edit(f"Scan placed by {len(pairs)} pairs, {fit.rms:.1f} mm on average", after)
            d = room.session.display
            room.tell(
                f"Placed: {show(fit.rms, 'length', d)} off on average; worst {worst},"
                f" {show(float(fit.residuals.max()), 'length', d)}."
            )
            room.refresh()

        self.run(lambda _: scans.place(job, key, picked, known), done)

    def stands(self) -> None:
        """The scan came in the datum's own frame."""
        job, key = self.session.job, self.item_id
        self.run(
            lambda _: (scans.with_pose(job, key, scans.scan_of(job, key).pose),),
            lambda room, result: room.session.edit("Scan stands in its place as it came", result[0]),
        )

    def refine(self, between: bool) -> None:
        """Lay it more closely on the other items."""
        try:
            region = self._box() if between else None
            job, key, d = self.session.job, self.item_id, self.session.display
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
                f"{show(fine.rms, 'length', d, 2)} off on average over the nearest {100 * fine.kept:.0f} % of"
                f" it; at most {show(fine.worst, 'length', d, 2)} there."
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
            half, most, share = scans.off_figures(off, next(i for i in job.items if i.id == key).give_or_take)
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
