"""The ears of a torque strut on the engine: whether it has some, their sizes, and the plate they stand on,
each a group of its own in the room."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from nimble_cradle.design.first_strut import with_ears
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.kind_field import KindField
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.stages.mounts.pad_fields import PadFields
from nimble_cradle.job.strut import Ears, Strut

KINDS: tuple[tuple[str | None, str], ...] = ((None, "not described"), (Ears.kind, "ears on a plate"))


class EarsGroup:
    """What is said of one strut's ears. ears: whether there are some and their sizes; plate, pad: what there
    is to be said of their plate."""

    def __init__(self, session: Session, key: str) -> None:
        self.session, self.key = session, key
        base, name = f"struts/{key}/ears", session.value(f"struts/{key}/name")
        self.kind = KindField(session, "It hangs in", KINDS, self._other)
        self.kind.at(base, name)
        self.kind.box.setObjectName(f"{base}/kind")
        self.sizes, self.fields = DescribedFields(session), PadFields(session)
        self.bolt_way = DirectionField(session, "The bolt through its eye")
        self.ears = (self.kind, self.sizes, self.bolt_way)
        self.plate = (*self.fields.plate, *self.fields.other)
        self.pad = self.fields.pad
        self.folds: tuple[QWidget, ...] = ()
        self._pointed = False

    def show_strut(self, strut: Strut) -> None:
        """The ears as they are said now."""
        ears, base = strut.ears, f"struts/{strut.id}/ears"
        for widget in (self.bolt_way, *self.folds):
            widget.setVisible(ears is not None)
        self.sizes.show_part(ears, base, strut.name)
        if ears is None:
            self._pointed = False
            return
        if not self._pointed:
            self._pointed = True
            self.fields.at(f"{base}/pad", strut.name)
            self.bolt_way.at(f"{base}/bolt_way", strut.name)
        self.fields.show_pad(ears.pad)

    def _other(self, kind: str | None) -> None:
        """With ears, or without; what stands against it is told at the field."""
        strut = next(s for s in self.session.job.struts if s.id == self.key)
        after = with_ears(self.session.job, strut, kind is not None)
        self.session.edit(f"{strut.name}: on the engine {dict(KINDS)[kind]}", after)
