"""Adapter plate: the engine's and the gearbox's patterns on one crank axis, and the thickness the input
shaft wants."""

from __future__ import annotations

from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.preview import Preview
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.rooms import Room, offer
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.job.base import JobError
from nimble_cradle.job.pattern import Adapter
from nimble_cradle.shop.patterns import adapter_drawing
from nimble_cradle.survey.adapter import adapter_plate
from nimble_cradle.units import show

FIELDS = (
    ("Plate thickness", "thickness_mm"),
    ("Input shaft past the gearbox face", "shaft_mm"),
    ("Pilot bush mouth, into the engine", "pilot_mouth_mm"),
    ("Pilot bush depth", "pilot_deep_mm"),
    ("Engagement wanted", "pilot_want_mm"),
    ("Clutch hub from the engine's face", "hub_at_mm"),
    ("Clutch hub length", "hub_mm"),
    ("Splines begin, from the gearbox face", "spline_from_mm"),
    ("Splines end", "spline_to_mm"),
    ("Least metal between holes", "least_ligament_mm"),
    ("Opening for the crank's flange", "opening_mm"),
)


class AdapterRoom(Room):
    """The one adapter of a job."""

    title, key = "Adapter", "adapter"
    caution = ""

    def build(self) -> None:
        self._build_choice()

    def _build_choice(self) -> None:
        session = self.session
        self.summary = words("", "")
        self.column.addWidget(self.summary)
        self.engine, self.gearbox = ChoiceBox(), ChoiceBox()
        self.engine.setAccessibleName("engine pattern")
        self.gearbox.setAccessibleName("gearbox pattern")
        self.column.addWidget(part("Two patterns on one crank axis"))
        self.column.addWidget(row(self.engine, self.gearbox, button("Join", self.make), stretch=False))
        self.column.addWidget(self.refusal)
        self.preview = Preview()
        self.column.addWidget(self.preview)
        self.fields = tuple(
            QuantityField(session, label, "length", optional="not said" if name == "opening_mm" else "")
            for label, name in FIELDS
        )
        self.material = ChoiceField(
            session, "Made of", (("unsaid", "not said"), ("steel", "steel"), ("aluminium", "aluminium"))
        )
        for field in (*self.fields, self.material):
            self.column.addWidget(field)
        self.buttons = row(
            button("How the thickness is found", self.work, name="view"),
            button("Leave the adapter out", self.drop, name="view"),
        )
        self.column.addWidget(self.buttons)

    def refresh(self) -> None:
        """The adapter as it is."""
        survey, display = self.session.job.survey, self.session.display
        for box in (self.engine, self.gearbox):
            offer(box, [pattern.name for pattern in survey.patterns])
        if survey.adapter is not None:
            ids = [pattern.id for pattern in survey.patterns]
            for box, key in ((self.engine, survey.adapter.engine), (self.gearbox, survey.adapter.gearbox)):
                if not box.hasFocus():
                    box.setCurrentIndex(ids.index(key))
        for widget in (*self.fields, self.material, self.preview, self.buttons):
            widget.setVisible(survey.adapter is not None)
        if survey.adapter is None:
            self.summary.setText(
                "Take both bolt patterns on Holes from a pin on the crank centre (radius and angle, or right"
                " and above), then join them here."
            )
            return
        for field, (_, name) in zip(self.fields, FIELDS, strict=True):
            field.at(f"survey/adapter/{name}", "Adapter")
        self.material.at("survey/adapter/material", "Adapter")
        try:
            plate = adapter_plate(self.session.job)
            assert plate is not None
            worked = plate.worked
            said = (
                " ".join(question.removeprefix("Adapter: ") + "." for question in plate.questions)
                or "Nothing fouls and the shaft sits right."
            )
            tight = (
                f" Least metal between holes {show(plate.ligaments[0].ligament, 'length', display)}."
                if plate.ligaments
                else ""
            )
            shaft = show(worked.value("engaged"), "length", display)
            self.summary.setText(
                f"{said} Shaft {BOLD}{shaft}{PLAIN} in the pilot,"
                f" {BOLD}{show(worked.value('in_hub'), 'length', display)}{PLAIN} of hub on splines.{tight}"
            )
            self.preview.show_drawing(adapter_drawing(self.session.job))
        except JobError as error:
            self.summary.setText(error.message)
            self.preview.show_drawing(None)

    def make(self) -> None:
        """Join the two chosen patterns."""
        patterns = self.session.job.survey.patterns
        if len(patterns) < 2 or self.engine.currentIndex() == self.gearbox.currentIndex():
            self.refuse("An adapter joins two different patterns: the engine's and the gearbox's.")
            return
        made = Adapter(
            engine=patterns[self.engine.currentIndex()].id,
            gearbox=patterns[self.gearbox.currentIndex()].id,
            shaft_mm=180,
        )
        self.session.set_value("survey/adapter", made, "Joined two patterns by an adapter plate")
        self.refuse("")

    def drop(self) -> None:
        """No adapter any more."""
        self.session.set_value("survey/adapter", None, "Left the adapter out")

    def work(self) -> None:
        """Working of the thickness."""
        try:
            plate = adapter_plate(self.session.job)
        except JobError:
            return
        if plate is not None:
            self.session.show_work("Adapter plate", plate.worked)
