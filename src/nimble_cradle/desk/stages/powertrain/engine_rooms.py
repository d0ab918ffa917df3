"""The powertrain's further rooms: what the engine does, the mock-up from tape readings, what was weighed
and swung."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import fields, replace
from typing import Any, get_args

from PyQt6.QtWidgets import QComboBox, QLineEdit

from nimble_cradle.bay.mass import powertrain_mass
from nimble_cradle.calc import Worked
from nimble_cradle.design.gearbox_kind import with_gearbox_kind, with_hubs
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import (
    WAYS,
    ChoiceField,
    QuantityField,
    TextField,
    VectorField,
    button,
    part,
    row,
    words,
)
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.pocket import Pocket
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.powertrain import Gearbox, Weighed
from nimble_cradle.survey.builder import Drive, Layout, TapeReadings, first_seats, mock_up
from nimble_cradle.survey.weighing import BIFILAR, TILTED, TRIFILAR, TWO_SCALES
from nimble_cradle.units import UnitError, parse, show

_PLACES = ("from the block's rear face", "from the crank line", "from the crank line")


class EngineRoom(Room):
    """What the engine does, and the gearbox."""

    title, key = "Engine, gearbox", "engine"

    def build(self) -> None:
        s = self.session
        self.column.addWidget(TextField(s, "Powertrain").at("powertrain/name"))
        self.column.addWidget(TextField(s, "Engine").at("powertrain/engine/name"))
        for choice, choices, key in (
            ("Laid out", [(k, k) for k in ("inline", "v", "flat", "rotary")], "layout"),
            ("Strokes", [(4, "four"), (2, "two")], "strokes"),
        ):
            self.column.addWidget(
                ChoiceField(s, choice, choices).at(f"powertrain/engine/{key}", "Engine")  # type: ignore[arg-type]
            )
        for label, kind, name in (
            ("Torque", "torque", "torque_nm"),
            ("Idle", "speed", "idle_rpm"),
            ("Redline", "speed", "redline_rpm"),
        ):
            self.column.addWidget(QuantityField(s, label, kind).at(f"powertrain/engine/{name}", "Engine"))  # type: ignore[arg-type]
        self.column.addWidget(
            QuantityField(s, "Cylinders", "number", whole=True).at("powertrain/engine/cylinders", "Engine")
        )
        self.column.addWidget(
            ChoiceField(
                s, "Crank turns, seen from the pulleys", ((True, "clockwise"), (False, "anticlockwise"))
            ).at("powertrain/engine/clockwise_from_front", "Engine")
        )
        self.column.addWidget(
            ChoiceField(
                s, "Between engine and gearbox", ((False, "a clutch"), (True, "a torque converter"))
            ).at("powertrain/engine/converter", "Engine")
        )
        self.column.addWidget(
            QuantityField(s, "Converter multiplies torque from a stand, times", "number").at(
                "powertrain/engine/stall_ratio", "Engine"
            )
        )
        gearbox = s.job.powertrain.gearbox
        self.column.addWidget(part("Transaxle" if gearbox.kind == "transaxle" else "Gearbox"))
        self.column.addWidget(TextField(s, "Gearbox").at("powertrain/gearbox/name"))
        self.kind = ChoiceField(s, "It is a", [(k, k) for k in ("gearbox", "transaxle", "transfer case")])
        self.kind.box.activated.disconnect()
        self.kind.box.activated.connect(self._take_kind)
        self.column.addWidget(self.kind.at("powertrain/gearbox/kind", "Gearbox"))
        self.column.addWidget(self.refusal)
        self.column.addWidget(
            QuantityField(s, "Reverse, ratio", "number", optional="as first gear").at(
                "powertrain/gearbox/reverse_ratio", "Gearbox"
            )
        )
        self.column.addWidget(
            QuantityField(s, "Low range, ratio (1: none)", "number").at(
                "powertrain/gearbox/low_ratio", "Gearbox"
            )
        )
        if gearbox.kind == "transaxle":
            for k, side in enumerate(("Left", "Right")):
                self.column.addWidget(
                    VectorField(s, f"{side} shaft seat", WAYS, _PLACES).at(
                        f"powertrain/gearbox/seats/{k}", "Transaxle"
                    )
                )
            if s.job.vehicle.hubs is None:
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
                        VectorField(s, f"{side} outer joint", WAYS, ("from the datum",) * 3).at(
                            f"vehicle/hubs/{k}", "Vehicle"
                        )
                    )
        else:
            self.column.addWidget(
                VectorField(s, "Output joint", WAYS, _PLACES).at("powertrain/gearbox/output", "Gearbox")
            )
            self.column.addWidget(
                DirectionField(s, "Output").at("powertrain/gearbox/output_direction", "Gearbox")
            )
        for k in range(len(gearbox.ratios)):
            self.column.addWidget(
                QuantityField(s, f"Gear {k + 1}", "number").at(f"powertrain/gearbox/ratios/{k}", "Gearbox")
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
                        lambda: s.set_value("powertrain/gearbox/shifter", None, "No shifter"),
                        name="view",
                    )
                )
            )
            self.column.addWidget(
                VectorField(s, "Shifter", WAYS, _PLACES).at("powertrain/gearbox/shifter", "Gearbox")
            )
        self.column.addWidget(
            QuantityField(s, "Mount pad of the gearbox, turned by", "angle").at(
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
        ratios = self.session.job.powertrain.gearbox.ratios
        if len(ratios) == 1:
            self.refuse("A gearbox has one gear at least.")
            return
        self._edit(
            f"No gear {len(ratios)}", lambda job: with_value(job, "powertrain/gearbox/ratios", ratios[:-1])
        )

    def shifter(self) -> None:
        """A place for the shifter, to be typed over: over the output joint."""
        x, y, z = self.session.job.powertrain.gearbox.output
        self.session.set_value("powertrain/gearbox/shifter", (x + 100.0, y, z + 150.0), "Shifter's place")


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

    def build(self) -> None:
        self.column.addWidget(
            words(
                "Tape these and build: the pieces take the place of those that are there (undo brings them"
                " back), and each is then yours to change. Keep the real sump, mounts and front cover on a"
                " gutless mock-up, or it lies.",
                "",
            )
        )
        self.layout_box, self.drive_box, self.end_box = QComboBox(), QComboBox(), QComboBox()
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
        defaults = {f.name: f.default for f in fields(TapeReadings)}
        for name, label in (
            *READINGS,
            ("angle_deg", "Bank angle, or lean to the left"),
            ("mass_kg", "Mass of everything"),
        ):
            line = QLineEdit(self._text(name, float(defaults[name])))  # type: ignore[arg-type]
            line.setObjectName(f"mock-up/{name}")
            line.setMaximumWidth(150)
            self.lines[name] = line
            text = words(label, "")
            self.column.addWidget(row(text, line, stretch=False))
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
            known = {c.id for c in job.clearances}
            pieces = tuple(
                p if p.neighbour in known else p.model_copy(update={"neighbour": job.clearances[0].id})
                for p in pieces
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


class WeighedRoom(Room):
    """Mass, centre of gravity and inertia as measured, with the calculations that lead to them."""

    title, key = "Weighed", "weighed"

    def build(self) -> None:
        s = self.session
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
            QuantityField(s, "Mass", "mass"),
            QuantityField(s, "Mass, give or take", "mass"),
            VectorField(s, "Centre of gravity", WAYS, _PLACES),
            QuantityField(s, "Centre, give or take", "length"),
            VectorField(s, "Inertia about the", (None, None, None), axes, "number"),
        )
        for field in self.fields:
            self.column.addWidget(field)
        self.pockets = (
            Pocket(s, TWO_SCALES, ("Take the mass", self._mass)),
            Pocket(s, TILTED),
            Pocket(s, BIFILAR, ("Take it as the upright inertia", self._upright)),
            Pocket(s, TRIFILAR),
        )
        for pocket in self.pockets:
            self.column.addWidget(pocket)

    def refresh(self) -> None:
        """What was weighed, or what the pieces say."""
        weighed, d = self.session.job.powertrain.weighed, self.session.display
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
            mass, doubt = show(weighed.mass_kg, "mass", d), show(weighed.mass_plus_minus_kg, "mass", d)
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
            )  # type: ignore[arg-type]
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
