"""Level: how the car stands, what to lift at which stand, or how heights are corrected."""

from __future__ import annotations

from typing import Literal

from PyQt6.QtWidgets import QCheckBox, QLineEdit

from nimble_cradle.desk.kit.choice_box import ChoiceBox
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.keymap import bind
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, QuantityField, parse_with_way, show_with_way
from nimble_cradle.desk.kit.rooms import Room, sentence_of
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.survey.keys import DROP_KEYS
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, removed, with_value
from nimble_cradle.job.journal import now
from nimble_cradle.job.survey import AxleStand, LevelReading
from nimble_cradle.survey.level import job_lean, lean_words, level_words, read_level, trims
from nimble_cradle.units import UnitError, show


class LevelRoom(Room):
    """Readings of the level, the lean that follows, and the stands."""

    title, key = "Level", "level"

    def build(self) -> None:
        self._build_readings()
        self._build_stands()

    def _build_readings(self) -> None:
        session = self.session
        self.summary = words("", "")
        self.column.addWidget(self.summary)
        self.column.addWidget(part("A reading of the level"))
        self.way = ChoiceBox()
        self.way.setAccessibleName("Way the level lies")
        self.way.addItems(["across: which side is high", "along: which end is high"])
        self.where = QLineEdit()
        self.where.setAccessibleName("Where the level lies")
        self.where.setPlaceholderText("where, e.g. towers")
        self.turned = QCheckBox("turned end for end")
        # a level that is laid another way, or elsewhere, is not turned yet
        self.way.currentIndexChanged.connect(lambda _: self.turned.setChecked(False))
        self.where.textEdited.connect(lambda _: self.turned.setChecked(False))
        self.value = QLineEdit()
        self.value.setAccessibleName("What the level reads")
        self.value.setObjectName("level value")
        self.value.setPlaceholderText("0.8 right   or   6 over 600")
        self.value.returnPressed.connect(self.take)
        self.column.addWidget(row(self.way, self.where, stretch=False))
        self.column.addWidget(row(self.value, self.turned, button("Take", self.take, "Enter"), stretch=False))
        self.column.addWidget(self.refusal)
        self.table = Table(("Where", "Reads", "Used"), most_rows=5, row_height=44, widths=(0, 170, 84))
        self.table.setAccessibleName("Level readings")
        bind(DROP_KEYS, self.table.grid, self)
        self.column.addWidget(self.table)
        self.column.addWidget(
            row(
                button("Drop or use again", self.drop, "Delete", "view"),
                button("Strike out", self.strike, "Takes it off the list", "view"),
            )
        )
        self.what = ChoiceField(
            session, "What then", (("trim", "trim the stands"), ("correct", "leave it, correct heights"))
        )
        self.what.at("survey/level/what", "Level")

    def _build_stands(self) -> None:
        self.column.addWidget(self.what)
        self.column.addWidget(part("Stands: what to lift"))
        self.stands = Table(("Stand", "From the datum", "Lift"), most_rows=6, widths=(0, 190, 90))
        self.stands.setAccessibleName("Stands")
        self.column.addWidget(self.stands)
        self.stand = QLineEdit()
        self.stand.setAccessibleName("Stand: name and place")
        self.stand.setObjectName("stand")
        self.stand.setPlaceholderText("left front, 300 forward, 450 left")
        self.stand.returnPressed.connect(self.add_stand)
        self.column.addWidget(
            row(
                self.stand,
                button("Add a stand", self.add_stand, "Enter"),
                button("Strike out", self.strike_stand, name="view"),
                stretch=False,
            )
        )
        self.column.addWidget(row(button("How the lift is found", self.work, name="view")))
        self.column.addWidget(
            QuantityField(self.session, "Level enough within", "angle").at(
                "survey/level/good_enough_deg", "Level"
            )
        )

    def refresh(self) -> None:
        level, display = self.session.job.survey.level, self.session.display
        lean = job_lean(self.session.job)
        if not level.readings:
            self.summary.setText(
                "Read the level across the rails or towers, then along them; turn it end for end and read"
                " again: that takes out the level's own fault."
            )
        else:
            fault = lean.own_fault_deg
            own = (
                ""
                if fault is None
                else f" The level itself reads {abs(fault):.2f} deg too {'high' if fault > 0 else 'low'}."
            )
            good = all(
                v is not None and abs(v) <= level.good_enough_deg for v in (lean.across_deg, lean.along_deg)
            )
            self.summary.setText(
                f"The car stands: {BOLD}{lean_words(lean)}{PLAIN}.{own}"
                + (" That is level enough." if good else "")
            )
        rows = []
        for reading in level.readings:
            rows.append(
                (
                    reading.id,
                    (
                        (f"{reading.where}, {reading.way}{', turned' if reading.turned else ''}", ""),
                        (level_words(reading), ">"),
                        ("yes" if reading.used else "dropped", ""),
                    ),
                )
            )
        self.table.fill(rows, self.table.chosen_key())
        lifts = {trim.stand.id: trim.lift for trim in trims(level)}
        self.stands.fill(
            [
                (
                    stand.id,
                    (
                        (stand.name, ""),
                        (
                            ", ".join(
                                show_with_way(c, "length", display, w, 0)
                                for c, w in zip(stand.at, (FORWARD, LEFT), strict=True)
                            ),
                            "",
                        ),
                        (show(lifts[stand.id], "length", display) if stand.id in lifts else "—", ">"),
                    ),
                )
                for stand in level.stands
            ],
            self.stands.chosen_key(),
        )

    def take(self) -> None:
        """Take the reading that was typed; the field then waits for the next."""
        try:
            job = self.session.job
            way: Literal["across", "along"] = "across" if self.way.currentIndex() == 0 else "along"
            angle, rise, over = read_level(self.value.text(), way)
            key = free_id("level", {reading.id for reading in job.survey.level.readings})
            reading = with_value(
                job,
                "survey/level/readings",
                (
                    *job.survey.level.readings,
                    LevelReading(
                        id=key,
                        where=self.where.text().strip() or f"{way} the rails",
                        way=way,
                        angle_deg=angle,
                        rise_mm=rise,
                        over_mm=over,
                        turned=self.turned.isChecked(),
                        when=now(),
                    ),
                ),
            )
            self.session.edit(f"Level {way}: {self.value.text().strip()}", reading)
            self.value.clear()
            self.refuse("")
        except (UnitError, JobError, ValueError) as error:
            self.refuse(sentence_of(error))

    def drop(self) -> None:
        """Leave the chosen reading out, or use it again."""
        key = self.table.chosen_key()
        if key:
            path = f"survey/level/readings/{key}"
            used = not self.session.value(f"{path}/used")
            self.session.set_value(
                f"{path}/used",
                used,
                f"Level reading {self.session.value(f'{path}/where')} {'used again' if used else 'dropped'}",
            )

    def strike(self) -> None:
        """Take the chosen reading off the list."""
        key = self.table.chosen_key()
        if key:
            self.session.edit(
                "Struck out a level reading", removed(self.session.job, f"survey/level/readings/{key}")
            )

    def add_stand(self) -> None:
        """``name, 300 forward, 450 left``."""
        try:
            parts = [p.strip() for p in self.stand.text().split(",")]
            if len(parts) != 3 or not parts[0]:
                raise UnitError("A stand is its name and two places, e.g. left front, 300 forward, 450 left.")
            at = tuple(
                parse_with_way(p, "length", self.session.display, w, 1.0)
                for p, w in zip(parts[1:], (FORWARD, LEFT), strict=True)
            )
            job = self.session.job
            key = free_id("stand", {stand.id for stand in job.survey.level.stands})
            self.session.edit(
                f"Stand {parts[0]}",
                added(job, "survey/level/stands", AxleStand(id=key, name=parts[0], at=at)),
            )
            self.stand.clear()
            self.refuse("")
        except (UnitError, JobError, ValueError) as error:
            self.refuse(sentence_of(error))

    def strike_stand(self) -> None:
        """Take the chosen stand off the list."""
        key = self.stands.chosen_key()
        if key:
            self.session.edit("Struck out a stand", removed(self.session.job, f"survey/level/stands/{key}"))

    def work(self) -> None:
        """Working of the chosen stand's height, or of all."""
        found = trims(self.session.job.survey.level)
        key = self.stands.chosen_key()
        shown = [trim for trim in found if trim.stand.id == key] or list(found)
        if shown:
            self.session.show_work(
                "; ".join(
                    f"{trim.stand.name}: lift {show(trim.lift, 'length', self.session.display)}"
                    for trim in shown
                ),
                *(trim.worked for trim in shown[:1]),
            )
        else:
            self.refuse("Read the level both ways and enter the stands first.")
