"""The family of a part of a job, chosen in words; another one is made by what is given."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.told_in import told_in


class KindField(ChoiceField):
    """``change`` is told the kind that was chosen (None: nothing) and edits the job; it may raise JobError,
    which is told at the field."""

    def __init__(
        self, session: Session, label: str, choices: Sequence[tuple[Any, str]], change: Callable[[Any], None]
    ) -> None:
        self.change = change
        super().__init__(session, label, choices)

    def refresh(self) -> None:
        """Show the kind of what is at the path."""
        if self.path:
            part = self.session.value(self.path)
            kind = getattr(part, "kind", None)
            kinds = [choice for choice, _ in self.choices]
            self.box.setCurrentIndex(kinds.index(kind) if kind in kinds else -1)

    def take(self, index: int) -> None:
        """Another kind, unless it is that already."""
        kind = self.choices[index][0]
        if kind != getattr(self.session.value(self.path), "kind", None):
            with told_in(self.refusal):
                self.change(kind)
        self.refresh()
