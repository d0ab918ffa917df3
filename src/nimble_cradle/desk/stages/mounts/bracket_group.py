"""The bracket of a torque strut on the chassis: its kind, where it stands, its sizes."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.design.first_foot import hosts_of
from nimble_cradle.design.first_strut import BracketKind, with_bracket
from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.kind_field import KindField
from nimble_cradle.desk.kit.pairs_field import PairsField
from nimble_cradle.desk.kit.quantity_field import RIGHT, UP
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.job.foot import PlateFoot
from nimble_cradle.job.strut import Strut

KINDS: tuple[tuple[BracketKind | None, str], ...] = (
    (None, "not described"),
    ("plate", "cheeks on a foot plate"),
    ("tabs", "tabs welded straight on"),
)


class BracketGroup(QWidget):
    """What is said of one strut's bracket."""

    def __init__(self, session: Session, key: str) -> None:
        super().__init__()
        self.session, self.key = session, key
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(6)
        base, name = f"struts/{key}", session.value(f"struts/{key}/name")
        self.kind = KindField(session, "It stands on", KINDS, self._other)
        self.kind.at(f"{base}/bracket", name)
        self.kind.box.setObjectName(f"{base}/bracket/kind")
        self.host = ChoiceField(session, "Its host", ())
        self.first, self.rest = DescribedFields(session, first=True), DescribedFields(session)
        self.holes = PairsField(
            session,
            "Holes, from its middle as you face the foot with the bolt running right and left",
            "hole",
        )
        self.way = DirectionField(session, "From the eye to the chassis it")
        self.bolt_way = DirectionField(session, "Its bolt")
        self.shift = VectorField(session, "Foot beside the eye", (RIGHT, UP), ("along its bolt", "across it"))
        for widget in (
            self.kind,
            self.host,
            self.first,
            self.rest,
            self.holes,
            self.way,
            self.bolt_way,
            self.shift,
        ):
            self.column.addWidget(widget)
        self._pointed = False

    def show_strut(self, strut: Strut) -> None:
        """The bracket as it is said now."""
        foot, base = strut.bracket, f"struts/{strut.id}/bracket"
        self.host.offer(hosts_of(self.session.job))
        for widget in (self.host, self.way, self.bolt_way, self.shift):
            widget.setVisible(foot is not None)
        bolted = isinstance(foot, PlateFoot) and foot.fixing != "welded"
        self.holes.setVisible(bolted)
        for fields in (self.first, self.rest):
            fields.show_part(foot, base, strut.name)
        if foot is None:
            self._pointed = False
            return
        if not self._pointed:
            self._pointed = True
            self.host.at(f"{base}/host", strut.name)
            self.way.at(f"{base}/way", strut.name)
            self.shift.at(f"{base}/shift", strut.name)
            self.bolt_way.at(f"struts/{strut.id}/bolt_way", strut.name)
        if bolted and self.holes.path != f"{base}/holes":
            self.holes.at(f"{base}/holes", strut.name)

    def _other(self, kind: BracketKind | None) -> None:
        """Another kind of bracket; what stands against it is told at the field."""
        strut = next(s for s in self.session.job.struts if s.id == self.key)
        after = with_bracket(self.session.job, strut, kind)
        self.session.edit(f"{strut.name}: {dict(KINDS)[kind]}", after)
