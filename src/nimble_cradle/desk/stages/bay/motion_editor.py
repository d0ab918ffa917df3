"""How an item moves with wheel or steering."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.quantity_field import WAYS, QuantityField
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import fresh_body, part, row
from nimble_cradle.job.bay import Item
from nimble_cradle.job.from_points import Follows, Slide, Swing

PARTS = [(part, part) for part in ("lower arm", "upper arm", "tie rod", "upright")]


class MotionEditor(QWidget):
    """How an item moves: not at all, swinging about an axis, sliding along a line, or with a suspension."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.item_id = session, ""
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(2)
        self.box = ChoiceBox()
        self.box.setAccessibleName("moves")
        self.box.addItems(
            [
                "stands still",
                "swings with the wheel",
                "slides with the wheel or rack",
                "goes with a measured suspension",
            ]
        )
        self.box.activated.connect(self.choose)
        self.column.addWidget(part("How it moves"))
        self.column.addWidget(row(self.box))
        self.refusal = Refusal(session)
        self.column.addWidget(self.refusal)
        self.body = QWidget()
        self.column.addWidget(self.body)
        self._shown: Any = None

    def at(self, item: Item) -> None:
        """Show an item's motion."""
        wheels = [(one.id, one.name) for one in self.session.job.suspensions if one.kind != "live axle"]
        shown = (item.id, item.motion.kind if item.motion else "", tuple(wheels))
        if shown == self._shown:
            return
        self._shown, self.item_id = shown, item.id
        self.box.setCurrentIndex({"": 0, "swing": 1, "slide": 2, "follows": 3}[shown[1]])
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

        elif isinstance(item.motion, Follows):
            column.addWidget(ChoiceField(session, "Of", wheels).at(f"{base}/suspension", item.name))
            column.addWidget(ChoiceField(session, "It is its", PARTS).at(f"{base}/part", item.name))

    def choose(self, index: int) -> None:
        """Another way of moving, to be set right."""
        name = self.session.value(f"items/{self.item_id}/name")
        wheel = next((one.id for one in self.session.job.suspensions if one.kind != "live axle"), None)
        if index == 3 and wheel is None:
            self.box.setCurrentIndex({"": 0, "swing": 1, "slide": 2}[self._shown[1]])
            self.refusal.tell("Measure a wheel's suspension first: stage Chassis, room Suspension.")
            return
        first: Any = (
            None,
            Swing(about=(0, 0, 0), axis=(1, 0, 0), least_deg=-5, most_deg=5),
            Slide(along=(0, 0, 1), least_mm=-40, most_mm=40),
            Follows(suspension=wheel or "x"),
        )[index]
        self.session.set_value(f"items/{self.item_id}/motion", first, f"{name}: {self.box.itemText(index)}")
