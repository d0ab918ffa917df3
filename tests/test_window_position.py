"""The rooms of Position driven by keys and clicks: pushes, Settle, what each cut buys, shims, marks, the
film, candidates, sections."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from nimble_cradle.bay.bodies import bay_bodies
from nimble_cradle.bay.position import nudged, pose_of
from nimble_cradle.demo import demo_folder, write_demo
from nimble_cradle.desk.bay_view.gap_bodies import drawn_bodies
from nimble_cradle.desk.kit.working_room import WorkingRoom
from nimble_cradle.desk.stages.position.candidates import CandidatesRoom
from nimble_cradle.desk.stages.position.driveline import DrivelineRoom
from nimble_cradle.desk.stages.position.marks import MarksRoom
from nimble_cradle.desk.stages.position.removal import RemovalRoom
from nimble_cradle.desk.stages.position.section import SectionRoom
from nimble_cradle.desk.stages.position.sheet import PositionSheet
from nimble_cradle.desk.stages.position.supports import SupportsRoom
from nimble_cradle.desk.window import Desk
from nimble_cradle.fit.gaps import gaps_at_rest, ways_out_of
from nimble_cradle.fit.marks import distance_of
from nimble_cradle.geometry.scan import Scan
from nimble_cradle.job import store
from nimble_cradle.job.edits import with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.job.wish import Window
from nimble_cradle.seat.settled import Settled
from nimble_cradle.survey import kept_cells
from nimble_cradle.survey import shapes as solid_shapes
from nimble_cradle.survey.scans import with_scan
from nimble_cradle.units import show
from PyQt6.QtCore import Qt

from pressing import click_button, press, type_into

SHIFT = Qt.KeyboardModifier.ShiftModifier
Key = Qt.Key


def sheet_of(desk: Desk) -> PositionSheet:
    sheet = desk.sheets["position"]
    assert isinstance(sheet, PositionSheet)
    return sheet


def enter(desk: Desk, key: str, kind: type) -> Any:
    """Go to a room and give it."""
    sheet_of(desk).rooms.go(key)
    room = sheet_of(desk).rooms.present
    assert isinstance(room, kind)
    return room


def wait_for(qtbot: Any, room: WorkingRoom, seconds: float = 60) -> None:
    qtbot.waitUntil(lambda: not room.working, timeout=int(1000 * seconds))


def least_margin(desk: Desk) -> float:
    return min(g.margin for g in desk.session.verdict.gaps if not g.piece.endswith(".arm"))


class TestPush:
    def test_shift_and_an_arrow_pushes_until_something_stops_it(self, desk: Desk, qtbot: Any) -> None:
        hand = sheet_of(desk).hand
        before = desk.session.job.position
        press(desk, Key.Key_Down, SHIFT)
        wait_for(qtbot, hand)
        assert desk.session.job.position.x < before.x - 1 and "stopped by" in hand.pushed_words.text()
        assert desk.session.selection[0] == "gap"
        desk.session.undo()
        assert desk.session.job.position == before

    def test_the_buttons_push_once_push_is_on(self, desk: Desk, qtbot: Any) -> None:
        hand = sheet_of(desk).hand
        press(desk, Key.Key_P)
        assert hand.push_button.isChecked()
        z = desk.session.job.position.z
        click_button(hand, "Up")
        wait_for(qtbot, hand)
        assert desk.session.job.position.z > z + 0.4 or "Does not go up" in hand.pushed_words.text()


class TestWaysOut:
    def test_what_is_made_and_in_something_is_told_and_shown(self, desk: Desk) -> None:
        """Every lacking gap with a made part or a shaft in it can be chosen, is told, and lights both."""
        job = desk.session.job
        for path, value in (
            ("mounts/left/pad/centre", (214.0, 104.0, 6.0)),
            ("propshaft/tube_outside_mm", 170.0),
            ("crossmember/points/0", (-880.3, 402.0, -127.0)),
        ):
            job = with_value(job, path, value)
        desk.session.edit("Spoilt", job)
        hand = sheet_of(desk).hand
        lacking = [g for g in desk.session.verdict.gaps if g.margin < 0 and ("." in g.piece or "." in g.item)]
        kinds = {part.partition(".")[0] for g in lacking for part in (g.piece, g.item) if "." in part}
        assert kinds >= {"left", "crossmember", "propshaft"}
        for gap in lacking:
            desk.session.select("gap", f"{gap.piece}/{gap.item}")
            assert gap.piece_name in hand.gap_words.text() and gap.item_name in hand.gap_words.text()
            assert drawn_bodies(job, gap.piece, gap.item) <= set(desk.view.bodies)

    def test_an_overlap_says_how_far_it_is_out_of_it_each_way_and_that_is_enough(
        self, desk: Desk, qtbot: Any
    ) -> None:
        desk.session.edit(
            "Sunk", with_value(desk.session.job, "position", nudged(desk.session.job, (0.0, 0.0, -30.0)))
        )
        press(desk, Key.Key_G)
        gap = desk.session.chosen_gap()
        hand = sheet_of(desk).hand
        assert (
            gap is not None and gap.gap < 0 and "Out of it at rest, one way alone: " in hand.gap_words.text()
        )
        ways = ways_out_of(desk.session.job, gap)
        assert (
            show(ways[0][1], "length", desk.session.display) + f" {ways[0][0]}" in hand.gap_words.text()
            and ways[0][1] >= -gap.gap - 0.05
        )
        signs = {
            "forward": (1, 0, 0),
            "back": (-1, 0, 0),
            "left": (0, 1, 0),
            "right": (0, -1, 0),
            "up": (0, 0, 1),
            "down": (0, 0, -1),
        }
        for way, travel in ways:
            for more, clear in ((-0.3, False), (0.1, True)):
                move = tuple((travel + more) * s for s in signs[way])
                there = with_value(desk.session.job, "position", nudged(desk.session.job, move))
                found = [
                    g
                    for g in gaps_at_rest(there, pose_of(there.position))
                    if (g.piece, g.item) == (gap.piece, gap.item)
                ]
                assert (not found or found[0].gap > 0) is clear, (way, travel, more)

    def test_a_scan_is_cut_up_once_and_kept_in_the_users_cache(
        self, qapp: Any, qtbot: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
        path = tmp_path / "h.cradle"
        job = store.read(demo_folder("hatchback")).job
        point = np.column_stack(
            [
                g.ravel()
                for g in np.meshgrid(
                    np.linspace(-900, -300, 60), np.linspace(-300, 300, 60), [-900.0], indexing="ij"
                )
            ]
        )
        n = np.arange(3600).reshape(60, 60)
        a, b, c, d = n[:-1, :-1].ravel(), n[1:, :-1].ravel(), n[1:, 1:].ravel(), n[:-1, 1:].ravel()
        large, key = with_scan(
            job, "floor.ply", Scan(point, np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])]))
        )
        store.write(path, with_value(large, f"items/{key}/placed", True))
        for again in (False, True):
            monkeypatch.setattr(kept_cells, "_known", type(kept_cells._known)())
            solid_shapes._placed_mesh.cache_clear()
            solid_shapes.solid.cache_clear()
            if again:
                monkeypatch.setattr(kept_cells, "cut", lambda *_: pytest.fail("cut up again"))
            desk = Desk(OpenJob(path))
            qtbot.addWidget(desk, before_close_func=lambda w: w.session.place.count_as_saved())
            desk.show()
            digest = next(m.sha256 for m in desk.session.job.meshes if m.name.startswith("floor"))
            qtbot.waitUntil(lambda d=digest: kept_cells.place_of(d).exists(), timeout=20000)
            assert {p.name for p in tmp_path.iterdir()} <= {"h.cradle", "h.cradle.lock", "cache"}
            assert len(bay_bodies(desk.session.job).parts) > 20
            desk.session.wait_first()
            desk.close()


class TestSettle:
    def test_one_key_settles_as_one_edit_and_says_what_stops_it(self, desk: Desk, qtbot: Any) -> None:
        before = desk.session.job
        assert least_margin(desk) < 0
        press(desk, Key.Key_S)
        room = sheet_of(desk).settling
        wait_for(qtbot, room)
        assert least_margin(desk) > -0.05 and "mm back" in room.result.text()
        assert room.table.rowCount() >= 2 and room.table.isVisible()
        cells = [room.table.item(k, 0) for k in range(room.table.rowCount())]
        stops = [cell.text() for cell in cells if cell is not None]
        room.table.selectRow(next(k for k, name in enumerate(stops) if name.startswith("Sump, shallow end")))
        assert desk.session.selection == ("gap", "sump-shallow/front-crossmember")
        desk.session.undo()
        assert desk.session.job == before and not room.result.isVisible()

    def test_stopped_half_way_nothing_has_changed(self, desk: Desk, qtbot: Any) -> None:
        before = desk.session.job
        press(desk, Key.Key_S)
        room = sheet_of(desk).settling
        room.stop()
        wait_for(qtbot, room)
        qtbot.waitUntil(lambda: room.refusal.text() == "Stopped.", timeout=5000)
        assert desk.session.job is before

    def test_no_seat_says_which_wishes_fight(self, desk: Desk, small_bay: Job, qtbot: Any) -> None:
        desk.session.edit("Narrow", with_value(small_bay, "wish/height", Window(low=-130, high=-80)))
        before = desk.session.job
        press(desk, Key.Key_S)
        room = sheet_of(desk).settling
        wait_for(qtbot, room, 90)
        qtbot.waitUntil(lambda: "No seat found" in room.refusal.text(), timeout=5000)
        assert (
            "work against each other" in room.refusal.text()
            and "height" in room.refusal.text()
            and desk.session.job is before
        )

    def test_a_window_that_is_empty_is_refused_at_the_field(self, desk: Desk) -> None:
        room = sheet_of(desk).settling
        sheet_of(desk).rooms.go("settle")
        field = type_into(room, "wish/side/low", "30 left")
        assert (
            "window is empty" in field.refusal.text()
            and desk.session.job.wish is not None
            and desk.session.job.wish.side.low == -12
        )


class TestTrades:
    def test_worked_out_listed_with_pictures_and_taken_with_one_key(self, desk: Desk, qtbot: Any) -> None:
        keep = ("wiper", "fuel-line")
        wish = desk.session.job.wish
        assert wish is not None
        desk.session.edit(
            "Fewer", with_value(desk.session.job, "wish/sales", tuple(s for s in wish.sales if s.id in keep))
        )
        press(desk, Key.Key_T)
        room = sheet_of(desk).trading
        wait_for(qtbot, room, 90)
        qtbot.waitUntil(lambda: room.table.isVisible() and room.table.rowCount() == 2, timeout=5000)
        cells = [room.table.item(0, c) for c in range(3)]
        assert (
            cells[0] is not None
            and not cells[0].icon().isNull()
            and cells[1] is not None
            and "wiper" in cells[1].text()
            and "back" in cells[1].text()
        )
        assert "nothing" in room.table.item(1, 1).text()  # type: ignore[union-attr]
        x = desk.session.job.position.x
        press(desk, Key.Key_A)
        job = desk.session.job
        assert (
            next(i for i in job.items if i.id == "wiper-motor").fate == "remove"
            and job.position.x < x - 5
            and least_margin(desk) > -0.05
        )
        desk.session.undo()
        assert desk.session.job.position.x == x

    def test_stopped_while_the_workers_work_nothing_has_changed(self, desk: Desk, qtbot: Any) -> None:
        before = desk.session.job
        press(desk, Key.Key_T)
        room = sheet_of(desk).trading
        qtbot.waitUntil(lambda: "worked out" in room.answer.text(), timeout=60000)
        click_button(room, "Stop")
        wait_for(qtbot, room, 20)
        qtbot.waitUntil(lambda: room.refusal.text() == "Stopped.", timeout=5000)
        assert desk.session.job is before and room.found is None and not room.progress.isVisible()
        press(desk, Key.Key_T)
        qtbot.waitUntil(lambda: "worked out" in room.answer.text() or room.found is not None, timeout=60000)
        room.stop()
        wait_for(qtbot, room, 20)

    def test_a_chosen_item_is_offered_and_kept_after_all(self, desk: Desk) -> None:
        room = sheet_of(desk).trading
        sheet_of(desk).rooms.go("trades")
        desk.session.select("item", "battery-box")
        click_button(room, "Offer the chosen part")
        wish = desk.session.job.wish
        assert wish is not None and wish.sales[-1].of == "battery-box" and wish.sales[-1].what == "remove"
        type_into(room, f"wish/sales/{wish.sales[-1].id}/trouble", "3.5")
        assert desk.session.job.wish.sales[-1].trouble == 3.5  # type: ignore[union-attr]
        click_button(room, "Keep it after all")
        assert all(s.of != "battery-box" for s in desk.session.job.wish.sales)  # type: ignore[union-attr]


class TestBringItThere:
    def test_supports_then_shims_then_the_inverse(self, desk: Desk) -> None:
        room = enter(desk, "supports", SupportsRoom)
        assert "three places" in room.say.text()
        click_button(room, "Begin with the mounts")
        room = enter(desk, "supports", SupportsRoom)
        click_button(room, "It is about where the job says")
        room = enter(desk, "supports", SupportsRoom)
        assert "stands where it should" in room.say.text()
        type_into(room, "setting/now/z", "12.5")
        assert "Raise every support by 9.5 mm" in room.say.text() and room.table.item(0, 3).text() != ""
        for line in room.ups:
            line.setText("9.5")
        click_button(room, "Put them in")
        room = enter(desk, "supports", SupportsRoom)
        assert "stands where it should" in room.say.text()

    def test_marks_proposed_taped_printed(self, desk: Desk, qtbot: Any, tmp_path: Path) -> None:
        room = enter(desk, "marks", MarksRoom)
        click_button(room, "Propose marks")
        wait_for(qtbot, room)
        qtbot.waitUntil(lambda: len(desk.session.job.marks) == 12, timeout=5000)
        job = desk.session.job
        lower = pose_of(nudged(job, (0.0, 0.0, -4.0)))
        job = with_value(
            job,
            "marks",
            tuple(m.model_copy(update={"now_mm": round(distance_of(m, lower), 1)}) for m in job.marks),
        )
        desk.session.edit("Taped", job)
        room = enter(desk, "marks", MarksRoom)
        assert "mm down" in room.say.text() and "±" in room.say.text()
        room.print_to(tmp_path / "m.pdf")
        assert (tmp_path / "m.pdf").read_bytes().startswith(b"%PDF")
        click_button(room, "Shims that bring it back")
        assert desk.session.job.setting.now is not None and desk.session.job.setting.now.z == pytest.approx(
            job.position.z - 4.0, abs=0.3
        )


class TestDriveline:
    def test_curves_verdict_and_axle_loads(self, desk: Desk) -> None:
        room = enter(desk, "driveline", DrivelineRoom)
        assert (
            len(room.chart.curves) == 3
            and "All within limits." in room.say.text()
            and room.table.rowCount() == 3
        )
        type_into(room, "propshaft/phase_deg/0", "0")
        assert (
            "torsional acceleration, over" in room.say.text()
            or "of torsional acceleration" in room.say.text()
        )
        click_button(room, "Critical speed")
        assert "rho" in desk.drawer.text.toPlainText()


class TestSection:
    def test_cut_moved_and_written(self, desk: Desk, tmp_path: Path) -> None:
        room = enter(desk, "section", SectionRoom)
        assert room.cut is not None and room.cut.dimensions
        click_button(room, "Across")
        first = room.cut
        click_button(room, "+")
        assert room.cut is not first and "the front axle line" in room.said.text()
        for ending, head in ((".pdf", b"%PDF"), (".dxf", b"  0")):
            room.write(tmp_path / f"s{ending}")
            assert (tmp_path / f"s{ending}").read_bytes().startswith(head)
        room.line.setText("9 m forward")
        room.line.setModified(True)
        room._typed()
        assert "past everything" in room.refusal.text()


class TestWayOut:
    def test_the_film_is_played_and_the_tightest_moment_named(
        self, qapp: Any, qtbot: Any, tmp_path: Path, settled_hatchback: Settled
    ) -> None:
        desk = Desk(OpenJob(write_demo("hatchback", tmp_path / "h.cradle")))
        qtbot.addWidget(desk, before_close_func=lambda w: w.session.place.count_as_saved())
        desk.show()
        qtbot.waitExposed(desk)
        desk.session.edit("Settled", with_value(desk.session.job, "position", settled_hatchback.job.position))
        room = enter(desk, "exit", RemovalRoom)
        click_button(room, "Find the way out")
        wait_for(qtbot, room)
        qtbot.waitUntil(lambda: "It comes out" in room.say.text(), timeout=5000)
        assert "Radiator and fan off" in room.before.text()
        click_button(room, "Tightest moment")
        here = room.slider.value()
        assert desk.session.film is not None and "nearest" in room.moment.text()
        moments = room.session.kept["exit"].moments
        assert moments[here].gap == min(m.gap for m in moments)
        room.slider.setValue(0)
        click_button(room, "Play the film")
        qtbot.waitUntil(lambda: room.slider.value() > 3, timeout=5000)
        click_button(room, "Back in place")
        assert desk.session.film is None
        qtbot.waitUntil(
            lambda: any("not reached" in room.table.item(r, 1).text() for r in range(room.table.rowCount())),
            timeout=10000,
        )


class TestCandidates:
    def test_offered_compared_put_in_and_back(self, desk: Desk, qtbot: Any, tmp_path: Path) -> None:
        small = next(c for c in desk.session.job.candidates if c.id == "small-petrol")
        desk.session.edit("One only", with_value(desk.session.job, "candidates", (small,)))
        room = enter(desk, "candidates", CandidatesRoom)
        room.offer(tmp_path / "missing.cradle")
        assert room.refusal.text() != ""
        click_button(room, "Compare them")
        wait_for(qtbot, room, 120)
        qtbot.waitUntil(lambda: room.table.item(0, 1).text() != "not yet", timeout=5000)
        assert room.table.rowCount() == 2
        states = {room.table.item(r, 0).text(): room.table.item(r, 1).text() for r in range(2)}
        assert states["2.0 petrol with five-speed gearbox"] == "goes in"
        row = next(r for r in range(2) if "petrol" in room.table.item(r, 0).text())
        room.table.selectRow(row)
        assert "front axle" in room.say.text()
        old = desk.session.job.powertrain.name
        click_button(room, "Put this one in")
        assert desk.session.job.powertrain.name == small.name and desk.session.job.candidates[0].name == old


def test_a_fault_while_judging_a_held_key_is_told_once(desk: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    """The engine stays where it was judged last, and the next key works again."""
    began = desk.session.job

    def fails(job: Job) -> None:
        raise RuntimeError("cannot be judged")

    with monkeypatch.context() as patched:
        patched.setattr("nimble_cradle.desk.kit.ahead.verdict", fails)
        desk.session.nudge((5.0, 0.0, 0.0))
        with pytest.raises(RuntimeError, match="cannot be judged"):
            desk.session.ahead.arrive()
    assert desk.session.job is began and not desk.session.moving
    desk.session.nudge((5.0, 0.0, 0.0))
    assert desk.session.job.position.x == pytest.approx(began.position.x + 5.0)
