"""Chassis: what rails and members are, what is cut out of them, and how it is put back."""

from __future__ import annotations

from nimble_cradle.desk.kit.rooms import Rooms
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.stages.chassis.cracks_room import CracksRoom
from nimble_cradle.desk.stages.chassis.frame_room import FrameRoom
from nimble_cradle.desk.stages.chassis.openings_room import OpeningsRoom
from nimble_cradle.desk.stages.chassis.panels_room import PanelsRoom
from nimble_cradle.desk.stages.chassis.rods_room import RodsRoom
from nimble_cradle.desk.stages.chassis.sections_room import SectionsRoom
from nimble_cradle.desk.stages.chassis.suspension_room import SuspensionRoom


class ChassisSheet(Sheet):
    """The rooms of the chassis."""

    stage, title = "chassis", "Chassis: cut, and put back"

    def build(self) -> None:
        """The rooms."""
        at = getattr(self, "rooms", None)
        cuts, rods = OpeningsRoom(self.session), RodsRoom(self.session)
        rooms = (cuts, SectionsRoom, FrameRoom, PanelsRoom, SuspensionRoom, rods, CracksRoom)
        self.rooms = Rooms(rooms, self.session)
        self.add_rooms(self.rooms)
        if at is not None:
            self.rooms.go(at.present.key)

    def refresh(self) -> None:
        """Show the present job in the chosen room."""
        self.rooms.refresh()

    def fingerprint(self) -> object:
        """The cuts, and what may be cut."""
        job = self.session.job
        made = tuple(o.id for o in job.openings), tuple(rod.id for rod in job.rods)
        return made, tuple((i.id, i.name) for i in job.items if i.chassis)


SHEET = ChassisSheet
