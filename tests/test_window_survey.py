"""The Survey stage, pressed: level, taped points, hole patterns, scans."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from nimble_cradle.desk.kit.photo_page import PhotoPage
from nimble_cradle.desk.stages.bay.sheet import BaySheet
from nimble_cradle.desk.stages.powertrain.mock_up import MockUpRoom
from nimble_cradle.desk.stages.powertrain.sheet import PowertrainSheet
from nimble_cradle.desk.stages.powertrain.weighed import WeighedRoom
from nimble_cradle.desk.stages.survey.adapter import AdapterRoom
from nimble_cradle.desk.stages.survey.holes import HolesRoom
from nimble_cradle.desk.stages.survey.level import LevelRoom
from nimble_cradle.desk.stages.survey.points import PointsRoom
from nimble_cradle.desk.stages.survey.scan import ScanRoom
from nimble_cradle.desk.stages.survey.sheet import SurveySheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.geometry.pose import Pose, rotation_xyz
from nimble_cradle.geometry.scan import Scan
from nimble_cradle.geometry.scan_ply import to_ply
from nimble_cradle.job import store
from nimble_cradle.survey.network import network
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QLineEdit

from pressing import CTRL, Key, QTest, click, press, press_on, questions, type_in
from test_scan import bay_surface


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
        survey.rooms.go("level")
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
        """Offsets come one after another: the field waits for the next direction; undo walks back; the
        file keeps them."""
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
        press_on(room.readings.grid, Key.Key_W)
        assert "out of line" in desk.drawer.title.text() and "Baarda" in desk.drawer.text.toPlainText()
        press_on(room.readings.grid, Key.Key_R)
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


class TestHoles:
    @pytest.fixture
    def room(self, survey: SurveySheet) -> HolesRoom:
        survey.rooms.go("holes")
        found = survey.rooms.present
        assert isinstance(found, HolesRoom)
        return found

    PLATE = ((0.0, 0.0), (90.0, 0.0), (96.0, 70.0), (-4.0, 64.0))

    def distance(self, i: int, j: int) -> str:
        return f"{np.hypot(*(np.array(self.PLATE[i]) - self.PLATE[j])):.1f}"

    def test_calipers_to_a_pattern_on_a_mount(self, desk: Desk, survey: SurveySheet, room: HolesRoom) -> None:
        """Six distances one after another, one of them misread; it is named, retaken, and the pattern goes
        on the pad."""
        click(desk, "New pattern")
        room.other.setCurrentIndex(1)
        for i, j in ((0, 1), (0, 2), (0, 3), (1, 2), (1, 3), (2, 3)):
            assert (room.hole.currentIndex(), room.other.currentIndex()) == (i, j), "the next pair waits"
            type_and_enter(room.value, self.distance(i, j) if (i, j) != (1, 3) else "118.4")
        assert "One of these is wrong" in questions(desk, "survey") or "out of line" in survey.asked.text()
        room.readings.selectRow([room.readings.item(r, 0).text() for r in range(6)].index("2 to 4, centres"))  # type: ignore[union-attr]
        press_on(room.readings.grid, Key.Key_Delete)
        room.hole.setCurrentIndex(1)
        room.other.setCurrentIndex(3)
        type_and_enter(room.value, self.distance(1, 3))
        assert "mirror image fits as well" in questions(desk, "survey")
        room.turn.take(2)
        assert "Pattern 2" not in questions(desk, "survey") and "readings agree" in room.summary.text()
        room.mount.setCurrentIndex(1)
        click(desk, "Put it on this mount's pad")
        pad = desk.session.job.mounts[1].pad
        holes = np.array(pad.holes)
        assert holes - holes[0] == pytest.approx(np.array(self.PLATE), abs=0.12) and pad.hole_mm == 11.0
        press(desk, Key.Key_Z, CTRL)
        assert desk.session.job.mounts[1].pad != pad

    def test_a_traced_bracket(self, desk: Desk, room: HolesRoom, tmp_path: Any) -> None:
        drawn = "".join(f'<circle cx="{x + 20}" cy="{100 - y}" r="5.2"/>' for x, y in self.PLATE)
        svg = tmp_path / "bracket.svg"
        svg.write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" width="150mm" height="120mm" viewBox="0 0 150'
            f' 120"><g>{drawn}</g></svg>'
        )
        room.add_traced(svg)
        pattern = desk.session.job.survey.patterns[-1]
        assert pattern.name == "bracket" and room.which.currentText() == "bracket"
        at = np.array(
            [
                [
                    next(r.value for r in pattern.readings if r.hole == h.id and r.kind == k)
                    for k in ("across", "up")
                ]
                for h in pattern.holes
            ]
        )
        assert at - at[0] == pytest.approx(np.array(self.PLATE), abs=1e-6) and pattern.holes[
            0
        ].diameter_mm == pytest.approx(10.4)
        (tmp_path / "bad.svg").write_text("<svg")
        room.add_traced(tmp_path / "bad.svg")
        assert (
            room.refusal.text() == "“bad.svg” could not be read as SVG: it stops making sense at line 1."
            and len(desk.session.job.survey.patterns) == 2
        )

    def test_holes_picked_on_a_photograph(self, desk: Desk, room: HolesRoom, qtbot: Any) -> None:
        """A made-up photograph at 4 pixels a mm: four corners and four holes clicked; the page says what
        is missing, then gives mm."""
        image = QImage(800, 640, QImage.Format.Format_RGB32)
        image.fill(0xFFCCCCCC)
        page = PhotoPage(room, image, desk.session.display)
        qtbot.addWidget(page)
        page.show()
        qtbot.waitExposed(page)

        def click_mm(x: float, y: float) -> None:
            box = page.picture.frame()
            scale = box.width() / 800
            spot = QPoint(round(box.x() + (100 + 4 * x) * scale), round(box.y() + (540 - 4 * y) * scale))
            QTest.mouseClick(page.picture, Qt.MouseButton.LeftButton, pos=spot)

        for x, y in ((0, 0), (120, 0), (120, 100), (0, 100)):
            click_mm(x, y)
        page.use()
        assert "Four corners and two holes" in page.refusal.text()
        for spot in self.PLATE:
            click_mm(*spot)
        page.wide.setText("twelve")
        page.high.setText("100")
        assert "Could not read" in page.refusal.text()
        page.wide.setText("120")
        page.back()
        click_mm(*self.PLATE[3])
        assert "4 holes" in page.told.text() and "check it with calipers" in page.told.text()
        page.use()
        assert page.holes == pytest.approx(np.array(self.PLATE), abs=0.6)
        room.add_photographed("gearbox face", page.holes, page.plus_minus)
        assert (
            desk.session.job.survey.patterns[-1].name == "gearbox face"
            and len(desk.session.job.survey.patterns[-1].holes) == 4
        )

    def test_an_adapter(self, desk: Desk, survey: SurveySheet, room: HolesRoom) -> None:
        for angles in ((10, 100, 190, 280), (55, 145, 235, 325)):
            click(desk, "New pattern")
            room.kind.setCurrentIndex(3)
            room.hole.setCurrentIndex(0)
            for _ in angles:
                type_and_enter(room.value, "150")
            room.kind.setCurrentIndex(4)
            for a in angles:
                type_and_enter(room.value, str(a))
        survey.rooms.go("adapter")
        adapter = survey.rooms.present
        assert isinstance(adapter, AdapterRoom)
        adapter.engine.setCurrentIndex(1)
        adapter.gearbox.setCurrentIndex(2)
        click(desk, "Join")
        assert (
            "each side wants its dowels" in adapter.summary.text()
            and "say how large an opening" in adapter.summary.text()
            and "Least metal between holes 53.9 mm" in adapter.summary.text()
        )
        click(desk, "How the thickness is found")
        assert "Thickness of an adapter plate" in desk.drawer.text.toPlainText()
        click(desk, "Leave the adapter out")
        assert desk.session.job.survey.adapter is None


class TestScans:
    @pytest.fixture
    def room(self, survey: SurveySheet) -> ScanRoom:
        survey.rooms.go("scans")
        found = survey.rooms.present
        assert isinstance(found, ScanRoom)
        return found

    def finished(self, room: ScanRoom, qtbot: Any) -> None:
        qtbot.waitUntil(lambda: not room.working, timeout=60000)

    def test_a_scan_from_the_phone_to_its_place(
        self, desk: Desk, room: ScanRoom, qtbot: Any, tmp_path: Any
    ) -> None:
        """Brought in in metres and 2 % too small; scaled by a taped distance, placed by pairs, cropped,
        thinned, saved, undone."""
        began = desk.session.job
        v, f = bay_surface(40)
        v = v * (1.15, 1.1, 0.8) + (-40, 0, 120)
        skew = Pose(rotation_xyz(3, -2, 6), np.array([60.0, -35, 20]))
        seen = skew.inverse().points(v) * 0.98 / 1000
        (tmp_path / "phone scan.ply").write_bytes(
            to_ply(Scan(seen, f)).replace(b"comment mm, points merged", b"comment from a telephone!")
        )
        room.bring(tmp_path / "phone scan.ply", "mm")
        self.finished(room, qtbot)
        assert "its unit is another" in room.refusal.text() and desk.session.job is began
        room.bring(tmp_path / "phone scan.ply", "m")
        self.finished(room, qtbot)
        item = desk.session.job.items[-1]
        assert item.measured == "scan" and not item.placed and desk.stage == "survey"
        assert any("is a scan that is not placed yet" in p.sentence for p in desk.session.verdict.problems)
        assert not any(g.item == item.id for g in desk.session.verdict.gaps)

        press(desk, Key.Key_1, CTRL)
        qtbot.waitUntil(lambda: ("item", item.id) in desk.view.bodies, timeout=3000)
        qtbot.wait(50)
        click(desk, "Pick on the scan")
        press(desk, Key.Key_Escape)
        assert desk.session.picking == ""
        click(desk, "Pick on the scan")
        for x in range(120, 600, 24):
            QTest.mouseClick(desk.view.gl, Qt.MouseButton.LeftButton, pos=QPoint(x, 330))
            if desk.session.marks:
                break
        assert len(desk.session.marks) == 1 and room.refusal.text() == ""
        picked = desk.session.marks[0]
        assert np.linalg.norm(seen * 1000 - picked, axis=1).min() < 30, "the place is on the scan"
        click(desk, "Forget them")

        corners = [0, 39, 39 * 40, 2 * 1600 - 1, 3 * 1600 - 1]

        def pick(k: int) -> None:
            desk.session.picking = item.id
            here = desk.session.job.items[-1].shapes[0]
            at = Pose(rotation_xyz(*here.turn), np.array(here.at)).points(seen[k] * 1000 * scale[0])  # type: ignore[union-attr]
            desk.session.picked.emit(at, item.id)

        scale = [1.0]
        pick(corners[0])
        pick(corners[2])
        type_and_enter(room.known, f"{np.linalg.norm(v[corners[0]] - v[corners[2]]):.1f}")
        self.finished(room, qtbot)
        assert "2.0" in room.answer.text() and "too small" in room.answer.text()
        scale[0] = 1 / 0.98
        click(desk, "Forget them")
        survey = desk.session.job.survey
        points = tuple(
            p.model_copy(
                update={
                    "id": f"s{k}",
                    "name": f"Scan corner {k}",
                    "given": tuple(float(c) for c in v[k]),
                    "roughly": None,
                }
            )
            for k, p in zip(corners, survey.points, strict=False)
        )
        desk.session.set_value("survey/points", (*survey.points, *points), "five corners")
        for n, k in enumerate(corners):
            pick(k)
            room.point.setCurrentIndex(len(survey.points) + n)
            click(desk, "The last pick is this point")
        click(desk, "Place it by the pairs")
        self.finished(room, qtbot)
        placed = desk.session.job.items[-1]
        here = Pose(rotation_xyz(*placed.shapes[0].turn), np.array(placed.shapes[0].at))  # type: ignore[union-attr]
        assert placed.placed and np.abs(here.points(seen * 1000 / 0.98) - v).max() < 0.6
        assert any(g.item == item.id for g in desk.session.verdict.gaps)

        click(desk, "Thin out")
        self.finished(room, qtbot)
        assert "every old point is within" in room.answer.text() and "0." in room.answer.text()
        click(desk, "Show how far it is off")
        self.finished(room, qtbot)
        assert "nine tenths within" in room.answer.text() and desk.session.scan_map is not None
        qtbot.wait(400)
        click(desk, "Plain again")
        pick(corners[0])
        pick(corners[4])
        click(desk, "Split it off")
        self.finished(room, qtbot)
        assert desk.session.job.items[-1].id != item.id, room.refusal.text()
        press(desk, Key.Key_S, CTRL)
        again = store.read(desk.session.place.path).job
        assert [i.id for i in again.items] == [
            i.id for i in desk.session.job.items
        ] and again.meshes == desk.session.job.meshes
        press(desk, Key.Key_Z, CTRL)
        assert desk.session.job.items[-1].id == item.id

    def test_bad_files_leave_the_job_alone(
        self, desk: Desk, room: ScanRoom, qtbot: Any, tmp_path: Any
    ) -> None:
        began = desk.session.job
        for name, data, words in (
            ("notes.stl", b"it went well", "neither whole binary STL nor text"),
            ("flat.obj", b"v 0 0 0\nv 1 0 0\n", "holds no triangles"),
            ("none.ply", b"", "is empty"),
        ):
            (tmp_path / name).write_bytes(data)
            room.bring(tmp_path / name, "mm")
            self.finished(room, qtbot)
            assert words in room.refusal.text() and desk.session.job is began
        room.bring(tmp_path / "gone.stl", "mm")
        self.finished(room, qtbot)
        assert room.refusal.text() == f"There is no file {tmp_path / 'gone.stl'}."
        click(desk, "Pick on the scan")
        assert room.refusal.text() == "Bring in a scan first."
        click(desk, "Thin out")
        assert "Choose a scan first" in room.refusal.text()


class TestItemsFromPoints:
    def test_an_outline_traced_on_card(self, desk: Desk, tmp_path: Any) -> None:
        """A bracket drawn in inches: its corners become the outline, mirrored left for right as one looks
        along the push."""
        press(desk, Key.Key_F3)
        bay = desk.sheets["bay"]
        assert isinstance(bay, BaySheet)
        click(desk, "Add an item")
        bay.made.kind.setCurrentIndex(5)
        type_and_enter(bay.made.points, "1, 3")
        drawing = tmp_path / "card.svg"
        drawing.write_text(
            '<svg xmlns="http://www.w3.org/2000/svg"><path d="M 0 0 L 4 0 L 4 -3 L 0 -3 Z"/></svg>'
        )
        assert not bay.made.take_outline(drawing) and "does not say its unit" in bay.made.refusal.text()
        assert bay.made.take_outline(drawing, 25.4) and bay.made.refusal.isHidden()
        made = desk.session.job.items[-1].made
        assert {tuple(p) for p in made.outline} == {(0, 0), (101.6, 0), (101.6, 76.2), (0, 76.2)}  # type: ignore[union-attr]
        (tmp_path / "x.dxf").write_text("0\nSECTION nonsense")
        assert (
            bay.made.take_outline(tmp_path / "x.dxf")
            and "could not be read as DXF" in bay.made.refusal.text()
        )

    def test_an_item_is_made_from_points_and_moves(self, desk: Desk) -> None:
        press(desk, Key.Key_F3)
        bay = desk.sheets["bay"]
        assert isinstance(bay, BaySheet)
        click(desk, "Add an item")
        type_and_enter(bay.made.points, "7, 77")
        assert "“77” is no point; there are points 1 to 10" in bay.made.refusal.text()
        bay.made.kind.setCurrentIndex(1)
        type_and_enter(bay.made.points, "8, 9")
        item = desk.session.job.items[-1]
        assert item.made is not None and item.made.points == ("p8", "p9") and item.shapes == ()
        assert ("item", item.id) in desk.view.bodies and bay.shapes.isHidden()
        type_in(desk, f"items/{item.id}/made/diameter_mm", "60")
        before = next(g for g in desk.session.verdict.gaps if g.item == item.id)
        bay.motion.choose(2)
        type_in(desk, f"items/{item.id}/motion/most_mm", "25")
        after = next(g for g in desk.session.verdict.gaps if (g.piece, g.item) == (before.piece, item.id))
        assert after.travel is not None and after.travel < before.gap and after.margin < before.margin
        bay.made.kind.setCurrentIndex(7)
        bay.made.points.selectAll()
        type_and_enter(bay.made.points, "7")
        assert "wants a point for each profile" in bay.made.refusal.text()


class TestPowertrainRooms:
    def test_a_mock_up_and_its_weighing(self, desk: Desk) -> None:
        press(desk, Key.Key_F4)
        sheet = desk.sheets["powertrain"]
        assert isinstance(sheet, PowertrainSheet)
        before = desk.session.job
        sheet.rooms.go("mock-up")
        room = sheet.rooms.present
        assert isinstance(room, MockUpRoom)
        room.lines["sump_step"].setText("31 in")
        click(desk, "Build the mock-up")
        assert "step of the sump must lie within" in room.refusal.text() and desk.session.job is before
        room.lines["sump_step"].setText("200")
        room.lines["mass_kg"].setText("440 lb")
        click(desk, "Build the mock-up")
        pieces = desk.session.job.powertrain.pieces
        assert (
            sum(p.mass_kg for p in pieces) == pytest.approx(440 * 0.45359237, abs=0.6)
            and desk.session.verdict.carried is not None
        )

        sheet.rooms.go("weighed")
        weighed = sheet.rooms.present
        assert isinstance(weighed, WeighedRoom)
        two = weighed.pockets[0]
        for name, text in (("front_kg", "126.5"), ("rear_kg", "71.5"), ("apart", "820")):
            two.lines[name].setText(text)
        click(desk, "Take the mass")
        taken = desk.session.job.powertrain.weighed
        assert taken is not None and taken.mass_kg == 198 and taken.mass_plus_minus_kg == pytest.approx(0.71)
        two.refresh()
        assert "523.9 mm" in two.result.text()
        two.lines["apart"].setText("none")
        two.refresh()
        assert "Could not read" in two.refusal.text()
        click(desk, "Back to the pieces")
        assert desk.session.job.powertrain.weighed is None
