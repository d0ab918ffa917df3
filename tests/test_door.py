"""The door: the start page, a job of one's own by five questions, what is left to measure, help, the tour."""

from __future__ import annotations

import json
from collections.abc import Callable
from io import BytesIO
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.bodies import solid_of
from nimble_cradle.cli import main as command
from nimble_cradle.cli import window_commands
from nimble_cradle.demo import write_demo
from nimble_cradle.design.begin import CHASSIS, ENGINES, Answers, begun_job, things_of
from nimble_cradle.design.to_measure import to_measure
from nimble_cradle.desk.help_page import help_html, help_lines
from nimble_cradle.desk.keymap import every_group
from nimble_cradle.desk.new_job_page import NewJobPage
from nimble_cradle.desk.opened import begin_desk, open_desk
from nimble_cradle.desk.own_demo import demo_file
from nimble_cradle.desk.recent import recent_jobs
from nimble_cradle.desk.stages.survey.left_to_measure import LeftToMeasureRoom, Line
from nimble_cradle.desk.start_window import StartWindow
from nimble_cradle.desk.tour import STEPS
from nimble_cradle.desk.window import Desk
from nimble_cradle.files import data_folder
from nimble_cradle.job import store
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.said import facts, with_said
from nimble_cradle.job.survey import LevelReading, Reading
from nimble_cradle.judge.stages import STAGES
from nimble_cradle.judge.verdict import stage_states, verdict
from nimble_cradle.shop.survey_sheet import survey_sheet
from nimble_cradle.survey.made import placed_items
from nimble_cradle.survey.network import network
from nimble_cradle.telltales import tell_tales
from pypdf import PdfReader
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QAbstractButton, QApplication, QDialog

from conftest import ask_nothing
from pressing import CTRL, Key, QTest, press


class TestFiveQuestions:
    @pytest.mark.parametrize("chassis", list(CHASSIS))
    @pytest.mark.parametrize("engine", list(ENGINES))
    def test_every_answer_gives_a_job_that_is_judged_and_saved(
        self, chassis: Any, engine: Any, tmp_path: Path
    ) -> None:
        answers = Answers(chassis, engine, "front", "in/16", ("rack", "bonnet"))
        job = begun_job("own", answers)
        path = tmp_path / "own.cradle"
        store.write(path, job)
        assert store.read(path).job == job
        assert job.vehicle.driven == "front" and job.show.fraction == 16
        assert {i.id: i.fate for i in job.items if i.fate == "keep"} == {"rack": "keep", "bonnet": "keep"}
        assert (job.powertrain.gearbox.kind == "transaxle") is (engine == "across")
        assert abs(job.position.yaw_deg) == (90 if engine == "across" else 0)
        v = verdict(job)
        assert not v.holds and v.gaps == () and v.driveline is not None

    def test_nothing_that_is_a_placeholder_is_told_as_a_fault(self) -> None:
        job = begun_job("own", Answers())
        assert all(tale.state == "open" for tale in tell_tales(job, verdict(job)))
        states = {s.id: s.state for s in stage_states(job, verdict(job))}
        assert states["mounts"] == states["pack"] == "not begun" and states["survey"] == "open questions"

    def test_points_that_are_taped_make_the_things(self) -> None:
        """Both ends of the left rail from the datum: the rail is there, as wide as its guess says, and
        the list is two points and one thing shorter."""
        job = begun_job("own", Answers())
        before = {line.what: line.left for line in to_measure(job)}
        rows = [
            Reading(id=f"r{k}{kind}", kind=kind, point=point, value_mm=value)
            for k, (point, at) in enumerate(
                (("rail-left-front", (600.0, 420.0, 3.0)), ("rail-left-rear", (-410.0, 425.0, -2.0)))
            )
            for kind, value in zip(("forward", "left", "up"), at, strict=True)
        ]
        job = with_value(job, "survey/readings", tuple(rows))
        after = {line.what: line.left for line in to_measure(job)}
        points = next(what for what in before if what.startswith("Points"))
        assert before[points] - after[points] == 2
        net = network(job)
        assert not net.point("rail-left-front").free
        rail = next(item for item in placed_items(job) if item.id == "rail-left")
        low, high = (np.array(c) for c in solid_bounds(rail, job))
        assert low == pytest.approx([-410, 392, -103], abs=4) and high == pytest.approx([600, 455, 3], abs=4)

    def test_the_list_empties_as_things_are_said(self) -> None:
        job = begun_job("own", Answers())
        level = tuple(
            LevelReading(id=way, way=way, where="rails", rise_mm=1.0, over_mm=600.0)
            for way in ("across", "along")
        )
        job = with_value(with_value(job, "survey/level/readings", level), "survey/width_mm", 810.0)
        job = with_said(job, [f.path for f in facts(job)], "measured")
        left = {line.what: line.left for line in to_measure(job)}
        assert [left[w] for w in left if "Level" in w or "Centre" in w or "figures" in w] == [0, 0, 0, 0]
        assert left["What the mounts are made of"] == 1, "there is none yet"

    def test_a_finished_job_has_nothing_left_but_what_it_never_took(self, demo: Job) -> None:
        left = {line.what: line.left for line in to_measure(demo) if line.left}
        assert left == {"Centre line: wall to wall, halved": 1}


class TestTheBlankSheet:
    def test_it_lists_what_is_left_and_names_every_point(self) -> None:
        job = begun_job("own", Answers(chassis="shell"))
        text = " ".join(
            page.extract_text() for page in PdfReader(BytesIO(survey_sheet(job, blank=True))).pages
        )
        for line in to_measure(job):
            if line.left:
                assert line.what in text and str(line.left) in text
        for point in job.survey.points:
            assert point.name in text


class TestCommand:
    def test_new_writes_and_tells_what_is_left(self, tmp_path: Path, capsys: Any) -> None:
        path = tmp_path / "own"
        assert command.main(["new", str(path), "--engine", "across", "--units", "in", "--json"]) == 0
        told = json.loads(capsys.readouterr().out)
        job = store.read(tmp_path / "own.cradle").job
        assert told["file"].endswith("own.cradle") and job.show.length == "in"
        assert [row["left"] for row in told["left"]] == [line.left for line in to_measure(job)]
        assert command.main(["new", str(path), "--json"]) == 2, "never over a file that is there"
        assert "own.cradle" in capsys.readouterr().err
        assert command.main(["new", str(tmp_path / "b"), "--fixed", "towbar", "--json"]) == 2
        assert "towbar" in capsys.readouterr().err and not (tmp_path / "b.cradle").exists()

    def test_nothing_is_the_start_page_and_a_file_is_opened(self, monkeypatch: pytest.MonkeyPatch) -> None:
        asked: list[Any] = []

        def start(a: Any) -> int:
            asked.append("start")
            return 0

        def opened(a: Any) -> int:
            asked.append(a.file)
            return 0

        monkeypatch.setattr(window_commands, "_start", start)
        monkeypatch.setattr(window_commands, "_open", opened)
        assert command.main([]) == 0 and command.main(["start"]) == 0
        assert command.main(["my.cradle"]) == 0 and command.main(["./some/where"]) == 0
        assert asked == ["start", "start", Path("my.cradle"), Path("./some/where")]


def solid_bounds(item: Any, job: Job) -> tuple[Any, Any]:
    """Least and greatest corner of an item as it stands."""
    points = np.vstack([part.triangles[0] for part in solid_of(item, job.meshes, "items")])
    return points.min(0), points.max(0)


@pytest.fixture
def door(qtbot: Any, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> Callable[[], StartWindow]:
    """Makes a start page; windows that it opens are closed in the end."""
    for left in data_folder().glob("recent.json"):
        left.unlink()

    def kept(window: Desk) -> Desk:
        qtbot.addWidget(window, before_close_func=ask_nothing)
        return window

    def made() -> StartWindow:
        window = StartWindow(
            lambda path: kept(open_desk(path)),
            lambda path, answers: kept(begin_desk(path, answers)),
            lambda name: kept(open_desk(demo_file(name))),
        )
        qtbot.addWidget(window)
        window.show()
        return window

    return made


def button(inside: Any, text: str) -> QAbstractButton:
    found = [b for b in inside.findChildren(QAbstractButton) if b.text() == text]
    assert isinstance(found[0], QAbstractButton)
    return found[0]


class TestStartPage:
    def test_a_new_job_by_clicks(
        self, door: Callable[[], StartWindow], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        """Name, five answers, Begin: the window opens at Survey with what is left; the page goes."""
        window = door()
        assert window.cards == []

        def answered(page: NewJobPage) -> int:
            page.folder = tmp_path
            page.name.clear()
            button(page, "Begin").click()
            assert "Give it a name" in page.refusal.text()
            QTest.keyClicks(page.name, "Blue van: 2")
            page.engine.setCurrentIndex(1)
            page.chassis.setCurrentIndex(1)
            page.chassis.activated.emit(1)
            assert set(page.fixed) == {thing.id for thing in things_of("shell")}
            page.fixed["bonnet"].setChecked(True)
            button(page, "Begin").click()
            return page.result()

        monkeypatch.setattr(NewJobPage, "exec", answered)
        button(window, "New job …").click()
        desk = window.opened[0]
        assert isinstance(desk, Desk) and desk.isVisible() and not window.isVisible()
        assert desk.session.place.path == tmp_path / "blue-van--2.cradle" and desk.stage == "survey"
        assert {i.id for i in desk.session.job.items if i.fate == "keep"} == {"rack", "bonnet"}
        room = desk.sheets["survey"].rooms.present
        assert isinstance(room, LeftToMeasureRoom) and "are left" in room.total.text()

    def test_a_name_that_is_taken_is_refused(self, qtbot: Any, tmp_path: Path) -> None:
        page = NewJobPage(None, tmp_path)
        qtbot.addWidget(page)
        (tmp_path / "my-job.cradle").write_bytes(b"x")
        button(page, "Begin").click()
        assert "is there already" in page.refusal.text() and page.result() == QDialog.DialogCode.Rejected

    def test_a_job_that_was_open_is_there_with_its_picture(
        self, door: Callable[[], StartWindow], tmp_path: Path, qtbot: Any
    ) -> None:
        path = write_demo("light-truck", tmp_path / "truck.cradle")
        desk = open_desk(path)
        qtbot.addWidget(desk, before_close_func=ask_nothing)
        qtbot.waitUntil(lambda: not desk.view.gl.picture().isNull())
        desk.session.place.count_as_saved()
        desk.close()
        row = recent_jobs()[0]
        asked = sum(len(s.questions) for s in stage_states(desk.session.job, desk.session.verdict))
        assert row.path == str(path) and row.open == f"{asked} open, tightest 21.8 mm short"
        window = door()
        card = window.cards[0]
        assert not card.image.isNull() and card.accessibleName() == "Open Light truck, 2.7 diesel"
        QTest.mouseClick(card, Qt.MouseButton.LeftButton)
        assert window.opened[0].session.place.path == path and not window.isVisible()

    def test_a_list_that_cannot_be_read_and_files_that_are_gone(self, tmp_path: Path) -> None:
        where = data_folder() / "recent.json"
        where.parent.mkdir(parents=True, exist_ok=True)
        for torn in (b"", b"{", b"[1]", b'[{"path": 4}]', b"\xff", b"null"):
            where.write_bytes(torn)
            assert recent_jobs() == ()
        where.write_text(json.dumps([{"path": str(tmp_path / "gone.cradle"), "name": "Gone"}]))
        assert recent_jobs() == ()

    def test_a_bad_file_gets_one_sentence_and_the_page_stays(
        self, door: Callable[[], StartWindow], tmp_path: Path
    ) -> None:
        bad = tmp_path / "bad.cradle"
        bad.write_bytes(b"this is no job")
        window = door()
        assert window.open(bad) is None
        assert window.isVisible() and window.notice.isVisible() and "bad.cradle" in window.notice.text()

    def test_a_file_dropped_on_it_is_opened(self, door: Callable[[], StartWindow], tmp_path: Path) -> None:
        path = write_demo("hatchback", tmp_path / "hatch.cradle")
        window = door()
        window.dropEvent(dropped(tmp_path / "notes.txt"))
        assert window.opened == []
        window.dropEvent(dropped(path))
        assert window.opened[0].session.place.path == path


def dropped(path: Path) -> QDropEvent:
    """A file let go over a window."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    dropped.kept = data  # type: ignore[attr-defined]
    return QDropEvent(
        QPointF(50, 50),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )


def test_a_line_of_what_is_left_opens_its_place(qtbot: Any, tmp_path: Path) -> None:
    desk = begin_desk(tmp_path / "own.cradle", Answers())
    qtbot.addWidget(desk, before_close_func=ask_nothing)
    lines = [w for w in desk.sheets["survey"].findChildren(Line) if w.line is not None]
    assert [w.line.what for w in lines if w.line] == [line.what for line in to_measure(desk.session.job)]
    for what, stage, room in (("Level", "survey", "level"), ("Points", "survey", "points")):
        desk.go("survey")
        desk.sheets["survey"].rooms.go("left")
        QTest.mouseClick(
            next(w for w in lines if w.line and w.line.what.startswith(what)), Qt.MouseButton.LeftButton
        )
        QApplication.processEvents()
        assert desk.stage == stage and desk.sheets[stage].rooms.present.key == room
    assert desk.session.selection == ("point", "rail-left-front"), "the next one is chosen"


class TestHelp:
    def test_every_stage_has_help_of_its_own(self) -> None:
        for stage in STAGES:
            lines = help_lines(stage.id)
            assert len(lines) >= 2 and all(len(line) < 200 for line in lines)
            assert help_html(stage.id).index(lines[0][:20]) < help_html(stage.id).index("Move the engine")

    def test_the_search_finds_help_and_keys_of_other_pages(self) -> None:
        assert "turn it end for end" in help_html("pack", "level end")
        assert "Nothing is said of" in help_html("pack", "zeppelin <b>") and "<b>”" not in help_html(
            "pack", "z <b>"
        )
        assert sum(len(group.rows) for group in every_group()) > 20


def test_the_tour_is_done_by_the_user(desk: Desk, qtbot: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    """Each step waits for what it asks; the search for the seat is stood in for by its result."""
    press(desk, Key.Key_F1, Qt.KeyboardModifier.ShiftModifier)
    tour = desk.tour
    assert tour.isVisible() and tour.words.text().find("1 of") >= 0
    tour.timer.stop()

    def done() -> bool:
        at = tour.at
        tour._look()
        return tour.at > at or not tour.isVisible()

    assert not done()
    press(desk, Key.Key_Down, times=3)
    qtbot.waitUntil(lambda: desk.session.job.position.x < -248.5)
    assert done() and not done()
    press(desk, Key.Key_3)
    press(desk, Key.Key_Down, times=3)
    qtbot.waitUntil(lambda: desk.session.job.position.x < -270)
    assert done() and not done()
    QTest.mouseClick(desk.tales.cells[0], Qt.MouseButton.LeftButton)
    assert done() and not done()
    tour.go_on()
    press(desk, Key.Key_F6)
    assert not done()
    press(desk, Key.Key_K, CTRL)
    assert done()
    press(desk, Key.Key_Z, CTRL)
    assert done() and not tour.isVisible() and len(STEPS) == 6
