"""The fields of a mount: bush, plate, arm, cross-bolt."""

from __future__ import annotations

from PyQt6.QtWidgets import QButtonGroup

from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.pairs_field import PairsField
from nimble_cradle.desk.kit.quantity_field import FORWARD, LEFT, RIGHT, UP, WAYS, QuantityField
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, row
from nimble_cradle.job.mounts import Mount
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.threads import SIZES
from nimble_cradle.strength.bolts import CLASSES


class MountFields(Sheet):
    """The fields of the chosen mount."""

    bush: DescribedFields
    mount_id: str
    group: QButtonGroup
    keys: list[str]
    name: TextField
    note: TextField
    carries: ChoiceField

    def _toggle_arm(self) -> None:
        """An arm, or none; told by the whole sheet."""
        raise NotImplementedError

    def stand(self) -> None:
        """The eye set on its plate; told by the whole sheet."""
        raise NotImplementedError

    def confirm(self) -> None:
        """The printed plate fits; told by the whole sheet."""
        raise NotImplementedError

    def _build_bush(self) -> None:
        session = self.session
        self.place = VectorField(
            session,
            "Bush centre",
            (FORWARD, LEFT, UP),
            ("from the axle line", "from the centre", "from the rail tops"),
        )
        self.axis = DirectionField(session, "Its bolt")
        for widget in (self.bush, self.place, self.axis):
            self.column.addWidget(widget)

    def _build_plate(self) -> None:
        session = self.session
        self.bolt, self.grade = (
            ChoiceField(session, "Bolts to the block", _SIZES),
            ChoiceField(session, "Bolt class", _CLASSES),
        )
        self.steel = ChoiceField(session, "Plate steel", _STEELS)
        self.rests = ChoiceField(
            session, "It rests", (("flat", "flat on the pad"), ("bosses", "on bosses at its bolts"))
        )
        self.holes = PairsField(
            session,
            "Holes, from the pad's centre as you face the plate; an emptied line takes the hole away",
            "hole",
        )
        self.pad_centre = VectorField(
            session,
            "Pad's centre",
            WAYS,
            ("from the block's rear face", "from the crank line", "from the crank line"),
        )
        self.pad_up = DirectionField(session, "Its upper edge")
        self.pad_normal = DirectionField(session, "Pad's face")
        self.pad = [QuantityField(session, label, kind) for label, kind, _ in PAD_FIELDS]  # type: ignore[arg-type]
        for widget in (
            self.bolt,
            self.grade,
            *self.pad,
            self.steel,
            self.rests,
            self.holes,
            self.pad_centre,
            self.pad_normal,
            self.pad_up,
        ):
            self.column.addWidget(widget)

    def _build_arm_tube(self) -> None:
        session = self.session
        self.with_arm = button("Fit an arm", self._toggle_arm, name="view")
        self.column.addWidget(row(self.with_arm))
        self.packing = ChoiceField(
            session, "Between eye and plate", ((False, "nothing: it stands on it"), (True, "a packing piece"))
        )
        self.onto = row(
            button("Stand the eye on its plate", self.stand, "Moves the bush, and its crossmember", "view")
        )
        self.fits = row(
            button(
                "The printed plate fits the block", self.confirm, "You laid it on and the holes meet", "view"
            )
        )
        for widget in (self.packing, self.onto, self.fits):
            self.column.addWidget(widget)
        self.arm = DescribedFields(session)
        self.arm_at = VectorField(session, "Arm stands", (RIGHT, UP), ("across", "in height"))
        for widget in (self.arm_at, self.arm):
            self.column.addWidget(widget)

    def _build_cross_bolt(self) -> None:
        session = self.session
        self.cross, self.cross_grade = (
            ChoiceField(session, "Cross-bolt", _SIZES),
            ChoiceField(session, "Its class", _CLASSES),
        )
        self.cheek_steel = ChoiceField(session, "Cheeks' steel", _STEELS)
        self.eye_weld = QuantityField(session, "Weld round the eye, throat", "length")
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
            self.eye_weld,
        ):
            self.column.addWidget(widget)

    def _mount(self) -> Mount | None:
        return next((mount for mount in self.session.job.mounts if mount.id == self.mount_id), None)

    def _point_fields(self) -> None:
        """Let every field edit the chosen mount."""
        mount = self._mount()
        if mount is None:
            return
        self.group.buttons()[self.keys.index(mount.id)].setChecked(True)
        base, name = f"mounts/{mount.id}", mount.name
        for field, (_, _, key) in zip(self.pad, PAD_FIELDS, strict=True):
            field.at(f"{base}/pad/{key}", name)
        self.place.at(f"{base}/bush/centre", name)
        for several, path in (
            (self.holes, "pad/holes"),
            (self.pad_centre, "pad/centre"),
            (self.pad_normal, "pad/normal"),
            (self.pad_up, "pad/up"),
            (self.axis, "bush/axis"),
            (self.arm_at, "pad/arm_at"),
        ):
            several.at(f"{base}/{path}", name)
        for text, key in ((self.name, "name"), (self.note, "note")):
            text.at(f"{base}/{key}")
        self.eye_weld.at(f"{base}/eye_weld_throat_mm", name)
        for choice, path in (
            (self.bolt, "pad/bolt"),
            (self.grade, "pad/bolt_class"),
            (self.steel, "pad/steel"),
            (self.cross, "cross_bolt/bolt"),
            (self.cross_grade, "cross_bolt/bolt_class"),
            (self.cheek_steel, "cross_bolt/cheek_steel"),
            (self.carries, "carries"),
        ):
            choice.at(f"{base}/{path}", name)
        self.cheek.at(f"{base}/cross_bolt/cheek_mm", name)
        self.cheek_gap.at(f"{base}/cross_bolt/gap_mm", name)
        self.eye_gap.at(f"{base}/cross_bolt/eye_gap_mm", name)
        self.cross_tight.at(f"{base}/cross_bolt/tightening_nm", name)
        self.rests.at(f"{base}/pad/rests", name)
        self.packing.at(f"{base}/packing", name)


_STEELS = tuple((s, s) for s in STEELS)


_SIZES = tuple((s, s) for s in SIZES)


_CLASSES = tuple((c, c) for c in CLASSES)


PAD_FIELDS = (
    ("Plate", "length", "plate_mm"),
    ("Hole", "length", "hole_mm"),
    ("Edge distance, from the hole's centre", "length", "edge_mm"),
    ("Tighten to", "torque", "tightening_nm"),
)
