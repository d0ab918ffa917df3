"""Which file: the desktop's own page for choosing one."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QWidget


def file_to_open(parent: QWidget, title: str, kinds: str, beside: Path | None = None) -> Path | None:
    """The file that the user chose, or None. kinds: as the page shows them, ``CSV (*.csv *.txt)``; beside:
    a file in whose folder it begins."""
    start = "" if beside is None else str(beside.parent)
    name, _ = QFileDialog.getOpenFileName(parent, title, start, kinds)
    return Path(name) if name else None


def file_to_write(
    parent: QWidget, title: str, first: Path | str, kinds: str, ending: str = ""
) -> Path | None:
    """The name that the user gave, or None. first: the name it begins with; ending: put on where it lacks."""
    name, _ = QFileDialog.getSaveFileName(parent, title, str(first), kinds)
    if not name:
        return None
    return Path(name if name.endswith(ending) else name + ending)


def folder_to_write(parent: QWidget, title: str, first: Path) -> Path | None:
    """The folder that the user chose, or None."""
    name = QFileDialog.getExistingDirectory(parent, title, str(first))
    return Path(name) if name else None
