"""Powertrain: the pieces with their masses, what the engine does, the gearbox."""

from __future__ import annotations

from PyQt6.QtWidgets import QLabel

from nimble_cradle.desk.fields import WAYS, ChoiceField, QuantityField, TextField, VectorField, button, part, row, words
from nimble_cradle.desk.sheets.bay import METHODS
from nimble_cradle.desk.sheets.shapes import ShapeEditor, new_shape
from nimble_cradle.desk.sheets.sheet import Sheet, Table
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, removed
from nimble_cradle.job.powertrain import Piece
from nimble_cradle.mounts.mass import powertrain_mass
from nimble_cradle.units import show


class PowertrainSheet(Sheet):
    """The pieces of the powertrain."""

    stage, title = "powertrain", "Powertrain: what goes in"

    def build(self) -> None:
        s = self.session
        self.total = QLabel()
        self.total.setWordWrap(True)
        self.column.addWidget(self.total)
        self.column.addWidget(row(button("How the centre of gravity is found", self.work)))
        self.table = Table(("Piece", "Mass", "Kind", "Fitted"), most_rows=8, chosen=lambda key: s.select("piece", key))
        self.table.setAccessibleName("Pieces")
        self.column.addWidget(self.table)
        self.column.addWidget(row(button("Add a piece", self.add), button("Take off the list", self.remove)))
        self.refusal = words("", "refusal")
        self.refusal.hide()
        self.column.addWidget(self.refusal)
        self.which = part("Choose a piece, here or in the picture")
        self.column.addWidget(self.which)
        self.name = TextField(s, "Name")
        self.mass = QuantityField(s, "Mass", "mass")
        self.neighbour = ChoiceField(s, "Kind of neighbour", ())
        self.fitted = ChoiceField(s, "Fitted", ((True, "fitted"), (False, "left off")))
        self.measured = ChoiceField(s, "Measured with", METHODS)
        self.shapes = ShapeEditor(s)
        self.editors = (self.name, self.mass, self.neighbour, self.fitted, self.measured, self.shapes)
        for editor in self.editors:
            self.column.addWidget(editor)
            editor.hide()
        self.column.addWidget(part("Engine"))
        for label, kind, name in (("Torque", "torque", "torque_nm"), ("Torque is reached at", "speed", "torque_rpm"), ("Idle", "speed", "idle_rpm"),
                                  ("Redline", "speed", "redline_rpm")):
            self.column.addWidget(QuantityField(s, label, kind).at(f"powertrain/engine/{name}", "Engine"))  # type: ignore[arg-type]
        self.column.addWidget(QuantityField(s, "Cylinders", "number", whole=True).at("powertrain/engine/cylinders", "Engine"))
        self.column.addWidget(ChoiceField(s, "Crank turns, seen from the pulleys", ((True, "clockwise"), (False, "anticlockwise"))).at(
            "powertrain/engine/clockwise_from_front", "Engine"))
        self.column.addWidget(part("Gearbox"))
        self.column.addWidget(VectorField(s, "Output joint", WAYS, ("from the block's rear face", "from the crank line", "from the crank line")).at(
            "powertrain/gearbox/output", "Gearbox"))
        for k in range(len(s.job.powertrain.gearbox.ratios)):
            self.column.addWidget(QuantityField(s, f"Gear {k + 1}", "number").at(f"powertrain/gearbox/ratios/{k}", "Gearbox"))

    def fingerprint(self) -> int:
        """How many gears there are."""
        return len(self.session.job.powertrain.gearbox.ratios)

    def refresh(self) -> None:
        """The pieces, and the editor of the chosen one."""
        job, d = self.session.job, self.session.display
        try:
            mass = powertrain_mass(job)
            c = mass.centre
            side = "left" if c[1] > 0 else "right"
            self.total.setText(f"{show(mass.mass_kg, 'mass', d)} all told. Centre of gravity {show(c[0], 'length', d, 0)} in front of the block's rear face, "
                               f"{show(abs(c[1]), 'length', d, 0)} {side} and {show(c[2], 'length', d, 0)} above the crank line.")
        except JobError as error:
            self.total.setText(error.message)
        kind, key = self.session.selection
        chosen = key if kind == "piece" else key.partition("/")[0] if kind == "gap" else ""
        self.table.fill([(p.id, ((p.name, ""), (show(p.mass_kg, "mass", d), ">"), (p.neighbour, ""), ("yes" if p.fitted else "left off", "")))
                         for p in job.powertrain.pieces], chosen)
        piece = next((p for p in job.powertrain.pieces if p.id == chosen), None)
        for editor in self.editors:
            editor.setVisible(piece is not None)
        self.which.setText(piece.name if piece else "Choose a piece, here or in the picture")
        if piece is not None:
            base = f"powertrain/pieces/{piece.id}"
            self.neighbour.offer([(c.id, c.name) for c in job.clearances])
            for field, name in ((self.mass, "mass_kg"), (self.neighbour, "neighbour"), (self.fitted, "fitted"), (self.measured, "measured")):
                if field.path != f"{base}/{name}":
                    field.at(f"{base}/{name}", piece.name)
                else:
                    field.refresh()
            if self.name.path != f"{base}/name":
                self.name.at(f"{base}/name")
            self.shapes.at(base, piece.name)

    def work(self) -> None:
        """The working of the centre of gravity."""
        try:
            self.session.show_work("Mass and centre of gravity, along the powertrain", powertrain_mass(self.session.job).worked)
        except JobError as error:
            self.session.said.emit(error.message)

    def add(self) -> None:
        """A new box, chosen at once."""
        job = self.session.job
        key = free_id("piece", {p.id for p in job.powertrain.pieces})
        piece = Piece(id=key, name=f"New piece {key.rsplit('-', 1)[1]}", neighbour=job.clearances[0].id, shapes=(new_shape("box"),))
        self.session.edit(f"Added {piece.name}", added(job, "powertrain/pieces", piece))
        self.session.select("piece", key)

    def remove(self) -> None:
        """Take the chosen piece off the list."""
        kind, key = self.session.selection
        try:
            if kind != "piece":
                raise JobError("Choose the piece first.")
            name = self.session.value(f"powertrain/pieces/{key}/name")
            self.session.edit(f"Took {name} off the list", removed(self.session.job, f"powertrain/pieces/{key}"))
            self.session.select("", "")
            self.refusal.hide()
        except JobError as error:
            self.refusal.setText(error.message)
            self.refusal.show()
