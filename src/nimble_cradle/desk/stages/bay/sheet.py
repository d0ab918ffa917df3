"""Bay: the items, what each needs round it, and the clearance table."""

from __future__ import annotations

from typing import get_args

from PyQt6.QtWidgets import QWidget

from nimble_cradle.design.beside import beside
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.label import plain
from nimble_cradle.desk.kit.quantity_field import UP, WAYS, QuantityField
from nimble_cradle.desk.kit.shapes_editor import ShapeEditor, new_shape, twin_of
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, part, row
from nimble_cradle.desk.stages.bay.cuts import CutsEditor
from nimble_cradle.desk.stages.bay.made_from_points import MadeEditor
from nimble_cradle.desk.stages.bay.motion_editor import MotionEditor
from nimble_cradle.job.bay import METHOD_PLUS_MINUS, Clearance, Item, Material
from nimble_cradle.job.edits import added, free_id, removed
from nimble_cradle.job.twins import shifted_shape
from nimble_cradle.judge.heat import LINES
from nimble_cradle.units import show

FATES = (
    ("open", "not decided"),
    ("keep", "kept, not for sale"),
    ("trim", "may be trimmed"),
    ("cut", "may be cut and braced"),
    ("remove", "taken out"),
)
VEHICLE = (
    ("Wheelbase", "length", "wheelbase_mm", None),
    ("On the front axle", "mass", "front_axle_kg", None),
    ("On the rear axle", "mass", "rear_axle_kg", None),
    ("Centre of gravity over the road", "length", "cog_height_mm", None),
    ("Rolling radius of the tyre", "length", "tyre_radius_mm", None),
    ("Final drive", "number", "final_drive", None),
    ("Road, from the rail tops", "length", "ground_z_mm", UP),
    ("Lowest chassis line, from the rail tops", "length", "lowest_line_z_mm", UP),
    ("Axle's place, give or take", "length", "axle_plus_minus_mm", None),
    ("Slopes, give or take", "angle", "slope_plus_minus_deg", None),
    ("Wish: front-axle share at most", "share", "want_front_share_percent", None),
)
WELDING = (("unsaid", "not said"), ("out of the way", "it is taken off or shielded"))
_PLACE = ("forward / back", "left / right", "up / down")
METHODS = tuple((m, f"{m}, ± {pm:g} mm") for m, pm in METHOD_PLUS_MINUS.items())


class BaySheet(Sheet):
    """The items of the bay."""

    stage, title = "bay", "Bay: what is there"
    has_figures = True

    def build(self) -> None:
        """The list, the editor of one item, the clearance table, the vehicle."""
        with self.two_sides():
            self._build_list()
            self.right_side()
            self._build_item()
            self._build_editors()
        with self.folded("Room that each kind of neighbour needs"):
            self._build_clearances()
        with self.folded("The vehicle, without its powertrain"):
            self._build_vehicle()

    def _build_list(self) -> None:
        session = self.session
        self.table = Table(
            ("Item", "Kind", "Becomes", "Needs"),
            most_rows=8,
            drop=(3, 1),
            chosen=lambda key: session.select("item", key),
        )
        self.table.setAccessibleName("Items")
        self.column.addWidget(self.table)
        self.column.addWidget(
            row(
                button("Add an item", self.add, "A new item, beside the bay"),
                button("Remove", self.remove, "The chosen item goes"),
                button("Double", lambda: self.twin(False), "A second of the chosen item, beside it", "view"),
                button("Mirror", lambda: self.twin(True), "The chosen item on the car's other side", "view"),
            )
        )
        self.column.addWidget(self.refusal)

    def _build_item(self) -> None:
        session = self.session
        self.which = part("Choose an item, here or in the picture")
        self.column.addWidget(self.which)
        self.name = TextField(session, "Name")
        self.neighbour = ChoiceField(session, "Kind of neighbour", ())
        self.fate = ChoiceField(session, "What happens to it", FATES)
        self.measured = ChoiceField(session, "Measured with", METHODS)
        self.plus_minus = QuantityField(session, "Give or take", "length", optional="as the method")
        self.required = QuantityField(session, "Room it needs", "length", optional="as its kind")
        self.note = TextField(session, "Note")
        self.welding = ChoiceField(session, "While something near is welded", WELDING)
        self.chassis = ChoiceField(
            session, "Part of the chassis", ((False, "no"), (True, "yes: mounts stand on it"))
        )
        self.placed = ChoiceField(
            session, "It stands", ((True, "where it is measured"), (False, "not placed yet"))
        )
        self.moved = VectorField(session, "Moved since it was measured", WAYS, _PLACE)
        self.trim = QuantityField(session, "May be trimmed this deep", "length")
        self.material = ChoiceField(session, "Made of", tuple((m, m) for m in get_args(Material)))
        self.cuts = CutsEditor(session)
        self.shapes, self.made, self.motion = ShapeEditor(session), MadeEditor(session), MotionEditor(session)

    def _build_editors(self) -> None:
        """What is asked first, then groups for what is asked once."""
        self.editors: list[QWidget] = []
        self._add(self.name, self.neighbour, self.fate, self.trim, self.required, self.welding, self.note)
        with self.folded("How it was measured") as fold:
            self._add(self.measured, self.plus_minus, self.placed, self.moved)
        self.editors.append(fold)
        with self.folded("What it is made of, and cuts already made") as fold:
            self._add(self.material, self.chassis, self.cuts)
        self.editors.append(fold)
        with self.folded("Its shape", "boxes, bars, slabs, a mesh, or made from points") as fold:
            self._add(self.shapes, self.made)
        self.editors.append(fold)
        with self.folded("How it moves with wheel or steering", "what travel and steering do to it") as fold:
            self._add(self.motion)
        self.editors.append(fold)

    def _add(self, *editors: QWidget) -> None:
        """Put editors of the chosen item into the column."""
        for editor in editors:
            self.column.addWidget(editor)
            editor.hide()
            self.editors.append(editor)

    def _build_clearances(self) -> None:
        session = self.session
        self.rows: list[QuantityField] = []
        for clearance in session.job.clearances:
            field = QuantityField(session, clearance.name, "length")
            field.setToolTip(plain(clearance.why))
            field.at(f"clearances/{clearance.id}/required_mm", "Room needed")
            self.column.addWidget(field)
            self.rows.append(field)
        own = QuantityField(session, "Made part, beside what it moves with", "length")
        own.setToolTip(plain("A bracket beside a pipe of the car, an arm beside its own engine."))
        self.column.addWidget(own.at("setting/made_gap_mm", "Room needed"))
        self.kind_box = ChoiceBox()
        self.kind_box.setAccessibleName("kind of neighbour to name")
        self.kind_box.addItems([c.name for c in session.job.clearances])
        self.kind_name, self.kind_why = TextField(session, "Its name"), TextField(session, "Why so much")
        self.kind_box.activated.connect(self._name_kind)
        self.column.addWidget(
            row(
                self.kind_box,
                button("Add a kind", self.add_kind, name="view"),
                button("Drop it", self.drop_kind, name="view"),
            )
        )
        self.column.addWidget(self.kind_name)
        self.column.addWidget(self.kind_why)
        self._name_kind(0)

    def _build_vehicle(self) -> None:
        session = self.session
        self.column.addWidget(TextField(session, "Vehicle").at("vehicle/name"))
        self.column.addWidget(TextField(session, "Job").at("name"))
        self.column.addWidget(TextField(session, "Its story").at("story"))
        for label, kind, name, ways in VEHICLE:
            field = QuantityField(session, label, kind, ways=ways)  # type: ignore[arg-type]
            self.column.addWidget(field.at(f"vehicle/{name}", "Vehicle"))
        self.column.addWidget(
            ChoiceField(session, "Driven axle", (("rear", "rear"), ("front", "front"), ("both", "both"))).at(
                "vehicle/driven", "Vehicle"
            )
        )
        self.column.addWidget(
            ChoiceField(session, "Driver sits", (("left", "on the left"), ("right", "on the right"))).at(
                "vehicle/driver_side", "Vehicle"
            )
        )
        self.column.addWidget(
            VectorField(
                session,
                "Axle input joint",
                WAYS,
                ("from the axle line", "from the centre", "from the rail tops"),
            ).at("vehicle/axle_input", "Vehicle")
        )
        self.column.addWidget(
            DirectionField(session, "Axle input").at("vehicle/axle_input_direction", "Vehicle")
        )

    def fingerprint(self) -> tuple[str, ...]:
        """The clearance table's rows."""
        return tuple(clearance.id for clearance in self.session.job.clearances)

    def _name_kind(self, at: int) -> None:
        """Name and reason of the chosen row of the clearance table."""
        rows = self.session.job.clearances
        key = rows[min(max(at, 0), len(rows) - 1)].id
        self.kind_name.at(f"clearances/{key}/name")
        self.kind_why.at(f"clearances/{key}/why")

    def add_kind(self) -> None:
        """One more row of the clearance table, to be named."""
        job = self.session.job
        key = free_id("kind", {clearance.id for clearance in job.clearances})
        made = Clearance(id=key, name=f"New kind {key.rsplit('-', 1)[1]}", required_mm=20.0)
        self.session.edit(f"Added {made.name}", added(job, "clearances", made))
        self.kind_box.setCurrentIndex(self.kind_box.count() - 1)
        self._name_kind(self.kind_box.count() - 1)

    def drop_kind(self) -> None:
        """Take the chosen row out of the clearance table; refused while anything is of that kind."""
        row_ = self.session.job.clearances[self.kind_box.currentIndex()]
        with told_in(self.refusal):
            self.session.edit(f"Dropped {row_.name}", removed(self.session.job, f"clearances/{row_.id}"))
            self.refuse("")

    def refresh(self) -> None:
        """The items, and the editor of the chosen one."""
        job, display = self.session.job, self.session.display
        room = {clearance.id: clearance.required_mm for clearance in job.clearances}
        for k, (clearance, field_) in enumerate(zip(job.clearances, self.rows, strict=True)):
            field_.label.setText(clearance.name)
            field_.setToolTip(plain(clearance.why))
            self.kind_box.setItemText(k, clearance.name)
        kind, key = self.session.selection
        chosen = key if kind == "item" else key.partition("/")[2] if kind == "gap" else ""
        self.table.fill(
            [
                (
                    i.id,
                    (
                        (i.name, ""),
                        (i.neighbour, ""),
                        (i.fate, ""),
                        (
                            show(
                                room[i.neighbour] if i.required_mm is None else i.required_mm,
                                "length",
                                display,
                                0,
                            ),
                            ">",
                        ),
                    ),
                )
                for i in job.items
            ],
            chosen,
        )
        item = next((i for i in job.items if i.id == chosen), None)
        for editor in self.editors:
            editor.setVisible(item is not None)
        self.which.setText(item.name if item else "Choose an item, here or in the picture")
        if item is not None:
            base = f"items/{item.id}"
            self.neighbour.offer([(clearance.id, clearance.name) for clearance in job.clearances])
            for field, name in (
                (self.neighbour, "neighbour"),
                (self.fate, "fate"),
                (self.measured, "measured"),
                (self.plus_minus, "plus_minus_mm"),
                (self.required, "required_mm"),
                (self.welding, "when_welding"),
                (self.trim, "trim_mm"),
                (self.material, "material"),
                (self.chassis, "chassis"),
                (self.placed, "placed"),
            ):
                if field.path != f"{base}/{name}":
                    field.at(f"{base}/{name}", item.name)
                else:
                    field.refresh()
            for text, name in ((self.name, "name"), (self.note, "note")):
                if text.path != f"{base}/{name}":
                    text.at(f"{base}/{name}")
            self.moved.at(f"{base}/moved", item.name)
            self.trim.setVisible(item.fate in ("open", "trim", "cut"))
            self.welding.setVisible(item.neighbour in LINES)
            self.shapes.setVisible(item.made is None)
            for own in (self.measured, self.plus_minus):
                own.setVisible(item.made is None)
            if item.made is None:
                self.shapes.at(base, item.name)
            self.cuts.at(item)
            self.made.at(item)
            self.motion.at(item)

    def twin(self, mirror: bool) -> None:
        """A second of the chosen item: beside it, or mirrored across the car's middle."""
        twin_of(self.session, "item", "items", mirror, self.refuse)

    def add(self) -> None:
        """A new box beside the bay, chosen at once."""
        job = self.session.job
        key = free_id("item", {i.id for i in job.items})
        item = Item(
            id=key,
            name=f"New item {key.rsplit('-', 1)[1]}",
            neighbour=job.clearances[0].id,
            shapes=(shifted_shape(new_shape("box"), beside(job, "items")),),
        )
        self.session.edit(f"Added {item.name}", added(job, "items", item))
        self.session.select("item", key)

    def remove(self) -> None:
        """Take the chosen item off the list."""
        kind, key = self.session.selection
        if kind != "item":
            self.refuse("Choose the item first.")
            return
        self.refuse("")
        with told_in(self.refusal):
            name = self.session.value(f"items/{key}/name")
            self.session.edit(f"Took {name} off the list", removed(self.session.job, f"items/{key}"))
            self.session.select("", "")


SHEET = BaySheet
