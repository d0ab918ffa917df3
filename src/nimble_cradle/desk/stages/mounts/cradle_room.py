"""Cradles: several tubes on given places of the chassis, which carry mounts."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QWidget

from nimble_cradle.design.first_cradle import (
    with_cradle,
    with_cradle_point,
    with_cradle_tube,
    without_cradle_point,
)
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, UP, QuantityField
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.use_bars import UseBars
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.mounts.mount_room import MountRoom
from nimble_cradle.job.cradle import Cradle
from nimble_cradle.job.edits import removed
from nimble_cradle.judge.cautions import TACKING

SHAPES = (("square", "square"), ("rectangle", "rectangular"), ("round", "round"))


def point_word(cradle: Cradle, key: str) -> str:
    """A point by its number."""
    return f"point {[p.id for p in cradle.points].index(key) + 1}"


class CradleRoom(MountRoom):
    """All cradles; made anew when a point or a tube comes or goes."""

    title, key = "Cradle", "cradle"
    caution = TACKING

    def build(self) -> None:
        """A group for each cradle, its points, its tubes."""
        self.column.addWidget(
            words(
                "A frame of tubes bolted to the car, for mounts that no rail is near to. Choose it as what a"
                " mount stands on, on Chassis side.",
                "",
            )
        )
        self.column.addWidget(row(button("Add a cradle", self.add, name="view")))
        self.column.addWidget(self.refusal)
        self.bars: dict[str, UseBars] = {}
        self.described: dict[str, DescribedFields] = {}
        for cradle in self.session.job.cradles:
            with self.two_sides():
                with self.folded(cradle.name, open_first=True):
                    self._build_whole(cradle)
                self.right_side()
                with self.folded(f"{cradle.name}: points", "where tubes meet, and what holds them"):
                    for point in cradle.points:
                        self._build_point(cradle, point.id)
                    self.column.addWidget(
                        row(
                            button(
                                "Add a point", partial(self.more, with_cradle_point, cradle.id), name="view"
                            )
                        )
                    )
                with self.folded(f"{cradle.name}: tubes", "from point to point"):
                    self._build_tubes(cradle)

    def _build_whole(self, cradle: Cradle) -> None:
        session, base = self.session, f"cradles/{cradle.id}"
        bars = self.bars[cradle.id] = UseBars(session)
        self.column.addWidget(bars)
        fields = self.described[base] = DescribedFields(session)
        for widget in (
            TextField(session, "Name of the cradle").at(f"{base}/name"),
            *_section(session, f"{base}/section", cradle.name),
            fields,
            row(button("Take this cradle out", partial(self.drop, cradle.id), name="view")),
        ):
            self.column.addWidget(widget)

    def _build_point(self, cradle: Cradle, key: str) -> None:
        session, path = self.session, f"cradles/{cradle.id}/points/{key}"
        word = point_word(cradle, key).capitalize()
        place = VectorField(
            session,
            word,
            (FORWARD, LEFT, UP),
            ("from the axle line", "from the centre", "from the rail tops"),
        )
        fields = self.described[path] = DescribedFields(session)
        for widget in (
            place.at(f"{path}/at", cradle.name),
            fields,
            row(button(f"Take {word.lower()} out", partial(self.drop_point, cradle.id, key), name="view")),
        ):
            self.column.addWidget(widget)

    def _build_tubes(self, cradle: Cradle) -> None:
        session = self.session
        choices = tuple((p.id, point_word(cradle, p.id)) for p in cradle.points)
        for k, tube in enumerate(cradle.tubes):
            path = f"cradles/{cradle.id}/tubes/{tube.id}"
            for end, word in (("start", "from"), ("end", "to")):
                field = ChoiceField(session, f"Tube {k + 1} {word}", choices)
                field.at(f"{path}/{end}", cradle.name)
                self.column.addWidget(field)
        self.column.addWidget(
            row(
                button("Add a tube", partial(self.more, with_cradle_tube, cradle.id), name="view"),
                button("Take the last tube out", partial(self.drop_tube, cradle.id), name="view"),
            )
        )

    def refresh(self) -> None:
        job = self.session.job
        for cradle in job.cradles:
            base = f"cradles/{cradle.id}"
            if cradle.id not in self.bars or base not in self.described:
                continue
            found = [f for f in self.session.verdict.findings if f.part == cradle.id]
            self.bars[cradle.id].show_findings(found)
            self.described[base].show_part(cradle, base, cradle.name)
            for point in cradle.points:
                path = f"{base}/points/{point.id}"
                if path in self.described:
                    self.described[path].show_part(point, path, cradle.name)

    def add(self) -> None:
        """One more cradle, to be set right."""
        with told_in(self.refusal):
            self.session.edit("Added a cradle", with_cradle(self.session.job))

    def more(self, edit: object, key: str) -> None:
        """One more point or tube."""
        with told_in(self.refusal):
            after = edit(self.session.job, key)  # type: ignore[operator]
            what = "point" if edit is with_cradle_point else "tube"
            self.session.edit(f"Added a {what} to the cradle", after)

    def drop(self, key: str) -> None:
        """A cradle goes."""
        with told_in(self.refusal):
            self.session.edit("Took a cradle out", removed(self.session.job, f"cradles/{key}"))

    def drop_point(self, key: str, point: str) -> None:
        """A point goes, and its tubes."""
        with told_in(self.refusal):
            after = without_cradle_point(self.session.job, key, point)
            self.session.edit("Took a point of the cradle out", after)

    def drop_tube(self, key: str) -> None:
        """Its last tube goes."""
        with told_in(self.refusal):
            cradle = next(c for c in self.session.job.cradles if c.id == key)
            after = removed(self.session.job, f"cradles/{key}/tubes/{cradle.tubes[-1].id}")
            self.session.edit("Took a tube of the cradle out", after)


def _section(session: Session, path: str, owner: str) -> list[QWidget]:
    """The fields of a hollow section."""
    out: list[QWidget] = [ChoiceField(session, "Section", SHAPES).at(f"{path}/shape", owner)]
    for label, name in (("Height", "height_mm"), ("Width", "width_mm"), ("Wall", "wall_mm")):
        out.append(QuantityField(session, f"Section, {label.lower()}", "length").at(f"{path}/{name}", owner))
    return out
