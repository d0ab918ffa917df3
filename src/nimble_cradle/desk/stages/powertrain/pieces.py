"""The pieces of the powertrain."""

from __future__ import annotations

import numpy as np
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.bay.bodies import solid_of
from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.design.beside import beside
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.quantity_field import WAYS, QuantityField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.shapes_editor import ShapeEditor, new_shape, twin_of
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, part, row
from nimble_cradle.desk.stages.bay.sheet import METHODS
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, removed
from nimble_cradle.job.powertrain import Piece, ScrewIn
from nimble_cradle.job.twins import shifted_shape
from nimble_cradle.units import show


class PiecesRoom(Room):
    """The pieces, one by one."""

    title, key = "Pieces", "pieces"

    def build(self) -> None:
        with self.two_sides():
            self._build_list()
            self.right_side()
            self._build_piece()
            self._build_editors()

    def _build_list(self) -> None:
        session = self.session
        self.total = Label()
        self.total.setWordWrap(True)
        self.column.addWidget(self.total)
        self.column.addWidget(row(button("How the centre of gravity is found", self.work)))
        self.table = Table(
            ("Piece", "Mass", "Kind", "Fitted"),
            most_rows=8,
            drop=(2, 1),
            chosen=lambda key: session.select("piece", key),
        )
        self.table.setAccessibleName("Pieces")
        self.column.addWidget(self.table)
        self.column.addWidget(
            row(
                button("Add a piece", self.add, "A new piece, beside the engine"),
                button("Remove", self.remove, "The chosen piece goes"),
                button("Double", lambda: self.twin(False), "A second of the chosen piece, beside it", "view"),
                button(
                    "Mirror", lambda: self.twin(True), "The chosen piece on the engine's other side", "view"
                ),
            )
        )
        self.column.addWidget(self.refusal)

    def _build_piece(self) -> None:
        session = self.session
        self.which = part("Choose a piece, here or in the picture")
        self.column.addWidget(self.which)
        self.name = TextField(session, "Name")
        self.mass = QuantityField(session, "Mass", "mass")
        self.neighbour = ChoiceField(session, "Kind of neighbour", ())
        self.fitted = ChoiceField(session, "Fitted", ((True, "fitted"), (False, "left off")))
        self.what = ChoiceField(
            session,
            "Ancillary",
            (("keep", "keep it"), ("move", "move it: another stands in"), ("delete", "delete it")),
        )
        self.instead = ChoiceField(session, "In its stead", ())
        self.measured = ChoiceField(session, "Measured with", METHODS)
        self.plus_minus = QuantityField(session, "Give or take", "length", optional="as the method")
        self.note = TextField(session, "Note")
        self.centre_button = button("Its centre of gravity is known", self.centre, name="view")
        self.centre_at = VectorField(
            session,
            "Centre of gravity",
            WAYS,
            ("from the block's rear face", "from the crank line", "from the crank line"),
        )
        self.room_button = button("It needs room to screw in", self.room, name="view")
        self.room_at = VectorField(
            session,
            "Room from",
            WAYS,
            ("from the block's rear face", "from the crank line", "from the crank line"),
        )
        self.room_way = DirectionField(session, "Room")
        self.room_sweep, self.room_long = (
            QuantityField(session, "It sweeps, across", "length"),
            QuantityField(session, "Length of the room", "length"),
        )
        self.room_fields = QWidget()

    def _build_editors(self) -> None:
        session = self.session
        inner = QVBoxLayout(self.room_fields)
        inner.setContentsMargins(0, 0, 0, 0)
        for widget in (self.room_at, self.room_way, self.room_sweep, self.room_long):
            inner.addWidget(widget)
        self.shapes = ShapeEditor(session)
        self.editors: list[QWidget] = []
        self._add(self.name, self.mass, self.neighbour, self.fitted, self.what, self.instead, self.note)
        with self.folded("How it was measured") as fold:
            self._add(self.measured, self.plus_minus)
        self.editors.append(fold)
        with self.folded(
            "Its centre of gravity, and room to screw it in", "of its shapes, unless known"
        ) as fold:
            self._add(self.centre_button, self.centre_at, self.room_button, self.room_fields)
        self.editors.append(fold)
        with self.folded("Its shape", "boxes, bars, slabs or a mesh") as fold:
            self._add(self.shapes)
        self.editors.append(fold)

    def _add(self, *editors: QWidget) -> None:
        """Put editors of the chosen piece into the column."""
        for editor in editors:
            self.column.addWidget(editor)
            editor.hide()
            self.editors.append(editor)

    def refresh(self) -> None:
        """The pieces, and the editor of the chosen one."""
        self.total.setText(self._total_words())
        chosen = self._chosen_id()
        self.table.fill([self._row(p) for p in self.session.job.powertrain.pieces], chosen)
        piece = next((p for p in self.session.job.powertrain.pieces if p.id == chosen), None)
        for editor in self.editors:
            editor.setVisible(piece is not None)
        self.which.setText(piece.name if piece else "Choose a piece, here or in the picture")
        if piece is not None:
            self._show_piece(piece)

    def _total_words(self) -> str:
        """Mass and centre of gravity of all pieces, or why they are not known."""
        display = self.session.display
        try:
            mass = powertrain_mass(self.session.job)
        except JobError as error:
            return error.message
        c = mass.centre
        side = "left" if c[1] > 0 else "right"
        return (
            f"{show(mass.mass_kg, 'mass', display)} all told. Centre of gravity"
            f" {show(c[0], 'length', display, 0)} in"
            f" front of the block's rear face, {show(abs(c[1]), 'length', display, 0)} {side} and"
            f" {show(c[2], 'length', display, 0)} above the crank line."
        )

    def _chosen_id(self) -> str:
        """The chosen piece, or that of the chosen gap."""
        kind, key = self.session.selection
        if kind == "gap":
            return key.partition("/")[0]
        return key if kind == "piece" else ""

    def _row(self, p: Piece) -> tuple[str, tuple[tuple[str, str], ...]]:
        fitted = {"keep": "yes" if p.fitted else "left off"}.get(p.what, p.what + "d")
        mass = show(p.mass_kg, "mass", self.session.display)
        return p.id, ((p.name, ""), (mass, ">"), (p.neighbour, ""), (fitted, ""))

    def _show_piece(self, piece: Piece) -> None:
        """The editor of the chosen piece."""
        job = self.session.job
        base = f"powertrain/pieces/{piece.id}"
        self.neighbour.offer([(clearance.id, clearance.name) for clearance in job.clearances])
        others = [("", "nothing yet"), *((p.id, p.name) for p in job.powertrain.pieces if p.id != piece.id)]
        self.instead.offer(others)
        self.instead.setVisible(piece.what == "move")
        self._show_room(piece, base)
        self._point_fields(piece, base)
        known = piece.centre_of_gravity is not None
        self.centre_at.setVisible(known)
        self.centre_button.setText(
            "Centre of its shapes again" if known else "Its centre of gravity is known"
        )
        if known:
            self.centre_at.at(f"{base}/centre_of_gravity", piece.name)
        self.shapes.at(base, piece.name)

    def _point_fields(self, piece: Piece, base: str) -> None:
        """Let the fields edit the chosen piece."""
        for field, name in (
            (self.mass, "mass_kg"),
            (self.neighbour, "neighbour"),
            (self.fitted, "fitted"),
            (self.what, "what"),
            (self.instead, "instead"),
            (self.measured, "measured"),
            (self.plus_minus, "plus_minus_mm"),
        ):
            if field.path != f"{base}/{name}":
                field.at(f"{base}/{name}", piece.name)
            else:
                field.refresh()
        for text, name in ((self.name, "name"), (self.note, "note")):
            if text.path != f"{base}/{name}":
                text.at(f"{base}/{name}")

    def _show_room(self, piece: Piece, base: str) -> None:
        """The room that a fitting needs to be screwed in."""
        self.room_fields.setVisible(piece.screw_in is not None)
        self.room_button.setText(
            "No room needed" if piece.screw_in is not None else "It needs room to screw in"
        )
        if piece.screw_in is not None:
            self.room_at.at(f"{base}/screw_in/at", piece.name)
            self.room_way.at(f"{base}/screw_in/way", piece.name)
            self.room_sweep.at(f"{base}/screw_in/sweep_mm", piece.name)
            self.room_long.at(f"{base}/screw_in/length_mm", piece.name)

    def work(self) -> None:
        """The working of the centre of gravity."""
        try:
            self.session.show_work(
                "Mass and centre of gravity, along the powertrain", powertrain_mass(self.session.job).worked
            )
        except JobError as error:
            self.session.said.emit(error.message)

    def twin(self, mirror: bool) -> None:
        """A second of the chosen piece: beside it, or mirrored across the crank's upright plane."""
        twin_of(self.session, "piece", "powertrain/pieces", mirror, self.refuse)

    def centre(self) -> None:
        """The chosen piece's own centre of gravity, to be typed over; or that of its shapes again."""
        kind, key = self.session.selection
        piece = self.session.value(f"powertrain/pieces/{key}") if kind == "piece" else None
        if piece is None:
            return
        made = None
        if piece.centre_of_gravity is None:
            parts = solid_of(piece, self.session.job.meshes, "powertrain/pieces")
            middle = np.mean([p.mass_properties()[1] for p in parts], axis=0)
            made = tuple(round(float(c), 1) for c in middle)
        self.session.set_value(
            f"powertrain/pieces/{key}/centre_of_gravity",
            made,
            f"{piece.name}: centre of gravity {'known' if made else 'of its shapes'}",
        )

    def add(self) -> None:
        """A new box beside the engine, chosen at once."""
        job = self.session.job
        key = free_id("piece", {p.id for p in job.powertrain.pieces})
        piece = Piece(
            id=key,
            name=f"New piece {key.rsplit('-', 1)[1]}",
            neighbour=job.clearances[0].id,
            shapes=(shifted_shape(new_shape("box"), beside(job, "powertrain/pieces")),),
        )
        self.session.edit(f"Added {piece.name}", added(job, "powertrain/pieces", piece))
        self.session.select("piece", key)

    def remove(self) -> None:
        """Take the chosen piece off the list."""
        kind, key = self.session.selection
        with told_in(self.refusal):
            if kind != "piece":
                raise JobError("Choose the piece first.")
            name = self.session.value(f"powertrain/pieces/{key}/name")
            self.session.edit(
                f"Took {name} off the list", removed(self.session.job, f"powertrain/pieces/{key}")
            )
            self.session.select("", "")
            self.refuse("")

    def room(self) -> None:
        """Room that the chosen piece's fitting needs, or none."""
        kind, key = self.session.selection
        piece = self.session.value(f"powertrain/pieces/{key}") if kind == "piece" else None
        if piece is not None:
            made = (
                None
                if piece.screw_in is not None
                else ScrewIn(at=(0.0, 0.0, 0.0), way=(0.0, 0.0, 1.0), sweep_mm=50, length_mm=120)
            )
            self.session.set_value(
                f"powertrain/pieces/{key}/screw_in",
                made,
                f"{piece.name}: {'room to screw in' if made else 'no room needed'}",
            )
