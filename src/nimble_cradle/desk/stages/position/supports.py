"""From here to there: supports and shims; and witness marks that tell where the engine is."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QFileDialog, QLineEdit

from nimble_cradle.bay.position import move_words, turn_words
from nimble_cradle.desk.kit.fields import (
    LEFT,
    UP,
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
from nimble_cradle.desk.kit.label import BOLD, PLAIN, Label
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.sheet import Table
from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.files import replace_file, why
from nimble_cradle.fit.marks import proposed_marks, told_by_marks, with_told
from nimble_cradle.fit.supports import ShimPlan, first_supports, plan_of, with_changes
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import free_id, removed, with_value
from nimble_cradle.job.setting import Support
from nimble_cradle.shop.marks_sheet import marks_pdf
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
        s = self.session
        self.say = words("", "")
        self.column.addWidget(self.say)
        self.table = Table(
            ("Support", "Up / down", "Stack", "Made of"), most_rows=6, row_height=34, widths=(0, 104, 82, 110)
        )
        self.table.setAccessibleName("Change at each support")
        self.table.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.column.addWidget(self.table)
        self.left = words()
        self.column.addWidget(self.left)
        self.column.addWidget(self.refusal)
        if not s.job.setting.supports:
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
            return
        if s.job.setting.now is None:
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
                    QuantityField(s, label, kind, ways=ways).at(f"setting/now/{name}", "Real engine")
                )
            self.column.addWidget(part("Or the other way round: these changes put it there"))
            self.ups: list[QLineEdit] = []
            for support in s.job.setting.supports:
                line = QLineEdit()
                line.setObjectName(f"up/{support.id}")
                line.setPlaceholderText("mm up")
                line.setMaximumWidth(120)
                self.ups.append(line)
                self.column.addWidget(row(Label(support.name), line))
            self.column.addWidget(row(button("Put them in", self.put_in)))
        self.column.addWidget(part("What holds it up"))
        for support in s.job.setting.supports:
            base = f"setting/supports/{support.id}"
            self.column.addWidget(TextField(s, "Name").at(f"{base}/name"))
            self.column.addWidget(ChoiceField(s, support.name, KINDS).at(f"{base}/kind", support.name))
            self.column.addWidget(
                QuantityField(s, "Stack under it now", "length").at(f"{base}/stack_mm", support.name)
            )
            self.column.addWidget(
                VectorField(
                    s,
                    "At",
                    WAYS,
                    ("from the block's rear face", "from the crank line", "from the crank line"),
                ).at(f"{base}/at", support.name)
            )
            self.column.addWidget(
                row(button(f"Without {support.name}", partial(self.drop, support.id), name="view"))
            )
        self.column.addWidget(row(button("Another support", self.add)))
        self.column.addWidget(part("Shims in the box"))
        for label, name in (("Washers", "washers_mm"), ("Plates and blocks", "plates_mm")):
            for k in range(len(getattr(s.job.setting, name))):
                self.column.addWidget(
                    QuantityField(s, f"{label}, size {k + 1}", "length").at(f"setting/{name}/{k}", "Shims")
                )
        self.column.addWidget(
            QuantityField(s, "Pieces in a stack, at most", "number", whole=True).at(
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
        key = free_id("support", {s.id for s in job.setting.supports})
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
            after, fight = with_changes(self.session.job, ups)
        except (UnitError, JobError) as error:
            self.refuse(str(error))
            return
        self.refuse(
            "These supports fight each other by"
            f" {show(fight, 'length', Display(self.session.display.length))}: one of them will hang free."
            if fight > 0.3
            else ""
        )
        self.session.edit("Shims put in", with_value(self.session.job, "setting", after.setting))

    def refresh(self) -> None:
        """The plan for the present job."""
        d = Display(self.session.display.length)
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
                else f"{show(abs(c.up), 'length', d)} {'up' if c.up > 0 else 'down'}"
            )
            made = "by hand" if c.stack is None else " + ".join(f"{p:g}" for p in c.stack) or "nothing"
            total = c.support.stack_mm + c.up
            rows.append(
                (
                    c.support.id,
                    (
                        (c.support.name, ""),
                        (up, ">"),
                        (show(total, "length", d) if total > -0.05 else "too high", ">"),
                        (made, ""),
                    ),
                )
            )
        self.table.fill(rows)
        turn = turn_words(*plan.left_deg)
        left = move_words(plan.left_mm, d)
        aside = [
            f"{c.support.name} {move_words((*c.aside, 0.0), d)}"
            for c in plan.changes
            if max(abs(a) for a in c.aside) >= 0.05
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


class MarksRoom(WorkingRoom):
    """Witness marks: proposed, printed, taped again later."""

    title, key = "Marks", "marks"

    def build(self) -> None:
        """What the tape says now, and the marks."""
        s = self.session
        self.column.addWidget(
            words(
                "Tape these distances while the engine is in its place; tape them again when it has been out."
                " They say where it stands.",
                "",
            )
        )
        self.say = words("", "")
        self.column.addWidget(self.say)
        self.add_progress()
        self.column.addWidget(self.refusal)
        self.bring = button(
            "Shims that bring it back",
            self.back,
            "The real engine is taken to be where the marks say",
            "main",
        )
        self.column.addWidget(row(self.bring))
        self.column.addWidget(
            row(
                button("Propose marks", self.propose, "Twelve distances that pin the position best"),
                button("Print them …", self.ask_print),
            )
        )
        for m in s.job.marks:
            name = part(m.name)
            name.setWordWrap(True)
            self.column.addWidget(name)
            base = f"marks/{m.id}"
            self.column.addWidget(
                QuantityField(s, "With the engine in its place", "length").at(f"{base}/reference_mm", m.name)
            )
            self.column.addWidget(
                QuantityField(s, "The tape says now", "length", optional="not taped").at(
                    f"{base}/now_mm", m.name
                )
            )

        if s.job.marks:
            self.column.addWidget(part("Where a mark is"))
            self.which = QComboBox()
            self.which.setAccessibleName("mark")
            self.which.addItems([m.name for m in s.job.marks])
            self.which.activated.connect(self._place)
            self.mark_name = TextField(s, "Name")
            places = ("forward / back", "left / right", "up / down")
            self.on_engine, self.on_bay = (
                VectorField(s, label, WAYS, places) for label in ("On the engine", "On the bay")
            )
            self.mark_doubt = QuantityField(s, "The tape is good to", "length")
            for widget in (self.which, self.mark_name, self.on_engine, self.on_bay, self.mark_doubt):
                self.column.addWidget(widget)
            self._place(0)

    def _place(self, at: int) -> None:
        """Name and places of the chosen mark."""
        mark = self.session.job.marks[at]
        base = f"marks/{mark.id}"
        self.mark_name.at(f"{base}/name")
        self.on_engine.at(f"{base}/on_engine", mark.name)
        self.on_bay.at(f"{base}/on_bay", mark.name)
        self.mark_doubt.at(f"{base}/plus_minus_mm", mark.name)

    def propose(self) -> None:
        """New marks in the place of those that are there."""
        job = self.session.job

        def work(say: Any) -> Any:
            say("Choosing corners that a tape can reach")
            return with_value(job, "marks", proposed_marks(job)), None

        self.run(work, lambda room, result: room.session.edit("Witness marks proposed", result[0]))

    def back(self) -> None:
        """Take the engine to be where the marks say, and go to the shims."""
        try:
            after = with_told(self.session.job)
        except JobError as error:
            self.refuse(error.message)
            return
        if not after.setting.supports:
            after = with_value(after, "setting/supports", first_supports(after))
        self.session.edit("Real engine where the marks say", after)

    def ask_print(self) -> None:
        """Ask for a file and print."""
        name, _ = QFileDialog.getSaveFileName(
            self,
            "Witness marks as PDF",
            str(self.session.place.path.with_suffix(".marks.pdf")),
            "PDF (*.pdf)",
        )
        if name:
            self.print_to(name)

    def print_to(self, name: str) -> None:
        """Write the sheet."""
        from pathlib import Path

        if not self.session.job.marks:
            self.refuse("There are no marks yet: propose some first.")
            return
        try:
            replace_file(Path(name), marks_pdf(self.session.job))
            self.session.said.emit(f"Written: {Path(name).name}")
        except OSError as error:
            self.refuse(f"It could not be written: {why(error)}.")

    def refresh(self) -> None:
        """What the marks tell."""
        job = self.session.job
        typed = sum(m.now_mm is not None for m in job.marks)
        self.bring.setVisible(False)
        if not job.marks:
            self.say.setText("No marks yet.")
        elif not typed:
            self.say.setText(f"{BOLD}{len(job.marks)} marks.{PLAIN} Nothing taped since.")
        else:
            try:
                self.say.setText(f"{BOLD}{told_by_marks(job).words(self.session.display)}{PLAIN}")
                self.bring.setVisible(True)
            except JobError as error:
                self.say.setText(error.message)
