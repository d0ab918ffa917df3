"""What was cut off an item: a side and a depth a row."""

from __future__ import annotations

from functools import partial
from typing import get_args

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.quantity_field import QuantityField
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.words import button, fresh_body, row
from nimble_cradle.job.bay import Cut, Item
from nimble_cradle.job.sides import Side


class CutsEditor(QWidget):
    """The cuts of the item that ``at`` shows."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.item_id, self._shown = session, "", ("", -1)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(1)
        self.column.addWidget(
            row(button("A slice was cut off it", self.add, "Square to the car's axes", "view"))
        )
        self.refusal = Refusal(session)
        self.column.addWidget(self.refusal)
        self.body = QWidget()
        self.column.addWidget(self.body)

    def at(self, item: Item) -> None:
        """Show an item's cuts."""
        self.item_id = item.id
        if self._shown == (item.id, len(item.cuts)):
            return
        self._shown = item.id, len(item.cuts)
        self.body, column = fresh_body(self.column, self.body)
        for k in range(len(item.cuts)):
            base = f"items/{item.id}/cuts/{k}"
            side = ChoiceField(self.session, f"Cut {k + 1}, off its", [(s, s) for s in get_args(Side)])
            column.addWidget(side.at(f"{base}/side", item.name))
            deep = QuantityField(self.session, "as deep as", "length")
            column.addWidget(deep.at(f"{base}/depth_mm", item.name))
            goes = ChoiceField(
                self.session, "What goes", [(False, "that slice"), (True, "all but that slice")]
            )
            column.addWidget(goes.at(f"{base}/keeps", item.name))
            column.addWidget(row(button(f"Cut {k + 1} was not made", partial(self.drop, k), name="view")))

    def _set(self, cuts: tuple[Cut, ...], what: str) -> None:
        name = self.session.value(f"items/{self.item_id}/name")
        with told_in(self.refusal):
            self.session.set_value(f"items/{self.item_id}/cuts", cuts, f"{name}: {what}")
            self.refusal.hide()

    def add(self) -> None:
        """One more, to be typed over."""
        cuts = self.session.value(f"items/{self.item_id}/cuts") or ()
        self._set((*cuts, Cut(side="top", depth_mm=5.0)), "a slice cut off")

    def drop(self, k: int, _: bool = False) -> None:
        """Without one."""
        cuts = self.session.value(f"items/{self.item_id}/cuts") or ()
        self._set((*cuts[:k], *cuts[k + 1 :]), "a cut that was not made")
