"""Position: by hand, or the best seat found; what stops it, what each cut would buy, how the real engine
is brought there."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt

from nimble_cradle.desk.sheets.position_candidates import CandidatesRoom
from nimble_cradle.desk.sheets.position_driveline import DrivelineRoom
from nimble_cradle.desk.sheets.position_exit import ExitRoom
from nimble_cradle.desk.sheets.position_hand import MOVE_STEPS, TURN_STEPS, HandRoom
from nimble_cradle.desk.sheets.position_section import SectionRoom
from nimble_cradle.desk.sheets.position_settle import SettleRoom
from nimble_cradle.desk.sheets.position_supports import MarksRoom, SupportsRoom
from nimble_cradle.desk.sheets.position_trades import TradesRoom
from nimble_cradle.desk.sheets.rooms import Rooms
from nimble_cradle.desk.sheets.sheet import Sheet

_NUDGES = {
    Qt.Key.Key_Up: ((1, 0, 0), (0, 1, 0)),
    Qt.Key.Key_Down: ((-1, 0, 0), (0, -1, 0)),
    Qt.Key.Key_Left: ((0, 1, 0), (-1, 0, 0)),
    Qt.Key.Key_Right: ((0, -1, 0), (1, 0, 0)),
    Qt.Key.Key_PageUp: ((0, 0, 1), (0, 0, 1)),
    Qt.Key.Key_PageDown: ((0, 0, -1), (0, 0, -1)),
}
_PLAIN, _CTRL, _SHIFT = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
)


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
                ExitRoom,
                CandidatesRoom,
                SectionRoom,
            ),
            self.session,
        )
        self.column.addWidget(self.rooms)

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
            tuple((s.id, s.name) for s in job.setting.supports),
            job.setting.now is None,
            tuple(m.id for m in job.marks),
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

    def press(self, key: Qt.Key, modifiers: Qt.KeyboardModifier) -> bool:
        """A key on this stage; True where it was used. Nudges and gaps answer in every room."""
        hand = self.hand
        if key in _NUDGES:
            move, turn = _NUDGES[key]
            turned, push = bool(modifiers & _CTRL), bool(modifiers & _SHIFT)
            if modifiers & ~(_CTRL | _SHIFT):
                return False
            hand.nudge((0, 0, 0) if turned else move, turn if turned else (0, 0, 0), push)
            return True
        if key == Qt.Key.Key_G and modifiers in (_PLAIN, _SHIFT):
            hand.step_gap(1 if modifiers == _PLAIN else -1)
            return True
        if modifiers != _PLAIN:
            return False
        number = key - Qt.Key.Key_1
        if 0 <= number < 3:
            hand.set_step(move=MOVE_STEPS[number])
        elif 3 <= number < 5:
            hand.set_step(turn=TURN_STEPS[number - 3])
        elif key == Qt.Key.Key_W:
            hand.work()
        elif key == Qt.Key.Key_L:
            hand.level("across")
        elif key == Qt.Key.Key_P:
            hand.push_button.toggle()
        elif key == Qt.Key.Key_S:
            self.rooms.go("settle")
            self.settling.settle()
        elif key == Qt.Key.Key_T:
            self.rooms.go("trades")
            self.trading.work_out()
        elif key == Qt.Key.Key_A and self.rooms.present.key == "trades":
            self.trading.take()
        elif key in (Qt.Key.Key_Period, Qt.Key.Key_Comma) and self.rooms.present.key == "trades":
            self.trading.step(1 if key == Qt.Key.Key_Period else -1)
        else:
            return False
        return True
