"""The engine's side of a mount: its plate, its bolts to the block, its arm."""

from __future__ import annotations

from nimble_cradle.design.arm_kinds import ARM_WORDS, ArmKind, with_arm_kind
from nimble_cradle.design.first_mounts import with_eye_on_plate
from nimble_cradle.design.split_arm import with_split_arm
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.kind_field import KindField
from nimble_cradle.desk.kit.pairs_field import PairsField
from nimble_cradle.desk.kit.quantity_field import RIGHT, UP, WAYS, QuantityField
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, row
from nimble_cradle.desk.stages.mounts.mount_room import MountRoom
from nimble_cradle.job.kinked_arm import KinkedArm
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.tube_arm import Tube, TubeArm
from nimble_cradle.judge.cautions import TACKING
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.threads import SIZES
from nimble_cradle.strength.bolts import CLASSES

STEEL_CHOICES = tuple((s, s) for s in STEELS)
SIZE_CHOICES = tuple((s, s) for s in SIZES)
CLASS_CHOICES = tuple((c, c) for c in CLASSES)
MORE_CHOICES = (
    ("unsaid", "not said"),
    ("none", "there are no more"),
    ("other part", "another part bolts there"),
    ("other thread", "of another thread"),
    ("not reached", "cannot be reached"),
)
TRIM_CHOICES = (
    ("none", "on no side"),
    ("left", "on the left"),
    ("right", "on the right"),
    ("top", "at the top"),
    ("bottom", "at the bottom"),
)
PAD_FIELDS = (
    ("Plate", "length", "plate_mm"),
    ("Hole", "length", "hole_mm"),
    ("Edge distance, from the hole's centre", "length", "edge_mm"),
    ("Tighten to", "torque", "tightening_nm"),
)
OTHER_FIELDS = (
    ("Hole for them", "length", "other_hole_mm"),
    ("Tighten them to", "torque", "other_tightening_nm"),
)


class PlateRoom(MountRoom):
    """Plate and arm."""

    title, key = "Plate, arm", "plate"
    caution = TACKING

    def build(self) -> None:
        """The plate, then the arm."""
        self.column.addWidget(self.refusal)
        with self.two_sides():
            with self.folded("Plate and bolts", open_first=True):
                self._build_plate()
            with self.folded("Bolts of another size"):
                self._build_other()
            self.right_side()
            with self.folded("Arm, or the eye on its plate"):
                self._build_arm()
            with self.folded("The pad on the block"):
                self._build_pad()

    def _build_plate(self) -> None:
        session = self.session
        self.bolt, self.grade = (
            ChoiceField(session, "Bolts to the block", SIZE_CHOICES),
            ChoiceField(session, "Bolt class", CLASS_CHOICES),
        )
        self.steel = ChoiceField(session, "Plate steel", STEEL_CHOICES)
        self.thread_in = ChoiceField(
            session,
            "Its bolts are screwed into",
            (
                ("unsaid", "not said"),
                ("grey iron", "cast iron"),
                ("cast aluminium", "cast aluminium"),
                ("steel", "steel"),
                ("insert in aluminium", "an insert in aluminium"),
            ),
        )
        self.thread_deep = QuantityField(session, "How deep", "length", optional="not said")
        self.holes = PairsField(
            session,
            "Holes, from the pad's centre as you face the plate; an emptied line takes the hole away",
            "hole",
        )
        self.pad = [QuantityField(session, label, kind) for label, kind, _ in PAD_FIELDS]  # type: ignore[arg-type]
        self.fits = row(
            button(
                "The printed plate fits the block", self.confirm, "You laid it on and the holes meet", "view"
            )
        )
        for widget in (
            self.bolt,
            self.grade,
            *self.pad,
            self.steel,
            self.thread_in,
            self.thread_deep,
            self.holes,
            self.fits,
        ):
            self.column.addWidget(widget)

    def _build_other(self) -> None:
        session = self.session
        self.other_holes = PairsField(
            session,
            "Their holes, from the pad's centre as you face the plate; counted after the others",
            "hole for them",
        )
        self.other_bolt = ChoiceField(session, "Bolts of another size", SIZE_CHOICES)
        self.other_grade = ChoiceField(session, "Their class", CLASS_CHOICES)
        self.other = [QuantityField(session, label, kind) for label, kind, _ in OTHER_FIELDS]  # type: ignore[arg-type]
        for widget in (self.other_holes, self.other_bolt, self.other_grade, *self.other):
            self.column.addWidget(widget)

    def _build_pad(self) -> None:
        session = self.session
        self.pad_centre = VectorField(
            session,
            "Pad's centre",
            WAYS,
            ("from the block's rear face", "from the crank line", "from the crank line"),
        )
        self.pad_up = DirectionField(session, "Its upper edge")
        self.pad_normal = DirectionField(session, "Pad's face")
        self.rests = ChoiceField(
            session, "The plate rests", (("flat", "flat on the pad"), ("bosses", "on bosses at its bolts"))
        )
        self.spacer = QuantityField(session, "Spacers under the plate", "length")
        self.more = ChoiceField(session, "Bosses left free", MORE_CHOICES)
        self.free = PairsField(
            session, "Free bosses, from the pad's centre as you face the plate", "free boss"
        )
        self.trim = ChoiceField(session, "Cut off straight", TRIM_CHOICES)
        self.trim_mm = QuantityField(session, "Cut off, from the pad's centre", "length")
        for widget in (
            self.rests,
            self.spacer,
            self.more,
            self.free,
            self.trim,
            self.trim_mm,
            self.pad_centre,
            self.pad_normal,
            self.pad_up,
        ):
            self.column.addWidget(widget)

    def _build_arm(self) -> None:
        session = self.session
        self.kind = KindField(session, "Between plate and eye", tuple(ARM_WORDS.items()), self._other)
        self.round = button(
            "Lead it round what is in the way", self.lead_round, "Straight where that is clear", "view"
        )
        self.column.addWidget(self.kind)
        self.column.addWidget(row(self.round))
        self.packing = ChoiceField(
            session, "Under the eye", ((False, "nothing: it stands on it"), (True, "a packing piece"))
        )
        self.onto = row(
            button("Stand the eye on its plate", self.stand, "Moves the bush, and its crossmember", "view")
        )
        self.eye_weld = QuantityField(session, "Weld round the eye, throat", "length")
        self.arm = DescribedFields(session)
        self.arm_at = VectorField(session, "Arm stands", (RIGHT, UP), ("across", "in height"))
        self.kink = VectorField(
            session,
            "Kink of the arm",
            WAYS,
            ("from the block's rear face", "from the crank line", "from the crank line"),
        )
        self.scallop_way = DirectionField(session, "Scallop on the side")
        for widget in (
            self.packing,
            self.onto,
            self.arm_at,
            self.arm,
            self.scallop_way,
            self.kink,
            self.eye_weld,
        ):
            self.column.addWidget(widget)

    def point(self, mount: Mount) -> None:
        base, name = f"mounts/{mount.id}", mount.name
        for field, (_, _, key) in zip((*self.pad, *self.other), PAD_FIELDS + OTHER_FIELDS, strict=True):
            field.at(f"{base}/pad/{key}", name)
        for several, path in (
            (self.holes, "pad/holes"),
            (self.other_holes, "pad/other_holes"),
            (self.free, "pad/free_holes"),
            (self.pad_centre, "pad/centre"),
            (self.pad_normal, "pad/normal"),
            (self.pad_up, "pad/up"),
            (self.arm_at, "pad/arm_at"),
        ):
            several.at(f"{base}/{path}", name)
        for choice, path in (
            (self.bolt, "pad/bolt"),
            (self.grade, "pad/bolt_class"),
            (self.other_bolt, "pad/other_bolt"),
            (self.other_grade, "pad/other_class"),
            (self.steel, "pad/steel"),
            (self.rests, "pad/rests"),
            (self.more, "pad/more_bosses"),
            (self.trim, "pad/trim"),
            (self.packing, "packing"),
            (self.thread_in, "pad/thread_in"),
        ):
            choice.at(f"{base}/{path}", name)
        self.thread_deep.at(f"{base}/pad/thread_deep_mm", name)
        self.spacer.at(f"{base}/pad/spacer_mm", name)
        self.trim_mm.at(f"{base}/pad/trim_mm", name)
        self.kind.at(f"{base}/arm", name)
        self.kind.box.setObjectName(f"{base}/arm/kind")
        self.eye_weld.at(f"{base}/eye_weld_throat_mm", name)
        self.arm.show_part(mount.arm, f"{base}/arm", name)

    def refresh(self) -> None:
        mount = self.mount
        if mount is None:
            return
        self.arm.show_part(mount.arm, f"mounts/{mount.id}/arm", mount.name)
        self.packing.setVisible(mount.arm is None)
        self.onto.setVisible(mount.arm is None)
        self.fits.setVisible(not mount.pad.holes_confirmed)
        self.trim_mm.setVisible(mount.pad.trim != "none")
        for field in (self.other_bolt, self.other_grade, *self.other):
            field.setVisible(bool(mount.pad.other_holes))
        self.arm_at.setVisible(mount.arm is not None)
        self.round.setVisible(isinstance(mount.arm, Tube))
        scalloped = isinstance(mount.arm, TubeArm) and mount.arm.scallop_deep_mm > 0
        self.scallop_way.setVisible(scalloped)
        if scalloped:
            self.scallop_way.at(f"mounts/{mount.id}/arm/scallop_way", mount.name)
        kinked = isinstance(mount.arm, KinkedArm)
        self.kink.setVisible(kinked)
        if kinked:
            self.kink.at(f"mounts/{mount.id}/arm/kink", mount.name)

    def _other(self, kind: ArmKind | None) -> None:
        """An arm of another family, or none."""
        mount = self.mount
        if mount is not None:
            after = with_arm_kind(self.session.job, mount, kind, self.session.rack)
            self.session.edit(f"{mount.name}: between plate and eye {ARM_WORDS[kind]}", after)

    def lead_round(self) -> None:
        """A straight arm where that is clear, else the shortest with one kink."""
        mount = self.mount
        if mount is not None:
            with told_in(self.refusal):
                after = with_split_arm(self.session.job, mount)
                self.session.edit(f"{mount.name}: arm led round what is in the way", after)

    def stand(self) -> None:
        """Set the eye of a mount without an arm on its plate."""
        mount = self.mount
        if mount is not None:
            with told_in(self.refusal):
                after = with_eye_on_plate(self.session.job, mount)
                self.session.edit(f"{mount.name}: eye set on its plate", after)

    def confirm(self) -> None:
        """The plate was laid on the block and fits."""
        mount = self.mount
        if mount is not None:
            self.session.set_value(
                f"mounts/{mount.id}/pad/holes_confirmed",
                True,
                f"{mount.name}: the printed plate fits the block",
            )
