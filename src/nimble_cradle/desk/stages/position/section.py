"""The bay cut open: a section drawn as it prints, at any station or through a gap."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QLineEdit

from nimble_cradle.desk.kit.ask_file import file_to_write
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, UP, parse_with_way, show_with_way
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.position.section_picture import SectionPicture
from nimble_cradle.files import replace_file, why
from nimble_cradle.fit.section import Across, BaySection, plane_at, plane_through, section, station_words
from nimble_cradle.job.base import JobError
from nimble_cradle.shop.dxf import dxf
from nimble_cradle.shop.section_sheet import section_drawing, section_pdf
from nimble_cradle.units import UnitError, show

_WAYS = {"across": FORWARD, "along": LEFT, "level": UP}


class SectionRoom(Room):
    """Cut it open."""

    title, key = "Section", "section"
    caution = ""
    waits = True

    def build(self) -> None:
        """Where it is cut, the picture, the files."""
        self._build_choice()
        self._build_picture()

    def _build_choice(self) -> None:
        self.which: Across = "across"
        self.station = 0.0
        self.gap_key = ""
        self.line = QLineEdit()
        self.line.setAccessibleName("Where the bay is cut")
        self.line.setObjectName("section/station")
        self.line.setMaximumWidth(150)
        self.line.editingFinished.connect(self._typed)
        choices: tuple[tuple[str, Across], ...] = (
            ("Across", "across"),
            ("Along", "along"),
            ("Level", "level"),
        )
        ways = [button(text, partial(self.turn, w), name="view") for text, w in choices]
        self.column.addWidget(
            row(
                *ways,
                self.line,
                button("−", lambda: self.step(-10), "10 mm", "view"),
                button("+", lambda: self.step(10), "10 mm", "view"),
            )
        )
        self.column.addWidget(
            row(
                button("Through the tightest gap", lambda: self.through(""), name="view"),
                button(
                    "Through the chosen gap", self.through_chosen, "Choose a gap in the picture first", "view"
                ),
            )
        )
        self.said = words("", "")
        self.column.addWidget(self.said)
        self.column.addWidget(self.refusal)

    def _build_picture(self) -> None:
        self.picture = SectionPicture()
        self.column.addWidget(self.picture)
        self.key_words = words("")
        self.column.addWidget(self.key_words)
        self.column.addWidget(
            row(
                button("Print as PDF …", lambda: self.ask(".pdf")),
                button("Write as DXF …", lambda: self.ask(".dxf")),
            )
        )
        self.cut: BaySection | None = None
        self.through("")

    def turn(self, which: Across) -> None:
        """Cut the other way, through the middle of the engine."""
        place = self.session.job.position
        stations = {"across": place.x + 150.0, "along": place.y, "level": place.z}
        self.which, self.gap_key = which, "-"
        self.station = stations[which]
        self.refresh()

    def step(self, by: float) -> None:
        """Move the cut."""
        self.gap_key = "-"
        self.station += by
        self.refresh()

    def through(self, key: str) -> None:
        """Cut through a gap (``piece/item``), or the tightest."""
        gaps = [gap for gap in self.session.verdict.gaps if not key or f"{gap.piece}/{gap.item}" == key]
        self.gap_key = key
        if gaps:
            plane, self.which = plane_through(gaps[0])
            self.station = float(plane.origin @ plane.axes[:, 2])
        self.refresh()

    def through_chosen(self) -> None:
        """Cut through the chosen gap."""
        gap = self.session.chosen_gap()
        if gap is None:
            self.refuse("Choose a gap first: G steps through them, or click its tag.")
        else:
            self.through(f"{gap.piece}/{gap.item}")

    def _typed(self) -> None:
        if not self.line.isModified():
            return
        try:
            self.station = parse_with_way(
                self.line.text(), "length", self.session.display, _WAYS[self.which], self.station
            )
            self.gap_key = "-"
            self.line.setModified(False)
            self.refresh()
        except UnitError as error:
            self.refuse(str(error))

    def refresh(self) -> None:
        """Cut the present job."""
        display = self.session.display
        if not self.line.isModified():
            self.line.setText(show_with_way(self.station, "length", display, _WAYS[self.which], None))
        title = station_words(self.which, self.station)
        poses = (
            [
                (case.case.name, case.pose)
                for case in self.session.verdict.carried.cases
                if case.case.id in ("bump", "rebound")
            ]
            if self.session.verdict.carried is not None
            else []
        )
        try:
            self.cut = section(
                self.session.job,
                plane_at(self.which, self.station),
                title,
                self.session.verdict.gaps,
                poses[:2],
            )
            self.refuse("")
        except JobError as error:
            self.cut = None
            self.refuse(error.message)
        self.said.setText(f"{BOLD}Section {title}.{PLAIN}")
        dimensions = self.cut.dimensions if self.cut is not None else ()
        self.picture.show_section(
            self.cut,
            [
                f"{k + 1}: {show(dimension.gap.gap, 'length', display)}"
                for k, dimension in enumerate(dimensions)
            ],
        )
        self.key_words.setText(
            "  ".join(
                f"{k + 1}: {dimension.gap.piece_name} – {dimension.gap.item_name} : {dimension.gap.state}."
                for k, dimension in enumerate(dimensions)
            )
            or "No gap under 60 mm lies in this plane."
        )

    def ask(self, ending: str) -> None:
        """Ask for a name and write."""
        first = self.session.place.path.with_suffix(f".section{ending}")
        if path := file_to_write(self, "Section", first, f"*{ending}", ending):
            self.write(path)

    def write(self, path: Path) -> None:
        """Write the section by the file's ending."""
        if self.cut is None:
            self.refuse("There is nothing to write: the cut goes past everything.")
            return
        job = self.session.job
        try:
            replace_file(
                path,
                (
                    section_pdf(job, self.cut)
                    if path.suffix == ".pdf"
                    else dxf(section_drawing(job, self.cut)).encode()
                ),
            )
            self.session.said.emit(f"Written: {path.name}")
        except OSError as error:
            self.refuse(f"It could not be written: {why(error)}.")
