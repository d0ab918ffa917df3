"""Adjustable rods: a fold each, with what a turn does and how far each can be set."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from nimble_cradle.desk.kit.ask_file import file_to_write
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.fields import TextField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, row
from nimble_cradle.files import replace_file, why
from nimble_cradle.job.adjustable_rod import AdjustableRod
from nimble_cradle.job.edits import added, free_id, removed
from nimble_cradle.judge.cautions import PIVOTS
from nimble_cradle.judge.rods import buckles_at, setting_of
from nimble_cradle.shop.rod_sheet import rods_pdf
from nimble_cradle.units import show


class RodsRoom(Room):
    """All rods; made anew when there is one more or less."""

    title, key = "Rods", "rods"
    caution = PIVOTS

    def build(self) -> None:
        """A group for each."""
        self.sheet = button(
            "Setting sheet …", self.ask_print, "Every rod on paper, with lines to write on", "view"
        )
        self.column.addWidget(row(button("Add a rod", self.add, name="view"), self.sheet))
        self.column.addWidget(self.refusal)
        self.groups = {rod.id: self._group(rod) for rod in self.session.job.rods}

    def _group(self, rod: AdjustableRod) -> tuple[Table, DescribedFields, DescribedFields]:
        base = f"rods/{rod.id}"
        with self.folded(rod.name, open_first=True):
            first = DescribedFields(self.session, first=True)
            table = Table(("As it is set", ""), most_rows=8)
            table.setAccessibleName(f"How {rod.name} is set")
            self.column.addWidget(first)
            self.column.addWidget(table)
        with self.folded(f"{rod.name}: thread, rod ends, body"):
            more = DescribedFields(self.session)
            self.column.addWidget(more)
            self.column.addWidget(TextField(self.session, "Name of the rod").at(f"{base}/name"))
            self.column.addWidget(TextField(self.session, "Note on the rod").at(f"{base}/note"))
            self.column.addWidget(row(button("Take this rod out", partial(self.drop, rod.id), name="view")))
        return table, first, more

    def refresh(self) -> None:
        self.sheet.setVisible(bool(self.session.job.rods))
        display = self.session.display
        for rod in self.session.job.rods:
            if rod.id not in self.groups:
                continue
            table, first, more = self.groups[rod.id]
            first.show_part(rod, f"rods/{rod.id}", rod.name)
            more.show_part(rod, f"rods/{rod.id}", rod.name)
            s = setting_of(rod)
            carries, what = buckles_at(rod)
            turn = show(s.turn, "length", display, 2) if s.turn else "nothing"
            fine = s.engaged >= s.need - 1e-9
            rows = (
                ("turn", "A whole turn of it changes", turn, ">"),
                (
                    "engaged",
                    "Thread in the body, each end",
                    f"{show(s.engaged, 'length', display, 1)} of {show(s.need, 'length', display, 1)}",
                    "holds" if fine else "fails",
                ),
                ("short", "Shortest", show(s.shortest, "length", display, 1), ">"),
                ("in", "Turns to there", f"{s.turns_in:.1f}", ">"),
                ("long", "Longest", show(s.longest, "length", display, 1), ">"),
                ("out", "Turns to there, out", f"{s.turns_out:.1f}", ">"),
                ("buckles", f"Its {what} buckles at", show(1000 * carries, "force", display), ">"),
            )
            table.fill([(key, ((word, ""), (told, look))) for key, word, told, look in rows])

    def ask_print(self) -> None:
        """Ask for a file and print."""
        first = self.session.place.path.with_suffix(".rods.pdf")
        if path := file_to_write(self, "Setting of the rods as PDF", first, "PDF (*.pdf)"):
            self.print_to(path)

    def print_to(self, path: Path) -> None:
        """Write the sheet."""
        try:
            replace_file(path, rods_pdf(self.session.job))
            self.session.said.emit(f"Written: {path.name}")
        except OSError as error:
            self.refuse(f"It could not be written: {why(error)}.")

    def add(self) -> None:
        """One more, to be set right."""
        with told_in(self.refusal):
            job = self.session.job
            key = free_id("rod", {rod.id for rod in job.rods})
            names = {rod.name for rod in job.rods}
            name = next(n for n in ("Tie rod", *(f"Rod {k}" for k in range(2, 99))) if n not in names)
            self.session.edit(f"Added {name}", added(job, "rods", AdjustableRod(id=key, name=name)))

    def drop(self, key: str) -> None:
        """Without one."""
        with told_in(self.refusal):
            self.session.edit("Took a rod out", removed(self.session.job, f"rods/{key}"))
