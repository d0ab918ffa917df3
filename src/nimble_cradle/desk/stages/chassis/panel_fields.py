"""The fields of one panel: sheet, lips, where it goes, outline and holes."""

from __future__ import annotations

from functools import partial
from typing import Any, Protocol

import numpy as np

from nimble_cradle.desk.kit.described_fields import DescribedFields
from nimble_cradle.desk.kit.direction_field import DirectionField
from nimble_cradle.desk.kit.fields import ChoiceField, TextField
from nimble_cradle.desk.kit.pairs_field import PairsField
from nimble_cradle.desk.kit.rooms import Room
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.vector_field import VectorField
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.job.panel import Lip, Panel

LIP_EDGES = ((1, "right end"), (2, "outer edge"), (3, "left end"))
"""Edges of a lip that another one can stand on, its own bend below."""


class Panels(Protocol):
    """What adds and takes away."""

    session: Session

    def add_lip(self) -> None:
        """One more lip."""

    def drop_lip(self, key: str) -> None:
        """A lip less."""

    def drop(self) -> None:
        """Without the panel."""

    def turn_duty(self) -> None:
        """It ties the rails and does what else a tie does, or no more."""


class PanelFields(Room):
    """Made anew when another panel is chosen or it has other lips."""

    def __init__(self, panels: Panels, panel: Panel) -> None:
        self.panels, self.panel = panels, panel
        super().__init__(panels.session)

    def build(self) -> None:
        """The sheet's own fields, and folds."""
        session, panel = self.session, self.panel
        base = f"panels/{panel.id}"
        self.first, self.more = DescribedFields(session, first=True), DescribedFields(session)
        self.lips: dict[str, tuple[DescribedFields, DescribedFields]] = {}
        items: list[tuple[Any, str]] = [(None, "nothing said"), *((i.id, i.name) for i in session.job.items)]
        self.column.addWidget(self.first)
        self.column.addWidget(ChoiceField(session, "It is put on", items).at(f"{base}/on", panel.name))
        take_out = button("Take the panel out", self.panels.drop, name="view")
        self.column.addWidget(row(button("Add a lip", self.panels.add_lip, name="view"), take_out))
        for lip in panel.lips:
            with self.folded(lip_name(panel, lip)):
                self._lip(panel, lip)
        with self.folded("Where it goes"):
            self.column.addWidget(VectorField(session, "Its corner 0, 0").at(f"{base}/at", panel.name))
            self.column.addWidget(DirectionField(session, "Its face").at(f"{base}/normal", panel.name))
            self.column.addWidget(DirectionField(session, "Its top").at(f"{base}/up", panel.name))
            cuts: list[tuple[Any, str]] = [(None, "none"), *((o.id, o.name) for o in session.job.openings)]
            self.column.addWidget(
                ChoiceField(session, "It puts back the cut", cuts).at(f"{base}/over", panel.name)
            )
        with self.folded("It ties the rails, carries the rack, guards the sump"):
            self._duty()
        with self.folded("Outline, holes, what ties it"):
            self.outline = PairsField(session, "Corners, right and up as one faces it", "corner")
            self.holes = PairsField(session, "Holes besides the row", "hole")
            for below in (self.outline, self.holes, self.more):
                self.column.addWidget(below)
            self.column.addWidget(TextField(session, "Name of the panel").at(f"{base}/name"))
            self.column.addWidget(TextField(session, "Note on the panel").at(f"{base}/note"))

    def _duty(self) -> None:
        """What else it does, or what says that it does."""
        self.duty = DescribedFields(self.session, first=True), DescribedFields(self.session)
        for fields in self.duty:
            self.column.addWidget(fields)
        self.told = words("", "")
        self.turn_button = button("", self.panels.turn_duty, name="view")
        self.column.addWidget(self.told)
        self.column.addWidget(row(self.turn_button))

    def _show_duty(self, panel: Panel) -> None:
        for fields in self.duty:
            fields.setVisible(panel.duty is not None)
            if panel.duty is not None:
                fields.show_part(panel.duty, f"panels/{panel.id}/duty", panel.name)
        self.turn_button.setText(
            "It goes from rail to rail and does" if panel.duty is None else "It does none of this"
        )
        found = [f for f in self.session.verdict.findings if f.part == panel.id]
        self.told.setText(
            "\n".join(f"{f.what[:1].upper()}{f.what[1:]}: {f.state}, {100 * f.use:.0f} %" for f in found)
        )
        self.told.setVisible(bool(found))

    def _lip(self, panel: Panel, lip: Lip) -> None:
        session, base = self.session, f"panels/{panel.id}/lips/{lip.id}"
        name = lip_name(panel, lip)
        self.lips[lip.id] = DescribedFields(session, first=True), DescribedFields(session)
        edges = LIP_EDGES if lip.on else tuple(edge_names(panel).items())
        on: list[tuple[Any, str]] = [(None, "the sheet")]
        on += [(o.id, lip_name(panel, o)) for o in panel.lips if o.id != lip.id]
        for widget in self.lips[lip.id]:
            self.column.addWidget(widget)
        self.column.addWidget(ChoiceField(session, "It stands on", on).at(f"{base}/on", name))
        self.column.addWidget(ChoiceField(session, "at its", edges).at(f"{base}/edge", name))
        drop = partial(self.panels.drop_lip, lip.id)
        self.column.addWidget(row(button(f"Take {name.lower()} off", drop, name="view")))

    def show_panel(self, panel: Panel) -> None:
        """The panel as it is now."""
        base = f"panels/{panel.id}"
        self.first.show_part(panel, base, panel.name)
        self.more.show_part(panel, base, panel.name)
        self._show_duty(panel)
        for lip in panel.lips:
            for fields in self.lips[lip.id]:
                fields.show_part(lip, f"{base}/lips/{lip.id}", lip_name(panel, lip))
        self.outline.at(f"{base}/outline", panel.name)
        self.holes.at(f"{base}/holes", panel.name)


def lip_name(panel: Panel, lip: Lip) -> str:
    """``Lip 2``: as it is numbered on the pattern, in the order of the list."""
    return f"Lip {1 + [o.id for o in panel.lips].index(lip.id)}"


def edge_names(panel: Panel) -> dict[int, str]:
    """What each edge of the sheet is called as one faces it: ``1, right``."""
    ring = np.asarray(panel.outline, dtype=float)
    x, y = ring.T
    way = 1.0 if (x * np.roll(y, -1) - np.roll(x, -1) * y).sum() > 0 else -1.0
    out = {}
    for k in range(len(ring)):
        by = ring[(k + 1) % len(ring)] - ring[k]
        across, up = way * by[1], -way * by[0]
        level = "upper" if up > 0 else "lower"
        side = level if abs(up) > abs(across) else "right" if across > 0 else "left"
        out[k] = f"edge {k}, {side}"
    return out
