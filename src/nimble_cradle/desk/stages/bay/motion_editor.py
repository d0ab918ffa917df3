"""How an item moves with wheel or steering."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.quantity_field import WAYS, QuantityField
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import fresh_body, part, row
from nimble_cradle.job.bay import Item
from nimble_cradle.job.from_points import Slide, Swing


class MotionEditor(QWidget):
    """How an item moves: not at all, swinging about an axis, or sliding along a line."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.item_id = session, ""
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(2)
        self.box = ChoiceBox()
        self.box.setAccessibleName("How it moves")
        self.box.setAccessibleName("moves")
        self.box.addItems(["stands still", "swings with the wheel", "slides with the wheel or rack"])
        self.box.activated.connect(self.choose)
        self.column.addWidget(part("How it moves"))
        self.column.addWidget(row(self.box))
        self.body = QWidget()
        self.column.addWidget(self.body)
        self._shown: Any = None

    def at(self, item: Item) -> None:
        """Show an item's motion."""
        shown = (item.id, item.motion.kind if item.motion else "")
        if shown == self._shown:
            return
        self._shown, self.item_id = shown, item.id
        self.box.setCurrentIndex({"": 0, "swing": 1, "slide": 2}[shown[1]])
        self.body, column = fresh_body(self.column, self.body)
        session, base = self.session, f"items/{item.id}/motion"
        if isinstance(item.motion, Swing):
            column.addWidget(
                VectorField(session, "Pivot", WAYS, ("forward / back", "left / right", "up / down")).at(
                    f"{base}/about", item.name
                )
            )
            column.addWidget(DirectionField(session, "Axis").at(f"{base}/axis", item.name))
            column.addWidget(
                QuantityField(session, "One way (nought or less)", "angle").at(f"{base}/least_deg", item.name)
            )
            column.addWidget(QuantityField(session, "Other way", "angle").at(f"{base}/most_deg", item.name))
        elif isinstance(item.motion, Slide):
            column.addWidget(DirectionField(session, "Line").at(f"{base}/along", item.name))
            column.addWidget(
                QuantityField(session, "Against the line (nought or less)", "length").at(
                    f"{base}/least_mm", item.name
                )
            )
            column.addWidget(
                QuantityField(session, "Along the line", "length").at(f"{base}/most_mm", item.name)
            )

    def choose(self, index: int) -> None:
        """Another way of moving, to be set right."""
        name = self.session.value(f"items/{self.item_id}/name")
        first: Any = (
            None,
            Swing(about=(0, 0, 0), axis=(1, 0, 0), least_deg=-5, most_deg=5),
            Slide(along=(0, 0, 1), least_mm=-40, most_mm=40),
        )[index]
        self.session.set_value(f"items/{self.item_id}/motion", first, f"{name}: {self.box.itemText(index)}")
