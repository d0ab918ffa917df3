"""Nothing ends the program: walks at random over the window, rooms that go while their work runs, faults that
nobody caught, jobs with impossible figures, screens and outputs that cannot be had."""

from __future__ import annotations

import copy
import gc
import json
import random
import sys
import textwrap
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from nimble_cradle.cli import main as cli_main
from nimble_cradle.demo import demo_folder, write_demo
from nimble_cradle.desk.opened import open_desk
from nimble_cradle.desk.stages.position.sheet import PositionSheet
from nimble_cradle.desk.stages.powertrain.sheet import PowertrainSheet
from nimble_cradle.desk.window import Desk
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.new import new_job
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.judge import crossmember as judge_crossmember
from nimble_cradle.judge import mounts as judge_mounts
from nimble_cradle.judge import position as judge_position
from nimble_cradle.judge.verdict import stage_states, verdict
from nimble_cradle.seat.settled import Settled
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.shop.report import report_data, report_text
from nimble_cradle.shop.templates import templates
from nimble_cradle.telltales import tell_tales
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox

from conftest import ask_nothing
from pressing import click, click_button, press
from processes import child
from walking import Walk, at_rest, no_dialogs

Key = Qt.Key


def opened(qtbot: Any, path: Path) -> Desk:
    """A window on a job file."""
    desk = Desk(OpenJob(path))
    qtbot.addWidget(desk, before_close_func=ask_nothing)
    desk.show()
    qtbot.waitExposed(desk)
    desk.activateWindow()
    qtbot.waitUntil(desk.isActiveWindow, timeout=5000)
    return desk


@pytest.fixture
def blank(qtbot: Any, tmp_path: Path) -> Desk:
    """The window on a job with nothing in it."""
    path = tmp_path / "blank.cradle"
    store.write(path, new_job("Blank"))
    return opened(qtbot, path)


@pytest.mark.parametrize("name", ("light-truck", "hatchback", "blank"))
def test_a_walk_at_random_meets_no_fault_and_loses_nothing(
    qtbot: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, name: str, demo: Job, hatchback: Job
) -> None:
    """A fault in a slot fails the test (the runner's own hook); killed afterwards, the job is what it was."""
    no_dialogs(monkeypatch.setattr)
    path = tmp_path / f"{name}.cradle"
    if name == "blank":
        store.write(path, new_job("Blank"))
    else:
        write_demo(name, path)
    desk = opened(qtbot, path)
    walk = Walk(desk, seed=20)
    for _ in range(30):
        walk.step()
    at_rest(desk)
    place = desk.session.place
    assert len(walk.done) == 30 and not place.trouble
    assert place._lock is not None
    place._lock.release()
    again = OpenJob(path)
    assert again.job == place.job, walk.done
    again.close()


class TestTasksOutliveTheirRooms:
    def held(self, monkeypatch: pytest.MonkeyPatch, where: str, whole: Callable[..., Any]) -> threading.Event:
        """Work that waits until it is let go."""
        go = threading.Event()

        def waits(*arguments: Any) -> Any:
            go.wait(20)
            return whole(*arguments)

        monkeypatch.setattr(where, waits)
        return go

    def test_the_wish_is_said_while_a_seat_is_looked_for(
        self, desk: Desk, small_bay: Job, qtbot: Any, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        """The room is made anew for the wish; the one that stands then says that the job has changed."""
        from nimble_cradle.seat.settle import settle

        desk.session.edit("No wish", with_value(small_bay, "wish", None))
        sheet = desk.sheets["position"]
        assert isinstance(sheet, PositionSheet)
        go = self.held(monkeypatch, "nimble_cradle.desk.stages.position.settle.settle", settle)
        press(desk, Key.Key_S)
        first = sheet.settling
        assert first.working and first.stop_button.isVisible()
        click_button(first, "Say what is wished")
        second = sheet.settling
        qtbot.waitUntil(second.stop_button.isVisible, timeout=5000)
        assert second is not first and first.gone and second.stop_button.isVisible()
        go.set()
        qtbot.waitUntil(lambda: not second.working, timeout=20000)
        assert "changed meanwhile" in second.refusal.text() and not second.stop_button.isVisible()

    def test_the_first_seat_of_a_job_without_a_wish_is_shown(
        self, desk: Desk, small_bay: Job, qtbot: Any
    ) -> None:
        desk.session.edit("No wish", with_value(small_bay, "wish", None))
        press(desk, Key.Key_S)
        sheet = desk.sheets["position"]
        assert isinstance(sheet, PositionSheet)
        qtbot.waitUntil(lambda: not sheet.settling.working, timeout=60000)
        room = sheet.settling
        qtbot.waitUntil(room.result.isVisible, timeout=5000)  # a new room is shown by the next turn of events
        assert desk.session.job.wish is not None and room.isVisible()
        assert room.result.isVisible() and "mm" in room.result.text() and room.table.isVisible()

    def test_a_mark_is_added_while_a_way_out_is_looked_for(
        self, desk: Desk, qtbot: Any, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        """Marks make the sheet's rooms anew; what was found before is still there."""
        sheet = desk.sheets["position"]
        assert isinstance(sheet, PositionSheet)
        sheet.rooms.go("exit")
        go = self.held(
            monkeypatch, "nimble_cradle.desk.stages.position.removal.find_removal", lambda *_: None
        )
        click(desk, "Find the way out")
        sheet.rooms.go("marks")
        before = sheet.rooms.present
        click(desk, "Propose marks")
        qtbot.waitUntil(lambda: len(desk.session.job.marks) > 0, timeout=20000)
        assert before.gone
        go.set()
        room = sheet.rooms.room("exit")
        qtbot.waitUntil(lambda: not desk.session.tasks.running("exit"), timeout=60000)
        assert "changed meanwhile" in room.refusal.text()

    def test_a_transaxle_is_mocked_up_in_a_blank_job(self, blank: Desk, qtbot: Any) -> None:
        """The button that is pressed stands on the sheet that is made anew by it."""
        press(blank, Key.Key_F4)
        sheet = blank.sheets["powertrain"]
        assert isinstance(sheet, PowertrainSheet)
        sheet.rooms.go("mock-up")
        room = sheet.rooms.present
        for box in room.findChildren(QComboBox):
            for k in range(box.count()):
                if "transaxle" in box.itemText(k):
                    box.setCurrentIndex(k)
                    box.activated.emit(k)
        click(blank, "Build the mock-up")
        qtbot.waitUntil(lambda: sheet.rooms.present.isVisible(), timeout=5000)
        assert blank.session.job.powertrain.gearbox.kind == "transaxle" and room.gone
        assert sheet.rooms.present is not room and sheet.rooms.present.isVisible()

    def test_a_window_closes_while_work_runs(
        self, desk: Desk, qtbot: Any, settled_truck: Settled, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        from nimble_cradle.seat.settle import settle

        go = self.held(monkeypatch, "nimble_cradle.desk.stages.position.settle.settle", settle)
        press(desk, Key.Key_S)
        ask_nothing(desk)
        before = desk.session.job
        desk.close()
        go.set()
        qtbot.wait(50)
        assert desk.session.job is before


PLANTED = """
import sys
import threading
from pathlib import Path
from PyQt6.QtCore import QTimer
from nimble_cradle.desk import start
from nimble_cradle.desk.window import Desk

def planted(desk):
    raise RuntimeError("planted")

def act():
    desk = next(w for w in app.topLevelWidgets() if isinstance(w, Desk))
    desk.session.nudge((0, 3, 0))
    desk.session.ahead.arrive()
    desk.session.changed.connect(lambda: planted(desk))
    desk.session.nudge((0, 4, 0))
    threading.Thread(target=elsewhere).start()
    QTimer.singleShot(600, lambda: leave(desk))

def elsewhere():
    raise LookupError("planted on a thread")

def leave(desk):
    desk.session.nudge((0, 0, 5))
    app.processEvents()
    print(desk.notice.isVisible(), desk.notice.text(), sep="|")
    print(desk.session.job.position.y, desk.session.job.position.z, sep="|")
    desk.session.place.count_as_saved()
    desk.close()

start.ensure_screen()
app = start.application()
QTimer.singleShot(300, act)
sys.exit(start.run_file(Path(sys.argv[1])))
"""


def test_a_fault_nobody_caught_is_told_once_and_the_window_goes_on(tmp_path: Path) -> None:
    path = write_demo("light-truck", tmp_path / "truck.cradle")
    there = store.read(path).job.position
    env = {"XDG_DATA_HOME": str(tmp_path / "data")}
    ran = child([sys.executable, "-c", textwrap.dedent(PLANTED), str(path)], env=env)
    assert ran.returncode == 0, ran.stderr
    shown, stood = ran.stdout.strip().splitlines()
    assert shown.startswith("True|Something went wrong inside the program (")
    assert "safe in the journal" in shown
    assert stood == f"{there.y + 7}|{there.z + 5}", "edits go on"
    reports = {p: p.read_text() for p in (tmp_path / "data" / "nimble-cradle" / "faults").glob("fault-*.txt")}
    assert len(reports) == 2 and any(str(p) in shown for p in reports)
    assert sorted("planted on a thread" in text for text in reports.values()) == [False, True]
    assert all("planted" in text and "Nudged" in text for text in reports.values())
    assert "Traceback" not in ran.stderr and ran.stderr.count("Something went wrong") == 2


def test_a_fault_of_a_command_is_one_line(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    monkeypatch.setattr(cli_main, "all_calculations", lambda: 1 / 0)
    assert cli_main.main(["calc", "--list"]) == 70
    said = capsys.readouterr().err
    (report,) = (tmp_path / "nimble-cradle" / "faults").glob("*.txt")
    assert len(said.splitlines()) == 1 and str(report) in said and "ZeroDivisionError" in said
    assert "1 / 0" in report.read_text()


@pytest.mark.parametrize("encoding", ("ascii", "latin-1"))
def test_an_output_that_cannot_take_a_letter(encoding: str, demo: Job) -> None:
    folder = str(demo_folder("light-truck"))
    env = {"PYTHONIOENCODING": encoding}
    command = [sys.executable, "-m", "nimble_cradle"]
    if encoding == "ascii":
        ran = child([*command, "report", folder], env=env, text=False)
        text = ran.stdout.decode(encoding)
        assert ran.returncode == 0 and ran.stderr == b"" and demo.name in text and " - " in text
        return
    data = json.loads(
        child([*command, "report", folder, "--json"], env=env, text=False).stdout.decode(encoding)
    )
    assert any("–" in p["sentence"] for p in data["problems"]) or "–" in json.dumps(data, ensure_ascii=False)
    bad = child([*command, "calc", "nonsense"], env=env, text=False)
    assert bad.returncode == 2 and len(bad.stderr.splitlines()) == 1 and b"Traceback" not in bad.stderr


def test_a_display_that_does_not_answer_is_one_line(tmp_path: Path) -> None:
    env = {"DISPLAY": ":4077", "WAYLAND_DISPLAY": "", "XDG_DATA_HOME": str(tmp_path)}
    ran = child([sys.executable, "-m", "nimble_cradle", "demo"], env=env)
    assert ran.returncode == 1 and len(ran.stderr.splitlines()) == 1 and ":4077" in ran.stderr


class TestVerdictNeverRaises:
    @pytest.mark.parametrize(
        ("stage", "part"),
        (
            (judge_position, "lowest_point"),
            (judge_position, "driveline"),
            (judge_mounts, "mount_questions"),
            (judge_mounts, "check_mount"),
            (judge_mounts, "mount_verdict"),
            (judge_crossmember, "judge"),
        ),
    )
    def test_the_last_guard_names_the_part_and_the_rest_is_judged(
        self, demo: Job, monkeypatch: pytest.MonkeyPatch, stage: Any, part: str
    ) -> None:
        def broken(*_: Any) -> Any:
            raise ZeroDivisionError("planted")

        before = verdict(demo)
        monkeypatch.setattr(stage, part, broken)
        fresh = with_value(
            demo, "loads/tyre_grip", demo.loads.tyre_grip + 0.01
        )  # nothing of it is remembered
        v = verdict(fresh)
        named = [p.sentence for p in v.problems if "planted" in p.sentence]
        assert named and not v.holds and v.open_questions
        subject = {
            "lowest_point": "The lowest point",
            "driveline": "The driveline",
            "mount_questions": "The metal of the mounts",
            "check_mount": "Left engine mount",
            "mount_verdict": "Left engine mount",
            "judge": "Crossmember",
        }[part]
        assert named[0].startswith(subject) and len(v.gaps) == len(before.gaps)

    @pytest.mark.parametrize("way", ((-1.0, 0.0, -7.0), (0.0, 0.0, -1.0), (1.0, 0.0, 0.0), (0.0, 1e-9, 1e-5)))
    def test_whatever_way_the_axle_looks(self, demo: Job, way: tuple[float, float, float]) -> None:
        try:
            job = with_value(demo, "vehicle/axle_input_direction", way)
        except JobError:
            return
        v = verdict(job)
        assert len(v.mounts) == 3 and v.gaps
        assert tell_tales(job, v) and stage_states(job, v)

    @pytest.mark.parametrize("name", ("small bay", "hatchback"))
    def test_whatever_figures_a_job_holds(self, small_bay: Job, hatchback: Job, name: str) -> None:
        """Seeded: one to three figures of a job become noughts, negatives, huge or tiny; what still opens is
        judged, reported, drawn and cut without a fault."""
        job = small_bay if name == "small bay" else hatchback
        data = job.model_dump(mode="json", by_alias=True)
        meshes = {m.name: m.data for m in job.meshes}
        leaves = [p for p in places(data) if p[0] not in ("schema", "meshes", "show", "candidates")]
        rng, opened_ones = random.Random(5), 0
        for _ in range(20 if name == "small bay" else 6):
            bad = copy.deepcopy(data)
            for path in rng.sample(leaves, rng.choice((1, 1, 2, 3))):
                at: Any = bad
                for step in path[:-1]:
                    at = at[step]
                at[path[-1]] = rng.choice((-1, 0, -7, 1, 7, 1e3, -1e3, 1e-9, 360, 90, 0.5))
            try:
                odd = store.job_from_data(bad, meshes)
            except JobError:
                continue
            opened_ones += 1
            v = verdict(odd)
            assert tell_tales(odd, v) and stage_states(odd, v) and report_text(odd, v)
            json.dumps(report_data(odd, v), allow_nan=False)
            templates(odd)
            cut_list(odd)
        assert opened_ones > 3


def places(data: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Paths of all numbers in plain data."""
    if isinstance(data, dict):
        return [p for k, v in data.items() for p in places(v, (*path, k))]
    if isinstance(data, list):
        return [p for k, v in enumerate(data) for p in places(v, (*path, k))]
    return [path] if isinstance(data, int | float) and not isinstance(data, bool) else []


def test_what_was_judged_is_taken_on_the_interface_s_thread(desk: Desk) -> None:
    """What begins after the first picture on a thread of its own takes no verdict that is under way."""
    session, threads = desk.session, []
    take = session.ahead._take
    session.ahead._take = lambda job, found: (threads.append(threading.current_thread()), take(job, found))  # type: ignore[assignment, func-returns-value]
    session.ahead.go(with_value(session.job, "position/x", session.job.position.x + 3.0))
    session.finish_first()
    session.wait_first()
    assert not threads
    session.ahead.arrive()
    assert threads == [threading.main_thread()]


def test_what_is_dropped_in_a_circle_dies_where_widgets_live(qapp: Any, qtbot: Any, tmp_path: Path) -> None:
    """A thread that works makes the collector run, but not on it: as long as a window is open what it finds
    dies on the interface's thread. Without a window it runs by itself as ever."""
    died: list[bool] = []

    class Circle:
        def __init__(self) -> None:
            self.me = self
            self.much = [0] * 10

        def __del__(self) -> None:
            died.append(threading.current_thread() is threading.main_thread())

    def work() -> None:
        for _ in range(5000):
            kept: list[Any] = [[] for _ in range(20)]  # the collector counts what is made and kept
            kept.append(kept)

    desk = open_desk(write_demo("light-truck", tmp_path / "a.cradle"))
    try:
        assert not gc.isenabled()
        for _ in range(3):
            for _ in range(50):
                Circle()
            worker = threading.Thread(target=work)
            worker.start()
            worker.join()
            before = len(died)
            qtbot.waitUntil(lambda b=before: len(died) > b, timeout=5000)
        assert len(died) > 100 and all(died)
    finally:
        desk.session.place.count_as_saved()
        desk.finish()
        desk.close()
    assert gc.isenabled()
