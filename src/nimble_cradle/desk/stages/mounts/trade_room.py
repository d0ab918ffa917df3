"""Harder or softer: movement against shake, what holds without rubber."""

from __future__ import annotations

from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, part, row, words
from nimble_cradle.desk.stages.mounts.mount_room import ChosenMount, MountRoom
from nimble_cradle.desk.stages.mounts.trade_chart import TradeChart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.mounts import Mount
from nimble_cradle.judge.quieter import quieter, quieter_words
from nimble_cradle.judge.studies import capture_words, captures, trades_of, trial_of, trial_words
from nimble_cradle.mounts.trade_off import TradePoint, hardness_path
from nimble_cradle.units import show

TRADES, CAPTURES, TRIAL = "trade-off of bushes", "capture of mounts", "trial of a hardness"
WORKING = "Being worked out …"


class TradeRoom(MountRoom):
    """The chosen mount's bush from soft to hard."""

    title, key = "Hard or soft", "trade"
    caution = ""
    waits = True

    def __init__(self, session: Session, chosen: ChosenMount) -> None:
        self.points: tuple[TradePoint, ...] = ()
        super().__init__(session, chosen)
        session.tasks.ended.connect(self._seen)

    def build(self) -> None:
        """The chart, the points, what is captured."""
        self.said = words("", "")
        self.chart = TradeChart()
        self.table = Table(("Hardness", "Moves", "Shake", "At worst"), most_rows=6, chosen=self._choose)
        self.table.setAccessibleName("Hardness of its bush")
        self.take_button = button("Take this hardness", self.take, "Changes the bush", "view")
        self.back_button = button("Put back", self.put_back, "The trial goes; nothing was changed", "view")
        self.chart.dragged.connect(self.try_hardness)
        self.chart.let_go.connect(self._look_on)
        self.tried = words("", "")
        self.metal = words("", "")
        self.else_said = words("", "")
        for widget in (
            self.said,
            self.chart,
            self.tried,
            row(self.take_button, self.back_button),
            self.table,
            self.else_said,
        ):
            self.column.addWidget(widget)
        self.column.addWidget(part("With its rubber gone"))
        self.column.addWidget(self.metal)
        self.wanted = ""
        self.points_of = ""

    def refresh(self) -> None:
        mount, job = self.mount, self.session.job
        if mount is None:
            return
        path = hardness_path(job, mount.id)
        most = job.allowables.idle_transmitted
        if path is None:
            self._none(f"{mount.name}: its stiffness does not come from a hardness.")
        else:
            self._begin(mount, most)
        if not self.session.tasks.running(CAPTURES):
            self.metal.setText(self.metal.text() or WORKING)
            self.session.tasks.begin(CAPTURES, lambda _: capture_words(job, captures(job)), job)

    def _begin(self, mount: Mount, most: float) -> None:
        """Points of another mount go at once; these come when they are worked out."""
        job = self.session.job
        if self.points_of != mount.id:
            self.points, self.points_of = (), mount.id
            self.table.fill([])
            self.else_said.hide()
            self.chart.show_trial(None)
            self.tried.setText(WORKING)
            self._draw()
        self.said.setText(
            f"{mount.name}: how far the engine moves in first gear or reverse, and how much of its firing is"
            f" felt idling; the wish is {100 * most:.0f}\u00a0%. At worst: 5 points of hardness, 50 rpm"
            " either way."
        )
        if not self.session.tasks.running(TRADES):
            self.session.tasks.begin(TRADES, lambda _: _points_and_else(job, mount), (job, mount.id))

    def _none(self, sentence: str) -> None:
        self.points, self.points_of = (), ""
        self.tried.setText("")
        self.said.setText(sentence)
        self.table.fill([])
        self.else_said.hide()
        self._draw()

    def _draw(self) -> None:
        path = hardness_path(self.session.job, self.chosen.id)
        now = None if path is None else float(self.session.value(path))
        self.chart.show_points(
            self.points, now, self.session.job.allowables.idle_transmitted, self.session.display
        )
        self.chart.setVisible(bool(self.points))
        self.table.setVisible(bool(self.points))
        self.take_button.setVisible(bool(self.points))
        self.back_button.setVisible(bool(self.points) and self.chart.trial is not None)

    def _seen(self, what_for: str, outcome: object) -> None:
        """What was worked out, if it is still of this job."""
        if self.gone or what_for not in (TRADES, CAPTURES, TRIAL):
            return
        result, fault, then = outcome.result, outcome.fault, outcome.then  # type: ignore[attr-defined]
        if what_for == TRIAL:
            trial = self.chart.trial
            if trial is None or then[0] is not self.session.job or then[1] != self.chosen.id:
                return
            if trial.hardness != then[2]:  # dragged on meanwhile
                self._look_on()
                return
            self.tried.setText(f"{self.tried.text()}\n{fault or result}")
            return
        if what_for == CAPTURES:
            self.metal.setText(fault or "\n".join(result))
            return
        job, mount_id = then
        if job is not self.session.job or mount_id != self.chosen.id:
            self.refresh()
            return
        if fault:
            self._none(fault)
            return
        self.points, said = result
        self.else_said.setText(said)
        self.else_said.setVisible(bool(said))
        if self.tried.text() == WORKING:
            self.tried.setText("")
        if self.chart.trial is not None:
            self.put_back()
        display = self.session.display
        self.table.fill(
            [
                (
                    f"{p.hardness:g}",
                    (
                        (f"{p.hardness:g}{', narrow' if p.narrow else ''}", ""),
                        (show(p.moved, "length", display), ">"),
                        (f"{100 * p.shake:.0f} %", ">"),
                        (f"{100 * p.worst:.0f} %", ">"),
                    ),
                )
                for p in self.points
            ],
            self.wanted,
        )
        self._draw()

    def _choose(self, key: str) -> None:
        self.wanted = key
        if key:
            self.try_hardness(float(key))
            self._look_on()

    def try_hardness(self, hardness: float) -> None:
        """Show what one hardness does; nothing is changed before it is taken."""
        mount, job = self.mount, self.session.job
        if mount is None:
            return
        try:
            trial = trial_of(job, mount.id, hardness)
        except JobError as error:
            self.tried.setText(error.message)
            return
        self.wanted = f"{hardness:g}"
        self.chart.show_trial(trial)
        display = self.session.display
        self.tried.setText(
            f"Tried, {hardness:g} Shore: moves {show(trial.moved, 'length', display)}, shake"
            f" {100 * trial.shake:.0f} %, at worst {100 * trial.worst:.0f} %."
        )
        self.back_button.show()

    def _look_on(self) -> None:
        """Gaps and strength of what is tried, off the window's way."""
        mount, job = self.mount, self.session.job
        if mount is None or self.chart.trial is None or self.session.tasks.running(TRIAL):
            return
        hardness = self.chart.trial.hardness
        self.session.tasks.begin(
            TRIAL, lambda _: trial_words(job, mount.id, hardness), (job, mount.id, hardness)
        )

    def put_back(self) -> None:
        """No trial any more."""
        self.wanted = ""
        self.chart.show_trial(None)
        self.tried.setText("")
        self.back_button.hide()

    def take(self) -> None:
        """The chosen hardness for the chosen mount."""
        mount = self.mount
        path = None if mount is None else hardness_path(self.session.job, mount.id)
        try:
            if path is None or mount is None or not self.wanted:
                raise JobError("Choose a hardness on the chart or in the table first.")
            self.session.set_value(path, float(self.wanted), f"{mount.name}: {self.wanted} Shore")
            self.put_back()
        except JobError as error:
            self.refuse(error.message)


def _points_and_else(job: Job, mount: Mount) -> tuple[tuple[TradePoint, ...], str]:
    """The points of a mount's bush, and what else would bring the shake down where none of them does."""
    points = trades_of(job, mount.id)
    return points, quieter_words(job, points, mount, lambda: quieter(job))
