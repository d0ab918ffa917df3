"""The engine's side of a mount: its plate, its bolts to the block, its arm."""

from __future__ import annotations

from nimble_cradle.design.arm_kinds import ARM_WORDS, ArmKind, with_arm_kind
from nimble_cradle.design.first_mounts import with_eye_on_plate
from nimble_cradle.design.split_arm import with_split_arm
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.kind_field import KindField
from nimble_cradle.desk.kit.quantity_field import RIGHT, UP, WAYS, QuantityField
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, row
from nimble_cradle.desk.stages.mounts.mount_room import MountRoom
from nimble_cradle.desk.stages.mounts.pad_fields import PadFields
from nimble_cradle.job.kinked_arm import KinkedArm
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.tube_arm import Tube, TubeArm
from nimble_cradle.judge.cautions import TACKING


class PlateRoom(MountRoom):
    """Plate and arm."""

    title, key = "Plate, arm", "plate"
    caution = TACKING

    def build(self) -> None:
        """The plate, then the arm."""
        self.column.addWidget(self.refusal)
        with self.two_sides():
            self.pad = PadFields(self.session)
            self.fits = row(
                button(
                    "The printed plate fits the block",
                    self.confirm,
                    "You laid it on and the holes meet",
                    "view",
                )
            )
            with self.folded("Plate and bolts", open_first=True):
                for widget in (*self.pad.plate, self.fits):
                    self.column.addWidget(widget)
            with self.folded("Bolts of another size"):
                for widget in self.pad.other:
                    self.column.addWidget(widget)
            self.right_side()
            with self.folded("Arm, or the eye on its plate"):
                self._build_arm()
            with self.folded("The pad on the block"):
                for widget in self.pad.pad:
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
        self.pad.at(f"{base}/pad", name)
        self.arm_at.at(f"{base}/pad/arm_at", name)
        self.packing.at(f"{base}/packing", name)
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
        self.pad.show_pad(mount.pad)
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
