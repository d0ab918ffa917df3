"""Rocking: torque struts, and a push by hand against what was reckoned."""

from __future__ import annotations

from functools import partial

from nimble_cradle.design.first_strut import with_strut
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.fields import TextField
from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, UP, WAYS
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.use_bars import UseBars
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.mounts.bracket_group import BracketGroup
from nimble_cradle.desk.stages.mounts.ears_group import EarsGroup
from nimble_cradle.desk.stages.mounts.mount_room import MountRoom
from nimble_cradle.desk.stages.mounts.rock_group import RockGroup
from nimble_cradle.job.edits import removed
from nimble_cradle.judge.cautions import ROCKING, TACKING


class StrutRoom(MountRoom):
    """All torque struts; made anew when there is one more or less."""

    title, key = "Rocking", "strut"
    caution = f"{ROCKING} {TACKING}"

    def build(self) -> None:
        """A group for each strut."""
        self.column.addWidget(
            words("A torque strut keeps the engine from rocking; with a gap it carries no weight.", "")
        )
        self.column.addWidget(row(button("Add a torque strut", self.add, name="view")))
        self.column.addWidget(self.refusal)
        self.bars: dict[str, UseBars] = {}
        self.described: dict[str, DescribedFields] = {}
        self.brackets: dict[str, BracketGroup] = {}
        self.ears: dict[str, EarsGroup] = {}
        for strut in self.session.job.struts:
            with self.folded(strut.name, open_first=True):
                self._build_strut(strut.id)
            with self.folded(f"{strut.name}: rod, rubbers, bolts, eyes"):
                fields = self.described[strut.id] = DescribedFields(self.session)
                self.column.addWidget(fields)
            self._build_ears(strut.id, strut.name)
            with self.folded(f"{strut.name}: its bracket on the chassis"):
                bracket = self.brackets[strut.id] = BracketGroup(self.session, strut.id)
                self.column.addWidget(bracket)

        with self.folded("Rock it and compare", "how stiff the bushes really are"):
            self.rock = RockGroup(self.session)
            self.column.addWidget(self.rock)

    def _build_strut(self, key: str) -> None:
        session, base = self.session, f"struts/{key}"
        bars = self.bars[key] = UseBars(session)
        self.column.addWidget(bars)
        self.column.addWidget(TextField(session, "Name of the strut").at(f"{base}/name"))
        engine = VectorField(
            session,
            "Its eye on the engine",
            WAYS,
            ("from the block's rear face", "from the crank line", "from the crank line"),
        )
        chassis = VectorField(
            session,
            "Its eye on the chassis",
            (FORWARD, LEFT, UP),
            ("from the axle line", "from the centre", "from the rail tops"),
        )
        for widget in (
            engine.at(f"{base}/engine_at", "Strut"),
            chassis.at(f"{base}/chassis_at", "Strut"),
            row(button("Take this strut out", partial(self.drop, key), name="view")),
        ):
            self.column.addWidget(widget)

    def _build_ears(self, key: str, name: str) -> None:
        ears = self.ears[key] = EarsGroup(self.session, key)
        with self.folded(f"{name}: its ears on the engine"):
            for widget in ears.ears:
                self.column.addWidget(widget)
        with self.folded(f"{name}: their plate and its bolts") as plate:
            for field in ears.plate:
                self.column.addWidget(field)
        with self.folded(f"{name}: the pad on the engine") as pad:
            for field in ears.pad:
                self.column.addWidget(field)
        ears.folds = plate, pad

    def refresh(self) -> None:
        for strut in self.session.job.struts:
            if strut.id not in self.bars:
                continue
            found = [f for f in self.session.verdict.findings if f.part == strut.id]
            self.bars[strut.id].show_findings(found)
            self.described[strut.id].show_part(strut, f"struts/{strut.id}", strut.name)
            self.brackets[strut.id].show_strut(strut)
            self.ears[strut.id].show_strut(strut)

    def add(self) -> None:
        """One more strut, to be set right."""
        with told_in(self.refusal):
            self.session.edit("Added a torque strut", with_strut(self.session.job))

    def drop(self, key: str) -> None:
        """A strut goes."""
        with told_in(self.refusal):
            self.session.edit("Took a torque strut out", removed(self.session.job, f"struts/{key}"))
