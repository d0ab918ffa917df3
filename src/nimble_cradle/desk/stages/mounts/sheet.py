"""Mounts: what each carries, how far it gives, whether it holds from block to rail; a room for each part of
one."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from nimble_cradle.design.beside import duplicated
from nimble_cradle.design.first_mounts import first_mount
from nimble_cradle.desk.kit.label import plain
from nimble_cradle.desk.kit.rooms import Rooms
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.kit.told_in import told_in
from nimble_cradle.desk.kit.use_bars import show_finding
from nimble_cradle.desk.kit.words import button, row, words
from nimble_cradle.desk.stages.mounts.all_room import AllMountsRoom
from nimble_cradle.desk.stages.mounts.bush_room import BushRoom
from nimble_cradle.desk.stages.mounts.cradle_room import CradleRoom
from nimble_cradle.desk.stages.mounts.fit_room import FitRoom
from nimble_cradle.desk.stages.mounts.foot_room import FootRoom
from nimble_cradle.desk.stages.mounts.loads_room import LoadsRoom
from nimble_cradle.desk.stages.mounts.mount_room import ChosenMount
from nimble_cradle.desk.stages.mounts.plate_room import PlateRoom
from nimble_cradle.desk.stages.mounts.proposing import Proposing
from nimble_cradle.desk.stages.mounts.strut_room import StrutRoom
from nimble_cradle.desk.stages.mounts.this_room import ThisMountRoom
from nimble_cradle.desk.stages.mounts.trade_room import TradeRoom
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import added, free_id, removed
from nimble_cradle.job.mounts import Mount
from nimble_cradle.job.twins import twin
from nimble_cradle.telltales import TellTale


class MountsSheet(Sheet):
    """The mounts, one at a time."""

    stage, title = "mounts", "Mounts: carried and held"
    has_figures = True

    def fingerprint(self) -> tuple[str, ...]:
        """The mounts, struts, own load cases and parts of cradles there are."""
        job = self.session.job
        parts = [part for cradle in job.cradles for part in (cradle, *cradle.points, *cradle.tubes)]
        own: list[Any] = [*job.mounts, *job.struts, *job.loads.own_cases, *parts]
        return tuple(row.id for row in own)

    @property
    def mount_id(self) -> str:
        """Id of the chosen mount; empty where there is none."""
        return self.chosen.id

    def build(self) -> None:
        """The bar of mounts, then rooms about the chosen one."""
        session = self.session
        before, at = getattr(self, "chosen", None), getattr(self, "rooms", None)
        self.chosen = ChosenMount(session)
        self.keys = [mount.id for mount in session.job.mounts]
        if not self.keys:
            if hasattr(self, "rooms"):
                del self.rooms
            self.column.addWidget(
                words(
                    "Three mounts that are not in one line hold an engine: two on its sides, one at the"
                    " gearbox.",
                    "",
                )
            )
            self.column.addWidget(row(button("Add a mount", self.add, name="main")))
            self.proposing = Proposing(session)
            self.column.addWidget(self.proposing)
            self.column.addWidget(self.refusal)
            return
        kept = before.id if before is not None else ""
        kind, key = session.selection
        wanted = key if kind == "mount" else kept
        self.chosen.id = wanted if wanted in self.keys else self.keys[0]
        self.column.addWidget(self._bar())
        self.column.addWidget(
            row(
                button("Add a mount", self.add, "One more mount", "view"),
                button("Take this mount out", self.remove, "This mount goes", "view"),
                button("Double", lambda: self.twin(False), "A second of this mount, behind it", "view"),
                button("Mirror", lambda: self.twin(True), "This mount on the other side", "view"),
            )
        )
        self.proposing = Proposing(session)
        self.column.addWidget(self.proposing)
        self.column.addWidget(self.refusal)
        self._build_rooms("this" if at is None else at.present.key)

    def _build_rooms(self, at: str) -> None:
        """The rooms, each about the chosen mount."""
        session, chosen = self.session, self.chosen
        self.this = ThisMountRoom(session, chosen)
        self.all = AllMountsRoom(session, chosen)
        self.bush = BushRoom(session, chosen)
        self.plate = PlateRoom(session, chosen)
        self.foot = FootRoom(session, chosen)
        self.trade, self.fit = TradeRoom(session, chosen), FitRoom(session, chosen)
        self.loads = LoadsRoom(session, chosen)
        self.strut, self.cradle = StrutRoom(session, chosen), CradleRoom(session, chosen)
        self._point()
        rooms = (
            *(self.this, self.bush, self.plate, self.foot),
            *(self.all, self.loads, self.trade, self.fit, self.strut, self.cradle),
        )
        self.add_rooms(Rooms(rooms, session))
        if at != "this":
            self.rooms.go(at)

    def _bar(self) -> QWidget:
        """A button for every mount."""
        bar = QWidget()
        layout = QHBoxLayout(bar)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(5)
        self.group = QButtonGroup(self)
        for i, mount in enumerate(self.session.job.mounts):
            b = QPushButton(mount.name.removesuffix(" mount").replace("&", "&&"))
            b.setToolTip(plain(mount.name))
            b.setCheckable(True)
            b.clicked.connect(partial(self._chosen, mount.id))
            self.group.addButton(b, i)
            layout.addWidget(b)
        return bar

    def _mount(self) -> Mount | None:
        return self.chosen.mount()

    def _point(self) -> None:
        """Let every field of every room edit the chosen mount."""
        mount = self._mount()
        if mount is None:
            return
        self.group.buttons()[self.keys.index(mount.id)].setChecked(True)
        for room in (self.this, self.bush, self.plate, self.foot, self.all):
            room.point(mount)

    def _chosen(self, mount_id: str, _: bool = False) -> None:
        self.choose(mount_id)

    def add(self) -> None:
        """One more mount to be set right."""
        job = self.session.job
        mount = first_mount(job, free_id("mount", {mount.id for mount in job.mounts}), self.session.rack)
        self.session.select("mount", mount.id)
        self.session.edit(f"Added {mount.name}", added(job, "mounts", mount))
        self.session.select("mount", mount.id)

    def twin(self, mirror: bool) -> None:
        """A second of this mount: behind it, or mirrored to the other side."""
        mount = self._mount()
        if mount is None:
            return
        with told_in(self.refusal):
            path = f"mounts/{mount.id}"
            after, key = twin(self.session.job, path, True) if mirror else duplicated(self.session.job, path)
            self.session.edit(f"{'Mirrored' if mirror else 'Doubled'} {mount.name}", after)
            self.session.select("mount", key)

    def remove(self) -> None:
        """Take the chosen mount out; refused while the crossmember carries it."""
        mount = self._mount()
        try:
            if mount is None:
                raise JobError("There is no mount to take out.")
            self.session.edit(f"Took out {mount.name}", removed(self.session.job, f"mounts/{mount.id}"))
        except JobError as error:
            self.refusal.tell(
                f"{error.message} Leave the crossmember out first."
                if "crossmember" in error.message
                else error.message
            )

    def show_cause(self, tale: TellTale) -> None:
        """The hardest-used part, or the shake at idle, with its working."""
        if tale.id == "idle" and self.keys:
            self.all.idle_work()
        elif self.session.verdict.hardest is not None:
            self.choose(self.session.verdict.hardest.part)
            show_finding(self.session, self.session.verdict.hardest)

    def choose(self, mount_id: str) -> None:
        """Show one mount."""
        if mount_id not in self.keys:
            return
        self.chosen.id = mount_id
        self._point()
        self.session.select("mount", mount_id)
        self.refresh()

    def refresh(self) -> None:
        self.proposing.refresh()
        if not self.keys:
            return
        kind, key = self.session.selection
        if kind == "mount" and key in self.keys and key != self.chosen.id:
            self.choose(key)
            return
        self.rooms.refresh()


SHEET = MountsSheet
