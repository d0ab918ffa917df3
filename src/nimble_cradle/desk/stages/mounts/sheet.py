"""Mounts: what each carries, how far it gives, whether it holds; the bush, the plate, the arm."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from nimble_cradle.design.beside import duplicated
from nimble_cradle.design.first_mounts import first_mount, with_eye_on_plate
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.label import Label, plain
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.use_bars import UseBars, show_finding
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.mounts.fields import MountFields
from nimble_cradle.desk.stages.mounts.told import case_rows, shake_words, summary_words
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, removed
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.tube_arm import TubeArm
from nimble_cradle.job.twins import twin
from nimble_cradle.mounts.springs import SAG
from nimble_cradle.mounts.vibration import TRANSMISSIBILITY
from nimble_cradle.telltales import TellTale
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
    ("Kept in hand, everyday cases", "number", "allowables/everyday_factor"),
    ("Kept in hand, rare cases", "number", "allowables/rare_factor"),
    ("Most pressure on the rubber", "stress", "allowables/bush_pressure_mpa"),
    ("Most give, share of the rubber's wall", "number", "allowables/bush_strain"),
    ("The same at rest", "number", "allowables/bush_strain_rest"),
    ("The same in rare cases", "number", "allowables/bush_strain_rare"),
    ("Nut factor", "number", "allowables/nut_factor"),
    ("Idle shake passed on, at most", "number", "allowables/idle_transmitted"),
)


class MountsSheet(MountFields):
    """The mounts, one at a time."""

    stage, title = "mounts", "Mounts: carried and held"
    has_figures = True

    mount_id = ""

    def fingerprint(self) -> tuple[str, ...]:
        """The mounts there are."""
        return tuple(mount.id for mount in self.session.job.mounts)

    def build(self) -> None:
        """The bar of mounts, then one mount from what it carries to how it is made."""
        session = self.session
        bar = QWidget()
        layout = QHBoxLayout(bar)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(5)
        self.group = QButtonGroup(self)
        self.keys = [mount.id for mount in session.job.mounts]
        for i, mount in enumerate(session.job.mounts):
            b = QPushButton(mount.name.removesuffix(" mount").replace("&", "&&"))
            b.setToolTip(plain(mount.name))
            b.setCheckable(True)
            b.clicked.connect(partial(self._chosen, mount.id))
            self.group.addButton(b, i)
            layout.addWidget(b)
        self.column.addWidget(bar)
        if not self.keys:
            self.mount_id = ""
            self.column.addWidget(
                words(
                    "Three mounts that are not in one line hold an engine: two on its sides, one at the"
                    " gearbox.",
                    "",
                )
            )
            self.column.addWidget(row(button("Add a mount", self.add, name="main")))
            self.column.addWidget(self.refusal)
            return
        self.column.addWidget(
            row(
                button("Add a mount", self.add, "One more mount", "view"),
                button("Take this mount out", self.remove, "This mount goes", "view"),
                button("Double", lambda: self.twin(False), "A second of this mount, behind it", "view"),
                button("Mirror", lambda: self.twin(True), "This mount on the other side", "view"),
            )
        )
        self.column.addWidget(self.refusal)
        with self.two_sides():
            self._build_carried()
            self.right_side()
            self._build_groups()
        self.mount_id = self.mount_id if self.mount_id in self.keys else self.keys[0]
        self._point_fields()

    def _build_groups(self) -> None:
        """What is looked up or set once, each in a group of its own."""
        with self.folded("Case by case: force and movement", "click a case to see it move"):
            self._build_cases()
        with self.folded("How the whole engine shakes", "natural frequencies, idle"):
            self._build_shake()
        with self.folded("Bush: sizes and place"):
            self._build_bush()
        with self.folded("Plate and bolts"):
            self._build_plate()
        with self.folded("Arm"):
            self._build_arm_tube()
        with self.folded("Cross-bolt and cheeks"):
            self._build_cross_bolt()
        with self.folded(
            "Load cases and what is kept in hand", "common practice, no source; yours to change"
        ):
            for label, kind, path in LOAD_FIELDS:
                field = QuantityField(self.session, label, kind)  # type: ignore[arg-type]
                self.column.addWidget(field.at(path, "Loads"))
        with self.folded("Name, what it carries, note"):
            self._build_this()

    def _build_this(self) -> None:
        self.name, self.note = TextField(self.session, "Name"), TextField(self.session, "Note")
        self.carries = ChoiceField(
            self.session,
            "It carries",
            (("engine", "the engine"), ("gearbox", "the gearbox, on a crossmember")),
        )
        for widget in (self.name, self.carries, self.note):
            self.column.addWidget(widget)

    def _build_carried(self) -> None:
        self.summary = Label()
        self.summary.setWordWrap(True)
        self.column.addWidget(self.summary)
        self.column.addWidget(
            row(
                button("How far it settles", self.sag_work, name="view"),
                button("First-gear torque", self.torque_work, name="view"),
                button("How stiff it is", self.bush_work, name="view"),
                button("Idle shake", self.idle_work, name="view"),
            )
        )
        session = self.session
        self.bush_first, self.bush = DescribedFields(session, first=True), DescribedFields(session)
        self.column.addWidget(self.bush_first)
        self.column.addWidget(part("What holds and what does not: click for the working"))
        self.bars = UseBars(session)
        self.column.addWidget(self.bars)

    def _build_cases(self) -> None:
        self.cases = Table(("Case", "Force", "Across", "Along"), most_rows=9, chosen=self._case)
        self.cases.setAccessibleName("Load cases")
        self.column.addWidget(self.cases)
        self.column.addWidget(
            row(button("Show it at rest again", lambda: self.session.show_case(""), name="view"))
        )

    def _build_shake(self) -> None:
        self.shake = words("", "")
        self.column.addWidget(self.shake)

    def _chosen(self, mount_id: str, _: bool = False) -> None:
        self.choose(mount_id)

    def add(self) -> None:
        """One more mount to be set right."""
        job = self.session.job
        mount = first_mount(job, free_id("mount", {mount.id for mount in job.mounts}), self.session.rack)
        self.mount_id = mount.id
        self.session.edit(f"Added {mount.name}", added(job, "mounts", mount))
        self.session.select("mount", mount.id)

    def twin(self, mirror: bool) -> None:
        """A second of this mount: behind it, or mirrored to the other side."""
        mount = self._mount()
        if mount is None:
            return
        with told_in(self.refusal):
            path = f"mounts/{mount.id}"
            after, key = twin(self.session.job, path, True) if mirror else duplicated(self.session.job, path)
            self.mount_id = key
            self.session.edit(f"{'Mirrored' if mirror else 'Doubled'} {mount.name}", after)
            self.session.select("mount", key)

    def remove(self) -> None:
        """Take the chosen mount out; refused while the crossmember carries it."""
        mount = self._mount()
        try:
            if mount is None:
                raise JobError("There is no mount to take out.")
            self.session.edit(f"Took out {mount.name}", removed(self.session.job, f"mounts/{mount.id}"))
        except JobError as error:
            self.refusal.tell(
                f"{error.message} Leave the crossmember out first."
                if "crossmember" in error.message
                else error.message
            )

    def show_cause(self, tale: TellTale) -> None:
        """The hardest-used part, or the shake at idle, with its working."""
        if tale.id == "idle":
            self.idle_work()
        elif self.session.verdict.hardest is not None:
            self.choose(self.session.verdict.hardest.part)
            show_finding(self.session, self.session.verdict.hardest)

    def choose(self, mount_id: str) -> None:
        """Show one mount."""
        if mount_id not in self.keys:
            return
        self.mount_id = mount_id
        self._point_fields()
        self.session.select("mount", mount_id)
        self.refresh()

    def refresh(self) -> None:
        mount = self._mount()
        if mount is None:
            return
        kind, key = self.session.selection
        if kind == "mount" and key in self.keys and key != self.mount_id:
            self.choose(key)
            return
        self._show_fields(mount)
        judged = self.session.verdict
        self.bars.show_findings([finding for finding in judged.findings if finding.part == mount.id])
        if judged.carried is None:
            said = [problem.sentence for problem in judged.problems if problem.stage == "mounts"]
            self.summary.setText("Not judged: " + (said[0] if said else "the mounts cannot be solved."))
            self.cases.fill([])
            return
        display = Display(self.session.display.length)
        self.summary.setText(summary_words(mount, judged, judged.carried, display))
        self.shake.setText(shake_words(judged.carried))
        self.cases.fill(case_rows(mount, judged.carried, display), self.session.shown_case)

    def _show_fields(self, mount: Mount) -> None:
        """The fields of its families, and what is shown only with an arm or without one."""
        base = f"mounts/{mount.id}"
        for fields in (self.bush_first, self.bush):
            fields.show_part(mount.bush, f"{base}/bush", mount.name)
        self.arm.show_part(mount.arm, f"{base}/arm", mount.name)
        self.packing.setVisible(mount.arm is None)
        self.onto.setVisible(mount.arm is None)
        self.fits.setVisible(not mount.pad.holes_confirmed)
        self.arm_at.setVisible(mount.arm is not None)
        self.with_arm.setText("No arm: the eye welded to the plate" if mount.arm else "Fit an arm")

    def _case(self, case_id: str) -> None:
        self.session.show_case(case_id)

    def _toggle_arm(self) -> None:
        mount = self._mount()
        if mount is not None:
            arm = None if mount.arm else TubeArm(outside_mm=45, wall_mm=3)
            self.session.set_value(
                f"mounts/{mount.id}/arm", arm, f"{mount.name}: {'an arm' if arm else 'no arm'}"
            )

    def stand(self) -> None:
        """Set the eye of a mount without an arm on its plate."""
        mount = self._mount()
        if mount is not None:
            with told_in(self.refusal):
                after = with_eye_on_plate(self.session.job, mount)
                self.session.edit(f"{mount.name}: eye set on its plate", after)

    def confirm(self) -> None:
        """The plate was laid on the block and fits."""
        mount = self._mount()
        if mount is not None:
            self.session.set_value(
                f"mounts/{mount.id}/pad/holes_confirmed",
                True,
                f"{mount.name}: the printed plate fits the block",
            )

    def sag_work(self) -> None:
        """Working of how far the bush gives under the weight."""
        judged, mount = self.session.verdict, self._mount()
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

    def bush_work(self) -> None:
        """Working of the bush's stiffness."""
        judged, mount = self.session.verdict, self._mount()
        if judged.carried is not None and mount is not None:
            spring = next(sp for sp in judged.carried.springs if sp.mount == mount.id)
            self.session.show_work(f"{mount.name}: stiffness of the bush", spring.bush.worked)

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


SHEET = MountsSheet
