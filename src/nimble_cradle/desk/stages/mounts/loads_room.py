"""Load cases: what each asks of the chosen mount, the user's own, and what is kept in hand."""

from __future__ import annotations

from functools import partial

from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.fields import TextField
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.mounts.mount_room import MountRoom
from nimble_cradle.desk.stages.mounts.told import case_rows
from nimble_cradle.job.edits import added, free_id, removed
from nimble_cradle.job.own_case import OwnCase
from nimble_cradle.judge.cautions import AFTERWARDS
from nimble_cradle.units import Display

FORCE_FIELDS = (
    ("Tyre grip", "number", "loads/tyre_grip"),
    ("Engine braking, share of full torque", "number", "loads/overrun_share"),
    ("Braking, g", "number", "loads/brake_g"),
    ("Bend, g", "number", "loads/corner_g"),
    ("Bump, g in all", "number", "loads/bump_g"),
    ("Rebound, g in all", "number", "loads/rebound_g"),
    ("Dropped clutch, times first gear's torque", "number", "loads/snatch_factor"),
    ("Kerb, g sideways", "number", "loads/kerb_g"),
    ("Pothole, g backwards with the bump", "number", "loads/pothole_g"),
    ("Jerk when towed, g", "number", "loads/tow_g"),
    ("Crash, g thrown ahead", "number", "loads/crash_ahead_g"),
    ("Crash, g to a side", "number", "loads/crash_side_g"),
    ("Crash, g thrown back", "number", "loads/crash_back_g"),
    ("Two things at once, share of each", "number", "loads/together"),
    ("Rough road, g up and down", "number", "loads/rough_g"),
)
TIMES_FIELDS = (
    ("First gear to engine braking, times in its life", "number", "loads/first_overrun_times"),
    ("First gear to reverse, times", "number", "loads/first_reverse_times"),
    ("Left-hand to right-hand bend, times", "number", "loads/bends_times"),
    ("Rough road up and down, times", "number", "loads/rough_times"),
    ("Bump and rebound, times", "number", "loads/bumps_times"),
)
KEPT_FIELDS = (
    ("Kept in hand, everyday cases", "number", "allowables/everyday_factor"),
    ("Kept in hand, rare cases", "number", "allowables/rare_factor"),
    ("Most pressure on the rubber", "stress", "allowables/bush_pressure_mpa"),
    ("Most give, share of the rubber's wall", "number", "allowables/bush_strain"),
    ("The same at rest", "number", "allowables/bush_strain_rest"),
    ("The same in rare cases", "number", "allowables/bush_strain_rare"),
    ("An eye may go, its rubber gone", "length", "allowables/bare_way_mm"),
    ("Nut factor", "number", "allowables/nut_factor"),
    ("Idle shake passed on, at most", "number", "allowables/idle_transmitted"),
)


class LoadsRoom(MountRoom):
    """All load cases; made anew when there is one of the user's own more or less."""

    title, key = "Load cases", "loads"
    caution = AFTERWARDS

    def build(self) -> None:
        """The table of all cases; on the right what they are made of."""
        session = self.session
        with self.two_sides():
            self.cases = Table(
                ("Case", "Asked", "Force", "Across", "Along"),
                most_rows=7,
                drop=(3, 4),
                chosen=session.show_case,
            )
            self.cases.setAccessibleName("Load cases")
            self.asked = words("", "")
            self.column.addWidget(self.asked)
            self.column.addWidget(self.cases)
            self.column.addWidget(
                row(
                    button("Show it at rest again", lambda: session.show_case(""), name="view"),
                    button("Add a case of your own", self.add, name="view"),
                )
            )
            self.column.addWidget(self.refusal)
            self.right_side()
            self.own: dict[str, DescribedFields] = {}
            for case in session.job.loads.own_cases:
                with self.folded(case.name, "your own", open_first=True):
                    self._build_own(case.id)
            for title, told, fields in (
                ("How hard", "common practice, no source; yours to change", FORCE_FIELDS),
                ("How often in its life", "for the life of the welds", TIMES_FIELDS),
                ("Kept in hand, and limits", "common practice, no source", KEPT_FIELDS),
            ):
                with self.folded(title, told):
                    for label, kind, path in fields:
                        field = QuantityField(session, label, kind)  # type: ignore[arg-type]
                        self.column.addWidget(field.at(path, "Loads"))

    def _build_own(self, key: str) -> None:
        base = f"loads/own_cases/{key}"
        self.column.addWidget(TextField(self.session, "Name of the case").at(f"{base}/name"))
        fields = self.own[key] = DescribedFields(self.session)
        self.column.addWidget(fields)
        self.column.addWidget(row(button("Take this case out", partial(self.drop, key), name="view")))

    def refresh(self) -> None:
        session, mount = self.session, self.mount
        for case in session.job.loads.own_cases:
            if case.id in self.own:
                self.own[case.id].show_part(case, f"loads/own_cases/{case.id}", case.name)
        carried = session.verdict.carried
        if carried is None or mount is None:
            self.asked.setText("")
            self.cases.fill([])
            return
        self.asked.setText(f"What each asks of {mount.name}; click a case to see the engine move.")
        display = Display(session.display.length)
        self.cases.fill(case_rows(mount, carried, display), session.shown_case)

    def add(self) -> None:
        """One more case of the user's own, to be set right."""
        job = self.session.job
        key = free_id("case", {case.id for case in job.loads.own_cases})
        case = OwnCase(id=key, name=f"Own case {len(job.loads.own_cases) + 1}", weight_g=2.0)
        with told_in(self.refusal):
            self.session.edit(f"Added {case.name}", added(job, "loads/own_cases", case))

    def drop(self, key: str) -> None:
        """A case goes."""
        with told_in(self.refusal):
            after = removed(self.session.job, f"loads/own_cases/{key}")
            self.session.edit("Took a load case out", after)
