"""Datums and records: temporary datums, the datum fitted to points, readings as CSV, the printed sheet,
photographs, a practice gauge."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QLineEdit

from nimble_cradle.desk.kit.ask_file import file_to_open, file_to_write
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.photo_limits import picture_of
from nimble_cradle.desk.kit.rooms import Room, offer, sentence_of
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.files import read_file, read_text, replace_file, why
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, removed, with_value
from nimble_cradle.job.open_job import MOST_PHOTO
from nimble_cradle.job.survey import DatumFit, TemporaryDatum
from nimble_cradle.shop.survey_sheet import survey_sheet
from nimble_cradle.survey.csv_readings import MOST_BYTES, to_csv, with_csv
from nimble_cradle.survey.network import network
from nimble_cradle.survey.words import point_name, reading_words
from nimble_cradle.units import show


class RecordsRoom(Room):
    """What the survey is referred to, and what is kept of it."""

    title, key = "Records", "records"
    caution = ""

    def build(self) -> None:
        self._build_datums()
        self._build_fit()
        self._build_sheet()
        self._build_photographs()

    def _build_datums(self) -> None:
        self.column.addWidget(self.refusal)
        self.answer = words()
        self.answer.hide()
        self.column.addWidget(self.answer)
        self.column.addWidget(part("Temporary datums"))
        self.ties = Table(("Datum", "Tied in by", "Off"), most_rows=4, row_height=44, widths=(0, 190, 90))
        self.ties.setAccessibleName("Temporary datums")
        self.column.addWidget(self.ties)
        self.datum_name = QLineEdit()
        self.datum_name.setAccessibleName("Name of the new datum")
        self.datum_name.setObjectName("new datum")
        self.datum_name.setPlaceholderText("e.g. straight edge on the slam panel")
        self.datum_name.returnPressed.connect(self.add_datum)
        self.column.addWidget(
            row(
                self.datum_name,
                button("Add it", self.add_datum, "Then take offsets from it on Points"),
                button("Strike out", self.strike_datum, name="view"),
                stretch=False,
            )
        )

    def _build_fit(self) -> None:
        self.column.addWidget(part("The datum itself, fitted to points"))
        self.fit_words = words()
        self.column.addWidget(self.fit_words)
        self.fit_lines = {}
        for name, hint in (
            ("tops", "rail tops, three or more: 1, 2, 3, 4"),
            ("pairs", "left and right pairs: 1-2, 3-4"),
            ("front", "front reference: 1, 2"),
        ):
            line = QLineEdit()
            line.setObjectName(f"fit/{name}")
            line.setPlaceholderText(hint)
            line.setAccessibleName(f"Points of the {name}")
            self.fit_lines[name] = line
            self.column.addWidget(line)
        self.column.addWidget(
            row(
                button("Fit the datum to these", self.fit), button("As it was taped", self.unfit, name="view")
            )
        )

    def _build_sheet(self) -> None:
        self.column.addWidget(part("Sheet and readings"))
        self.column.addWidget(
            row(
                button("Blank sheet …", lambda: self.ask_sheet(True), "PDF to take under the car"),
                button("Filled sheet …", lambda: self.ask_sheet(False), "PDF of all readings"),
            )
        )
        self.column.addWidget(
            row(button("Readings from CSV …", self.ask_csv), button("Readings to CSV …", self.ask_csv_out))
        )

    def _build_photographs(self) -> None:
        self.column.addWidget(part("Photographs"))
        self.point = ChoiceBox()
        self.point.setAccessibleName("photographed point or reading")
        self.point.activated.connect(lambda _: self.refresh())
        self.column.addWidget(
            row(
                self.point,
                button("Attach …", self.ask_photo, "JPEG or PNG"),
                button("Take off", self.drop_photo, name="view"),
                button("Export …", self.ask_export, name="view"),
                stretch=False,
            )
        )
        self.picture = Label()
        self._pictured = ""
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.column.addWidget(self.picture)

    def refresh(self) -> None:
        """Datums, photographs."""
        job, display = self.session.job, self.session.display
        net = network(job)
        offer(
            self.point,
            [
                *(point_name(job.survey, p.id) for p in job.survey.points),
                *(reading_words(job.survey, reading) for reading in job.survey.readings),
            ],
        )
        self.ties.fill(
            [
                (
                    tie.id,
                    (
                        (tie.name, ""),
                        (tie.fault or ", ".join(point_name(job.survey, k) for k, _ in tie.residuals), ""),
                        (
                            "—" if tie.fault else show(tie.rms, "length", display),
                            "near" if tie.fault else "holds",
                        ),
                    ),
                )
                for tie in net.ties
            ],
            self.ties.chosen_key(),
        )
        if job.survey.fit is None:
            self.fit_words.setText(
                "The datum is where the tape's offsets begin. It can be fitted instead: rail tops give the"
                " level plane, pairs the centre line, front points the nought."
            )
        else:
            told = ", ".join(
                f"{_names(job.survey, k)} {show(abs(v), 'length', display)}"
                for k, v in net.datum_residuals[:3]
            )
            self.fit_words.setText(f"Fitted. Left over, worst first: {told or 'nothing'}.")
        point, _ = self._target()
        wanted = point.photo if point is not None else ""
        if wanted and wanted != self._pictured:
            try:
                data = self.session.place.photo(wanted)
                self.picture.setPixmap(QPixmap.fromImage(picture_of(wanted, data, 430, 300)))
            except JobError as error:
                self.picture.clear()
                self.refuse(error.message)
        self._pictured = wanted
        self.picture.setVisible(bool(wanted) and not self.picture.pixmap().isNull())

    def say(self, sentence: str) -> None:
        """What was done."""
        self.refuse("")
        self.answer.setText(sentence)
        self.answer.setVisible(bool(sentence))

    def _target(self) -> tuple[Any, str]:
        """The chosen point or reading, and its path; (None, "") where there is none."""
        survey = self.session.job.survey
        rows = [
            *((point, f"survey/points/{point.id}") for point in survey.points),
            *((reading, f"survey/readings/{reading.id}") for reading in survey.readings),
        ]
        return rows[min(max(self.point.currentIndex(), 0), len(rows) - 1)] if rows else (None, "")

    def add_datum(self) -> None:
        """One more temporary datum."""
        name = self.datum_name.text().strip()
        if not name:
            self.refuse("Say what the datum is, e.g. straight edge on the slam panel.")
            return
        try:
            job = self.session.job
            key = free_id("datum", {datum.id for datum in job.survey.datums})
            self.session.edit(
                f"Temporary datum: {name}",
                added(job, "survey/datums", TemporaryDatum(id=key, name=name[:80])),
            )
            self.datum_name.clear()
            self.say(
                f"Take three points or more from {name} that are also measured from the main datum: they tie"
                " it in."
            )
        except (JobError, ValueError) as error:
            self.refuse(sentence_of(error))

    def strike_datum(self) -> None:
        """Take the chosen temporary datum off; refused while readings use it."""
        key = self.ties.chosen_key()
        if key:
            try:
                self.session.edit(
                    "Struck out a temporary datum", removed(self.session.job, f"survey/datums/{key}")
                )
                self.say("")
            except JobError as error:
                self.refuse(f"{error.message} Strike out its readings first.")

    def fit(self) -> None:
        """Fit the datum to points by their numbers."""
        points = self.session.job.survey.points

        def key(text: str) -> str:
            if not text.strip().isdigit() or not 1 <= int(text) <= len(points):
                raise JobError(f"“{text.strip()}” is no point; there are points 1 to {len(points)}.")
            return points[int(text) - 1].id

        try:
            lists = {
                name: [w for w in line.text().split(",") if w.strip()]
                for name, line in self.fit_lines.items()
            }
            pairs = []
            for w in lists["pairs"]:
                a, sign, b = w.partition("-")
                if not sign:
                    raise JobError(f"“{w.strip()}” is no pair: write it as 1-2.")
                pairs.append((key(a), key(b)))
            made = DatumFit(
                tops=tuple(key(w) for w in lists["tops"]),
                pairs=tuple(pairs),
                front=tuple(key(w) for w in lists["front"]),
            )
            self.session.set_value("survey/fit", made, "Datum fitted to points")
            self.say("")
        except ValueError as error:
            self.refuse(
                sentence_of(error)
                if isinstance(error, JobError)
                else "It wants three rail tops or more, two pairs or more, and a front point."
            )

    def unfit(self) -> None:
        """The datum as it was taped."""
        self.session.set_value("survey/fit", None, "Datum as it was taped")

    def ask_sheet(self, blank: bool) -> None:
        """Ask where the sheet goes."""
        start = self.session.place.path.with_name(
            f"{self.session.place.path.stem}-survey{'-blank' if blank else ''}.pdf"
        )
        if path := file_to_write(self, "Survey sheet", start, "PDF (*.pdf)"):
            self.write_sheet(path, blank)

    def write_sheet(self, path: Path, blank: bool) -> None:
        """Write the sheet."""
        self._write(path, survey_sheet(self.session.job, blank))

    def _write(self, path: Path, data: bytes) -> None:
        try:
            replace_file(path, data)
            self.say(f"Written to {path}.")
        except OSError as error:
            self.refuse(f"{path.name} could not be written: {why(error)}.")

    def ask_csv(self) -> None:
        """Ask for readings."""
        if path := file_to_open(self, "Readings", "CSV (*.csv *.txt)"):
            self.take_csv(path)

    def take_csv(self, path: Path) -> None:
        """All readings of a file, or none and why."""
        with told_in(self.refusal):
            after, count = with_csv(self.session.job, read_text(path, MOST_BYTES), path.name)
            self.session.edit(f"{count} readings from {path.name}", after)
            self.say(f"{count} readings taken from {path.name}.")

    def ask_csv_out(self) -> None:
        """Ask where the readings go."""
        first = self.session.place.path.with_suffix(".csv")
        if path := file_to_write(self, "Readings", first, "CSV (*.csv)"):
            self._write(path, to_csv(self.session.job).encode())

    def ask_photo(self) -> None:
        """Ask for a photograph of the chosen point or reading."""
        if path := file_to_open(self, "Photograph", "Photographs (*.jpg *.jpeg *.png)"):
            self.attach(path)

    def attach(self, path: Path) -> None:
        """Keep a photograph with the chosen point or reading."""
        target, where = self._target()
        if target is None:
            self.refuse("There is no point yet to attach it to.")
            return
        with told_in(self.refusal):
            key = self.session.place.add_photo(path.name, read_file(path, MOST_PHOTO))
            self.session.edit(
                f"{self.point.currentText()}: photograph {key}",
                with_value(self.session.job, f"{where}/photo", key),
            )
            self.say("")
            self.refresh()

    def drop_photo(self) -> None:
        """The point or reading without its photograph (which stays in the file until that is saved without
        it)."""
        target, where = self._target()
        if target is not None and target.photo:
            what = f"{self.point.currentText()}: photograph taken off"
            self.session.set_value(f"{where}/photo", "", what)

    def ask_export(self) -> None:
        """Ask where the photograph goes."""
        target, _ = self._target()
        if target is None or not target.photo:
            self.refuse("This has no photograph.")
            return
        if path := file_to_write(self, "Photograph", target.photo, "All (*)"):
            self._write(path, self.session.place.photo(target.photo))


def _names(survey: Any, key: str) -> str:
    return " and ".join(point_name(survey, k) for k in key.split(" and "))
