"""What is said of a plate that is bolted to the engine: the plate and its bolts, bolts of another size, and
the pad that it lies on. Mounts have one, and a torque strut's ears."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.pairs_field import PairsField
from nimble_cradle.desk.kit.quantity_field import WAYS, QuantityField
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.job.mounts import Pad
from nimble_cradle.stock.steels import STEELS
from nimble_cradle.stock.threads import SIZES
from nimble_cradle.strength.bolts import CLASSES

STEEL_CHOICES = tuple((s, s) for s in STEELS)
SIZE_CHOICES = tuple((s, s) for s in SIZES)
CLASS_CHOICES = tuple((c, c) for c in CLASSES)
THREAD_CHOICES = (
    ("unsaid", "not said"),
    ("grey iron", "cast iron"),
    ("cast aluminium", "cast aluminium"),
    ("steel", "steel"),
    ("insert in aluminium", "an insert in aluminium"),
)
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


class PadFields:
    """The fields of one plate in three groups: ``plate``, ``other``, ``pad``; whoever builds a room puts them
    where they belong."""

    def __init__(self, session: Session) -> None:
        self.bolt = ChoiceField(session, "Bolts to the block", SIZE_CHOICES)
        self.grade = ChoiceField(session, "Bolt class", CLASS_CHOICES)
        self.steel = ChoiceField(session, "Plate steel", STEEL_CHOICES)
        self.thread_in = ChoiceField(session, "Its bolts are screwed into", THREAD_CHOICES)
        self.thread_deep = QuantityField(session, "How deep", "length", optional="not said")
        self.holes = PairsField(
            session,
            "Holes, from the pad's centre as you face the plate; an emptied line takes the hole away",
            "hole",
        )
        self.sizes = [QuantityField(session, label, kind) for label, kind, _ in PAD_FIELDS]  # type: ignore[arg-type]
        self.other_holes = PairsField(
            session,
            "Their holes, from the pad's centre as you face the plate; counted after the others",
            "hole for them",
        )
        self.other_bolt = ChoiceField(session, "Bolts of another size", SIZE_CHOICES)
        self.other_grade = ChoiceField(session, "Their class", CLASS_CHOICES)
        self.others = [QuantityField(session, label, kind) for label, kind, _ in OTHER_FIELDS]  # type: ignore[arg-type]
        self.centre = VectorField(
            session,
            "Pad's centre",
            WAYS,
            ("from the block's rear face", "from the crank line", "from the crank line"),
        )
        self.up = DirectionField(session, "Its upper edge")
        self.normal = DirectionField(session, "Pad's face")
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
        thread = self.thread_in, self.thread_deep
        self.plate: tuple[QWidget, ...] = (
            self.bolt,
            self.grade,
            *self.sizes,
            self.steel,
            *thread,
            self.holes,
        )
        self.other: tuple[QWidget, ...] = (self.other_holes, self.other_bolt, self.other_grade, *self.others)
        self.pad: tuple[QWidget, ...] = (
            self.rests,
            self.spacer,
            self.more,
            self.free,
            self.trim,
            self.trim_mm,
            self.centre,
            self.normal,
            self.up,
        )

    def at(self, base: str, name: str) -> None:
        """Let every field edit the pad at ``base``."""
        for size, (_, _, key) in zip((*self.sizes, *self.others), PAD_FIELDS + OTHER_FIELDS, strict=True):
            size.at(f"{base}/{key}", name)
        for field, key in (
            (self.holes, "holes"),
            (self.other_holes, "other_holes"),
            (self.free, "free_holes"),
            (self.centre, "centre"),
            (self.normal, "normal"),
            (self.up, "up"),
        ):
            field.at(f"{base}/{key}", name)
        for choice, key in (
            (self.bolt, "bolt"),
            (self.grade, "bolt_class"),
            (self.other_bolt, "other_bolt"),
            (self.other_grade, "other_class"),
            (self.steel, "steel"),
            (self.rests, "rests"),
            (self.more, "more_bosses"),
            (self.trim, "trim"),
            (self.thread_in, "thread_in"),
        ):
            choice.at(f"{base}/{key}", name)
        self.thread_deep.at(f"{base}/thread_deep_mm", name)
        self.spacer.at(f"{base}/spacer_mm", name)
        self.trim_mm.at(f"{base}/trim_mm", name)

    def show_pad(self, pad: Pad) -> None:
        """Show what its present state asks for."""
        self.trim_mm.setVisible(pad.trim != "none")
        for field in (self.other_bolt, self.other_grade, *self.others):
            field.setVisible(bool(pad.other_holes))
