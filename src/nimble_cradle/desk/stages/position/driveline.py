"""Driveline whole and balance: joints, phasing, speeds, slip and length through the axle's travel; axle
loads before and after."""

from __future__ import annotations

from nimble_cradle.bay.position import pose_of
from nimble_cradle.calc import Worked
from nimble_cradle.desk.kit.chart import Chart, Curve
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.pocket import Pocket
from nimble_cradle.desk.kit.quantity_field import UP, WAYS, QuantityField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.fit.balance import balances
from nimble_cradle.fit.half_shafts import half_shafts
from nimble_cradle.fit.shafts import ACCELERATION, CRITICAL, HOOKE, chain
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import CameOut
from nimble_cradle.job.edits import with_value
from nimble_cradle.units import Display, show


class DrivelineRoom(Room):
    """What the shafts do, and what the axles carry."""

    title, key = "Driveline", "driveline"
    caution = ""
    waits = True

    def build(self) -> None:
        """Chart and verdict on top, then balance, then what is known of the shaft."""
        with self.two_sides():
            self._build_joints()
            self.right_side()
            with self.folded("What the axles carry", "with the old powertrain and with this one", True):
                self._build_axles()
            with self.folded("Travel of the wheels"):
                self._build_travel()
            if self.across:
                with self.folded("The half-shafts", "how thick they are, for the gaps; 60 mm where not said"):
                    self._half_shaft_sizes()
            else:
                with self.folded("The shaft"):
                    self._shaft()
            with self.folded("Joint angles by themselves", "a calculation for any shaft"):
                self.column.addWidget(Pocket(self.session, HOOKE))

    def _build_joints(self) -> None:
        session = self.session
        self.across = session.job.powertrain.gearbox.kind == "transaxle"
        self.chart = Chart(
            "the wheels' travel, mm" if self.across else "the axle's travel, mm", "Joint angles, deg,"
        )
        self.column.addWidget(self.chart)
        self.say = words("", "")
        self.column.addWidget(self.say)
        self.column.addWidget(self.refusal)
        if not self.across:
            self.column.addWidget(
                row(
                    button("Critical speed", self.critical_work, name="view"),
                    button("Torsional acceleration", self.acceleration_work, name="view"),
                )
            )

    def _build_axles(self) -> None:
        session = self.session
        self.table = Table(
            ("Car", "Front", "Rear", "On front", "C.g. height"), most_rows=3, widths=(0, 74, 74, 76, 92)
        )
        self.table.setAccessibleName("Axle loads")
        self.column.addWidget(self.table)
        if session.job.vehicle.came_out is None:
            self.column.addWidget(
                row(
                    button(
                        "Say what came out",
                        self.came_out,
                        "The old powertrain's mass and where it sat, to compare with",
                        "view",
                    )
                )
            )
        else:
            self.column.addWidget(
                QuantityField(session, "Old powertrain", "mass").at(
                    "vehicle/came_out/mass_kg", "Old powertrain"
                )
            )
            self.column.addWidget(
                VectorField(
                    session,
                    "Its centre",
                    WAYS,
                    ("from the axle line", "from the centre", "from the rail tops"),
                ).at("vehicle/came_out/centre", "Old powertrain")
            )

    def _build_travel(self) -> None:
        session = self.session
        self.column.addWidget(
            QuantityField(session, "Wheels rise by", "length").at("vehicle/wheel_up_mm", "Vehicle")
        )
        self.column.addWidget(
            QuantityField(session, "Wheels drop by", "length").at("vehicle/wheel_down_mm", "Vehicle")
        )

    def _half_shaft_sizes(self) -> None:
        for label, name in (
            ("Shaft, outside", "shaft_outside_mm"),
            ("Joint with its boot, outside", "joint_outside_mm"),
            ("Joint with its boot, from its centre", "joint_long_mm"),
        ):
            self.column.addWidget(
                QuantityField(self.session, label, "length", optional="not said").at(
                    f"half_shafts/{name}", "Half-shafts"
                )
            )

    def _shaft(self) -> None:
        session = self.session
        for label, name in (
            ("Tube, outside", "tube_outside_mm"),
            ("Tube, wall", "tube_wall_mm"),
            ("Joints, across as they turn", "joint_outside_mm"),
            ("Slip engaged at ride height", "slip_mm"),
            ("Slip engaged at least", "slip_least_mm"),
        ):
            self.column.addWidget(
                QuantityField(session, label, "length", optional="not said").at(
                    f"propshaft/{name}", "Propshaft"
                )
            )
        self.column.addWidget(
            QuantityField(session, "Shake that the joints may leave, rad/s²", "number").at(
                "propshaft/most_acceleration", "Propshaft"
            )
        )
        for k in range(1 if session.job.propshaft.centre is None else 2):
            self.column.addWidget(
                QuantityField(
                    session,
                    (
                        f"Rear yoke of piece {k + 1}, clockwise from behind"
                        if session.job.propshaft.centre is not None
                        else "Rear yoke, clockwise from behind"
                    ),
                    "angle",
                ).at(f"propshaft/phase_deg/{k}", "Propshaft")
            )
        if session.job.propshaft.centre is None:
            self.column.addWidget(row(button("Two pieces with a centre bearing", self.two, name="view")))
        else:
            self.column.addWidget(
                VectorField(
                    session,
                    "Joint behind the bearing",
                    WAYS,
                    ("from the axle line", "from the centre", "from the rail tops"),
                ).at("propshaft/centre", "Propshaft")
            )
            self.column.addWidget(
                row(
                    button(
                        "One piece",
                        lambda: session.set_value("propshaft/centre", None, "Propshaft in one piece"),
                        name="view",
                    )
                )
            )
        if session.job.propshaft.axle_pivot is None:
            self.column.addWidget(
                row(
                    button(
                        "The axle swings about a pivot",
                        self.pivot,
                        "The front eye of its springs, or the pivot of its arms; straight up else",
                        "view",
                    )
                )
            )
        else:
            self.column.addWidget(
                VectorField(
                    session,
                    "The axle swings about",
                    (WAYS[0], WAYS[1], UP),
                    ("from the axle line", "from the centre", "from the rail tops"),
                ).at("propshaft/axle_pivot", "Axle")
            )

    def two(self) -> None:
        """A bearing in the middle, to be typed over."""
        job = self.session.job
        out = pose_of(job.position).points(job.powertrain.gearbox.output)
        middle = tuple(
            round((float(a) + float(b)) / 2, 1) for a, b in zip(out, job.vehicle.axle_input, strict=True)
        )
        self.session.set_value("propshaft/centre", middle, "Propshaft in two pieces")

    def pivot(self) -> None:
        """A pivot 600 mm before the axle, to be typed over."""
        x, y, z = self.session.job.vehicle.axle_input
        self.session.set_value("propshaft/axle_pivot", (x + 600.0, y, z + 40.0), "The axle's pivot")

    def came_out(self) -> None:
        """The old powertrain, as the new one until it is typed over."""
        job = self.session.job
        try:
            now = balances(job)[-1]
        except JobError as error:
            self.refuse(error.message)
            return
        mass = max(now.total_kg - job.vehicle.front_axle_kg - job.vehicle.rear_axle_kg, 1.0)
        self.session.edit(
            "What came out",
            with_value(job, "vehicle/came_out", CameOut(mass_kg=round(mass), centre=(0.0, 0.0, 120.0))),
        )

    def _worked(self, acceleration: bool) -> list[Worked]:
        c = chain(self.session.job)
        shaft = self.session.job.propshaft
        if acceleration:
            return [
                ACCELERATION.work(
                    {"angle_deg": "joints and their phasing", "rpm": "redline in top gear"},
                    angle_deg=c.ride.residual,
                    rpm=c.rpm,
                )
            ]
        return [
            CRITICAL.work(
                {"length": "between the joints"},
                outside=shaft.tube_outside_mm,
                wall=shaft.tube_wall_mm,
                length=length,
            )
            for length in c.ride.lengths
        ]

    def critical_work(self) -> None:
        """Working of the critical speed."""
        self._show_work("Critical speed of the tube", False)

    def acceleration_work(self) -> None:
        """Working of the torsional acceleration."""
        self._show_work("What the joints leave", True)

    def _show_work(self, title: str, acceleration: bool) -> None:
        with told_in(self.refusal):
            self.session.show_work(title, *self._worked(acceleration))

    def refresh(self) -> None:
        """Curves, verdict, axle loads."""
        job, display = self.session.job, Display(self.session.display.length)
        self.refuse("")
        try:
            if self.across:
                self._half_shafts(display)
            else:
                self._chain(display)
        except JobError as error:
            self.say.setText(error.message)
        with told_in(self.refusal):
            self.table.fill(
                [
                    (
                        balance.name,
                        (
                            (balance.name, ""),
                            (f"{balance.front_kg:.0f} kg", ">"),
                            (f"{balance.rear_kg:.0f} kg", ">"),
                            (f"{balance.share:.1f} %", ">"),
                            (show(balance.height_mm, "length", display, 0), ">"),
                        ),
                    )
                    for balance in balances(job)
                ]
            )

    def _chain(self, d: Display) -> None:
        c = chain(self.session.job)
        x = tuple(joint.travel for joint in c.states)
        self.chart.show_curves(
            [
                Curve(
                    name.removeprefix("at the ").removeprefix("behind the "),
                    x,
                    tuple(joint.angles[k] for joint in c.states),
                )
                for k, name in enumerate(c.names)
            ]
        )
        order = " and ".join(show(length, "length", d, 0) for length in c.order_mm)
        slip = (
            f"slip {show(max(joint.slip for joint in c.states), 'length', d)} out,"
            f" {show(-min(joint.slip for joint in c.states), 'length', d)} in"
        )
        critical = " and ".join(f"{safe:.0f} rpm" for _, safe in c.critical)
        self.say.setText(
            f"At ride height {', '.join(f'{a:.1f}' for a in c.ride.angles)} deg; phasing leaves the shake of"
            f" one joint at {BOLD}{c.ride.residual:.2f} deg{PLAIN} ({c.acceleration:.0f} rad/s² at"
            f" {c.rpm:.0f} rpm). The tube is kept under {BOLD}{critical}{PLAIN}. To order, between joint"
            f" centres: {BOLD}{order}{PLAIN}; {slip} through the travel."
            f" {' '.join(c.faults) or 'All within limits.'}"
        )

    def _nearest(self, shaft: str, d: Display) -> str:
        """What comes nearest to a shaft, in words."""
        rows = [gap for gap in self.session.verdict.gaps if shaft in (gap.piece, gap.item)]
        if not rows:
            return "nothing is near it"
        gap = min(rows, key=lambda row: row.still)
        other = gap.piece_name if gap.item == shaft else gap.item_name
        where = f" ({gap.travel_at})" if gap.travel_at else ""
        if gap.still < 0:
            return f"it runs into {other}{where}"
        return f"nearest {show(gap.still, 'length', d)}: {other}{where}"

    def _half_shafts(self, d: Display) -> None:
        shafts = half_shafts(self.session.job)
        x = tuple(s[0] for s in shafts.states)
        most = self.session.job.joint_limits.half_shaft_travel_deg
        self.chart.show_curves(
            [
                Curve("left", x, tuple(s[1] for s in shafts.states)),
                Curve("right", x, tuple(s[2] for s in shafts.states)),
            ],
            (most, f"limit {most:g} deg"),
        )
        said = []
        for k, side in enumerate(("Left", "Right")):
            longer, shorter = shafts.plunge[k]
            near = self._nearest(f"half-shaft.{side.lower()}", d)
            said.append(
                f"{BOLD}{side}{PLAIN} {show(shafts.lengths[k], 'length', d)} between joints, grows"
                f" {show(longer, 'length', d)}, shrinks {show(shorter, 'length', d)}; {near}."
            )
        self.say.setText(" ".join(said))
