"""Shop pack: templates seen as they will print, the cut list, and one button that writes it all."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QFileDialog, QProgressBar

from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.preview import Preview
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.tasks import Outcome
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.judge.stages import NOT_APPROVED, caution
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.shop.pack import write_pack
from nimble_cradle.shop.page import Drawing
from nimble_cradle.shop.templates import templates
from nimble_cradle.shop.tiles import tiles

PACK = "shop pack"
"""What the writing of the pack is for."""


class PackSheet(Sheet):
    """What leaves the screen."""

    stage, title = "pack", "Shop pack: to the bench"

    def build(self) -> None:
        self.caution.setText(f"{NOT_APPROVED} {caution(self.stage)}")
        self.paper = ChoiceBox()
        self.paper.setAccessibleName("Paper")
        self.paper.addItems(["A4", "Letter"])
        self.paper.currentIndexChanged.connect(self.refresh)
        self.write_button = button(
            "Write the shop pack …", self.ask, "PDF at 1:1, DXF, SVG, cut list, report", "main"
        )
        self.stop_button = button("Stop", self.stop)
        self.stop_button.hide()
        self.column.addWidget(row(self.write_button, self.stop_button, Label("Paper"), self.paper))
        self.progress = QProgressBar()
        self.progress.setRange(0, 0)
        self.progress.hide()
        self.column.addWidget(self.progress)
        self.answer = words()
        self.answer.hide()
        self.column.addWidget(self.answer)
        with self.two_sides():
            self._build_templates()
            self.right_side()
            self._build_cut_list()
        self.drawings: tuple[Drawing, ...] = ()
        self.chosen = ""
        self.session.tasks.told.connect(self._told)
        self.session.tasks.ended.connect(self._ended)

    def _build_templates(self) -> None:
        self.column.addWidget(part("Templates"))
        self.table = Table(("Template", "Sheets"), most_rows=4, chosen=self._choose)
        self.table.setAccessibleName("Templates")
        self.column.addWidget(self.table)
        self.preview = Preview()
        self.column.addWidget(self.preview)
        self.notes = words()
        self.column.addWidget(self.notes)

    def _build_cut_list(self) -> None:
        self.column.addWidget(part("Cut list"))
        self.cut = Table(("Part and stock", "No.", "Size, mm"), most_rows=5, row_height=42)
        self.cut.setAccessibleName("Cut list")
        self.column.addWidget(self.cut)

    def refresh(self) -> None:
        self.drawings, refused = templates(self.session.job)
        paper: Any = self.paper.currentText()
        names = [d.name for d in self.drawings]
        if self.chosen not in names:
            self.chosen = names[0] if names else ""
        self.table.fill(
            [(d.name, ((d.title, ""), (f"{len(tiles(d, paper))}", ">"))) for d in self.drawings], self.chosen
        )
        drawing = next((d for d in self.drawings if d.name == self.chosen), None)
        self.preview.show_drawing(drawing)
        said = [*(drawing.warnings if drawing else ()), *(drawing.notes if drawing else ())]
        self.notes.setText("\n".join([*said, *(f"Not drawn: {e.message}" for e in refused)]))
        self.cut.fill(
            [
                (r.part, ((f"{r.part}\n{r.stock}", ""), (f"{r.quantity}", ">"), (r.size, ">")))
                for r in cut_list(self.session.job, self.session.rack)
            ]
        )
        self.write_button.setEnabled(bool(self.drawings) and not self.session.tasks.running(PACK))

    def _choose(self, key: str) -> None:
        if key != self.chosen:
            self.chosen = key
            self.refresh()

    def ask(self) -> None:
        """Ask where, then write."""
        start = str(self.session.place.path.with_suffix("").with_name(self.session.place.path.stem + "-pack"))
        name = QFileDialog.getExistingDirectory(self, "Folder for the shop pack", str(Path(start).parent))
        if name:
            self.write(Path(name) / Path(start).name)

    def write(self, folder: Path) -> None:
        """Write the pack into ``folder`` on another thread."""
        job, rack = self.session.job, self.session.rack
        paper: Any = self.paper.currentText()
        if self.session.tasks.begin(PACK, lambda say: write_pack(job, folder, paper, say, rack), folder):
            self._busy(True)
            self.write_button.setEnabled(False)

    def _told(self, what_for: str, sentence: str) -> None:
        if what_for == PACK:
            self.tell(sentence)

    def tell(self, sentence: str) -> None:
        """What was done, or is being done."""
        self.answer.setText(sentence)
        self.answer.setVisible(bool(sentence))

    def stop(self) -> None:
        """Stop the writing at the next step."""
        self.session.tasks.stop(PACK)

    def _busy(self, busy: bool) -> None:
        self.progress.setVisible(busy)
        self.stop_button.setVisible(busy)

    def _ended(self, what_for: str, outcome: Outcome) -> None:
        if what_for != PACK:
            return
        self._busy(False)
        if outcome.stopped and outcome.result is None:
            self.tell("Stopped; nothing was written.")
        else:
            self.tell(outcome.fault or f"{len(outcome.result)} files written to {outcome.then}.")
        self.refresh()


SHEET = PackSheet
