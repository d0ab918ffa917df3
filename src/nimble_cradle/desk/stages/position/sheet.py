"""Position: by hand, or the best seat found; what stops it, what each cut would buy, how the real engine
is brought there."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QKeyCombination

from nimble_cradle.desk.kit.keymap import perform
from nimble_cradle.desk.kit.rooms import Rooms
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.stages.position import DESK
from nimble_cradle.desk.stages.position.candidates import CandidatesRoom
from nimble_cradle.desk.stages.position.driveline import DrivelineRoom
from nimble_cradle.desk.stages.position.hand import HandRoom
from nimble_cradle.desk.stages.position.marks import MarksRoom
from nimble_cradle.desk.stages.position.nudging import MOVE_STEPS, TURN_STEPS
from nimble_cradle.desk.stages.position.removal import RemovalRoom
from nimble_cradle.desk.stages.position.section import SectionRoom
from nimble_cradle.desk.stages.position.settle import SettleRoom
from nimble_cradle.desk.stages.position.supports import SupportsRoom
from nimble_cradle.desk.stages.position.trades import TradesRoom
from nimble_cradle.geometry.direction import WAY_VECTORS, Way
from nimble_cradle.telltales import TellTale

TURNS = {
    "nose-up": (0, 1, 0),
    "nose-down": (0, -1, 0),
    "clock-left": (-1, 0, 0),
    "clock-right": (1, 0, 0),
    "nose-left": (0, 0, 1),
    "nose-right": (0, 0, -1),
}
"""A turn of the arrows: top to the right, nose up, nose to the left."""
_STILL = (0, 0, 0)


class PositionSheet(Sheet):
    """The rooms of the position."""

    stage, title = "position", "Position: low, back, and clear"

    def build(self) -> None:
        """The rooms; all but the first are made when they are entered."""
        self.hand = HandRoom(self.session)
        self.rooms = Rooms(
            (
                self.hand,
                SettleRoom,
                TradesRoom,
                SupportsRoom,
                MarksRoom,
                DrivelineRoom,
                RemovalRoom,
                CandidatesRoom,
                SectionRoom,
            ),
            self.session,
        )
        self.add_rooms(self.rooms)

    @property
    def settling(self) -> SettleRoom:
        """The room that looks for the best seat."""
        room = self.rooms.room("settle")
        assert isinstance(room, SettleRoom)
        return room

    @property
    def trading(self) -> TradesRoom:
        """The room that works out what each cut buys."""
        room = self.rooms.room("trades")
        assert isinstance(room, TradesRoom)
        return room

    def fingerprint(self) -> Any:
        """What the rooms' fields are made for."""
        job = self.session.job
        return (
            job.powertrain.gearbox.kind,
            job.wish is None,
            job.wish is not None and job.wish.shifter_hole is None,
            tuple((support.id, support.name) for support in job.setting.supports),
            job.setting.now is None,
            tuple(mark.id for mark in job.marks),
            job.propshaft.centre is None,
            job.propshaft.axle_pivot is None,
            job.vehicle.came_out is None,
        )

    def remake(self) -> None:
        """The same room stays in sight."""
        key = self.rooms.present.key if hasattr(self, "rooms") else ""
        super().remake()
        if key:
            self.rooms.go(key)

    def refresh(self) -> None:
        """The room in sight."""
        self.rooms.refresh()

    def press(self, combination: QKeyCombination) -> bool:
        """A key on this stage; True where it was used. Nudges and gaps answer in every room."""
        for group in DESK.keys:
            act = group.act(combination)
            if act:
                return perform(self, act)
        return False

    def show_cause(self, tale: TellTale) -> None:
        """The cause of one of the six, with its working."""
        {"margin": self._show_gap, "lowest": self._show_lowest, "driveline": self._show_line}.get(
            tale.id, self._show_share
        )(tale)

    def _show_gap(self, tale: TellTale) -> None:
        self.session.select("gap", tale.part)
        self.hand.work()

    def _show_lowest(self, tale: TellTale) -> None:
        kind, _, which = tale.part.rpartition("/")
        if tale.part != "crossmember":
            self.session.select("mount" if kind else "piece", which)
        self.hand.low_work()

    def _show_line(self, tale: TellTale) -> None:
        self.hand.line_work()

    def _show_share(self, tale: TellTale) -> None:
        share = self.session.verdict.share
        if share is not None:
            self.session.show_work(f"Front-axle share: {tale.value}", share.worked)

    def nudge(self, way: Way) -> None:
        """Nudge the engine a step."""
        self.hand.nudge(WAY_VECTORS[way], _STILL)

    def turn(self, way: str) -> None:
        """Turn the engine a step."""
        self.hand.nudge(_STILL, TURNS[way])

    def push(self, way: Way) -> None:
        """Push the engine until something stops it."""
        self.hand.nudge(WAY_VECTORS[way], _STILL, True)

    def push_turn(self, way: str) -> None:
        """Turn the engine until something stops it."""
        self.hand.nudge(_STILL, TURNS[way], True)

    def step_mm(self, which: str) -> None:
        """Choose the step of a nudge by its number."""
        self.hand.set_step(move=MOVE_STEPS[int(which)])

    def step_deg(self, which: str) -> None:
        """Choose the step of a turn by its number."""
        self.hand.set_step(turn=TURN_STEPS[int(which)])

    def level_across(self) -> None:
        """Set the engine level across."""
        self.hand.level("across")

    def arrows_push(self) -> None:
        """Arrows push, or nudge again."""
        self.hand.push_button.toggle()

    def settle(self) -> None:
        """Look for the best seat."""
        self.rooms.go("settle")
        self.settling.settle()

    def work_out_trades(self) -> None:
        """Work out what each cut buys."""
        self.rooms.go("trades")
        self.trading.work_out()

    def take_trade(self) -> bool:
        """Take the chosen trade, where trades are in sight."""
        if self.rooms.present.key == "trades":
            self.trading.take()
            return True
        return False

    def next_trade(self) -> bool:
        """The next trade."""
        return self._step_trade(1)

    def last_trade(self) -> bool:
        """The trade before."""
        return self._step_trade(-1)

    def _step_trade(self, by: int) -> bool:
        if self.rooms.present.key == "trades":
            self.trading.step(by)
            return True
        return False

    def next_gap(self) -> None:
        """Choose the next gap."""
        self.hand.step_gap(1)

    def last_gap(self) -> None:
        """Choose the gap before."""
        self.hand.step_gap(-1)

    def gap_work(self) -> None:
        """The working of the chosen gap."""
        self.hand.work()


SHEET = PositionSheet
