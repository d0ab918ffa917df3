"""What must go from sheets, surfaces and members of the bay, and how far a sheet may be pushed in."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from nimble_cradle.desk.kit.ask_file import file_to_write
from nimble_cradle.desk.kit.preview import Preview
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.table import Table, TableRow
from nimble_cradle.desk.kit.tasks import Outcome
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.files import replace_file, why
from nimble_cradle.fit.cut_lines import BACK, CutLine, cut_line, sheets_of
from nimble_cradle.fit.cut_surface import SurfaceCut, surface_cut, surfaces_of
from nimble_cradle.job.job import Job
from nimble_cradle.judge.gaps import standing_poses
from nimble_cradle.shop.cut_line_template import cut_line_drawing
from nimble_cradle.shop.dxf import dxf
from nimble_cradle.shop.page import Drawing
from nimble_cradle.units import Display, show
from nimble_cradle.workers import Say

CUT_LINES = "cut lines"


def cut_lines_of(job: Job, say: Say) -> tuple[CutLine | SurfaceCut, ...]:
    """Of every flat sheet, and of every other thing of which anything must go. Raises JobError."""
    poses, margin = standing_poses(job), job.setting.cut_margin_mm
    out: list[CutLine | SurfaceCut] = []
    for sheet in sheets_of(job):
        say(f"Looking at {sheet.item.name}")
        out.append(cut_line(job, sheet.item.id, poses, margin))
    for item in surfaces_of(job):
        say(f"Looking at {item.name}")
        found = surface_cut(job, item.id, poses, margin)
        if found.area:
            _ = found.flat  # laid flat here, off the window's way
            out.append(found)
    return tuple(out)


class CutLinesGroup(Room):
    """The sheets with what must go, and the chosen one's line."""

    def __init__(self, session: Session) -> None:
        self.chosen = ""
        self.drawing: Drawing | None = None
        super().__init__(session)
        session.tasks.ended.connect(self._ended)
        session.tasks.told.connect(self._heard)

    def build(self) -> None:
        """Margin, button, table, picture."""
        margin = QuantityField(self.session, "A cut line stays outside of what must go by", "length")
        self.begin_button = button("Work them out", self.begin, "For the engine where it is", "view")
        self.said = words("", "")
        self.table = Table(
            ("Sheet or other", "Must go", "May go in"), most_rows=8, chosen=self._choose, widths=(0, 80, 90)
        )
        self.table.setAccessibleName("Sheets of the bay")
        self.preview = Preview()
        self.why = words("", "")
        self.write_button = button("Write this line as DXF …", self.ask_write, "At 1:1", "view")
        for widget in (
            margin.at("setting/cut_margin_mm", "Cut lines"),
            row(self.begin_button),
            self.said,
            self.refusal,
            self.table,
            self.preview,
            self.why,
            row(self.write_button),
        ):
            self.column.addWidget(widget)

    def begin(self) -> None:
        """Begin to work them out."""
        job = self.session.job
        if self.session.tasks.begin(CUT_LINES, lambda say: cut_lines_of(job, say), job):
            self.refresh()

    def ask_write(self) -> None:
        """Ask where the shown line goes, and write it."""
        if self.drawing is None:
            return
        if path := file_to_write(self, "Cut line", f"{self.drawing.name}.dxf", "DXF (*.dxf)"):
            self.write(path)

    def write(self, path: Path) -> None:
        """Write the shown line as DXF."""
        if self.drawing is None:
            return
        try:
            replace_file(path, dxf(self.drawing).encode())
            self.refuse("")
        except OSError as error:
            self.refuse(f"It could not be written: {why(error)}.")

    def _heard(self, what_for: str, said: str) -> None:
        if what_for == CUT_LINES and not self.gone:
            self.said.setText(f"{said} …")

    def _ended(self, what_for: str, outcome: Any) -> None:
        if what_for != CUT_LINES:
            return
        assert isinstance(outcome, Outcome)
        if not outcome.fault:
            self.session.cut_lines = outcome.then, outcome.result
        if self.gone:
            return
        self.refuse("" if outcome.stopped else outcome.fault)
        self.refresh()
        self.session.selected.emit()

    def _choose(self, key: str) -> None:
        self.chosen = key
        self.refresh()

    def refresh(self) -> None:
        busy = self.session.tasks.running(CUT_LINES)
        self.begin_button.setEnabled(not busy)
        kept = self.session.cut_lines
        lines: tuple[CutLine | SurfaceCut, ...] = (
            kept[1] if kept is not None and kept[0] is self.session.job else ()
        )
        for widget in (self.table, self.preview, self.why, self.write_button):
            widget.setVisible(bool(lines))
        if not lines:
            old = "" if kept is None else "The job has changed since they were worked out."
            self.said.setText("Being worked out …" if busy else old)
            self.said.setVisible(bool(self.said.text()))
            return
        self.said.setVisible(False)
        display = self.session.display
        self.table.fill([_row(line, display) for line in lines], self.chosen)
        cut = [line for line in lines if line.area]
        line = next((k for k in lines if k.item.id == self.chosen), cut[0] if cut else lines[0])
        drawing = self.drawing = cut_line_drawing(line, display)
        self.write_button.setEnabled(bool(line.area))
        self.preview.show_drawing(drawing)
        by = line.by if isinstance(line, CutLine) else ""
        stops = f"Moved towards the engine it is stopped by {by}." if by else ""
        flat = drawing.warnings[1:] if isinstance(line, SurfaceCut) else ()
        self.why.setText(" ".join([*drawing.notes[1:], *flat, stops]))


def _row(line: CutLine | SurfaceCut, display: Display) -> TableRow:
    """What must go of one, and how far a sheet may be pushed in."""
    if not isinstance(line, CutLine):
        may = "–"
    elif line.may is None:
        may = f"over {show(BACK, 'length', display, 0)}"
    else:
        may = show(line.may, "length", display, 0)
    must = (f"{line.area / 100:.0f} cm²", "near") if line.area else ("nothing", ">")
    return line.item.id, ((line.item.name, ""), must, (may, ">"))
