"""A scan put in its place: pairs of points, its scale, how it stands."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtWidgets import QComboBox, QLineEdit

from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.survey import scans
from nimble_cradle.survey.network import network
from nimble_cradle.survey.words import point_name
from nimble_cradle.units import UnitError, parse, show


class ScanPlacing(WorkingRoom):
    """The placing of a scan."""

    which: QComboBox
    pairs: list[tuple[np.ndarray, str]]

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
        self.known.setAccessibleName("Known distance between the two picks")
        self.known.setObjectName("known distance")
        self.known.setPlaceholderText("a taped distance, e.g. 850")
        self.known.returnPressed.connect(self.scale)
        self.column.addWidget(row(self.known, button("Put to scale", self.scale, "Enter"), stretch=False))

    def _build_placing(self) -> None:
        self.column.addWidget(part("Place: pairs of a pick and a surveyed point"))
        self.point = ChoiceBox()
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

    @property
    def item_id(self) -> str:
        """The chosen scan's item, or empty."""
        items = scans.scan_items(self.session.job)
        return items[min(max(self.which.currentIndex(), 0), len(items) - 1)].id if items else ""

    def _show_pairs(self) -> None:
        job, display = self.session.job, self.session.display
        net = network(job)
        places = {point.id: point.at for point in net.points}
        known = [(at, key) for at, key in self.pairs if key in places]
        self.table.fill(
            [
                (
                    str(k),
                    (
                        (f"pick {k + 1} is {point_name(job.survey, key)}", ""),
                        (show(float(np.linalg.norm(at - places[key])), "length", display), ">"),
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

    def scale(self) -> None:
        """Put to scale by a taped distance between the last two picks."""
        try:
            two, known = self._two(), parse(self.known.text(), "length", self.session.display)
        except (JobError, UnitError) as error:
            self.refuse(str(error))
            return
        job, key = self.session.job, self.item_id

        def done(room: ScanPlacing, result: tuple[Job, float]) -> None:
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

        def done(room: ScanPlacing, result: Any) -> None:
            """Take it."""
            after, fit = result
            worst = point_name(room.session.job.survey, pairs[fit.worst][1])
            room.pairs = [(fit.points(at), k) for at, k in room.pairs]
            room.session.marks[:] = [fit.points(mark) for mark in room.session.marks]
            room.session.edit(f"Scan placed by {len(pairs)} pairs, {fit.rms:.1f} mm on average", after)
            display = room.session.display
            room.tell(
                f"Placed: {show(fit.rms, 'length', display)} off on average; worst {worst},"
                f" {show(float(fit.residuals.max()), 'length', display)}."
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
