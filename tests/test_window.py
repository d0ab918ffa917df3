"""The real window, pressed: keys and clicks under a (virtual) screen."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from nimble_cradle.design.begin import Answers
from nimble_cradle.desk.bars import TellTaleCell
from nimble_cradle.desk.help_page import HelpPage
from nimble_cradle.desk.keymap import every_group
from nimble_cradle.desk.kit.pairs_field import PairsField
from nimble_cradle.desk.kit.quantity_field import QuantityField, parse_with_way, show_with_way
from nimble_cradle.desk.kit.shapes_editor import ShapeEditor
from nimble_cradle.desk.stages.mounts.sheet import MountsSheet
from nimble_cradle.desk.stages.pack import sheet as pack_module
from nimble_cradle.desk.stages.pack.sheet import PackSheet
from nimble_cradle.desk.stages.position.hand import HandRoom
from nimble_cradle.desk.stages.position.sheet import PositionSheet
from nimble_cradle.desk.stages.survey.points import PointsRoom
from nimble_cradle.desk.stages.survey.sheet import SurveySheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.desk.window_picture import picture
from nimble_cradle.job import store
from nimble_cradle.job.edits import with_value
from nimble_cradle.units import Display, show
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import (
    QApplication,
    QComboBox,
    QLineEdit,
    QMessageBox,
    QPushButton,
    QTableWidget,
    QWidget,
)

from narrowed import bonded
from pressing import (
    CTRL,
    NONE,
    SHIFT,
    Key,
    QTest,
    click,
    field,
    margin,
    press,
    press_on,
    questions,
    refusal,
    tale,
    type_in,
    unfold_all,
)


class TestTheWholeJob:
    def test_walk_through_as_the_issue_tells_it(self, desk: Desk, qtbot: Any, tmp_path: Path) -> None:
        """Nudge until a gap fouls, harder bush, tell-tales, pack, save, reopen, undo it all."""
        began = desk.session.job
        assert tale(desk, "margin").word == "fouls" and tale(desk, "hardest").state == "fails"
        press(desk, Key.Key_3)
        press(desk, Key.Key_Down, times=2)
        press(desk, Key.Key_2)
        press(desk, Key.Key_Down, times=7)
        press(desk, Key.Key_PageUp, times=3)
        qtbot.waitUntil(lambda: desk.session.job.position.x == began.position.x - 27)
        assert margin(desk, "fan", "radiator") > 0 and tale(desk, "margin").word == "too tight"
        press(desk, Key.Key_3)
        press(desk, Key.Key_Down, times=2)
        qtbot.waitUntil(lambda: margin(desk, "head", "wiper-motor") < 0)
        sheet = desk.sheets["position"]
        assert isinstance(sheet, PositionSheet)
        table = sheet.findChild(QTableWidget)
        assert table is not None
        texts = [table.item(r, 0).text() + " " + table.item(r, 4).text() for r in range(table.rowCount())]  # type: ignore[union-attr]
        assert any("Wiper motor" in t and "short" in t for t in texts)
        qtbot.waitUntil(
            lambda: any("Wiper motor" in t.title and t.state == "fails" for t in desk.view.layer.tags),
            timeout=3000,
        )
        press(desk, Key.Key_Up, times=2)
        qtbot.waitUntil(lambda: margin(desk, "head", "wiper-motor") > 0)

        press(desk, Key.Key_F2)
        survey = desk.sheets["survey"]
        assert isinstance(survey, SurveySheet) and "out of line" in questions(desk, "survey")
        survey.rooms.go("points")
        room = survey.rooms.present
        assert isinstance(room, PointsRoom)
        room.readings.selectRow(0)
        press_on(room.readings.grid, Key.Key_Delete)
        assert survey.asked.isHidden() and not desk.session.value("survey/readings/r47/used")

        press(desk, Key.Key_F6)
        assert desk.stage == "mounts" and "too tight when running" in questions(desk, "mounts")
        type_in(desk, "mounts/left/bush/hardness_shore_a", "46")
        assert bonded(desk.session.job.mounts[0].bush).hardness_shore_a == 46
        assert "its eye stands 27 mm from its cross on the plate" in questions(desk, "mounts")
        click(desk, "Gearbox")
        click(desk, "Stand the eye on its plate")
        asked = questions(desk, "mounts")
        assert "its eye stands" not in asked
        v = desk.session.verdict
        assert tale(desk, "margin").state != "fails" and tale(desk, "hardest").state != "fails"
        assert v.block_to_bush and not v.open_questions and v.holds, v.problems
        desk.sheets["mounts"].rooms.go("this")
        assert "Rests on assumed: height of the centre of gravity" in (
            desk.sheets["mounts"].this.summary.text()  # type: ignore[attr-defined]
        )

        press(desk, Key.Key_F9)
        pack = desk.sheets["pack"]
        assert isinstance(pack, PackSheet)
        pack.write(tmp_path / "pack")
        qtbot.waitUntil(lambda: "files written" in pack.answer.text(), timeout=30000)
        assert (tmp_path / "pack" / "shop-pack.pdf").stat().st_size > 5000

        assert "changed, not saved" in desk.windowTitle()
        press(desk, Key.Key_S, CTRL)
        assert "(saved)" in desk.windowTitle()
        ended = desk.session.job
        assert store.read(desk.session.place.path).job == ended
        for _ in range(60):
            press(desk, Key.Key_Z, CTRL)
        assert desk.session.job == began and tale(desk, "margin").word == "fouls"
        for _ in range(60):
            press(desk, Key.Key_Z, CTRL | SHIFT)
        assert desk.session.job == ended
        log = [row["what"] for row in store.read(desk.session.place.path).log]
        assert any("hardness" in what and "30 → 46" in what for what in log) and any(
            what.startswith("Nudged") for what in log
        )

    def test_reopened_as_it_was_and_journal_after_a_crash(self, desk: Desk, qtbot: Any) -> None:
        press(desk, Key.Key_PageUp, times=3)
        qtbot.waitUntil(lambda: desk.session.job.position.z == 25)
        desk.session.place.flush()
        path = desk.session.place.path
        assert desk.session.place._lock is not None
        desk.session.place._lock.release()  # as if the program had been killed: lock gone, journal there
        again = desk.open(path)
        assert (
            again is not None and again.session.job == desk.session.job and again.session.place.recovered > 0
        )
        assert "had not been saved" in again.notice.text()
        again.session.place.count_as_saved()
        again.close()

    def test_held_key_is_one_step_of_undo(self, desk: Desk, qtbot: Any) -> None:
        press(desk, Key.Key_Left, times=6)
        qtbot.waitUntil(lambda: desk.session.job.position.y == 6)
        press(desk, Key.Key_Z, CTRL)
        assert desk.session.job.position.y == 0

    def test_closing_asks_and_staying_stays(self, desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
        desk.session.set_value("name", "Other", "Job → Other")
        monkeypatch.setattr(QMessageBox, "exec", lambda box: 0)
        monkeypatch.setattr(
            QMessageBox,
            "clickedButton",
            lambda box: (
                box.buttons()[-1]
                if "Stay" in box.buttons()[-1].text()
                else next(b for b in box.buttons() if b.text() == "Stay")
            ),
        )
        desk.close()
        assert desk.isVisible()


class TestKeys:
    def test_gaps_follow_a_held_key_before_they_are_judged(self, desk: Desk, qtbot: Any) -> None:
        """At once where the engine is, marked as being measured; then as the verdict of the place says."""
        desk.go("position")
        rooms = desk.sheets["position"].rooms
        rooms.go("hand")
        room = rooms.room("hand")
        assert isinstance(room, HandRoom)

        def cell(column: int) -> str:
            item = room.table.item(0, column)
            return "" if item is None else item.text()

        before, key = cell(1), desk.session.verdict.gaps[0]
        desk.session.nudge((-7.0, 0.0, 0.0))
        said, told = room.gap_title.text(), [cell(c) for c in (1, 3, 4)]
        assert desk.session.ahead.job is not None and "being measured" in said
        qtbot.waitUntil(lambda: desk.session.ahead.job is None)
        after = {(g.piece, g.item): g for g in desk.session.verdict.gaps}[key.piece, key.item]
        assert told[0] == show(after.gap, "length", desk.session.display).removesuffix(" mm") != before
        assert told[1].startswith("≈ ") and told[2].startswith("≈ ")
        running = float(told[1].removeprefix("≈ ").replace("hits ", "-"))
        assert running == pytest.approx(after.running, abs=0.5), "its sway hardly changes over 7 mm"
        assert "being measured" not in room.gap_title.text() and not cell(4).startswith("≈")

    @pytest.mark.parametrize(
        ("key", "modifier", "name", "sign"),
        [
            (Key.Key_Up, NONE, "x", 1),
            (Key.Key_Down, NONE, "x", -1),
            (Key.Key_Left, NONE, "y", 1),
            (Key.Key_Right, NONE, "y", -1),
            (Key.Key_PageUp, NONE, "z", 1),
            (Key.Key_PageDown, NONE, "z", -1),
            (Key.Key_Up, CTRL, "pitch_deg", 1),
            (Key.Key_Down, CTRL, "pitch_deg", -1),
            (Key.Key_Left, CTRL, "roll_deg", -1),
            (Key.Key_Right, CTRL, "roll_deg", 1),
            (Key.Key_PageUp, CTRL, "yaw_deg", 1),
            (Key.Key_PageDown, CTRL, "yaw_deg", -1),
        ],
    )
    def test_every_nudge_key(
        self, desk: Desk, qtbot: Any, key: Qt.Key, modifier: Qt.KeyboardModifier, name: str, sign: int
    ) -> None:
        before = getattr(desk.session.job.position, name)
        press(desk, key, modifier)
        step = 1.0 if name in "xyz" else 0.1
        qtbot.waitUntil(
            lambda: getattr(desk.session.job.position, name) == pytest.approx(before + sign * step, abs=2e-3),
            timeout=3000,
        )

    def test_steps_gaps_working_and_level(self, desk: Desk, qtbot: Any) -> None:
        sheet = desk.sheets["position"]
        assert isinstance(sheet, PositionSheet)
        for key, step in ((Key.Key_1, 0.1), (Key.Key_2, 1.0), (Key.Key_3, 10.0)):
            press(desk, key)
            assert sheet.hand.move_step == step
        press(desk, Key.Key_5)
        assert sheet.hand.turn_step == 1.0
        press(desk, Key.Key_Right, CTRL, times=2)
        qtbot.waitUntil(lambda: desk.session.job.position.roll_deg == pytest.approx(2, abs=0.02))
        press(desk, Key.Key_L)
        assert desk.session.job.position.roll_deg == 0
        press(desk, Key.Key_G)
        first = desk.session.selection
        press(desk, Key.Key_G)
        assert desk.session.selection != first
        press(desk, Key.Key_G, SHIFT)
        assert desk.session.selection == first and first[0] == "gap"
        press(desk, Key.Key_W)
        assert desk.drawer.isVisible() and "margin = gap" in desk.drawer.text.toPlainText()
        press(desk, Key.Key_Escape)
        assert not desk.drawer.isVisible()

    def test_stages_views_units_and_the_key_page(self, desk: Desk) -> None:
        for key, stage in (
            (Key.Key_F3, "bay"),
            (Key.Key_F4, "powertrain"),
            (Key.Key_F6, "mounts"),
            (Key.Key_F7, "crossmember"),
            (Key.Key_F8, "chassis"),
            (Key.Key_F12, "logbook"),
            (Key.Key_F5, "position"),
        ):
            press(desk, key)
            assert desk.stage == stage and desk.stack.currentWidget() is desk.sheets[stage]
        for n in range(6):
            before = desk.view.renderer.GetActiveCamera().GetPosition()
            press(desk, Qt.Key(Key.Key_1 + n), CTRL)
            assert desk.view.renderer.GetActiveCamera().GetPosition() != before
        press(desk, Key.Key_U, CTRL)
        assert desk.session.display == Display("in") and " in" in tale(desk, "lowest").value
        press(desk, Key.Key_U, CTRL)
        assert desk.session.display.fraction == 16
        press(desk, Key.Key_F1)
        page = next(w for w in QApplication.topLevelWidgets() if isinstance(w, HelpPage) and w.isVisible())
        text = " ".join(page.text.toPlainText().split())
        assert all(" ".join(row.words.split()) in text for group in every_group() for row in group.rows)
        assert "arrow keys move the engine" in text, "help for the page one stands on"
        page.search.setText("calipers")
        assert "pairs of holes" in page.text.toPlainText() and "Ctrl Z" not in page.text.toPlainText()
        page.search.setText("undo")
        assert "Ctrl Z" in page.text.toPlainText()
        page.accept()

    def test_arrows_in_a_field_do_not_move_the_engine(self, desk: Desk) -> None:
        before = desk.session.job.position
        line = field(desk, "joint_limits/most_deg")
        line.setFocus()
        press(desk, Key.Key_Left, times=2)
        press(desk, Key.Key_3)
        assert desk.session.job.position == before

    def test_buttons_nudge_like_keys(self, desk: Desk, qtbot: Any) -> None:
        click(desk, "Back")
        qtbot.waitUntil(lambda: desk.session.job.position.x == -249)
        click(desk, "Nose up")
        qtbot.waitUntil(lambda: desk.session.job.position.pitch_deg == pytest.approx(3.9, abs=1e-3))
        unfold_all(desk.sheets["position"])
        click(desk, "Level along")
        assert desk.session.job.position.pitch_deg == 0


class TestBadInput:
    @pytest.mark.parametrize(
        ("stage", "path", "typed", "words"),
        [
            ("mounts", "mounts/left/bush/sleeve_mm", "2o", "is not a length"),
            ("mounts", "mounts/left/bush/sleeve_mm", "90", "does not go into the eye"),
            ("mounts", "mounts/left/bush/hardness_shore_a", "120", "98"),
            ("mounts", "mounts/left/arm/wall_mm", "30", "nothing is left inside"),
            ("crossmember", "crossmember/section/wall_mm", "16", "leaves nothing inside"),
            ("mounts", "mounts/left/pad/holes/0", "40", "two lengths"),
            ("mounts", "mounts/left/pad/holes/0", "40, x", "read"),
            ("position", "joint_limits/most_deg", "", "Nothing was typed"),
            ("powertrain", "powertrain/engine/cylinders", "3.5", "whole number"),
            ("powertrain", "powertrain/engine/idle_rpm", "9000", "slower than the redline"),
        ],
    )
    def test_one_sentence_at_the_place_and_what_was_typed_is_kept(
        self, desk: Desk, stage: str, path: str, typed: str, words: str
    ) -> None:
        desk.go(stage)
        if path.startswith("powertrain/engine"):
            desk.sheets["powertrain"].rooms.go("engine")
        before = desk.session.job
        line = type_in(desk, path, typed) if typed else field(desk, path)
        if not typed:
            line.selectAll()
            QTest.keyClick(line, Key.Key_Delete)
            QTest.keyClick(line, Key.Key_Return)
        said = refusal(line)
        assert words in said and said.endswith(".") and "\n" not in said
        assert line.text() == typed and desk.session.job is before

    def test_escape_brings_the_old_value_back(self, desk: Desk) -> None:
        desk.go("mounts")
        line = type_in(desk, "mounts/left/bush/sleeve_mm", "nonsense")
        assert refusal(line)
        QTest.keyClick(line, Key.Key_Escape)
        assert line.text() == "24.0 mm" and not refusal(line)

    def test_a_rail_of_no_size(self, desk: Desk) -> None:
        desk.go("bay")
        desk.session.select("item", "rail-left")
        line = type_in(desk, "items/rail-left/shapes/0/size/0", "0")
        assert "greater than 0" in refusal(line) and desk.session.job.items[0].shapes[0].size[0] == 1920  # type: ignore[union-attr]

    def test_a_mount_with_no_bolts_is_told_and_not_half_judged(self, desk: Desk) -> None:
        desk.go("mounts")
        holes = desk.sheets["mounts"].findChild(PairsField)
        assert holes is not None
        for _ in range(4):
            line = field(desk, "mounts/left/pad/holes/0")
            line.setFocus()
            line.selectAll()
            QTest.keyClick(line, Key.Key_Delete)
            QTest.keyClick(line, Key.Key_Return)
        assert desk.session.job.mounts[0].pad.holes == () and holes.lines == []
        assert "has no bolts yet" in questions(desk, "mounts")
        sheet = desk.sheets["mounts"]
        assert isinstance(sheet, MountsSheet)
        sheet.rooms.go("this")
        assert all(f.code.startswith("foot-") for f in sheet.this.bars.findings)
        assert desk.stage_bar.plates["mounts"].state.state == "open questions"

    def test_bad_files_leave_this_job_open(self, desk: Desk, tmp_path: Path) -> None:
        before = desk.session.job
        (tmp_path / "poem.cradle").write_text("roses are red")
        assert desk.open(tmp_path / "poem.cradle") is None
        assert (
            "not a job of this program" in desk.notice.text()
            and desk.notice.isVisible()
            and desk.session.job is before
        )
        assert desk.open(tmp_path / "none.cradle") is None and "There is no file" in desk.notice.text()

    def test_a_mesh_that_is_text(self, desk: Desk, tmp_path: Path) -> None:
        desk.go("bay")
        desk.session.select("item", "radiator")
        editor = desk.sheets["bay"].findChild(ShapeEditor)
        assert editor is not None
        (tmp_path / "notes.stl").write_text("remember the milk\n" * 30)
        before = desk.session.job
        editor.add_mesh(tmp_path / "notes.stl")
        assert (
            "not an STL mesh" in editor.refusal.text()
            and not editor.refusal.isHidden()
            and desk.session.job is before
        )

    def test_saving_where_it_cannot_be_is_said(self, desk: Desk) -> None:
        assert desk.save_as(Path("/proc/nowhere.cradle")) is False
        assert "cannot be written" in desk.notice.text() or "could not be saved" in desk.notice.text()

    def test_second_window_is_read_only(self, desk: Desk, tmp_path: Path) -> None:
        other = desk.open(desk.session.place.path)
        assert (
            other is not None and "Read-only" in other.notice.text() and "(read-only)" in other.windowTitle()
        )
        other.session.set_value("name", "Copy", "Job → Copy")
        assert (
            other.save_as(tmp_path / "copy.cradle")
            and store.read(tmp_path / "copy.cradle").job.name == "Copy"
        )
        other.close()


class TestSheets:
    def test_items_are_added_edited_and_taken_off(self, desk: Desk) -> None:
        press(desk, Key.Key_F3)
        count = len(desk.session.job.items)
        click(desk, "Add an item")
        key = desk.session.selection[1]
        assert len(desk.session.job.items) == count + 1
        table = desk.sheets["bay"].table  # type: ignore[attr-defined]
        at = table.grid.visualItemRect(table.grid.selectedItems()[0])
        assert table.chosen_key() == key and table.grid.viewport().rect().contains(at), (
            "new, chosen and in sight"
        )
        type_in(desk, f"items/{key}/name", "Wash bottle")
        type_in(desk, f"items/{key}/shapes/0/centre/0", "4 in back")
        type_in(desk, f"items/{key}/shapes/0/centre/2", "30")
        item = desk.session.job.items[-1]
        assert item.name == "Wash bottle" and item.shapes[0].centre == (-101.6, 760.0, 30.0)  # type: ignore[union-attr]
        type_in(desk, f"items/{key}/required_mm", "7.5")
        assert desk.session.job.items[-1].required_mm == 7.5
        type_in(desk, f"items/{key}/required_mm", "as its kind")
        assert desk.session.job.items[-1].required_mm is None
        assert ("item", key) in desk.view.bodies
        click(desk, "Remove")
        assert len(desk.session.job.items) == count and ("item", key) not in desk.view.bodies

    def test_a_job_of_ones_own_begins_empty_and_is_filled_by_hand(self, desk: Desk, tmp_path: Path) -> None:
        own = desk.begin(tmp_path / "my-van.cradle", Answers())
        assert own is not None and own.stage == "survey" and not own.session.verdict.gaps
        assert all(item.made is not None for item in own.session.job.items), (
            "made from points, none taped yet"
        )
        assert "placeholders" in own.session.job.story
        own.go("bay")
        type_in(own, "vehicle/wheelbase_mm", "102 in")
        type_in(own, "vehicle/lowest_line_z_mm", "170 down")
        assert own.session.job.vehicle.wheelbase_mm == pytest.approx(2590.8)
        assert own.session.job.vehicle.lowest_line_z_mm == -170
        click(own, "Add an item")
        type_in(own, "items/item-1/shapes/0/centre/0", "320 forward")
        assert any(g.item == "item-1" for g in own.session.verdict.gaps)
        assert (
            desk.begin(tmp_path / "my-van.cradle", Answers()) is None
            and "is there already" in desk.notice.text()
        )
        own.session.place.count_as_saved()
        own.close()

    def test_clearances_and_fates_change_the_gaps(self, desk: Desk) -> None:
        press(desk, Key.Key_F3)
        before = margin(desk, "turbo", "battery-box")
        type_in(desk, "clearances/hot/required_mm", "1 1/2 in")
        assert margin(desk, "turbo", "battery-box") == pytest.approx(before - (38.1 - 32))
        desk.session.select("item", "radiator")
        box = desk.sheets["bay"].findChild(QComboBox, "items/radiator/fate")
        assert box is not None
        box.setCurrentIndex(4)
        box.activated.emit(4)
        assert (
            not any(g.item == "radiator" for g in desk.session.verdict.gaps)
            and ("item", "radiator") not in desk.view.bodies
        )

    def test_pieces_and_engine(self, desk: Desk) -> None:
        press(desk, Key.Key_F4)
        desk.session.select("piece", "block")
        type_in(desk, "powertrain/pieces/block/mass_kg", "220 lb")
        assert desk.session.job.powertrain.pieces[0].mass_kg == pytest.approx(99.79, abs=0.01)
        desk.sheets["powertrain"].rooms.go("engine")
        type_in(desk, "powertrain/engine/cylinders", "6")
        assert (
            desk.session.verdict.carried is not None
            and desk.session.verdict.carried.idle.frequency == pytest.approx(48)
        )
        desk.sheets["powertrain"].rooms.go("pieces")
        click(desk, "How the centre of gravity is found")
        assert desk.drawer.isVisible() and "sum m_i x_i / m" in desk.drawer.text.toPlainText()
        click(desk, "Put away")
        assert not desk.drawer.isVisible()

    def test_mounts_one_by_one_cases_and_working(self, desk: Desk, qtbot: Any) -> None:
        press(desk, Key.Key_F6)
        sheet = desk.sheets["mounts"]
        assert isinstance(sheet, MountsSheet)
        click(desk, "Gearbox")
        assert sheet.mount_id == "gearbox" and desk.session.selection == ("mount", "gearbox")
        assert len(sheet.this.bars.findings) == 33 and not sheet.plate.arm.isVisible()
        links = [bar.link for bar in sheet.this.chain.bars if bar.isVisible()]
        parts = [link.part for link in links if link is not None]
        assert parts[0] == "bolts to the block" and parts[-1] == "its end plates"
        QTest.mouseClick(sheet.this.chain.bars[0], Qt.MouseButton.LeftButton)
        assert desk.drawer.isVisible() and "Source:" in desk.drawer.text.toPlainText()
        sheet.rooms.go("loads")
        sheet.loads.cases.selectRow(1)
        assert desk.session.shown_case == "first-gear"
        qtbot.waitUntil(lambda: "full torque" in desk.view.layer.caption, timeout=3000)
        assert desk.view.pose().rotation[2, 1] > 0  # the left side has risen
        click(desk, "Show it at rest again")
        assert desk.session.shown_case == ""
        sheet.rooms.go("plate")
        sheet.plate.kind.take(0)
        assert desk.session.job.mounts[2].arm is not None and not sheet.plate.arm.isHidden()

    def test_holes_are_typed_in_words_and_added(self, desk: Desk) -> None:
        press(desk, Key.Key_F6)
        assert field(desk, "mounts/left/pad/holes/0").text() == "42.0 mm right, 32.0 mm down"
        type_in(desk, "mounts/left/pad/holes/0", "1 1/2 in right, 32 down")
        assert desk.session.job.mounts[0].pad.holes[0] == pytest.approx((38.1, -32.0))
        assert desk.session.job.said["mounts/left/pad/holes"] == "measured"
        click(desk, "Add a hole")
        assert len(desk.session.job.mounts[0].pad.holes) == 5
        type_in(desk, "mounts/left/pad/holes/4", "12 left, 40 up")
        assert desk.session.job.mounts[0].pad.holes[4] == (-12.0, 40.0)

    def test_pad_bush_and_outline_are_edited_in_words(self, desk: Desk) -> None:
        press(desk, Key.Key_F6)
        type_in(desk, "mounts/left/pad/centre/0", "220 forward")
        type_in(desk, "mounts/left/pad/arm_at/1", "6 down")
        type_in(desk, "mounts/left/name", "Near-side mount")
        mount = desk.session.job.mounts[0]
        assert mount.pad.centre[0] == 220 and mount.pad.arm_at == (0, -6) and mount.name == "Near-side mount"
        before = desk.session.job
        line = type_in(desk, "mounts/left/bush/axis/angle-0", "95")
        assert "at most 89 deg" in refusal(line) and desk.session.job is before
        QTest.keyClick(line, Key.Key_Escape)
        for text, words in (
            ("How far it settles", "Hooke"),
            ("First-gear torque", "what the tyres can hold"),
        ):
            click(desk, text)
            assert words in desk.drawer.text.toPlainText()
        desk.go("bay")
        desk.session.select("item", "front-crossmember")
        path = "items/front-crossmember/shapes/0/outline"
        assert field(desk, f"{path}/2").text() == "132.0 mm right, 110.0 mm down"
        type_in(desk, f"{path}/2", "132 right, 115 down")
        assert desk.session.job.items[2].shapes[0].outline[2] == (132, -115)  # type: ignore[union-attr]
        type_in(desk, f"{path}/3", "60 right, 200 down")
        assert (
            any(p.stage == "bay" for p in desk.session.verdict.problems) or len(desk.session.verdict.gaps) > 5
        )

    def test_mounts_and_crossmember_are_put_in_and_taken_out(self, desk: Desk) -> None:
        """From nothing to a held engine by buttons alone; taking out what is carried is refused with the
        reason."""
        press(desk, Key.Key_F6)
        click(desk, "Gearbox")
        click(desk, "Take this mount out")
        sheet = desk.sheets["mounts"]
        assert isinstance(sheet, MountsSheet) and "Leave the crossmember out first" in sheet.refusal.text()
        press(desk, Key.Key_F7)
        click(desk, "Leave the crossmember out")
        assert desk.session.job.crossmember is None
        press(desk, Key.Key_F6)
        for _ in range(3):
            click(desk, "Take this mount out")
        assert not desk.session.job.mounts and desk.stage_bar.plates["mounts"].state.state == "not begun"
        for count in (1, 2, 3):
            click(desk, "Add a mount")
            assert len(desk.session.job.mounts) == count and sheet.keys[-1] == sheet.mount_id
        names = [m.name for m in desk.session.job.mounts]
        assert names == ["Left engine mount", "Right engine mount", "Gearbox mount"]
        assert desk.session.verdict.carried is not None and len(desk.session.verdict.findings) > 20
        press(desk, Key.Key_F7)
        click(desk, "Put in a crossmember")
        assert {f.code for f in desk.session.verdict.findings} >= {"crossmember-stress", "crossmember-sag"}
        for _ in range(8):
            press(desk, Key.Key_Z, CTRL)
        assert [m.id for m in desk.session.job.mounts] == ["left", "right", "gearbox"]
        assert desk.session.job.crossmember is not None

    def test_crossmember_from_stock_and_typed(self, desk: Desk) -> None:
        press(desk, Key.Key_F7)
        combos = desk.sheets["crossmember"].findChildren(QComboBox)
        stock = next(c for c in combos if c.findText("square 50x50x3") >= 0)
        index = stock.findText("square 50x50x3")
        stock.setCurrentIndex(index)
        stock.activated.emit(index)
        assert (
            desk.session.job.crossmember is not None and desk.session.job.crossmember.section.height_mm == 50
        )
        use = {f.code: f.use for f in desk.session.verdict.findings if f.part == "crossmember"}
        type_in(desk, "crossmember/section/wall_mm", "2")
        assert (
            next(f.use for f in desk.session.verdict.findings if f.code == "crossmember-stress")
            > use["crossmember-stress"]
        )

    def test_logbook_keeps_notes(self, desk: Desk) -> None:
        press(desk, Key.Key_F12)
        line = desk.sheets["logbook"].findChild(QLineEdit, "log note")
        assert line is not None
        line.setFocus()
        QTest.keyClicks(line, "lost a 10 mm washer")
        QTest.keyClick(line, Key.Key_Return)
        table = desk.sheets["logbook"].findChild(QTableWidget)
        assert table is not None and "lost a 10 mm washer" in table.item(0, 1).text()  # type: ignore[union-attr]
        press(desk, Key.Key_S, CTRL)
        assert store.read(desk.session.place.path).log[-1]["what"] == "Note: lost a 10 mm washer"

    def test_pack_can_be_stopped(
        self, desk: Desk, qtbot: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        press(desk, Key.Key_F9)
        pack = desk.sheets["pack"]
        assert isinstance(pack, PackSheet) and pack.preview.drawing is not None
        pack.table.selectRow(1)
        assert pack.preview.drawing.name == "cope-left"

        def slow(job: Any, folder: Path, paper: Any, say: Any, rack: Any) -> Any:
            """The real writer, held up until the user has pressed Stop."""
            while True:
                say("Waiting")
                time.sleep(0.005)

        monkeypatch.setattr(pack_module, "write_pack", slow)
        pack.write(tmp_path / "stopped")
        qtbot.waitUntil(
            lambda: pack.answer.text() == "Waiting" and pack.stop_button.isVisible(), timeout=10000
        )
        click(desk, "Stop")
        qtbot.waitUntil(lambda: pack.answer.text() == "Stopped; nothing was written.", timeout=10000)
        assert not (tmp_path / "stopped").exists() and pack.write_button.isEnabled()

    def test_tell_tales_are_doors(self, desk: Desk) -> None:
        for tale_id, stage, words in (
            ("margin", "position", "margin = gap"),
            ("lowest", "position", "z - line_z"),
            ("driveline", "position", "single joint that would do as much"),
            ("share", "position", "moments about the front axle"),
            ("hardest", "mounts", "(D - d)/2"),
            ("idle", "mounts", "firings per second"),
        ):
            cell = next(c for c in desk.tales.cells if c.tale is not None and c.tale.id == tale_id)
            assert isinstance(cell, TellTaleCell)
            QTest.mouseClick(cell, Qt.MouseButton.LeftButton)
            QApplication.processEvents()
            assert desk.stage == stage and words in desk.drawer.text.toPlainText(), tale_id
            assert "Source:" in desk.drawer.text.toPlainText()


@pytest.mark.picture
class TestPicture:
    def test_the_bay_is_really_drawn(self, desk: Desk, qtbot: Any, tmp_path: Path) -> None:
        """A picture of the screen holds many colours where the 3-D part is, and changes when the engine
        moves."""
        qtbot.wait(700)
        picture(desk, tmp_path / "a.png")
        first = desk.view.gl.grab().toImage()
        colours = {
            first.pixel(x, y)
            for x in range(60, first.width() - 60, 9)
            for y in range(60, first.height() - 60, 9)
        }
        assert len(colours) > 60
        press(desk, Key.Key_3)
        press(desk, Key.Key_Left, times=4)
        qtbot.waitUntil(lambda: desk.session.job.position.y == 40)
        qtbot.wait(500)
        second = desk.view.gl.grab().toImage()
        changed = sum(
            first.pixel(x, y) != second.pixel(x, y)
            for x in range(0, first.width(), 7)
            for y in range(0, first.height(), 7)
        )
        assert changed > 200

    def test_dragging_turns_and_clicking_chooses(self, desk: Desk, qtbot: Any) -> None:
        canvas = desk.view.gl
        middle = QPoint(canvas.width() // 2, canvas.height() // 2)
        before = desk.view.renderer.GetActiveCamera().GetPosition()
        QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=middle)
        QTest.mouseMove(canvas, middle + QPoint(80, 30))
        QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=middle + QPoint(80, 30))
        qtbot.wait(100)
        after = desk.view.renderer.GetActiveCamera().GetPosition()
        assert max(abs(a - b) for a, b in zip(before, after, strict=True)) > 50
        assert not any(b.isChecked() for b in desk.view._group.buttons())
        desk.view.stand("corner")
        qtbot.wait(100)
        box = desk.view.layer.boxes[0]
        QTest.mouseClick(
            canvas, Qt.MouseButton.LeftButton, pos=QPoint(int(box.center().x()), int(box.center().y()))
        )
        assert desk.session.selection == tuple(desk.view.layer.tags[0].key.split(":", 1))

    @pytest.mark.parametrize(
        "stage", ["survey", "bay", "powertrain", "position", "mounts", "crossmember", "pack", "logbook"]
    )
    def test_nothing_is_cut_off_sideways(self, desk: Desk, qtbot: Any, stage: str) -> None:
        """Every visible widget of a sheet lies inside the sheet, and every button is wide enough for its
        words."""
        desk.go(stage)
        if stage == "bay":
            desk.session.select("item", "front-crossmember")
        qtbot.wait(50)
        sheet = desk.sheets[stage]
        port, inner = sheet.viewport(), sheet.widget()
        assert port is not None and inner is not None
        for w in inner.findChildren(QWidget):
            if w.isVisible() and not any(isinstance(p, (QTableWidget, QComboBox)) for p in _parents(w)):
                left = w.mapTo(inner, QPoint(0, 0)).x()
                assert left >= 0 and left + w.width() <= port.width() + 1, (stage, w, w.objectName())
        for b in sheet.findChildren(QPushButton):
            assert not b.isVisible() or b.fontMetrics().horizontalAdvance(b.text()) <= b.width() - 4, b.text()


def _parents(w: QWidget) -> Iterator[QWidget]:
    p = w.parentWidget()
    while p is not None:
        yield p
        p = p.parentWidget()


class TestFieldsAlone:
    @pytest.mark.parametrize(
        ("value", "shown"), [(-12.0, "12.0 mm back"), (12.0, "12.0 mm forward"), (0.0, "0.0 mm")]
    )
    def test_sides_are_words(self, value: float, shown: str) -> None:
        ways = ("forward", "back")
        assert show_with_way(value, "length", Display(), ways, None) == shown
        assert parse_with_way(shown, "length", Display(), ways, 5.0) == value

    def test_a_number_without_a_side_keeps_the_side_it_had(self) -> None:
        ways = ("left", "right")
        assert (
            parse_with_way("30", "length", Display(), ways, -4.0) == -30
            and parse_with_way("30", "length", Display(), ways, 4.0) == 30
        )
        assert (
            parse_with_way("-30", "length", Display(), ways, -4.0) == 30
            and parse_with_way("2 in r", "length", Display(), ways, 9.0) == -50.8
        )

    def test_inches_are_taken_and_shown(self, desk: Desk) -> None:
        desk.session.set_value("show", {"length": "in", "fraction": 16}, "inches")
        desk.go("mounts")
        line = type_in(desk, "mounts/left/bush/length_mm", "2 1/4")
        assert (
            bonded(desk.session.job.mounts[0].bush).length_mm == pytest.approx(57.15)
            and line.text() == "2 1/4 in"
        )
        assert isinstance(line.parentWidget(), QuantityField)

    def test_work_goes_on_while_another_edit_is_undone(self, desk: Desk) -> None:
        job = with_value(desk.session.job, "vehicle/want_front_share_percent", 70.0)
        desk.session.edit("Wish", job)
        assert tale(desk, "share").word == "as wished"
        desk.session.undo()
        assert desk.session.job.vehicle.want_front_share_percent == 60
