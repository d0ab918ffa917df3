"""The bush of a mount: its family, place, sizes, and the bolt through it."""

from __future__ import annotations

from nimble_cradle.design.bush_kinds import BUSH_WORDS, BushKind, with_bush_kind
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.kind_field import KindField
from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, UP, QuantityField
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.mounts.load_table import LoadTable
from nimble_cradle.desk.stages.mounts.mount_room import MountRoom
from nimble_cradle.desk.stages.mounts.pad_fields import CLASS_CHOICES, SIZE_CHOICES, STEEL_CHOICES
from nimble_cradle.desk.stages.mounts.told import settling_words, solid_words
from nimble_cradle.job.donor_bush import DonorBush
from nimble_cradle.job.mounts import Mount
from nimble_cradle.judge.cautions import BUSHES
from nimble_cradle.judge.studies import locked_in_of
from nimble_cradle.units import Display


class BushRoom(MountRoom):
    """The bush and its bolt."""

    title, key = "Bush", "bush"
    caution = BUSHES

    def build(self) -> None:
        """Family, what it does, sizes; the bolt through it."""
        session = self.session
        with self.two_sides():
            self.kind = KindField(session, "Bush", tuple(BUSH_WORDS.items()), self._other)
            self.does = words("", "")
            self.bush_first, self.bush = DescribedFields(session, first=True), DescribedFields(session)
            self.table = LoadTable(session)
            for widget in (self.kind, self.bush_first, self.does):
                self.column.addWidget(widget)
            self.column.addWidget(row(button("How stiff it is", self.bush_work, name="view")))
            with self.folded("Sizes"):
                self.column.addWidget(self.bush)
                self.column.addWidget(self.table)
            self.right_side()
            with self.folded("Where it is"):
                self._build_place()
            with self.folded("The bolt through it and its cheeks"):
                self._build_cross_bolt()

    def _build_place(self) -> None:
        session = self.session
        self.place = VectorField(
            session,
            "Bush centre",
            (FORWARD, LEFT, UP),
            ("from the axle line", "from the centre", "from the rail tops"),
        )
        self.axis = DirectionField(session, "Its bolt")
        self.shield = ChoiceField(
            session, "Between its rubber and what is hot", ((False, "air only"), (True, "a heat shield"))
        )
        for widget in (self.place, self.axis, self.shield):
            self.column.addWidget(widget)

    def _build_cross_bolt(self) -> None:
        session = self.session
        self.cross, self.cross_grade = (
            ChoiceField(session, "Cross-bolt", SIZE_CHOICES),
            ChoiceField(session, "Its class", CLASS_CHOICES),
        )
        self.cheek_steel = ChoiceField(session, "Cheeks' steel", STEEL_CHOICES)
        self.cross_tight = QuantityField(session, "Tighten it to", "torque", optional="not said")
        self.cheek, self.cheek_gap, self.eye_gap = (
            QuantityField(session, "Each cheek", "length"),
            QuantityField(session, "Sleeve to each cheek, before tightening", "length"),
            QuantityField(session, "Eye to each cheek", "length"),
        )
        for widget in (
            self.cross,
            self.cross_grade,
            self.cross_tight,
            self.cheek,
            self.cheek_steel,
            self.cheek_gap,
            self.eye_gap,
        ):
            self.column.addWidget(widget)

    def point(self, mount: Mount) -> None:
        base, name = f"mounts/{mount.id}", mount.name
        self.kind.at(f"{base}/bush", name)
        self.kind.box.setObjectName(f"{base}/bush/kind")
        self.place.at(f"{base}/bush/centre", name)
        self.axis.at(f"{base}/bush/axis", name)
        self.shield.at(f"{base}/heat_shielded", name)
        for choice, path in (
            (self.cross, "cross_bolt/bolt"),
            (self.cross_grade, "cross_bolt/bolt_class"),
            (self.cheek_steel, "cross_bolt/cheek_steel"),
        ):
            choice.at(f"{base}/{path}", name)
        self.cheek.at(f"{base}/cross_bolt/cheek_mm", name)
        self.cheek_gap.at(f"{base}/cross_bolt/gap_mm", name)
        self.eye_gap.at(f"{base}/cross_bolt/eye_gap_mm", name)
        self.cross_tight.at(f"{base}/cross_bolt/tightening_nm", name)
        for fields in (self.bush_first, self.bush):
            fields.show_part(mount.bush, f"{base}/bush", name)

    def refresh(self) -> None:
        mount = self.mount
        if mount is None:
            return
        base = f"mounts/{mount.id}"
        for fields in (self.bush_first, self.bush):
            fields.show_part(mount.bush, f"{base}/bush", mount.name)
        donor = isinstance(mount.bush, DonorBush)
        self.table.setVisible(donor)
        if donor:
            self.table.show_rows(f"{base}/bush/table", mount.name)
        carried = self.session.verdict.carried
        display = Display(self.session.display.length)
        if carried is None:
            self.does.setText("")
        elif mount.bush.kind == "solid":
            self.does.setText(solid_words(self.session.job, mount, carried))
        else:
            self.does.setText(settling_words(mount, carried, display))

    def _other(self, kind: BushKind) -> None:
        """A bush of another family."""
        mount = self.mount
        if mount is not None:
            after = with_bush_kind(self.session.job, mount, kind)
            self.session.edit(f"{mount.name}: {BUSH_WORDS[kind]}", after)

    def bush_work(self) -> None:
        """Working of the bush's stiffness."""
        judged, mount = self.session.verdict, self.mount
        if judged.carried is not None and mount is not None:
            if mount.bush.kind == "solid":
                forced = locked_in_of(judged.carried, mount.id)
                self.session.show_work(f"{mount.name}: what a forced bolt locks in", forced)
                return
            spring = next(sp for sp in judged.carried.springs if sp.mount == mount.id)
            self.session.show_work(f"{mount.name}: stiffness of the bush", spring.bush.worked)
