"""One mount: what it carries, the chain from block to rail, every check."""

from __future__ import annotations

from functools import partial
from typing import Literal

from PyQt6.QtWidgets import QWidget

from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.use_bars import UseBars
from nimble_cradle.desk.kit.words import button, part, row
from nimble_cradle.desk.stages.mounts.chain import Chain
from nimble_cradle.desk.stages.mounts.mount_room import MountRoom
from nimble_cradle.desk.stages.mounts.told import summary_words
from nimble_cradle.job.mounts import Mount
from nimble_cradle.judge.cautions import TACKING
from nimble_cradle.mounts.springs import SAG
from nimble_cradle.units import Display

Shown = Literal["", "whole", "apart"]
SHOWN: dict[Shown, str] = {"": "In the car", "whole": "By itself", "apart": "Taken apart"}


class ThisMountRoom(MountRoom):
    """This mount."""

    title, key = "This mount", "this"
    caution = TACKING

    def build(self) -> None:
        """What it carries, the chain, the checks, its name."""
        session = self.session
        with self.two_sides():
            self.column.addWidget(self._shown_bar())
            self.summary = Label()
            self.summary.setWordWrap(True)
            self.column.addWidget(self.summary)
            self.right_side()
            self.column.addWidget(part("From block to rail: click a part for its working"))
            self.chain = Chain(session)
            self.column.addWidget(self.chain)
            with self.folded("Every check, hardest first"):
                self.column.addWidget(
                    row(
                        button("How far it settles", self.sag_work, name="view"),
                        button("First-gear torque", self.torque_work, name="view"),
                    )
                )
                self.bars = UseBars(session)
                self.column.addWidget(self.bars)
            with self.folded("Name, what it carries, note"):
                self.name, self.note = TextField(session, "Name"), TextField(session, "Note")
                self.carries = ChoiceField(
                    session,
                    "It carries",
                    (("engine", "the engine"), ("gearbox", "the gearbox, on a crossmember")),
                )
                for widget in (self.name, self.carries, self.note):
                    self.column.addWidget(widget)

    def _shown_bar(self) -> QWidget:
        """How the picture shows it."""
        made = []
        for how, text in SHOWN.items():
            shown = button(text, partial(self.show_as, how), name="view")
            shown.setCheckable(True)
            made.append(shown)
        self.ways = dict(zip(SHOWN, made, strict=True))
        return row(*made)

    def show_as(self, how: Shown) -> None:
        """In the car, by itself, or taken apart."""
        self.session.show_alone(how, self.chosen.id)
        self.refresh()

    def point(self, mount: Mount) -> None:
        base = f"mounts/{mount.id}"
        self.name.at(f"{base}/name")
        self.note.at(f"{base}/note")
        self.carries.at(f"{base}/carries", mount.name)

    def refresh(self) -> None:
        mount = self.mount
        if mount is None:
            return
        for how, shown in self.ways.items():
            shown.setChecked(self.session.alone == how)
        judged = self.session.verdict
        self.bars.show_findings([finding for finding in judged.findings if finding.part == mount.id])
        told = next((row for row in judged.mounts if row.mount == mount.id), None)
        self.chain.show_links(told.chain if told is not None else ())
        if judged.carried is None:
            said = [problem.sentence for problem in judged.problems if problem.stage == "mounts"]
            self.summary.setText("Not judged: " + (said[0] if said else "the mounts cannot be solved."))
            return
        display = Display(self.session.display.length)
        self.summary.setText(summary_words(mount, judged, judged.carried, display))

    def sag_work(self) -> None:
        """Working of how far the bush gives under the weight."""
        judged, mount = self.session.verdict, self.mount
        if judged.carried is not None and mount is not None:
            load = next(m for m in judged.carried.case("weight").mounts if m.mount == mount.id)
            spring = next(sp for sp in judged.carried.springs if sp.mount == mount.id)
            self.session.show_work(
                f"{mount.name}: weight on it, and how far it settles across its bolt",
                SAG.work(
                    {"load_n": "all mounts solved together, at rest", "stiffness_n_mm": "bush, across"},
                    load_n=load.radial_force,
                    stiffness_n_mm=spring.bush.radial,
                ),
            )

    def torque_work(self) -> None:
        """Working of the torque that the mounts react in first gear."""
        judged = self.session.verdict
        if judged.carried is not None:
            self.session.show_work("Torque that the mounts react in first gear", judged.carried.torque)
