"""A box to choose one of a few words from."""

from __future__ import annotations

from PyQt6.QtWidgets import QComboBox


class ChoiceBox(QComboBox):
    """Tells readers of the screen what it is for beside what is chosen: on Linux the toolkit gives them the
    chosen words as its name, and leaves its own name out."""

    def setAccessibleName(self, name: str | None) -> None:
        super().setAccessibleName(name)
        self.setAccessibleDescription(name)
