"""The way out as a film, and room for hands."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QSlider

from nimble_cradle.desk.kit.fields import ChoiceField
from nimble_cradle.desk.kit.label import BOLD, PLAIN
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.tasks import Outcome
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.judge.cautions import REMOVING
from nimble_cradle.seat.hands import Reach, reaches
from nimble_cradle.seat.removal import Removal, find_removal
from nimble_cradle.units import Display, show

BOLTS = "room for hands"
"""What the work on the bolts' room is for."""


class RemovalRoom(WorkingRoom):
    """Can it come out again, and can its bolts be reached?"""

    title, key = "Way out", "exit"
    caution = REMOVING
    workers_read = ("nimble_cradle.seat.removal",)

    def build(self) -> None:
        """The search, the film, what comes off first; then the bolts."""
        self._build_way()
        self._build_before()
        self._build_hands()

    def _build_way(self) -> None:
        session = self.session
        yes = ((False, "stay on it"), (True, "come off before"))
        self.column.addWidget(
            ChoiceField(
                session, "It comes out", (("up", "up and over"), ("down", "down, the car raised"))
            ).at("way_out/route", "Way out")
        )
        self.column.addWidget(
            ChoiceField(session, "With its gearbox", ((False, "yes"), (True, "no, the engine alone"))).at(
                "way_out/engine_alone", "Way out"
            )
        )
        self.column.addWidget(ChoiceField(session, "Its mounts' arms", yes).at("way_out/arms_off", "Way out"))
        self.go = button(
            "Find the way out",
            self.find_way,
            "Looks for a way past everything that stays, its own mounts' fixed halves too",
            "main",
        )
        self.column.addWidget(row(self.go))
        self.add_progress()
        self.column.addWidget(self.refusal)
        self.say = words("", "")
        self.column.addWidget(self.say)
        self.play_button = button("Play the film", self.play, "", "main")
        self.tight_button = button("Tightest moment", self.tightest, name="view")
        self.home_button = button("Back in place", self.home, name="view")
        self.buttons = row(self.play_button, self.tight_button, self.home_button)
        self.column.addWidget(self.buttons)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.slider.setAccessibleName("Film")
        self.slider.valueChanged.connect(self._show)
        self.column.addWidget(self.slider)

    def _build_before(self) -> None:
        self.moment = words("", "")
        self.column.addWidget(self.moment)
        self.before = words("", "")
        self.column.addWidget(self.before)
        self.column.addWidget(part("Taken off before"))
        self.off = QListWidget()
        self.off.setAccessibleName("Taken off before")
        self.off.setFixedHeight(170)
        self.off.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.off.itemChanged.connect(self._ticked)
        self.column.addWidget(self.off)

    def _build_hands(self) -> None:
        session = self.session
        self.column.addWidget(part("Room for hands, with the engine in its place"))
        self.table = Table(("Bolt or fitting", "Reached"), most_rows=6, row_height=48, widths=(0, 236))
        self.table.setAccessibleName("Room for hands")
        self.column.addWidget(self.table)
        session.tasks.ended.connect(self._bolts_seen)
        self.timer = QTimer(self)
        self.timer.setInterval(60)
        self.timer.timeout.connect(self._next)

    def find_way(self) -> None:
        """Look for the way; where none was found yet, look on."""
        job, before = self.session.job, self._here()
        seed = before.next_seed if before is not None and not before.moments else 0

        def work(say: Any) -> Any:
            return None, find_removal(job, say, seed)

        def done(room: RemovalRoom, result: Any) -> None:
            room.session.kept[room.key] = result[1]
            room.slider.setValue(0)
            room.refresh()

        self.run(work, done)

    def _here(self) -> Removal | None:
        """What was found, while it is still true."""
        job = self.session.job
        f: Removal | None = self.session.kept.get(self.key)
        if f is None or any(
            getattr(f.job, p) != getattr(job, p)
            for p in ("items", "powertrain", "position", "mounts", "way_out")
        ):
            return None
        return f

    def play(self) -> None:
        """Run the film from where it is, or from the start."""
        if self.timer.isActive():
            self.timer.stop()
        elif self._here() is not None:
            if self.slider.value() >= self.slider.maximum():
                self.slider.setValue(0)
            self.timer.start()

    def _next(self) -> None:
        if self.slider.value() >= self.slider.maximum() or self._here() is None or not self.isVisible():
            self.timer.stop()
        else:
            self.slider.setValue(self.slider.value() + 1)

    def tightest(self) -> None:
        """Stop at the tightest moment."""
        f = self._here()
        if f is not None and f.moments:
            self.timer.stop()
            self.slider.setValue(min(range(len(f.moments)), key=lambda k: f.moments[k].gap))

    def home(self) -> None:
        """The engine as the job says."""
        self.timer.stop()
        self.slider.setValue(0)
        self.session.show_film(None)
        self.moment.setText("")

    def _show(self, k: int) -> None:
        f = self._here()
        if f is None or not f.moments:
            return
        moment = f.moments[k]
        self.session.show_film(moment.pose)
        display = Display(self.session.display.length)
        self.moment.setText(
            f"{100 * moment.at:.0f} % of the way: nearest {show(moment.gap, 'length', display)}"
            + (f", {f.pair_words(moment.pair)}." if moment.pair else " or more.")
        )

    def hideEvent(self, event: Any) -> None:
        super().hideEvent(event)
        self.timer.stop()
        self.session.show_film(None)

    def _ticked(self, item: QListWidgetItem) -> None:
        rows = [row for k in range(self.off.count()) if (row := self.off.item(k)) is not None]
        ticked = [row for row in rows if row.checkState() == Qt.CheckState.Checked]
        off = tuple(str(row.data(Qt.ItemDataRole.UserRole)) for row in ticked)
        if off != self.session.job.way_out.off:
            self.session.set_value(
                "way_out/off",
                off,
                f"Way out: {item.text()}"
                f" {'off before' if item.checkState() == Qt.CheckState.Checked else 'stays'}",
            )

    def refresh(self) -> None:
        """The answer, the ticks, the bolts."""
        job, f = self.session.job, self._here()
        filmed = f is not None and bool(f.moments)
        self.slider.setRange(0, max(len(f.moments) - 1, 0) if f is not None else 0)
        for w in (self.buttons, self.slider):
            w.setVisible(filmed)
        self.go.setText("Look on" if f is not None and not filmed else "Find the way out")
        self.say.setText(f"{BOLD}{f.words(self.session.display)}{PLAIN}" if f is not None else "")
        self.before.setText("Before: " + "; ".join(f.before) + "." if f is not None else "")
        for w in (self.say, self.before):
            w.setVisible(f is not None)
        self.moment.setVisible(filmed)
        rows = [(i.id, i.name) for i in job.items if i.fate != "remove"] + [
            (piece.id, piece.name) for piece in job.powertrain.present
        ]
        self.off.blockSignals(True)
        if self.off.count() != len(rows):
            self.off.clear()
            self.off.addItems([name for _, name in rows])
        for k, (key, name) in enumerate(rows):
            item = self.off.item(k)
            assert item is not None
            item.setText(name)
            item.setData(Qt.ItemDataRole.UserRole, key)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if key in job.way_out.off else Qt.CheckState.Unchecked)
        self.off.blockSignals(False)
        self._look_at_bolts()

    def _look_at_bolts(self) -> None:
        """Room for hands, worked out on a thread of its own when what it reads has changed."""
        job = self.session.job
        read = tuple(
            getattr(job, p) for p in ("items", "survey", "powertrain", "meshes", "position", "mounts")
        )
        seen, rows = self.session.kept.get(BOLTS, (None, ()))
        if seen is not None and all(a is b for a, b in zip(read, seen, strict=True)):
            self._fill_bolts(rows)
        else:
            self.session.tasks.begin(BOLTS, lambda _: reaches(job), read)

    def _bolts_seen(self, what_for: str, outcome: Outcome) -> None:
        """Fill the table; look again where the job has changed meanwhile."""
        if what_for != BOLTS or self.gone:
            return
        if outcome.fault:
            self.refuse(outcome.fault)
            return
        self.session.kept[BOLTS] = outcome.then, outcome.result
        self._look_at_bolts()

    def _fill_bolts(self, rows: tuple[Reach, ...]) -> None:
        self.table.fill(
            [
                (
                    r.name,
                    ((r.name, ""), (r.words, "fails" if not r.reached else "open" if r.spanner else "holds")),
                )
                for r in rows
            ]
        )
