"""The powertrain's further rooms: what the engine does, the mock-up from tape readings, what was weighed
and swung."""

from __future__ import annotations

from collections.abc import Callable

from nimble_cradle.design.gearbox_kind import with_gearbox_kind, with_hubs
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.quantity_field import WAYS, QuantityField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, part, row
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job

PLACES = ("from the block's rear face", "from the crank line", "from the crank line")


class EngineRoom(Room):
    """What the engine does, and the gearbox."""

    title, key = "Engine, gearbox", "engine"
    caution = ""

    def build(self) -> None:
        box = "Transaxle" if self.session.job.powertrain.gearbox.kind == "transaxle" else "Gearbox"
        with self.two_sides():
            self._build_engine()
            self.right_side()
            self.column.addWidget(part(box))
            self._build_gearbox()
            with self.folded("Where it drives out"):
                self._build_outputs()
            with self.folded("Gears, shifter, mount pad"):
                self._build_gears()

    def _build_engine(self) -> None:
        session = self.session
        self.column.addWidget(TextField(session, "Powertrain's name").at("powertrain/name"))
        self.column.addWidget(TextField(session, "Engine's name").at("powertrain/engine/name"))
        for choice, choices, key in (
            ("Laid out", [(k, k) for k in ("inline", "v", "flat", "rotary")], "layout"),
            ("Strokes", [(4, "four"), (2, "two")], "strokes"),
        ):
            self.column.addWidget(
                ChoiceField(session, choice, choices).at(f"powertrain/engine/{key}", "Engine")
            )
        for label, kind, name in (
            ("Torque", "torque", "torque_nm"),
            ("Idle", "speed", "idle_rpm"),
            ("Redline", "speed", "redline_rpm"),
        ):
            field = QuantityField(session, label, kind)  # type: ignore[arg-type]
            self.column.addWidget(field.at(f"powertrain/engine/{name}", "Engine"))
        self.column.addWidget(
            QuantityField(session, "Cylinders", "number", whole=True).at(
                "powertrain/engine/cylinders", "Engine"
            )
        )
        self.column.addWidget(
            ChoiceField(
                session, "Crank turns, seen from the pulleys", ((True, "clockwise"), (False, "anticlockwise"))
            ).at("powertrain/engine/clockwise_from_front", "Engine")
        )
        self.column.addWidget(
            ChoiceField(
                session, "Between engine and gearbox", ((False, "a clutch"), (True, "a torque converter"))
            ).at("powertrain/engine/converter", "Engine")
        )
        self.column.addWidget(
            QuantityField(session, "Converter multiplies torque from a stand, times", "number").at(
                "powertrain/engine/stall_ratio", "Engine"
            )
        )

    def _build_gearbox(self) -> None:
        session = self.session
        self.column.addWidget(TextField(session, "Its name").at("powertrain/gearbox/name"))
        self.kind = ChoiceField(
            session, "It is a", [(k, k) for k in ("gearbox", "transaxle", "transfer case")]
        )
        self.kind.box.activated.disconnect()
        self.kind.box.activated.connect(self._take_kind)
        self.column.addWidget(self.kind.at("powertrain/gearbox/kind", "Gearbox"))
        self.column.addWidget(self.refusal)
        self.column.addWidget(
            QuantityField(session, "Reverse, ratio", "number", optional="as first gear").at(
                "powertrain/gearbox/reverse_ratio", "Gearbox"
            )
        )
        self.column.addWidget(
            QuantityField(session, "Low range, ratio; 1 for none", "number").at(
                "powertrain/gearbox/low_ratio", "Gearbox"
            )
        )

    def _build_outputs(self) -> None:
        session, gearbox = self.session, self.session.job.powertrain.gearbox
        if gearbox.kind == "transaxle":
            for k, side in enumerate(("Left", "Right")):
                self.column.addWidget(
                    VectorField(session, f"{side} shaft seat", WAYS, PLACES).at(
                        f"powertrain/gearbox/seats/{k}", "Transaxle"
                    )
                )
            if session.job.vehicle.hubs is None:
                self.column.addWidget(
                    row(
                        button(
                            "Say where the outer joints are",
                            self.hubs,
                            "At the wheels' ends of the half-shafts, at ride height",
                            "main",
                        )
                    )
                )
            else:
                for k, side in enumerate(("Left", "Right")):
                    self.column.addWidget(
                        VectorField(session, f"{side} outer joint", WAYS, ("from the datum",) * 3).at(
                            f"vehicle/hubs/{k}", "Vehicle"
                        )
                    )
        else:
            self.column.addWidget(
                VectorField(session, "Output joint", WAYS, PLACES).at("powertrain/gearbox/output", "Gearbox")
            )
            self.column.addWidget(
                DirectionField(session, "Output").at("powertrain/gearbox/output_direction", "Gearbox")
            )

    def _build_gears(self) -> None:
        session, gearbox = self.session, self.session.job.powertrain.gearbox
        for k in range(len(gearbox.ratios)):
            self.column.addWidget(
                QuantityField(session, f"Gear {k + 1}", "number").at(
                    f"powertrain/gearbox/ratios/{k}", "Gearbox"
                )
            )
        self.column.addWidget(
            row(
                button("One more gear", self.more_gears, name="view"),
                button("The last one less", self.fewer_gears, name="view"),
            )
        )
        if gearbox.shifter is None:
            self.column.addWidget(row(button("Say where the shifter is", self.shifter, name="view")))
        else:
            self.column.addWidget(
                row(
                    button(
                        "It has no shifter there",
                        lambda: session.set_value("powertrain/gearbox/shifter", None, "No shifter"),
                        name="view",
                    )
                )
            )
            self.column.addWidget(
                VectorField(session, "Shifter", WAYS, PLACES).at("powertrain/gearbox/shifter", "Gearbox")
            )
        self.column.addWidget(
            QuantityField(session, "Mount pad of the gearbox, turned by", "angle").at(
                "powertrain/gearbox/pad_turn_deg", "Gearbox"
            )
        )

    def _edit(self, what: str, edited: Callable[[Job], Job]) -> None:
        """An edit, or one sentence why not."""
        try:
            self.session.edit(what, edited(self.session.job))
            self.refuse("")
        except JobError as error:
            self.refuse(error.message)
            self.kind.refresh()

    def _take_kind(self, index: int) -> None:
        kind = self.kind.choices[index][0]
        self._edit(f"It is a {kind}", lambda job: with_gearbox_kind(job, kind))

    def hubs(self) -> None:
        """Outer joints of the half-shafts, to be typed over."""
        self._edit("Outer joints of the half-shafts", with_hubs)

    def more_gears(self) -> None:
        """One more gear, as the last one steps up from that before it."""
        ratios = self.session.job.powertrain.gearbox.ratios
        step = ratios[-1] / ratios[-2] if len(ratios) > 1 else 0.75
        more = round(ratios[-1] * min(max(step, 0.5), 0.95), 3)
        self._edit(
            f"Gear {len(ratios) + 1}",
            lambda job: with_value(job, "powertrain/gearbox/ratios", (*ratios, more)),
        )

    def fewer_gears(self) -> None:
        """Without the last gear."""
        path = "powertrain/gearbox/ratios"
        ratios = self.session.job.powertrain.gearbox.ratios
        if len(ratios) == 1:
            self.refuse("A gearbox has one gear at least.")
            return
        self._edit(f"No gear {len(ratios)}", lambda job: with_value(job, path, ratios[:-1]))

    def shifter(self) -> None:
        """A place for the shifter, to be typed over: over the output joint."""
        x, y, z = self.session.job.powertrain.gearbox.output
        self.session.set_value("powertrain/gearbox/shifter", (x + 100.0, y, z + 150.0), "Shifter's place")
