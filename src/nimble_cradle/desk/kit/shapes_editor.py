"""Editing the solids of an item or piece: choose one of its shapes, type its numbers."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.design.beside import beside, duplicated
from nimble_cradle.desk.kit.ask_file import file_to_open
from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.pairs_field import PairsField
from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, UP, QuantityField
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, fresh_body, row, words
from nimble_cradle.files import read_file
from nimble_cradle.geometry.mesh import read_mesh
from nimble_cradle.geometry.solids import ShapeError
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import free_mesh_name, with_mesh, with_value
from nimble_cradle.job.read_archive import MOST_FILE
from nimble_cradle.job.shapes import Bar, Box, Mesh, Prism, Slab
from nimble_cradle.job.twins import shifted_shape, twin

NAMES = {
    "box": "box",
    "bar": "round bar or tube",
    "slab": "flat slab",
    "prism": "outline pushed along",
    "mesh": "mesh of a scan or model",
}
_SIZES = (None, None, None)
_TURNS = ("about the long axis", "about the cross axis", "about the upright")
_PLACE = ("forward / back", "left / right", "up / down")


def new_shape(kind: str) -> Any:
    """A first shape of a kind, at the datum, to be typed over."""
    if kind == "box":
        return Box(centre=(0, 0, 0), size=(100, 100, 100))
    if kind == "bar":
        return Bar(start=(0, 0, 0), end=(200, 0, 0), diameter=50)
    if kind == "slab":
        return Slab(corners=((0, -100, 0), (0, 100, 0), (0, 100, 200), (0, -100, 200)), thickness=4)
    return Prism(
        origin=(0, 0, 0), along=(1, 0, 0), up=(0, 0, 1), outline=((-50, 0), (50, 0), (0, 80)), length=100
    )


def twin_of(session: Session, kind: str, where: str, mirror: bool, refuse: Callable[[str], None]) -> None:
    """A second of the part that is chosen in the window, chosen at once. kind: what must be chosen; where:
    the list it stands in."""
    chosen, key = session.selection
    if chosen != kind:
        refuse(f"Choose the {kind} first.")
        return
    name = session.value(f"{where}/{key}/name")
    try:
        path = f"{where}/{key}"
        after, made = twin(session.job, path, mirror=True) if mirror else duplicated(session.job, path)
        refuse("")
        session.edit(f"{'Mirrored' if mirror else 'Doubled'} {name}", after)
        session.select(kind, made)
    except JobError as error:
        refuse(error.message)


class ShapeEditor(QWidget):
    """Shapes of the part at ``base`` (a path such as items/rack)."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.base, self.owner = session, "", ""
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(2)
        self.choice = ChoiceBox()
        self.choice.setAccessibleName("Which shape")
        self.choice.activated.connect(lambda _: self._build())
        self.kind = ChoiceBox()
        self.kind.setAccessibleName("Kind of the new shape")
        self.kind.addItems([NAMES[k] for k in ("box", "bar", "slab", "prism")])
        self.column.addWidget(row(self.choice, button("Drop this shape", self._drop)))
        self.column.addWidget(
            row(
                self.kind,
                button("Add", self._add),
                button("Mesh file …", self._mesh, "STL, OBJ, PLY or OFF, in mm"),
            )
        )
        self.refusal = Refusal(session)
        self.column.addWidget(self.refusal)
        self.body = QWidget()
        self.column.addWidget(self.body)
        self._shown: tuple[str, tuple[str, ...], int] | None = None

    def at(self, base: str, owner: str) -> None:
        """Show the shapes of a part."""
        self.base, self.owner = base, owner
        shapes = self.session.value(f"{base}/shapes") or ()
        kinds = tuple(shape.kind for shape in shapes)
        index = max(0, min(self.choice.currentIndex(), len(kinds) - 1))
        if self._shown is not None and self._shown[:2] == (base, kinds):
            return
        self.choice.clear()
        self.choice.addItems([f"{i + 1}: {NAMES[kind]}" for i, kind in enumerate(kinds)])
        self.choice.setCurrentIndex(index if self._shown and self._shown[0] == base else 0)
        self._build()

    def _build(self) -> None:
        index = max(0, self.choice.currentIndex())
        shapes = self.session.value(f"{self.base}/shapes") or ()
        self.refusal.hide()
        self.body, column = fresh_body(self.column, self.body)
        if index < len(shapes):
            for field in self._fields(shapes[index], f"{self.base}/shapes/{index}"):
                column.addWidget(field)
        self._shown = (self.base, tuple(shape.kind for shape in shapes), index)

    def _fields(self, shape: Any, path: str) -> list[QWidget]:
        session, o = self.session, self.owner

        def vector(label: str, name: str, ways: Any = (FORWARD, LEFT, UP)) -> QWidget:
            return VectorField(
                session, label, ways, _PLACE if ways != _SIZES else ("long", "wide", "high")
            ).at(f"{path}/{name}", o)

        def number(label: str, name: str) -> QWidget:
            return QuantityField(session, label, "length").at(f"{path}/{name}", o)

        if isinstance(shape, Box):
            turn = VectorField(session, "Turned", (None, None, None), _TURNS, kind="angle")
            return [vector("Centre", "centre"), vector("Size", "size", _SIZES), turn.at(f"{path}/turn", o)]
        if isinstance(shape, Bar):
            return [vector("One end", "start"), vector("Other end", "end"), number("Diameter", "diameter")]
        if isinstance(shape, Slab):
            return [
                *(vector(f"Corner {k + 1}", f"corners/{k}") for k in range(len(shape.corners))),
                number("Thickness", "thickness"),
            ]
        if isinstance(shape, Prism):
            outline = PairsField(
                session,
                "Outline, as one faces it with its length towards you and its own up upwards; an emptied line"
                " takes the point away",
                "point",
            )
            outline.at(f"{path}/outline", o)
            return [
                vector("Start", "origin"),
                number("Length", "length"),
                DirectionField(session, "Length").at(f"{path}/along", o),
                DirectionField(session, "Its up").at(f"{path}/up", o),
                outline,
            ]
        if isinstance(shape, Mesh):
            turn = VectorField(session, "Turned", (None, None, None), _TURNS, kind="angle")
            return [vector("Moved", "at"), turn.at(f"{path}/turn", o), words(f"Mesh {shape.file}.")]
        return [words(f"A skin of {len(shape.rows)} by {len(shape.rows[0])} points.")]

    def _edit(self, shapes: tuple[Any, ...], what: str) -> None:
        try:
            self.session.set_value(f"{self.base}/shapes", shapes, f"{self.owner}: {what}")
            self.refusal.hide()
        except JobError as error:
            self._refuse(error.message)

    def _refuse(self, sentence: str) -> None:
        self.refusal.tell(sentence)

    def _add(self) -> None:
        kind = ("box", "bar", "slab", "prism")[self.kind.currentIndex()]
        where: Any = self.base.rpartition("/")[0]
        made = shifted_shape(new_shape(kind), beside(self.session.job, where))
        self._edit((*self.session.value(f"{self.base}/shapes"), made), f"added a {kind}")

    def _drop(self) -> None:
        shapes = self.session.value(f"{self.base}/shapes")
        if len(shapes) < 2:
            self._refuse("The last shape cannot be dropped; remove the whole part instead.")
            return
        k = self.choice.currentIndex()
        self._edit((*shapes[:k], *shapes[k + 1 :]), f"dropped shape {k + 1}")

    def _mesh(self) -> None:
        if path := file_to_open(self, "Mesh file", "Meshes (*.stl *.obj *.ply *.off)"):
            self.add_mesh(path)

    def add_mesh(self, path: Path) -> None:
        """Add a mesh file as a shape, or say at the place why not."""
        try:
            data = read_file(path, MOST_FILE)
            read_mesh(path.name, data)
            name = free_mesh_name(self.session.job, path.name, data)
            job = with_mesh(self.session.job, name, data)
            shapes = (*self.session.value(f"{self.base}/shapes"), Mesh(file=name))
            self.session.edit(
                f"{self.owner}: added the mesh {path.name}", with_value(job, f"{self.base}/shapes", shapes)
            )
            self.refusal.hide()
        except (ShapeError, JobError) as error:
            self._refuse(str(error))
