"""The Survey stage, pressed: level, taped points, hole patterns, scans."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from nimble_cradle.desk.sheets.survey import SurveySheet
from nimble_cradle.desk.sheets.survey_level import LevelRoom
from nimble_cradle.desk.sheets.survey_points import PointsRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.job import store
from nimble_cradle.survey.network import network
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit

from pressing import CTRL, Key, click, press, press_on


@pytest.fixture
def survey(desk: Desk) -> SurveySheet:
    press(desk, Key.Key_F2)
    sheet = desk.sheets["survey"]
    assert isinstance(sheet, SurveySheet)
    return sheet


def type_and_enter(line: QLineEdit, text: str) -> None:
    """As a pair of calipers does it: the keys of the figure, then Enter."""
    line.setFocus()
    QTest.keyClicks(line, text)
    QTest.keyClick(line, Key.Key_Return)
    QApplication.processEvents()


class TestLevel:
    def test_read_the_level_and_be_told_what_to_lift(self, desk: Desk, survey: SurveySheet) -> None:
        room = survey.rooms.present
        assert isinstance(room, LevelRoom)
        for _ in range(5):
            room.table.selectRow(0)
            click(desk, "Strike out")
        assert not desk.session.job.survey.level.readings and "turn it end for end" in room.summary.text()
        type_and_enter(room.value, "6 over 600 right")
        room.way.setCurrentIndex(1)
        type_and_enter(room.value, "0.5 front")
        assert (
            "right side 0.57 deg high" in room.summary.text() and "front 0.50 deg high" in room.summary.text()
        )
        lifts = {room.stands.item(r, 0).text(): room.stands.item(r, 2).text() for r in range(4)}  # type: ignore[union-attr]
        rear = 2280 * np.tan(np.radians(0.5)) + 850 * 0.01
        assert lifts["Right front"] == "0.0 mm" and lifts["Left front"] == "8.5 mm"
        assert lifts["Left rear"] == f"{rear + 5 * 0.01:.1f} mm", "it also stands 5 mm further out"
        type_and_enter(room.value, "7x")
        assert "does not fit here" in room.refusal.text() and room.value.text() == "7x"
        assert len(desk.session.job.survey.level.readings) == 2


class TestPoints:
    @pytest.fixture
    def room(self, survey: SurveySheet) -> PointsRoom:
        survey.rooms.go("points")
        found = survey.rooms.present
        assert isinstance(found, PointsRoom)
        return found

    def test_a_new_point_taped_by_a_gauge(self, desk: Desk, room: PointsRoom) -> None:
        """Offsets come one after another: the field waits for the next direction; undo walks back; the file keeps them."""
        click(desk, "New point")
        key = desk.session.job.survey.points[-1].id
        assert network(desk.session.job).point(key).free == ("every way",)
        for text in ("12 1/2 in", "301 right", "77"):
            type_and_enter(room.value, text)
        at = network(desk.session.job).point(key).at
        assert (
            at == pytest.approx((317.5, -301, 77), abs=1e-6) and not network(desk.session.job).point(key).free
        )
        press(desk, Key.Key_S, CTRL)
        assert [r["what"] for r in store.read(desk.session.place.path).log][
            -1
        ] == "Measured 11 Point 11, above the datum: 77"
        for _ in range(4):
            press(desk, Key.Key_Z, CTRL)
        assert len(desk.session.job.survey.points) == 10

    def test_drop_retake_and_what_to_measure_next(self, desk: Desk, room: PointsRoom) -> None:
        room.readings.selectRow(0)
        assert "10 Wiper motor" in room.readings.item(0, 0).text()  # type: ignore[union-attr]
        press_on(room.readings, Key.Key_W)
        assert "out of line" in desk.drawer.title.text() and "Baarda" in desk.drawer.text.toPlainText()
        press_on(room.readings, Key.Key_R)
        assert room.kind.currentText() == "distance to" and room.other.currentText().startswith(
            "2 Right rail"
        )
        type_and_enter(room.value, "1131")
        assert not desk.session.value("survey/readings/r47/used")
        states = {c.state for c in network(desk.session.job).readings}
        assert "out of line" not in states and desk.session.job.survey.readings[-1].value_mm == 1131
        before = len(desk.session.job.survey.readings)
        proposal = room.proposals[0]
        click(desk, "Take this one")
        type_and_enter(room.value, f"{proposal.value_mm:.1f}")
        taken = desk.session.job.survey.readings[-1]
        assert len(desk.session.job.survey.readings) == before + 1
        assert (taken.kind, taken.point, taken.other) == (
            proposal.reading.kind,
            proposal.reading.point,
            proposal.reading.other,
        )

    def test_refusals_stand_at_the_place(self, desk: Desk, room: PointsRoom) -> None:
        began = desk.session.job
        room.kind.setCurrentIndex(3)
        room.other.setCurrentIndex(1)
        for text, words in (
            ("-40", "more than nought"),
            ("twelve", "Could not read"),
            ("", "Nothing was typed"),
        ):
            room.value.clear()
            type_and_enter(room.value, text)
            assert words in room.refusal.text() and room.value.text() == text
        room.other.setCurrentIndex(room.point.currentIndex())
        type_and_enter(room.value, "500")
        assert "two different points" in room.refusal.text()
        desk.session.select("point", "p5")
        click(desk, "Strike out the point")
        assert "which is not in the survey" in room.refusal.text() and desk.session.job is began

    def test_tags_and_lines_are_in_the_picture(self, desk: Desk, room: PointsRoom, qtbot: Any) -> None:
        qtbot.waitUntil(
            lambda: any("reading out of line" in t.figure for t in desk.view.layer.tags), timeout=3000
        )
        kinds = [k for k, _ in desk.view.bodies]
        assert kinds.count("point") == 10 and kinds.count("reading") > 20
        press(desk, Key.Key_F3)
        assert "point" not in [k for k, _ in desk.view.bodies]
