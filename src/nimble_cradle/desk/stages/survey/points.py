"""Taped points: readings go in one after another, every point with its plus-or-minus, every reading
against the others, and the reading worth taking next."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QLineEdit

from nimble_cradle.desk.kit.fields import TextField
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.quantity_field import WAYS, QuantityField, parse_with_way, show_with_way
from nimble_cradle.desk.kit.rooms import offer, sentence_of
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, part, row
from nimble_cradle.desk.stages.survey.point_readings import PointReadings
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import removed
from nimble_cradle.survey.network import network
from nimble_cradle.survey.network_types import PlacedPoint
from nimble_cradle.survey.next_reading import Proposal
from nimble_cradle.survey.words import point_name
from nimble_cradle.units import Display, UnitError, show


def _bare(mm: float, display: Display) -> str:
    """A length without its unit, which stands beside it."""
    return show(mm, "length", display).rpartition(" ")[0]


def _bare_way(mm: float, ways: tuple[str, str], display: Display) -> str:
    """A length and its side, without its unit."""
    side = ways[0] if mm > 0 else ways[1]
    return _bare(mm, display) if abs(mm) < 5e-7 else f"{_bare(abs(mm), display)} {side}"


class PointsRoom(PointReadings):
    """Entry line, points, readings, and what to measure next."""

    title, key = "Points", "points"
    caution = ""

    def build(self) -> None:
        with self.two_sides():
            self._build_entry()
            self.column.addWidget(self.refusal)
            with self.folded("Worth measuring next", "the reading that clears up most") as self.next_fold:
                self._build_proposals()
            with self.folded(
                "Readings against one another", "which agree, which do not"
            ) as self.reading_fold:
                self._build_readings()
            self.right_side()
            self._build_points()
            with self.folded("The chosen point", "name, note, place") as self.point_fold:
                self._build_point_editors()
            with self.folded("Wall to wall"):
                self._build_width()
            self._build_practice()

    def _build_points(self) -> None:
        session = self.session
        self.points_title = part("Points")
        self.column.addWidget(self.points_title)
        self.points = Table(
            ("Point", "Along", "Across", "Height"),
            most_rows=5,
            row_height=42,
            chosen=lambda key: session.select("point", key),
        )
        self.points.setAccessibleName("Points")
        self.column.addWidget(self.points)
        self.name = TextField(session, "Name")
        self.note = TextField(session, "Note")
        self.rough = QLineEdit()
        self.rough.setAccessibleName("Roughly where the point is")
        self.rough.setObjectName("roughly")
        self.rough.setPlaceholderText("400 forward, 250 left, 100 up")
        self.rough.returnPressed.connect(self.set_rough)
        self.rough_button = button("Roughly there", self.set_rough, "Tells two mirror images apart", "view")
        self.given_button = button("Its place is known from elsewhere", self.set_given, name="view")
        self.given = VectorField(session, "Known place", WAYS)
        self.given_doubt = QuantityField(session, "Known place, give or take", "length")

    def _build_point_editors(self) -> None:
        self.editors = (
            self.name,
            self.note,
            self.given_button,
            self.given,
            self.given_doubt,
            row(
                self.rough,
                self.rough_button,
                button("Strike out the point", self.strike_point, name="view"),
                stretch=False,
            ),
        )
        for editor in self.editors:
            self.column.addWidget(editor)

    def _build_width(self) -> None:
        session = self.session
        self.width_field = QuantityField(
            session, "Width that the centre line halves", "length", optional="not taken"
        ).at("survey/width_mm", "Survey")
        self.column.addWidget(self.width_field)
        self.column.addWidget(
            QuantityField(session, "Width, give or take", "length").at("survey/width_plus_minus_mm", "Survey")
        )
        self.proposals: tuple[Proposal, ...] = ()
        self._fit_entry()

    def refresh(self) -> None:
        """Points, readings and proposals as they are."""
        survey, net = self.session.job.survey, network(self.session.job)
        names = [point_name(survey, point.id) for point in survey.points]
        for box in (self.point, self.other):
            offer(box, names)
        offer(self.datum, ["main datum", *(datum.name for datum in survey.datums)])
        self._fit_entry()
        self.summary.setText(self._summary())
        self._refresh_readings()
        self._refresh_proposals()
        kind, key = self.session.selection
        chosen = key if kind == "point" else ""
        self.points_title.setText(f"Points, in {self.session.display.length}")
        self.points.fill(
            [(point.id, self._point_row(i, point)) for i, point in enumerate(net.points, start=1)], chosen
        )
        self.point_fold.setVisible(bool(chosen))
        if chosen and self.session.value(f"survey/points/{chosen}") is not None:
            self._show_point(f"survey/points/{chosen}")

    def _show_point(self, base: str) -> None:
        """The editors of the chosen point, whose path is ``base``."""
        self.name.at(f"{base}/name")
        self.note.at(f"{base}/note")
        known = self.session.value(f"{base}/given") is not None
        self.given_button.setText("Only its readings count" if known else "Its place is known from elsewhere")
        for field in (self.given, self.given_doubt):
            field.setVisible(known)
        if known:
            self.given.at(f"{base}/given", "Point")
            self.given_doubt.at(f"{base}/given_plus_minus_mm", "Point")
        about, display = self.session.value(f"{base}/roughly"), self.session.display
        if not self.rough.isModified():
            told = [
                show_with_way(c, "length", display, w, 0)
                for c, w in zip(about or (), WAYS, strict=bool(about))
            ]
            self.rough.setText(", ".join(told))

    def set_given(self) -> None:
        """The chosen point's place is known, to be typed over; or only by its readings again."""
        kind, key = self.session.selection
        point = self.session.value(f"survey/points/{key}") if kind == "point" else None
        if point is None:
            return
        found = network(self.session.job).point(key)
        x, y, z = (0.0, 0.0, 0.0) if found.free else (round(float(c), 1) for c in found.at)
        made = (x, y, z) if point.given is None else None
        self.session.set_value(
            f"survey/points/{key}/given",
            made,
            f"{point.name}: {'place known' if made else 'by its readings'}",
        )

    def _summary(self) -> str:
        net, display = network(self.session.job), self.session.display
        if not net.points:
            return (
                "Number the places that matter with a paint pen and make each a point here. Tape it from the"
                " datum (forward, left, up), or by its distances from three points that are known. More"
                " readings than are needed is right: they check one another."
            )
        pinned = [point for point in net.points if not point.free]
        worst = max(pinned, key=lambda p: float(p.plus_minus.max()), default=None)
        text = (
            f"{BOLD}{len(pinned)} of {len(net.points)}{PLAIN} points pinned down by"
            f" {sum(reading.used for reading in self.session.job.survey.readings)} readings"
        )
        text += (
            f", {net.dof} more than are needed. "
            if net.dof
            else ", none more than is needed: nothing checks them. "
        )
        if worst is not None:
            text += (
                f"Least sure: {worst.name}, give or take"
                f" {BOLD}{show(float(worst.plus_minus.max()), 'length', display)}{PLAIN}. "
            )
        for tie in net.ties:
            if tie.residuals:
                name = point_name(self.session.job.survey, tie.residuals[0][0])
                text += (
                    f"{tie.name} is tied in, {show(tie.rms, 'length', display)} on average; worst {name},"
                    f" {show(tie.residuals[0][1], 'length', display)}. "
                )
        return text

    def _point_row(self, number: int, p: PlacedPoint) -> tuple[tuple[str, str], ...]:
        display = self.session.display
        if len(p.free) == 1 and p.free[0] == "every way":
            return (f"{number} {p.name}\nnot pinned down", ""), ("—", ">"), ("—", ">"), ("—", ">")
        cells = [
            (f"{_bare_way(float(c), w, display)}\n± {_bare(float(pm), display)}", ">")
            for c, pm, w in zip(p.at, p.plus_minus, WAYS, strict=True)
        ]
        return ((f"{number} {p.name}" + (f"\nfree {', '.join(p.free)}" if p.free else ""), ""), *cells)

    def strike_point(self) -> None:
        """Take the chosen point off the list; refused while readings or items use it."""
        kind, key = self.session.selection
        if kind == "point":
            try:
                name = self.session.value(f"survey/points/{key}/name")
                self.session.edit(
                    f"Struck out the point {name}", removed(self.session.job, f"survey/points/{key}")
                )
                self.session.select("", "")
                self.refuse("")
            except JobError as error:
                self.refuse(f"{error.message} Strike that out first.")

    def set_rough(self) -> None:
        """About where the chosen point is, which tells two mirror images apart."""
        kind, key = self.session.selection
        if kind != "point":
            return
        typed = self.rough.text().strip()
        try:
            parts = [p for p in typed.split(",") if p.strip()]
            if typed and len(parts) != 3:
                raise UnitError("Three places are wanted, e.g. 400 forward, 250 left, 100 up.")
            about: Any = (
                tuple(
                    parse_with_way(p, "length", self.session.display, w, 1.0)
                    for p, w in zip(parts, WAYS, strict=True)
                )
                if typed
                else None
            )
            self.rough.setModified(False)
            self.session.set_value(
                f"survey/points/{key}/roughly",
                about,
                f"{self.session.value(f'survey/points/{key}/name')} is roughly at {typed or 'no place said'}",
            )
            self.refuse("")
        except (UnitError, JobError) as error:
            self.refuse(sentence_of(error))
