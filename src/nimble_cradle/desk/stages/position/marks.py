"""The marks: where the engine is now, by the tape."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from nimble_cradle.desk.kit.ask_file import file_to_write
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.fields import TextField
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.quantity_field import WAYS, QuantityField
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.files import replace_file, why
from nimble_cradle.fit.marks import proposed_marks, told_by_marks, with_told
from nimble_cradle.fit.supports import first_supports
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.shop.marks_sheet import marks_pdf


class MarksRoom(WorkingRoom):
    """Witness marks: proposed, printed, taped again later."""

    title, key = "Marks", "marks"

    def build(self) -> None:
        """What the tape says now, and the marks."""
        self._build_list()
        self._build_readings()
        self._build_mark()

    def _build_list(self) -> None:
        self.column.addWidget(
            words(
                "Tape these distances while the engine is in its place; tape them again when it has been out."
                " They say where it stands.",
                "",
            )
        )
        self.say = words("", "")
        self.column.addWidget(self.say)
        self.add_progress()
        self.column.addWidget(self.refusal)
        self.bring = button(
            "Shims that bring it back",
            self.back,
            "The real engine is taken to be where the marks say",
            "main",
        )
        self.column.addWidget(row(self.bring))
        self.column.addWidget(
            row(
                button("Propose marks", self.propose, "Twelve distances that pin the position best"),
                button("Print them …", self.ask_print),
            )
        )

    def _build_readings(self) -> None:
        session = self.session
        for mark in session.job.marks:
            name = part(mark.name)
            name.setWordWrap(True)
            self.column.addWidget(name)
            base = f"marks/{mark.id}"
            self.column.addWidget(
                QuantityField(session, "With the engine in its place", "length").at(
                    f"{base}/reference_mm", mark.name
                )
            )
            self.column.addWidget(
                QuantityField(session, "The tape says now", "length", optional="not taped").at(
                    f"{base}/now_mm", mark.name
                )
            )

    def _build_mark(self) -> None:
        session = self.session
        if session.job.marks:
            self.column.addWidget(part("Where a mark is"))
            self.which = ChoiceBox()
            self.which.setAccessibleName("mark")
            self.which.addItems([mark.name for mark in session.job.marks])
            self.which.activated.connect(self._place)
            self.mark_name = TextField(session, "Name")
            places = ("forward / back", "left / right", "up / down")
            self.on_engine, self.on_bay = (
                VectorField(session, label, WAYS, places) for label in ("On the engine", "On the bay")
            )
            self.mark_doubt = QuantityField(session, "The tape is good to", "length")
            for widget in (self.which, self.mark_name, self.on_engine, self.on_bay, self.mark_doubt):
                self.column.addWidget(widget)
            self._place(0)

    def _place(self, at: int) -> None:
        """Name and places of the chosen mark."""
        mark = self.session.job.marks[at]
        base = f"marks/{mark.id}"
        self.mark_name.at(f"{base}/name")
        self.on_engine.at(f"{base}/on_engine", mark.name)
        self.on_bay.at(f"{base}/on_bay", mark.name)
        self.mark_doubt.at(f"{base}/plus_minus_mm", mark.name)

    def propose(self) -> None:
        """New marks in the place of those that are there."""
        job = self.session.job

        def work(say: Any) -> Any:
            say("Choosing corners that a tape can reach")
            return with_value(job, "marks", proposed_marks(job)), None

        self.run(work, lambda room, result: room.session.edit("Witness marks proposed", result[0]))

    def back(self) -> None:
        """Take the engine to be where the marks say, and go to the shims."""
        try:
            after = with_told(self.session.job)
        except JobError as error:
            self.refuse(error.message)
            return
        if not after.setting.supports:
            after = with_value(after, "setting/supports", first_supports(after))
        self.session.edit("Real engine where the marks say", after)

    def ask_print(self) -> None:
        """Ask for a file and print."""
        first = self.session.place.path.with_suffix(".marks.pdf")
        if path := file_to_write(self, "Witness marks as PDF", first, "PDF (*.pdf)"):
            self.print_to(path)

    def print_to(self, path: Path) -> None:
        """Write the sheet."""
        if not self.session.job.marks:
            self.refuse("There are no marks yet: propose some first.")
            return
        try:
            replace_file(path, marks_pdf(self.session.job))
            self.session.said.emit(f"Written: {path.name}")
        except OSError as error:
            self.refuse(f"It could not be written: {why(error)}.")

    def refresh(self) -> None:
        """What the marks tell."""
        job = self.session.job
        typed = sum(mark.now_mm is not None for mark in job.marks)
        self.bring.setVisible(False)
        if not job.marks:
            self.say.setText("No marks yet.")
        elif not typed:
            self.say.setText(f"{BOLD}{len(job.marks)} marks.{PLAIN} Nothing taped since.")
        else:
            try:
                self.say.setText(f"{BOLD}{told_by_marks(job).words(self.session.display)}{PLAIN}")
                self.bring.setVisible(True)
            except JobError as error:
                self.say.setText(error.message)
