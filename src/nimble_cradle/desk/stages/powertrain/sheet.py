"""Powertrain: the pieces with their masses, what the engine does, the gearbox."""

from __future__ import annotations

from nimble_cradle.desk.kit.rooms import Rooms
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.stages.powertrain.engine import EngineRoom
from nimble_cradle.desk.stages.powertrain.mock_up import MockUpRoom
from nimble_cradle.desk.stages.powertrain.pieces import PiecesRoom
from nimble_cradle.desk.stages.powertrain.weighed import WeighedRoom


class PowertrainSheet(Sheet):
    """The rooms of the powertrain."""

    stage, title = "powertrain", "Powertrain: what goes in"
    has_figures = True

    def build(self) -> None:
        self.rooms = Rooms(
            (
                PiecesRoom(self.session),
                EngineRoom(self.session),
                MockUpRoom(self.session),
                WeighedRoom(self.session),
            )
        )
        self.add_rooms(self.rooms)

    def fingerprint(self) -> tuple[object, ...]:
        """What the engine's room was made for."""
        gearbox = self.session.job.powertrain.gearbox
        return (
            len(gearbox.ratios),
            gearbox.kind,
            self.session.job.vehicle.hubs is None,
            gearbox.shifter is None,
        )

    def remake(self) -> None:
        at = self.rooms.at if hasattr(self, "rooms") else 0
        super().remake()
        self.rooms.go(self.rooms.rooms[at].key)

    def refresh(self) -> None:
        self.rooms.refresh()


SHEET = PowertrainSheet
