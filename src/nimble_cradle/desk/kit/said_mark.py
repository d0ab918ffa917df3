"""How a figure was come by, at the figure: a mark beside its field, and a row for all of a stage."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.look import look
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.job.said import How, fact_at, facts, how, with_said

WORDS = {
    "measured": "Measured. A click says that it is assumed.",
    "assumed": "Assumed: what rests on it says so. A click says that it was measured.",
    "not said": (
        "Nobody has said how this was come by. A click says that it is assumed; typing it says that it was"
        " measured."
    ),
}


class SaidMark(QAbstractButton):
    """A full round for measured, half a round for assumed, an empty square with a question for not said.
    Hidden at fields that nothing rests on."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.path = session, ""
        self.state = "not said"
        self.setFixedSize(24, 26)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.hide()
        self.clicked.connect(self.turn)

    def at(self, path: str) -> None:
        """Stand at a field's path."""
        self.path = path
        self.setObjectName(f"said {path}")
        self.refresh()

    def refresh(self) -> None:
        """Show what is said of the figure now."""
        fact = fact_at(self.session.job, self.path) if self.path else None
        self.setVisible(fact is not None)
        if fact is None:
            return
        self.state = how(self.session.job, fact)
        self.setToolTip(WORDS[self.state])
        self.setAccessibleName(f"{fact.name}: {self.state}")
        self.update()

    def turn(self) -> None:
        """Assumed, or measured again."""
        fact = fact_at(self.session.job, self.path)
        if fact is not None:
            to: How = "measured" if self.state == "assumed" else "assumed"
            self.session.edit(f"{fact.name}: {to}", with_said(self.session.job, [fact.path], to))

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(6, 7, 12, 12)
        if self.state == "not said":
            ink = QColor(look().inks["near"])
            painter.setPen(QPen(ink, 1.6))
            painter.drawRect(box)
            font = painter.font()
            font.setPixelSize(11)
            font.setBold(True)
            painter.setFont(font)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "?")
        else:
            ink = QColor(look().inks["holds"] if self.state == "measured" else look().accent)
            painter.setPen(QPen(ink, 1.6))
            painter.drawEllipse(box)
            painter.setBrush(ink)
            painter.drawChord(box, 90 * 16, (360 if self.state == "measured" else 180) * 16)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(look().accent), 2))
            painter.drawRect(QRectF(1, 1, self.width() - 2, self.height() - 2))
        painter.end()


class SaidRow(QWidget):
    """How many figures of a stage are measured, assumed and not said, and one click for all the rest."""

    def __init__(self, session: Session, stage: str) -> None:
        super().__init__()
        self.session, self.stage = session, stage
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.told = Label()
        self.told.setObjectName("soft")
        self.told.setWordWrap(True)
        layout.addWidget(self.told)
        line = QHBoxLayout()
        layout.addLayout(line)
        self.buttons = []
        rest: tuple[tuple[str, How], ...] = (
            ("The rest are measured", "measured"),
            ("The rest are assumed", "assumed"),
        )
        for text, to in rest:
            made = QPushButton(text)
            made.setObjectName("view")
            made.clicked.connect(partial(self.rest, to))
            self.buttons.append(made)
            line.addWidget(made)
        line.addStretch(1)
        session.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Count again."""
        job = self.session.job
        own = [how(job, fact) for fact in facts(job) if fact.stage == self.stage]
        counts = {k: own.count(k) for k in ("measured", "assumed", "not said")}
        more = [f"{counts[k]} {k}" for k in ("assumed", "not said") if counts[k]]
        self.told.setText(
            f"{counts['measured']} of {len(own)} figures measured" + "".join(f", {m}" for m in more)
        )
        self.setVisible(counts["measured"] < len(own) or not own)
        for made in self.buttons:
            made.setVisible(counts["not said"] > 0)

    def rest(self, to: How, _: bool = False) -> None:
        """Say it of every figure of the stage of which nothing is said yet."""
        job = self.session.job
        paths = [fact.path for fact in facts(job) if fact.stage == self.stage and fact.path not in job.said]
        self.session.edit(f"{len(paths)} figures: {to}", with_said(job, paths, to))
