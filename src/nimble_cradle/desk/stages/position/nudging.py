"""The engine moved by hand: steps, nudges, pushes."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QLabel, QPushButton, QWidget

from nimble_cradle.bay.position import levelled
from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.seat.pushes import pushed
from nimble_cradle.seat.seating import LINE


class NudgingRoom(WorkingRoom):
    """Buttons and steps that move the engine."""

    pushed_words: QLabel

    def _choose(self, key: str) -> None:
        """A gap was chosen; told by the whole room."""
        raise NotImplementedError

    def work(self) -> None:
        """The working of the chosen gap; told by the whole room."""
        raise NotImplementedError

    def _build_gaps(self) -> None:
        self.place = Label()
        self.place.setWordWrap(True)
        self.column.addWidget(self.place)
        self.gap_title = part("")
        self.column.addWidget(self.gap_title)
        self.table = Table(
            ("Between", "Gap", "Needs", "Running", "Margin"),
            most_rows=5,
            chosen=self._choose,
            row_height=42,
            drop=(2, 1),
        )
        self.table.setAccessibleName("Gaps")
        self.table.doubled.connect(lambda: self.work())
        self.column.addWidget(self.table)
        self.gap_words = words("", "")
        self.column.addWidget(self.gap_words)
        self.gap_buttons = row(
            button("How this margin is made", self.work, "Working of the chosen gap: W", "view")
        )
        self.column.addWidget(self.gap_buttons)

    def _build_steps(self) -> None:
        self.move_step, self.turn_step = 1.0, 0.1
        self.column.addWidget(self._pad_of_buttons())
        self.move_group, self.turn_group = QButtonGroup(self), QButtonGroup(self)
        moves = [
            self._step(self.move_group, i, f"{step:g} mm", f"Key {i + 1}", step == 1.0)
            for i, step in enumerate(MOVE_STEPS)
        ]
        turns = [
            self._step(self.turn_group, i, f"{step:g} deg", f"Key {i + 4}", step == 0.1)
            for i, step in enumerate(TURN_STEPS)
        ]
        self.move_group.idClicked.connect(lambda i: self.set_step(move=MOVE_STEPS[i]))
        self.turn_group.idClicked.connect(lambda i: self.set_step(turn=TURN_STEPS[i]))
        self.column.addWidget(row(Label("Step"), *moves, Label("Turn"), *turns))

    def _pad_of_buttons(self) -> QWidget:
        """A button for each nudge, which repeats while it is held."""
        pad = QWidget()
        grid = QGridLayout(pad)
        grid.setContentsMargins(0, 2, 0, 2)
        grid.setSpacing(4)
        for name, key, (r, c), move, turn in MOVES:
            b = QPushButton(name)
            b.setObjectName("pad")
            b.setAutoRepeat(True)
            b.setAutoRepeatDelay(350)
            b.setAutoRepeatInterval(60)
            b.setToolTip(f"{name}: {key}")
            b.clicked.connect(partial(self._pad, move, turn))
            grid.addWidget(b, r, c)
        return pad

    def _push_buttons(self) -> None:
        """Push instead of nudging, and slide past what is touched."""
        self.push_button, self.slide_button = QPushButton("Push until it stops"), QPushButton("sliding past")
        for b, tip in (
            (
                self.push_button,
                (
                    "P: the buttons and arrow keys push until something stops the engine, running and with"
                    " the wheels moving. Shift with an arrow key pushes once."
                ),
            ),
            (self.slide_button, "A push slides along what it touches instead of stopping there"),
        ):
            b.setCheckable(True)
            b.setObjectName("view")
            b.setToolTip(tip)
        self.column.addWidget(row(self.push_button, self.slide_button))

    def _step(self, group: QButtonGroup, index: int, text: str, tip: str, on: bool) -> QPushButton:
        b = QPushButton(text)
        b.setObjectName("view")
        b.setCheckable(True)
        b.setChecked(on)
        b.setToolTip(tip)
        group.addButton(b, index)
        return b

    def _pad(self, move: tuple[float, ...], turn: tuple[float, ...], _: bool = False) -> None:
        self.nudge(move, turn)

    def set_step(self, move: float | None = None, turn: float | None = None) -> None:
        """Choose how far one nudge goes."""
        if move is not None:
            self.move_step = move
            self.move_group.buttons()[MOVE_STEPS.index(move)].setChecked(True)
        if turn is not None:
            self.turn_step = turn
            self.turn_group.buttons()[TURN_STEPS.index(turn)].setChecked(True)

    def nudge(self, move: tuple[float, ...], turn: tuple[float, ...], push: bool = False) -> None:
        """One nudge in the present step, or a push."""
        if push or self.push_button.isChecked():
            self.push(
                next(name.lower() for name, _, _, m, t in MOVES if m == tuple(move) and t == tuple(turn))
            )
            return
        self.pushed_words.hide()
        m, t = self.move_step, self.turn_step
        self.session.nudge((move[0] * m, move[1] * m, move[2] * m), (turn[0] * t, turn[1] * t, turn[2] * t))

    def push(self, way: str) -> None:
        """Push until something stops it."""
        job, sliding = self.session.job, self.slide_button.isChecked()

        def work(say: Any) -> Any:
            stopped = pushed(job, way, sliding, say)
            return stopped.job, stopped

        def done(room: NudgingRoom, result: Any) -> None:
            after, stopped = result
            said = stopped.words(way, room.session.display)
            room.pushed_words.setText(said)
            room.pushed_words.show()
            room.session.edit(said.rstrip("."), after)
            if stopped.stops and stopped.stops[0][1] != LINE:
                room.session.select("gap", "/".join(stopped.stops[0]))

        self.run(work, done)

    def level(self, which: Any) -> None:
        """Set level across, along, or straight."""
        try:
            job = self.session.job
            said = {
                "across": "Set level across",
                "along": "Set level along",
                "straight": "Set straight ahead",
            }[which]
            self.session.edit(said, with_value(job, "position", levelled(job, which)))
        except JobError as error:
            self.session.said.emit(error.message)


MOVE_STEPS = (0.1, 1.0, 10.0)
"""Steps of a move, mm."""


TURN_STEPS = (0.1, 1.0)
"""Steps of a turn, deg."""


MOVES: tuple[
    tuple[str, str, tuple[int, int], tuple[float, float, float], tuple[float, float, float]], ...
] = (
    ("Forward", "↑", (0, 0), (1, 0, 0), (0, 0, 0)),
    ("Back", "↓", (0, 1), (-1, 0, 0), (0, 0, 0)),
    ("Left", "←", (1, 0), (0, 1, 0), (0, 0, 0)),
    ("Right", "→", (1, 1), (0, -1, 0), (0, 0, 0)),
    ("Up", "Page up", (2, 0), (0, 0, 1), (0, 0, 0)),
    ("Down", "Page down", (2, 1), (0, 0, -1), (0, 0, 0)),
    ("Nose up", "Ctrl+↑", (0, 2), (0, 0, 0), (0, 1, 0)),
    ("Nose down", "Ctrl+↓", (0, 3), (0, 0, 0), (0, -1, 0)),
    ("Clock left", "Ctrl+←", (1, 2), (0, 0, 0), (-1, 0, 0)),
    ("Clock right", "Ctrl+→", (1, 3), (0, 0, 0), (1, 0, 0)),
    ("Nose left", "Ctrl+Page up", (2, 2), (0, 0, 0), (0, 0, 1)),
    ("Nose right", "Ctrl+Page down", (2, 3), (0, 0, 0), (0, 0, -1)),
)
