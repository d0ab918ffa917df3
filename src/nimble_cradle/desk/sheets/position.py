"""Position: by hand, or the best seat found; what stops it, what each cut would buy, how the real engine is brought there."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt

from nimble_cradle.desk.sheets.position_hand import MOVE_STEPS, TURN_STEPS, HandRoom
from nimble_cradle.desk.sheets.position_settle import SettleRoom
from nimble_cradle.desk.sheets.position_trades import TradesRoom
from nimble_cradle.desk.sheets.rooms import Rooms
from nimble_cradle.desk.sheets.sheet import Sheet

_NUDGES = {Qt.Key.Key_Up: ((1, 0, 0), (0, 1, 0)), Qt.Key.Key_Down: ((-1, 0, 0), (0, -1, 0)), Qt.Key.Key_Left: ((0, 1, 0), (-1, 0, 0)),
           Qt.Key.Key_Right: ((0, -1, 0), (1, 0, 0)), Qt.Key.Key_PageUp: ((0, 0, 1), (0, 0, 1)), Qt.Key.Key_PageDown: ((0, 0, -1), (0, 0, -1))}
_PLAIN, _CTRL, _SHIFT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class PositionSheet(Sheet):
    """The rooms of the position."""

    stage, title = "position", "Position: low, back, and clear"

    def build(self) -> None:
        """The rooms."""
        s = self.session
        self.hand, self.settling, self.trading = HandRoom(s), SettleRoom(s), TradesRoom(s)
        self.rooms = Rooms((self.hand, self.settling, self.trading))
        self.column.addWidget(self.rooms)

    def fingerprint(self) -> Any:
        """Which driveline it is, and whether a wish is there."""
        job = self.session.job
        return job.powertrain.gearbox.kind, job.wish is None, job.wish is not None and job.wish.shifter_hole is None

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
        elif key == Qt.Key.Key_A and self.rooms.present is self.trading:
            self.trading.take()
        elif key in (Qt.Key.Key_Period, Qt.Key.Key_Comma) and self.rooms.present is self.trading:
            self.trading.step(1 if key == Qt.Key.Key_Period else -1)
        else:
            return False
        return True
