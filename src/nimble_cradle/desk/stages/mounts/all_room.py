"""All mounts: what each carries and gives, how the engine moves and shakes on them, the load cases."""

from __future__ import annotations

from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.mounts.mount_room import MountRoom
from nimble_cradle.desk.stages.mounts.told import case_rows, mount_rows, shake_words
from nimble_cradle.judge.cautions import AFTERWARDS
from nimble_cradle.mounts.vibration import TRANSMISSIBILITY
from nimble_cradle.units import Display

LOAD_FIELDS = (
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
    ("Two things at once, share of each", "number", "loads/together"),
    ("Rough road, g up and down", "number", "loads/rough_g"),
    ("First gear to engine braking, times in its life", "number", "loads/first_overrun_times"),
    ("First gear to reverse, times", "number", "loads/first_reverse_times"),
    ("Left-hand to right-hand bend, times", "number", "loads/bends_times"),
    ("Rough road up and down, times", "number", "loads/rough_times"),
    ("Bump and rebound, times", "number", "loads/bumps_times"),
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


class AllMountsRoom(MountRoom):
    """All mounts together."""

    title, key = "All mounts", "all"
    caution = AFTERWARDS

    def build(self) -> None:
        """The mounts, the shake, the cases of the chosen one, the load settings."""
        with self.two_sides():
            self.table = Table(
                ("Mount", "At rest", "Sags", "Most", "Hardest used"),
                most_rows=8,
                drop=(2, 3),
                chosen=lambda key: self.session.select("mount", key),
            )
            self.table.setAccessibleName("All mounts")
            self.column.addWidget(self.table)
            self.shake = words("", "")
            self.column.addWidget(self.shake)
            self.column.addWidget(row(button("Idle shake", self.idle_work, name="view")))
            self.right_side()
            with self.folded("The chosen mount, case by case", "click a case to see it move"):
                self.cases = Table(
                    ("Case", "Force", "Across", "Along"), most_rows=9, chosen=self.session.show_case
                )
                self.cases.setAccessibleName("Load cases")
                self.column.addWidget(self.cases)
                self.column.addWidget(
                    row(button("Show it at rest again", lambda: self.session.show_case(""), name="view"))
                )
            with self.folded(
                "Load cases and what is kept in hand", "common practice, no source; yours to change"
            ):
                for label, kind, path in LOAD_FIELDS:
                    field = QuantityField(self.session, label, kind)  # type: ignore[arg-type]
                    self.column.addWidget(field.at(path, "Loads"))

    def refresh(self) -> None:
        mount, judged = self.mount, self.session.verdict
        display = Display(self.session.display.length)
        self.table.fill(mount_rows(judged, display), self.chosen.id)
        if judged.carried is None or mount is None:
            self.shake.setText("")
            self.cases.fill([])
            return
        self.shake.setText(shake_words(judged.carried))
        self.cases.fill(case_rows(mount, judged.carried, display), self.session.shown_case)

    def idle_work(self) -> None:
        """Working of the shake at idle."""
        judged = self.session.verdict
        if judged.carried is not None:
            roll = max(judged.carried.modes, key=lambda m: m.shares[3])
            loss = max(sp.loss_factor for sp in judged.carried.springs)
            one = TRANSMISSIBILITY.work(
                {"frequency": "firing", "natural": f"the {roll.word} mode"},
                frequency=judged.carried.idle.frequency,
                natural=roll.frequency,
                loss_factor=loss,
            )
            self.session.show_work(
                "Shake at idle: all six motions solved together let"
                f" {100 * judged.carried.idle.transmitted:.0f} %"
                " through; by the mode that rolls most alone it would be as below",
                judged.carried.idle.worked,
                one,
            )
