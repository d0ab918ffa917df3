"""The mock-up: the engine as it is held now, read off."""

from __future__ import annotations

from dataclasses import fields, replace
from typing import Any, get_args

from PyQt6.QtWidgets import QLineEdit

from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.powertrain import Gearbox
from nimble_cradle.survey.builder import Drive, Layout, TapeReadings, first_seats, mock_up
from nimble_cradle.units import UnitError, parse, show

READINGS: tuple[tuple[str, str], ...] = (
    ("block_long", "Block, rear face to front face"),
    ("block_wide", "Block, width at the crank"),
    ("block_high", "Block, crank line to deck"),
    ("block_deep", "Block, crank line to sump rail"),
    ("head_high", "Head with cover, over the block"),
    ("sump_deep", "Sump, deep end under its rail"),
    ("sump_shallow", "Sump, shallow end"),
    ("sump_step", "Step of the sump, from the rear face"),
    ("bell_long", "Bellhousing, length"),
    ("bell_round", "Bellhousing, diameter"),
    ("gearbox_long", "Gearbox, length"),
    ("gearbox_wide", "Gearbox, width"),
    ("gearbox_high", "Gearbox, height"),
    ("tail_long", "Tail or transfer case, length"),
)


class MockUpRoom(Room):
    """A dozen tape readings make believable pieces; every one is then the user's to change."""

    title, key = "Mock-up", "mock-up"
    caution = ""

    def build(self) -> None:
        self._build_readings()
        self._build_buttons()

    def _build_readings(self) -> None:
        self.column.addWidget(
            words(
                "Tape these and build: the pieces take the place of those that are there (undo brings them"
                " back), and each is then yours to change. Keep the real sump, mounts and front cover on a"
                " gutless mock-up: without them it shows room that is not there.",
                "",
            )
        )
        self.layout_box, self.drive_box, self.end_box = ChoiceBox(), ChoiceBox(), ChoiceBox()
        for box, choices, name in (
            (self.layout_box, get_args(Layout), "layout"),
            (self.drive_box, get_args(Drive), "drive"),
            (self.end_box, ("rear", "front"), "deep end"),
        ):
            box.addItems([str(c) for c in choices])
            box.setAccessibleName(name)
        self.column.addWidget(
            row(self.layout_box, self.drive_box, words("deep end at the", ""), self.end_box, stretch=False)
        )
        self.lines: dict[str, QLineEdit] = {}
        defaults = {field.name: field.default for field in fields(TapeReadings)}
        for name, label in (
            *READINGS,
            ("angle_deg", "Bank angle, or lean to the left"),
            ("mass_kg", "Mass of everything"),
        ):
            line = QLineEdit(self._text(name, float(defaults[name])))  # type: ignore[arg-type]
            line.setAccessibleName(label)
            line.setObjectName(f"mock-up/{name}")
            line.setMaximumWidth(150)
            self.lines[name] = line
            text = words(label, "")
            self.column.addWidget(row(text, line, stretch=False))

    def _build_buttons(self) -> None:
        self.column.addWidget(self.refusal)
        self.column.addWidget(row(button("Build the mock-up", self.make, name="main")))

    def _text(self, name: str, value: float) -> str:
        kind: Any = {"angle_deg": "angle", "mass_kg": "mass"}.get(name, "length")
        return show(value, kind, self.session.display, 1 if kind == "mass" else 0)

    def make(self) -> None:
        """Build the pieces."""
        try:
            values: dict[str, Any] = {}
            for name, line in self.lines.items():
                kind: Any = {"angle_deg": "angle", "mass_kg": "mass"}.get(name, "length")
                values[name] = parse(line.text(), kind, self.session.display)
            values |= {
                "layout": self.layout_box.currentText(),
                "drive": self.drive_box.currentText(),
                "deep_end": self.end_box.currentText(),
            }
            t = replace(TapeReadings(), **values)
            pieces, output = mock_up(t)
            job = self.session.job
            known = {clearance.id for clearance in job.clearances}
            pieces = tuple(
                piece
                if piece.neighbour in known
                else piece.model_copy(update={"neighbour": job.clearances[0].id})
                for piece in pieces
            )
            old = job.powertrain.gearbox
            kept = {k: getattr(old, k) for k in Gearbox.model_fields}
            after = with_value(
                job,
                "powertrain/gearbox",
                Gearbox(
                    **{
                        **kept,
                        "kind": t.drive,
                        "output": output,
                        "seats": (
                            first_seats(t, job.position.yaw_deg <= 0) if t.drive == "transaxle" else None
                        ),
                    }
                ),
            )
            after = with_value(after, "powertrain/pieces", pieces)
            after = with_value(after, "powertrain/engine/layout", t.layout)
            self.session.edit(f"Built a mock-up of {len(pieces)} pieces from tape readings", after)
            self.refuse("")
            self.session.said.emit(f"{len(pieces)} pieces built; choose any of them on Pieces to change it.")
        except (UnitError, JobError, ValueError) as error:
            self.refuse(str(error))
