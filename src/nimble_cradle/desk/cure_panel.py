"""What would cure a verdict, over the working: each cure with what it does and what it costs, taken with
one key. Nothing of the job changes before one is taken."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QProgressBar, QVBoxLayout, QWidget

from nimble_cradle.cures.cures import Cure, cures_of
from nimble_cradle.cures.lack import Subject, looked_at, worst
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.tasks import Outcome
from nimble_cradle.desk.kit.words import button, part, row, words

CURES = "cures"
"""What the work is for."""
NONE_FOUND = (
    "No single change that is tried here cures it: of the engine's place, its bushes, plates, bolts, arms or"
    " section. Settle looks at all places at once; What each cut buys looks at what is for sale."
)


def subject_of(session: Session) -> Subject | None:
    """What is to be cured: the chosen gap, what was asked about since the last choice, the chosen part, as
    long as it lacks; else what is worst."""
    gap = session.chosen_gap()
    if gap is not None and gap.margin < 0:
        return Subject("gap", f"{gap.piece}/{gap.item}")
    asked = session.asked_about or _of_chosen(session)
    if asked is not None and (asked.lack(session.job, session.verdict) or 0.0) > 0:
        return asked
    return worst(session.job, session.verdict)


def _of_chosen(session: Session) -> Subject | None:
    """The hardest used check of the chosen mount or crossmember, where it does not hold."""
    kind, chosen = session.selection
    part = {"mount": chosen, "crossmember": "crossmember"}.get(kind, "")
    lacking = [f for f in session.verdict.findings if f.part == part and f.use > 1]
    hardest = max(lacking, key=lambda f: f.use, default=None)
    return None if hardest is None else Subject("finding", f"{hardest.part}/{hardest.code}")


class CurePanel(QFrame):
    """Hidden until a cure is asked for. ``taken``: a cure was taken, in words."""

    taken = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("drawer")
        self.cures: tuple[Cure, ...] = ()
        self.subject: Subject | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 10, 8)
        column.setSpacing(4)
        self.title = part("")
        self.title.setWordWrap(True)
        head = QWidget()
        line = QHBoxLayout(head)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(self.title, 1)
        line.addWidget(button("Put away", self.put_away, "Esc", "view"), 0, Qt.AlignmentFlag.AlignTop)
        column.addWidget(head)
        self.progress = QProgressBar()
        self.progress.setRange(0, 0)
        self.progress.setAccessibleName("Trying cures")
        self.busy = row(self.progress, button("Stop", self.stop, name="view"), stretch=False)
        column.addWidget(self.busy)
        self.said = words("", "")
        column.addWidget(self.said)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(4)
        column.addLayout(self.rows)
        session.tasks.told.connect(self._told)
        session.tasks.ended.connect(self._ended)
        session.changed.connect(self._changed)
        self.hide()

    def look(self) -> None:
        """Look for cures of what lacks."""
        subject = subject_of(self.session)
        self._clear()
        self.subject = subject
        self.show()
        if subject is None:
            self.title.setText("Nothing that is judged lacks")
            self._say(looked_at(self.session.verdict))
            return
        job = self.session.job
        self.title.setText(f"What would cure {subject.name(self.session.verdict)}?")
        self._say("")
        if self.session.tasks.begin(CURES, lambda say: cures_of(job, subject, say), job):
            self.busy.show()

    def take(self, which: str) -> bool:
        """Take the cure of a number; False where there is none."""
        k = int(which) - 1
        if not self.isVisible() or k >= len(self.cures):
            return False
        cure = self.cures[k]
        self.session.edit(f"{cure.what[0].upper()}{cure.what[1:]}: {cure.before} → {cure.after}", cure.job)
        self.put_away()
        self.taken.emit(f"Taken: {cure.what}. Ctrl+Z puts it back.")
        return True

    def stop(self) -> None:
        """Look no more."""
        self.session.tasks.stop(CURES)

    def put_away(self) -> None:
        """Hide it."""
        self.stop()
        self._clear()
        self.hide()

    def _clear(self) -> None:
        self.cures = ()
        self.busy.hide()
        while (item := self.rows.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()

    def _say(self, sentence: str) -> None:
        self.said.setText(sentence)
        self.said.setVisible(bool(sentence))

    def _told(self, what_for: str, sentence: str) -> None:
        if what_for == CURES:
            self._say(sentence)

    def _ended(self, what_for: str, outcome: Outcome) -> None:
        if what_for != CURES or not self.isVisible():
            return
        self.busy.hide()
        if outcome.stopped:
            self._say("Stopped.")
        elif outcome.fault:
            self._say(outcome.fault)
        elif outcome.then is not self.session.job:
            self._say("The job was changed meanwhile: look again.")
        else:
            self._list(outcome.result)

    def _list(self, cures: tuple[Cure, ...]) -> None:
        """A button and a sentence for each."""
        self.cures = cures
        self._say("" if cures else NONE_FOUND)
        for k, cure in enumerate(cures, start=1):
            self.rows.addWidget(self._row(k, cure))
        if cures:
            self.session.said.emit("Alt and a number takes a cure.")

    def _row(self, k: int, cure: Cure) -> QWidget:
        holder = QWidget()
        line = QHBoxLayout(holder)
        line.setContentsMargins(0, 0, 0, 0)
        take = button(f"Take {k}", lambda: self.take(str(k)), f"Alt+{k}", "view")
        take.setAccessibleDescription(cure.words)
        line.addWidget(take, 0, Qt.AlignmentFlag.AlignTop)
        head, _, rest = cure.words.partition(": ")
        text = words(f"{BOLD}{head}{PLAIN}: {rest}", "")
        line.addWidget(text, 1)
        return holder

    def _changed(self) -> None:
        """The job is another one: what was found for the one before is of no use."""
        if self.isVisible() and not self.session.tasks.running(CURES):
            self.put_away()
