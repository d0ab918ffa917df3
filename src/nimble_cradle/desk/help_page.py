"""Help for the page one stands on, and every key: on one page that scrolls and is searched."""

from __future__ import annotations

from html import escape
from pathlib import Path

from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QTextBrowser, QVBoxLayout, QWidget

from nimble_cradle.desk.keymap import every_group
from nimble_cradle.desk.kit.keymap import KeyGroup
from nimble_cradle.desk.kit.look import look, px
from nimble_cradle.desk.kit.words import button, heading
from nimble_cradle.judge.stages import STAGES

_FOLDER = Path(__file__).parent / "help"


def help_lines(stage: str) -> tuple[str, ...]:
    """What is said of a stage, a sentence or two a line. Raises FileNotFoundError for a stage without
    help."""
    return tuple(line for line in (_FOLDER / f"{stage}.md").read_text("utf-8").splitlines() if line)


def _found(words: str, wanted: str) -> bool:
    """Whether every word that is looked for stands there."""
    return all(word in words.casefold() for word in wanted.casefold().split())


def _of_group(group: KeyGroup, wanted: str) -> str:
    """A group of keys as rich text; only those that are looked for."""
    keys = [key for key in group.rows if _found(f"{group.title} {key.words} {key.says}", wanted)]
    rows = "".join(
        f"<tr><td width={px(200)}><b>{escape(key.words)}</b></td>"
        f"<td style='color:{look().soft}'>{escape(key.says)}</td></tr>"
        for key in keys
    )
    return f"{_title(group.title)}<table cellpadding=3>{rows}</table>" if keys else ""


def _title(text: str) -> str:
    return f"<p style='color:{look().accent}; margin-bottom:2px'><b>{escape(text)}</b></p>"


def _of_stage(stage: str, name: str, wanted: str) -> str:
    lines = [line for line in help_lines(stage) if _found(f"{name} {line}", wanted)]
    return (
        _title(name) + "".join(f"<p style='margin:4px 0'>{escape(line)}</p>" for line in lines)
        if lines
        else ""
    )


def help_html(stage: str, wanted: str = "") -> str:
    """Help of the present stage and all keys; of everything that has the words that are looked for."""
    names = {each.id: each.name for each in STAGES}
    stages = [stage] if not wanted else [stage, *(key for key in names if key != stage)]
    told = [_of_stage(key, names[key], wanted) for key in stages]
    told += [_of_group(group, wanted) for group in every_group()]
    return "".join(told) or f"<p>Nothing is said of “{escape(wanted)}”.</p>"


class HelpPage(QDialog):
    """Opens at the stage one stands on."""

    def __init__(self, parent: QWidget, stage: str) -> None:
        super().__init__(parent)
        self.stage = stage
        self.setWindowTitle("Help and keys")
        self.resize(px(640), min(680, parent.height() - 40))
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        head = QHBoxLayout()
        head.addWidget(heading("Help and keys"), 1)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find in all help and keys")
        self.search.setAccessibleName("Find in all help and keys")
        self.search.setMinimumWidth(px(240))
        self.search.textChanged.connect(self.refresh)
        head.addWidget(self.search)
        column.addLayout(head)
        self.text = QTextBrowser()
        self.text.setAccessibleName("Help")
        column.addWidget(self.text, 1)
        close = button("Back to work", self.accept, "Esc")
        close.setAutoDefault(False)
        column.addWidget(close)
        self.search.setFocus()
        self.refresh()

    def refresh(self) -> None:
        """Show what is looked for."""
        self.text.setHtml(help_html(self.stage, self.search.text().strip()))
