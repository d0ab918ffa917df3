"""Survey: everything measured once, from one datum: the level, taped points, scans, hole patterns."""

from __future__ import annotations

from nimble_cradle.desk.kit.rooms import Rooms
from nimble_cradle.desk.kit.sheet import Sheet


class SurveySheet(Sheet):
    """The rooms of the survey. They are imported when the stage is first shown, so that the window is up
    sooner."""

    stage, title = "survey", "Survey: measured once, from one datum"

    def build(self) -> None:
        from nimble_cradle.desk.stages.survey.adapter import AdapterRoom
        from nimble_cradle.desk.stages.survey.holes import HolesRoom
        from nimble_cradle.desk.stages.survey.left_to_measure import LeftToMeasureRoom
        from nimble_cradle.desk.stages.survey.level import LevelRoom
        from nimble_cradle.desk.stages.survey.points import PointsRoom
        from nimble_cradle.desk.stages.survey.records import RecordsRoom
        from nimble_cradle.desk.stages.survey.scan import ScanRoom

        self.rooms = Rooms(
            (
                LeftToMeasureRoom(self.session),
                LevelRoom(self.session),
                PointsRoom(self.session),
                ScanRoom(self.session),
                HolesRoom(self.session),
                AdapterRoom(self.session),
                RecordsRoom(self.session),
            )
        )
        self.add_rooms(self.rooms)

    def refresh(self) -> None:
        self.rooms.refresh()


SHEET = SurveySheet
