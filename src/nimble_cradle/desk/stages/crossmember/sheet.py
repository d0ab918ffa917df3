"""Crossmember: what carries the gearbox, its section, strength and sag."""

from __future__ import annotations

from functools import partial

from nimble_cradle.design.first_crossmember import first_crossmember, with_bend, without_bend
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.label import BOLD, PLAIN, Label
from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, UP, QuantityField
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.use_bars import UseBars, show_finding
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.crossmember.drop_group import DropGroup
from nimble_cradle.desk.stages.crossmember.end_plates_group import EndPlatesGroup
from nimble_cradle.desk.stages.crossmember.lightest_group import LightestGroup
from nimble_cradle.desk.stages.crossmember.section_group import SectionGroup, name_of
from nimble_cradle.geometry.polyline import axis_length
from nimble_cradle.strength.cross_section import figures_of
from nimble_cradle.telltales import TellTale
from nimble_cradle.units import show


class CrossmemberSheet(Sheet):
    """The gearbox crossmember."""

    stage, title = "crossmember", "Crossmember: under the gearbox"
    has_figures = True

    def build(self) -> None:
        if self.session.job.crossmember is None:
            self._build_none()
            return
        with self.two_sides():
            self._build_summary()
            self.right_side()
            with self.folded("Section", open_first=True):
                self.section = SectionGroup(self.session)
                self.column.addWidget(self.section)
            with self.folded("Lightest from stock", "every section at hand, tried"):
                self.lightest = LightestGroup(self.session)
                self.column.addWidget(self.lightest)
            with self.folded("End plates", "how it is bolted to the rails"):
                self.plates = EndPlatesGroup(self.session)
                self.column.addWidget(self.plates)
            with self.folded("Taking it out", "with the engine in"):
                self.drop = DropGroup(self.session)
                self.column.addWidget(self.drop)
            with self.folded("How it is held"):
                self._build_ends()
            with self.folded("Its axis, from the left rail to the right", "ends and bends"):
                self._build_axis()
                self._build_bends()
            self._build_buttons()

    def _build_none(self) -> None:
        self.column.addWidget(
            words(
                "There is no crossmember yet. A first one spans straight under the gearbox mount; its"
                " points are then yours to set.",
                "",
            )
        )
        self.column.addWidget(row(button("Put in a crossmember", self.add, name="main")))
        self.column.addWidget(self.refusal)

    def _build_summary(self) -> None:
        session = self.session
        self.summary = Label()
        self.summary.setWordWrap(True)
        self.column.addWidget(self.summary)
        self.column.addWidget(part("What holds and what does not: click for the working"))
        self.bars = UseBars(session)
        self.column.addWidget(self.bars)

    def _build_ends(self) -> None:
        session = self.session
        self.column.addWidget(
            ChoiceField(
                session, "Ends", (("hinged", "bolted, free to tip: cautious"), ("clamped", "clamped stiff"))
            ).at("crossmember/ends", "Crossmember")
        )
        self.column.addWidget(
            QuantityField(session, "Rails hold its ends together by", "stiffness").at(
                "crossmember/rail_n_per_mm", "Crossmember"
            )
        )
        self.column.addWidget(
            QuantityField(session, "Most sag allowed", "length").at("crossmember/most_sag_mm", "Crossmember")
        )
        self.column.addWidget(
            QuantityField(session, "It is to swing at least at, Hz", "number").at(
                "crossmember/least_hz", "Crossmember"
            )
        )
        self.carries = ChoiceField(
            session, "It carries", [(mount.id, mount.name) for mount in session.job.mounts]
        )
        self.column.addWidget(self.carries.at("crossmember/carries", "Crossmember"))

    def _build_axis(self) -> None:
        session = self.session
        assert session.job.crossmember is not None
        for k in range(len(session.job.crossmember.points)):
            name = (
                "Left end"
                if k == 0
                else "Right end"
                if k == len(session.job.crossmember.points) - 1
                else f"Bend {k}"
            )
            self.column.addWidget(
                VectorField(
                    session,
                    name,
                    (FORWARD, LEFT, UP),
                    ("from the axle line", "from the centre", "from the rail tops"),
                ).at(f"crossmember/points/{k}", "Crossmember")
            )

    def _build_bends(self) -> None:
        session = self.session
        assert session.job.crossmember is not None
        bends = [
            button(
                f"Without bend {k}", partial(self._points, f"Crossmember without bend {k}", k), name="view"
            )
            for k in range(1, len(session.job.crossmember.points) - 1)
        ]

        self.column.addWidget(
            row(
                button(
                    "One more bend",
                    partial(self._points, "Crossmember with one more bend", 0),
                    "In the middle of its longest stretch, to be typed over",
                    "view",
                ),
                *bends[:3],
            )
        )
        for some in range(3, len(bends), 4):
            self.column.addWidget(row(*bends[some : some + 4]))

    def _build_buttons(self) -> None:
        session = self.session
        self.column.addWidget(self.refusal)
        self.column.addWidget(
            row(
                button(
                    "Leave the crossmember out",
                    lambda: session.set_value("crossmember", None, "No crossmember"),
                    name="view",
                )
            )
        )

    def fingerprint(self) -> tuple[object, ...]:
        """How many points its axis has, and the mounts it may carry; none without a crossmember."""
        cross = self.session.job.crossmember
        return (
            ()
            if cross is None
            else (
                cross.section.shape,
                len(cross.points),
                tuple((mount.id, mount.name) for mount in self.session.job.mounts),
            )
        )

    def _points(self, what: str, without: int) -> None:
        with told_in(self.refusal):
            job = self.session.job
            self.session.edit(what, without_bend(job, without) if without else with_bend(job))

    def add(self) -> None:
        """A straight tube under the gearbox mount, from 400 mm left to 400 mm right."""
        with told_in(self.refusal):
            self.session.set_value(
                "crossmember", first_crossmember(self.session.job, self.session.rack), "Put in a crossmember"
            )

    def show_cause(self, tale: TellTale) -> None:
        """The hardest-used part with its working."""
        if self.session.verdict.hardest is not None:
            show_finding(self.session, self.session.verdict.hardest)

    def refresh(self) -> None:
        cross, judged, display = self.session.job.crossmember, self.session.verdict, self.session.display
        if cross is None:
            return
        self.section.refresh()
        self.lightest.refresh()
        self.plates.refresh()
        self.drop.refresh()
        found = [finding for finding in judged.findings if finding.part == "crossmember"]
        self.bars.show_findings(found)
        try:
            p = figures_of(cross.section).own
        except ValueError as error:
            self.summary.setText(f"Not judged: {error}")
            return
        length = axis_length(cross.points)
        text = (
            f"{name_of(cross.section)}, {BOLD}{show(length, 'length', display, 0)}{PLAIN} along its axis,"
            f" {show(length / 1000 * p.kg_per_m, 'mass', display)}. "
        )
        text += f"I {p.i_lying / 1e4:.1f} cm⁴, W {p.w_lying / 1e3:.2f} cm³ for bending upright. "
        sag = next((f for f in found if f.code == "crossmember-sag"), None)
        if sag is not None:
            text += f"Sags {BOLD}{show(sag.load, 'length', display, 2)}{PLAIN} at the mount, in {sag.case}."
        problems = [problem.sentence for problem in judged.problems if problem.stage == "crossmember"]
        self.summary.setText(text if not problems else f"Not judged: {problems[0]}")


SHEET = CrossmemberSheet
