"""A pocket calculator made from one entry of the registry: a field for each input, the result at once, its
working in the drawer."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QGridLayout, QLineEdit, QVBoxLayout, QWidget

from nimble_cradle.calc import KINDS, CalcError, Calculation, Worked
from nimble_cradle.desk.kit.label import BOLD, PLAIN, Label
from nimble_cradle.desk.kit.refusal import Refusal
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.units import UnitError, parse, show


class Pocket(QWidget):
    """One calculation. use: what the button does with the result, if it has one."""

    def __init__(
        self,
        session: Session,
        calculation: Calculation,
        use: tuple[str, Callable[[Worked], Any]] | None = None,
    ) -> None:
        super().__init__()
        self.session, self.calculation, self.use = session, calculation, use
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        column.addWidget(part(calculation.title))
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        self.lines: dict[str, QLineEdit] = {}
        for k, quantity in enumerate(calculation.inputs):
            name = Label(quantity.meaning[0].upper() + quantity.meaning[1:])
            name.setWordWrap(True)
            line = QLineEdit()
            line.setObjectName(f"{calculation.name}/{quantity.name}")
            line.setMaximumWidth(150)
            line.setAccessibleName(f"{calculation.title}: {quantity.meaning}")
            line.setPlaceholderText(quantity.unit)
            if quantity.default is not None:
                line.setText(self._text(quantity.unit, quantity.default))
            line.editingFinished.connect(self.refresh)
            grid.addWidget(name, k, 0)
            grid.addWidget(line, k, 1)
            self.lines[quantity.name] = line
        grid.setColumnStretch(0, 1)
        column.addLayout(grid)
        self.result = words("", "")
        column.addWidget(self.result)
        self.refusal = Refusal(self.session)
        column.addWidget(self.refusal)
        buttons = [button("How it is worked out", self.work, name="view")]
        if use is not None:
            buttons.insert(0, button(use[0], self._use))
        column.addWidget(row(*buttons))

    def _text(self, unit: str, value: Any) -> str:
        kind = KINDS.get(unit) if unit else None
        return show(float(value), kind, self.session.display, 1) if kind else f"{value:g} {unit}".strip()

    def worked(self) -> Worked | None:
        """The calculation with what was typed; None (and a sentence at the place) where something is
        missing or cannot be."""
        values: dict[str, Any] = {}
        try:
            for quantity in self.calculation.inputs:
                typed = self.lines[quantity.name].text().strip()
                if not typed:
                    self.refusal.hide()
                    return None
                kind = KINDS.get(quantity.unit) if quantity.unit else None
                values[quantity.name] = (
                    parse(typed, kind, self.session.display)
                    if kind
                    else parse(typed.removesuffix(quantity.unit).strip(), "number")
                )
            found = self.calculation.work(**values)
            self.refusal.hide()
            return found
        except (UnitError, CalcError, ValueError) as error:
            self.refusal.tell(str(error))
            return None

    def refresh(self) -> None:
        """Show the result for what is typed."""
        found = self.worked()
        self.result.setText(
            ""
            if found is None
            else "; ".join(
                f"{quantity.meaning}: {BOLD}{self._text(quantity.unit, v)}{PLAIN}"
                for quantity, v in found.outputs
            )
            + "."
        )

    def work(self) -> None:
        """The working."""
        found = self.worked()
        if found is not None:
            self.session.show_work(self.calculation.title, found)
        elif self.refusal.isHidden():
            self.refusal.tell("Fill in every line first.")

    def _use(self) -> None:
        found = self.worked()
        if found is not None and self.use is not None:
            self.use[1](found)
        elif found is None and self.refusal.isHidden():
            self.refusal.tell("Fill in every line first.")
