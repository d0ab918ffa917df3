"""All mounts: what each carries and gives, how the engine moves and shakes on them."""

from __future__ import annotations

from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.mounts.mount_room import MountRoom
from nimble_cradle.desk.stages.mounts.raise_group import RaiseGroup
from nimble_cradle.desk.stages.mounts.told import mount_rows, shake_words
from nimble_cradle.judge.cautions import AFTERWARDS, LIFTING
from nimble_cradle.judge.studies import rest_share_words, rest_shares_of
from nimble_cradle.mounts.vibration import TRANSMISSIBILITY
from nimble_cradle.units import Display


class AllMountsRoom(MountRoom):
    """All mounts together."""

    title, key = "All mounts", "all"
    caution = f"{LIFTING} {AFTERWARDS}"

    def build(self) -> None:
        """The mounts, and the shake."""
        self.table = Table(
            ("Mount", "At rest", "Sags", "Most", "Hardest used"),
            most_rows=8,
            drop=(2, 3),
            chosen=lambda key: self.session.select("mount", key),
        )
        self.table.setAccessibleName("All mounts")
        self.column.addWidget(self.table)
        self.shares = words("", "")
        self.column.addWidget(self.shares)
        self.shake = words("", "")
        self.column.addWidget(self.shake)
        self.column.addWidget(row(button("Idle shake", self.idle_work, name="view")))
        with self.folded("Raise or lower the engine", "at all mounts, or at the chosen one", open_first=True):
            self.raising = RaiseGroup(self.session, lambda: self.mount)
            self.column.addWidget(self.raising)

    def refresh(self) -> None:
        judged = self.session.verdict
        display = Display(self.session.display.length)
        self.table.fill(mount_rows(judged, display), self.chosen.id)
        found, job = judged.carried, self.session.job
        shares = "" if found is None else rest_share_words(job, rest_shares_of(job, found))
        self.shares.setText(shares)
        self.shares.setVisible(bool(shares))
        if judged.carried is None:
            self.shake.setText("")
            return
        self.shake.setText(shake_words(judged.carried))

    def idle_work(self) -> None:
        """Working of the shake at idle."""
        judged = self.session.verdict
        if judged.carried is not None:
            roll = max(judged.carried.modes, key=lambda m: m.shares[3])
            loss = max(sp.loss_factor for sp in judged.carried.springs)
            one = TRANSMISSIBILITY.work(
                {"frequency": "firing", "natural": f"the {roll.word} mode"},
                frequency=judged.carried.idle.frequency,
                natural=roll.frequency,
                loss_factor=loss,
            )
            self.session.show_work(
                "Shake at idle: all six motions solved together let"
                f" {100 * judged.carried.idle.transmitted:.0f} %"
                " through; by the mode that rolls most alone it would be as below",
                judged.carried.idle.worked,
                one,
            )
