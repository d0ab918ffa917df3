"""From here to there: supports and shims; and witness marks that tell where the engine is."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtWidgets import QLineEdit

from nimble_cradle.bay.position import move_words, turn_words
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.label import BOLD, PLAIN, Label
from nimble_cradle.desk.kit.quantity_field import LEFT, UP, WAYS, QuantityField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.fit.supports import ShimPlan, first_supports, plan_of, with_changes
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import free_id, removed, with_value
from nimble_cradle.job.setting import Support
from nimble_cradle.units import Display, UnitError, parse, show

KINDS = (("mount", "mount"), ("jack", "jack"), ("strap", "strap"), ("blocks", "blocks"), ("stand", "stand"))
_NOW: tuple[tuple[str, str, Any, Any], ...] = (
    ("x", "Now, fore and aft", "length", ("forward", "back")),
    ("y", "Now, side", "length", LEFT),
    ("z", "Now, height", "length", UP),
    ("pitch_deg", "Now, nose", "angle", ("up", "down")),
    ("roll_deg", "Now, clocked", "angle", ("right", "left")),
    ("yaw_deg", "Now, nose to the", "angle", LEFT),
)


class SupportsRoom(Room):
    """What every support changes by to bring the real engine to the place in this job."""

    title, key = "Bring it there", "supports"

    def build(self) -> None:
        """The plan on top; then where the engine is now, the supports, the box of shims."""
        self._build_list()
        if not self.session.job.setting.supports:
            self._build_none()
            return
        self._build_now()
        with self.folded("What holds it up"):
            self._build_supports()
        with self.folded("The box of shims"):
            self._build_shims()

    def _build_list(self) -> None:
        self.say = words("", "")
        self.column.addWidget(self.say)
        self.table = Table(
            ("Support", "Up / down", "Stack", "Made of"), most_rows=6, row_height=34, widths=(0, 104, 82, 110)
        )
        self.table.setAccessibleName("Change at each support")
        self.column.addWidget(self.table)
        self.left = words()
        self.column.addWidget(self.left)
        self.column.addWidget(self.refusal)

    def _build_none(self) -> None:
        self.column.addWidget(
            row(
                button(
                    "Begin with the mounts",
                    self.begin,
                    "One support at every mount; each is then yours to change",
                    "main",
                )
            )
        )

    def _build_now(self) -> None:
        session = self.session
        if session.job.setting.now is None:
            self.column.addWidget(
                row(
                    button(
                        "It is about where the job says",
                        self.here,
                        "Begins with the job's own position, to be typed over",
                        "main",
                    )
                )
            )
        else:
            self.column.addWidget(part("Where the real engine is now"))
            for name, label, kind, ways in _NOW:
                self.column.addWidget(
                    QuantityField(session, label, kind, ways=ways).at(f"setting/now/{name}", "Real engine")
                )
            self.column.addWidget(part("Or the other way round: these changes put it there"))
            self.ups: list[QLineEdit] = []
            for support in session.job.setting.supports:
                line = QLineEdit()
                line.setAccessibleName(f"{support.name}: raised by")
                line.setObjectName(f"up/{support.id}")
                line.setPlaceholderText("mm up")
                line.setMaximumWidth(120)
                self.ups.append(line)
                self.column.addWidget(row(Label(support.name), line))
            self.column.addWidget(row(button("Put them in", self.put_in)))

    def _build_supports(self) -> None:
        session = self.session
        for support in session.job.setting.supports:
            base = f"setting/supports/{support.id}"
            self.column.addWidget(TextField(session, "Name").at(f"{base}/name"))
            self.column.addWidget(ChoiceField(session, support.name, KINDS).at(f"{base}/kind", support.name))
            self.column.addWidget(
                QuantityField(session, "Stack under it now", "length").at(f"{base}/stack_mm", support.name)
            )
            self.column.addWidget(
                VectorField(
                    session,
                    "At",
                    WAYS,
                    ("from the block's rear face", "from the crank line", "from the crank line"),
                ).at(f"{base}/at", support.name)
            )
            self.column.addWidget(
                row(button(f"Without {support.name}", partial(self.drop, support.id), name="view"))
            )
        self.column.addWidget(row(button("Another support", self.add)))

    def _build_shims(self) -> None:
        session = self.session
        self.column.addWidget(part("Shims in the box"))
        for label, name in (("Washers", "washers_mm"), ("Plates and blocks", "plates_mm")):
            for k in range(len(getattr(session.job.setting, name))):
                self.column.addWidget(
                    QuantityField(session, f"{label}, size {k + 1}", "length").at(
                        f"setting/{name}/{k}", "Shims"
                    )
                )
        self.column.addWidget(
            QuantityField(session, "Pieces in a stack, at most", "number", whole=True).at(
                "setting/most_pieces", "Shims"
            )
        )
        self.column.addWidget(
            words(
                "Nobody under a load that hangs on a crane or a jack alone. A tall stack of washers is a"
                " column: use a block."
            )
        )

    def begin(self) -> None:
        """One support at every mount."""
        self.session.edit(
            "Supports at the mounts",
            with_value(self.session.job, "setting/supports", first_supports(self.session.job)),
        )

    def here(self) -> None:
        """The real engine about where the job says."""
        self.session.edit(
            "Real engine about in place",
            with_value(self.session.job, "setting/now", self.session.job.position),
        )

    def add(self) -> None:
        """One more support under the gearbox."""
        job = self.session.job
        key = free_id("support", {support.id for support in job.setting.supports})
        x, y, z = job.powertrain.gearbox.output
        more = Support(
            id=key, name=f"Support {key.rsplit('-', 1)[1]}", kind="jack", at=(x + 120.0, y, z - 80.0)
        )
        self.session.edit(
            "Another support", with_value(job, "setting/supports", (*job.setting.supports, more))
        )

    def drop(self, key: str, _: bool = False) -> None:
        """One support less."""
        name = self.session.value(f"setting/supports/{key}/name")
        self.session.edit(f"Without {name}", removed(self.session.job, f"setting/supports/{key}"))

    def put_in(self) -> None:
        """The inverse: typed changes to where the engine then is."""
        try:
            ups = [
                parse(line.text(), "length", self.session.display) if line.text().strip() else 0.0
                for line in self.ups
            ]
            after, disagreement = with_changes(self.session.job, ups)
        except (UnitError, JobError) as error:
            self.refuse(str(error))
            return
        self.refuse(
            "These supports work against each other by"
            f" {show(disagreement, 'length', Display(self.session.display.length))}: one of them will hang"
            " free."
            if disagreement > 0.3
            else ""
        )
        self.session.edit("Shims put in", with_value(self.session.job, "setting", after.setting))

    def refresh(self) -> None:
        """The plan for the present job."""
        display = Display(self.session.display.length)
        try:
            plan: ShimPlan | None = plan_of(self.session.job)
        except JobError as error:
            plan = None
            self.say.setText(error.message)
        self.table.setVisible(plan is not None)
        self.left.setVisible(plan is not None)
        if plan is None:
            return
        self.say.setText(" ".join((f"{BOLD}{plan.words}{PLAIN}", *plan.questions)))
        rows = []
        for c in plan.changes:
            up = (
                "stays"
                if abs(c.up) < 0.05
                else f"{show(abs(c.up), 'length', display)} {'up' if c.up > 0 else 'down'}"
            )
            made = "by hand" if c.stack is None else " + ".join(f"{p:g}" for p in c.stack) or "nothing"
            total = c.support.stack_mm + c.up
            rows.append(
                (
                    c.support.id,
                    (
                        (c.support.name, ""),
                        (up, ">"),
                        (show(total, "length", display) if total > -0.05 else "too high", ">"),
                        (made, ""),
                    ),
                )
            )
        self.table.fill(rows)
        turn = turn_words(*plan.left_deg)
        left = move_words(plan.left_mm, display)
        aside = [
            f"{change.support.name} {move_words((*change.aside, 0.0), display)}"
            for change in plan.changes
            if max(abs(a) for a in change.aside) >= 0.05
        ]
        self.left.setText(
            ("In plan: " + "; ".join(aside) + ". " if aside else "")
            + (
                "With these stacks it stands right."
                if left == "nowhere" and turn == "level and straight"
                else (
                    "With these stacks it stands"
                    f" {'; '.join(x for x in (left, turn) if x not in ('nowhere', 'level and straight'))} of"
                    " its place."
                )
            )
        )
