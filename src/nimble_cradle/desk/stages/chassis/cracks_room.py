"""Cracks and rust: where they are, how far their mending has come, what comes next."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QWidget

from nimble_cradle.desk.kit.ask_file import file_to_open
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.photo_limits import picture_of
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, fresh_body, row, stacked, words
from nimble_cradle.files import read_file
from nimble_cradle.job.base import JobError
from nimble_cradle.job.crack import DONE_WORDS, Crack
from nimble_cradle.job.edits import added, free_id, removed, with_value
from nimble_cradle.job.open_job import MOST_PHOTO
from nimble_cradle.judge.cautions import TACKING
from nimble_cradle.judge.cracks import again_on, item_of, mounts_near, next_step
from nimble_cradle.units import show


class CracksRoom(Room):
    """The list, and the chosen one."""

    title, key = "Cracks", "cracks"
    caution = TACKING

    def build(self) -> None:
        """The list, what is added, the chosen one's fields; those are made anew for another one."""
        self.chosen = ""
        self.table = Table(("Crack or rust", "Long", "So far"), most_rows=8, chosen=self._choose)
        self.table.setAccessibleName("Cracks and rust")
        self.where = ChoiceBox()
        self.where.setAccessibleName("What it is in")
        self.said = words("", "")
        self.photo_button = button("Attach a photograph …", self.ask_photo, "JPEG or PNG", "view")
        self.off_button = button("Take it off", self.drop_photo, name="view")
        self.picture = Label()
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._pictured = ""
        self.holder, self.body = QWidget(), QWidget()
        self.inner = stacked(self.holder, self.body)
        self._shown: Any = None
        for widget in (
            self.table,
            row(self.where, button("Add one", self.add, name="view")),
            self.refusal,
            self.said,
            self.holder,
            row(self.photo_button, self.off_button),
            self.picture,
        ):
            self.column.addWidget(widget)

    def _choose(self, key: str) -> None:
        self.chosen = key
        self.refresh()

    def _present(self) -> Crack | None:
        cracks = self.session.job.cracks
        return next((c for c in cracks if c.id == self.chosen), cracks[0] if cracks else None)

    def refresh(self) -> None:
        job, display = self.session.job, self.session.display
        items = [(i.id, i.name) for i in job.items if i.fate != "remove"]
        if [(self.where.itemData(k), self.where.itemText(k)) for k in range(self.where.count())] != items:
            self.where.clear()
            for key, name in items:
                self.where.addItem(name, key)
        self.table.fill(
            [
                (
                    c.id,
                    (
                        (c.name, ""),
                        (show(c.long_mm, "length", display, 0), ">"),
                        (DONE_WORDS[c.done] + _due(c), "holds" if c.done == "sound" else "near"),
                    ),
                )
                for c in job.cracks
            ],
            self.chosen,
        )
        present = self._present()
        self.table.setVisible(present is not None)
        for widget in (self.said, self.holder, self.photo_button, self.off_button):
            widget.setVisible(present is not None)
        if present is None:
            self._shown = None
            self.picture.hide()
            return
        shown = present.id, tuple(items)
        if shown != self._shown:
            self._shown = shown
            self._build_fields(present, items)
        for fields in (self.first, self.more):
            fields.show_part(present, f"cracks/{present.id}", present.name)
        self._tell(present)
        self._show_photo(present)

    def _build_fields(self, crack: Crack, items: list[tuple[str, str]]) -> None:
        self.body, column = fresh_body(self.inner, self.body)
        session, base = self.session, f"cracks/{crack.id}"
        self.first, self.more = DescribedFields(session, first=True), DescribedFields(session)
        place = VectorField(session, "Its middle").at(f"{base}/at", crack.name)
        for widget in (
            self.first,
            ChoiceField(session, "It is in", items).at(f"{base}/item", crack.name),
            place,
            DirectionField(session, "Its run").at(f"{base}/run", crack.name),
            self.more,
            TextField(session, "Welded on, year-month-day").at(f"{base}/welded_on"),
            TextField(session, "Cause").at(f"{base}/cause"),
            TextField(session, "Name of it").at(f"{base}/name"),
            TextField(session, "Note on it").at(f"{base}/note"),
            row(button("Take it out of the list", self.drop, name="view")),
        ):
            column.addWidget(widget)

    def _tell(self, crack: Crack) -> None:
        item = item_of(self.session.job, crack)
        step = next_step(crack, None if item is None else item.host.wall_mm)
        near = [
            f"{name} stands {self._away(away)} it." for name, away in mounts_near(self.session.job, crack)
        ]
        said = f"Next: {step}{_due(crack)}." if step else "Nothing is left to do."
        plate = " Its plate is made under Panels." if crack.done == "dressed" else ""
        self.said.setText(" ".join([said + plate, *near]))

    def _away(self, mm: float) -> str:
        return "right on" if mm < 0.5 else f"{show(mm, 'length', self.session.display, 0)} from"

    def _show_photo(self, crack: Crack) -> None:
        self.off_button.setVisible(bool(crack.photo))
        if crack.photo and crack.photo != self._pictured:
            try:
                data = self.session.place.photo(crack.photo)
                self.picture.setPixmap(QPixmap.fromImage(picture_of(crack.photo, data, 430, 300)))
            except JobError as error:
                self.picture.clear()
                self.refuse(error.message)
        self._pictured = crack.photo
        self.picture.setVisible(bool(crack.photo) and not self.picture.pixmap().isNull())

    def add(self) -> None:
        """One more, to be said where it is."""
        with told_in(self.refusal):
            job = self.session.job
            if not self.where.count():
                raise JobError("Say in the bay what is there first.")
            names = {c.name for c in job.cracks}
            name = next(n for n in ("Crack", *(f"Crack {k}" for k in range(2, 99))) if n not in names)
            key = free_id("crack", {c.id for c in job.cracks})
            crack = Crack(id=key, name=name, item=str(self.where.currentData()))
            self.chosen = key
            self.session.edit(f"Added {name}", added(job, "cracks", crack))

    def drop(self) -> None:
        """Without the chosen one."""
        crack = self._present()
        if crack is not None:
            with told_in(self.refusal):
                self.session.edit(f"Took {crack.name} out", removed(self.session.job, f"cracks/{crack.id}"))

    def ask_photo(self) -> None:
        """Ask for a photograph."""
        if path := file_to_open(self, "Photograph", "Photographs (*.jpg *.jpeg *.png)"):
            self.attach(path)

    def attach(self, path: Path) -> None:
        """Keep a photograph with the chosen one."""
        crack = self._present()
        if crack is None:
            return
        with told_in(self.refusal):
            key = self.session.place.add_photo(path.name, read_file(path, MOST_PHOTO))
            job = with_value(self.session.job, f"cracks/{crack.id}/photo", key)
            self.session.edit(f"{crack.name}: photograph {key}", job)

    def drop_photo(self) -> None:
        """The chosen one without its photograph."""
        crack = self._present()
        if crack is not None and crack.photo:
            self.session.set_value(f"cracks/{crack.id}/photo", "", f"{crack.name}: photograph taken off")


def _due(crack: Crack) -> str:
    """Whether the day to look at it again is there, by today's date."""
    day = again_on(crack)
    late = -1 if day is None else (date.today() - day).days
    if late <= 0:
        return "; due today" if late == 0 else ""
    return f"; {late} {'day' if late == 1 else 'days'} overdue"
