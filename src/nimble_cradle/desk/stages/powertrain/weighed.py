"""The powertrain as it was weighed: on scales, or from its parts."""

from __future__ import annotations

from typing import Any

from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.calc import Worked
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.pocket import Pocket
from nimble_cradle.desk.kit.quantity_field import WAYS, QuantityField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.powertrain.engine import PLACES
from nimble_cradle.job.base import JobError
from nimble_cradle.job.powertrain import Weighed
from nimble_cradle.judge.cautions import WEIGHING
from nimble_cradle.survey.weighing import BIFILAR, TILTED, TRIFILAR, TWO_SCALES
from nimble_cradle.units import show


class WeighedRoom(Room):
    """Mass, centre of gravity and inertia as measured, with the calculations that lead to them."""

    title, key = "Weighed", "weighed"
    caution = WEIGHING

    def build(self) -> None:
        self._build_scales()

    def _build_scales(self) -> None:
        session = self.session
        self.summary = words("", "")
        self.column.addWidget(self.summary)
        self.column.addWidget(self.refusal)
        self.column.addWidget(
            row(
                button("Take the pieces' figures as weighed", self.begin, "Then type over what was measured"),
                button("Back to the pieces", self.leave, name="view"),
            )
        )
        axes = ("long axis, kg m²", "cross axis, kg m²", "upright, kg m²")
        self.fields: tuple[Any, ...] = (
            QuantityField(session, "Mass", "mass"),
            QuantityField(session, "Mass, give or take", "mass"),
            VectorField(session, "Centre of gravity", WAYS, PLACES),
            QuantityField(session, "Centre, give or take", "length"),
            VectorField(session, "Inertia about the", (None, None, None), axes, "number"),
        )
        for field in self.fields:
            self.column.addWidget(field)
        self.pockets = (
            Pocket(session, TWO_SCALES, ("Take the mass", self._mass)),
            Pocket(session, TILTED),
            Pocket(session, BIFILAR, ("Take it as the upright inertia", self._upright)),
            Pocket(session, TRIFILAR),
        )
        for pocket in self.pockets:
            with self.folded(pocket.calculation.title, "a calculation with what you measured"):
                self.column.addWidget(pocket)

    def refresh(self) -> None:
        """What was weighed, or what the pieces say."""
        weighed, display = self.session.job.powertrain.weighed, self.session.display
        for field, name in zip(
            self.fields,
            ("mass_kg", "mass_plus_minus_kg", "centre", "centre_plus_minus_mm", "inertia_kg_m2"),
            strict=True,
        ):
            field.setVisible(weighed is not None and getattr(weighed, name) is not None)
            if weighed is not None and getattr(weighed, name) is not None:
                field.at(f"powertrain/weighed/{name}", "Weighed")
        if weighed is None:
            self.summary.setText(
                "The mass comes from the pieces now. Stand the powertrain on two scales, then tilt it, then"
                " let it swing: each calculation below says how, with its give-or-take."
            )
        else:
            mass, doubt = (
                show(weighed.mass_kg, "mass", display),
                show(weighed.mass_plus_minus_kg, "mass", display),
            )
            self.summary.setText(
                f"Weighed: {BOLD}{mass}{PLAIN}, give or take {doubt}. The pieces' own masses are not used."
            )

    def begin(self) -> None:
        """The pieces' figures as a start."""
        try:
            mass = powertrain_mass(self.session.job)
            i = tuple(round(float(v) / 1e6, 3) for v in mass.inertia.diagonal())
            c = tuple(round(float(v), 1) for v in mass.centre)
            self.session.set_value(
                "powertrain/weighed",
                Weighed(mass_kg=round(mass.mass_kg, 1), centre=c, inertia_kg_m2=i),
                "Mass as weighed",
            )
            self.refuse("")
        except (JobError, ValueError) as error:
            self.refuse(str(error))

    def leave(self) -> None:
        """Back to the pieces' masses."""
        self.session.set_value("powertrain/weighed", None, "Mass from the pieces again")

    def _mass(self, worked: Worked) -> None:
        if self.session.job.powertrain.weighed is None:
            self.begin()
        self.session.set_value(
            "powertrain/weighed/mass_kg", round(float(worked.value("mass")), 2), "Mass from two scales"
        )
        self.session.set_value(
            "powertrain/weighed/mass_plus_minus_kg",
            round(float(worked.value("mass_plus_minus")), 2),
            "Mass from two scales, its give or take",
        )

    def _upright(self, worked: Worked) -> None:
        if self.session.job.powertrain.weighed is None:
            self.begin()
        weighed = self.session.job.powertrain.weighed
        if weighed is not None and weighed.inertia_kg_m2 is not None:
            self.session.set_value(
                "powertrain/weighed/inertia_kg_m2",
                (*weighed.inertia_kg_m2[:2], round(float(worked.value("inertia")), 3)),
                "Inertia from a swing",
            )
