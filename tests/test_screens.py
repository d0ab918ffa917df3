"""The screens as a whole: room for what is on them, at four sizes; cautions at the top; names for those
who do not see; looks that can be read; nothing lost on the way."""

from __future__ import annotations

import json
import threading
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from nimble_cradle.desk.kit import working_room
from nimble_cradle.desk.kit.columns import Fold
from nimble_cradle.desk.kit.divided import NARROWEST, TWO_COLUMNS, USUAL
from nimble_cradle.desk.kit.look import HALLS, Colours, worn
from nimble_cradle.desk.kit.settings import Settings, keep_settings, read_settings, settings_file
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.kit.table import Table
from nimble_cradle.desk.stages.logbook.sheet import local_time
from nimble_cradle.desk.window import Desk
from nimble_cradle.job import store
from nimble_cradle.job.job import Job
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.units import Display, parse, show
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QLineEdit,
    QListWidget,
    QMessageBox,
    QPlainTextEdit,
    QProgressBar,
    QSlider,
    QTableWidget,
    QWidget,
)

from conftest import ask_nothing
from narrowed import bonded
from pressing import CTRL, NONE, Key, QTest, click, field, press, refusal, type_in

TWO_SCREENS = 1212
"""A page is at most two screens long: the sheet shows 606 pixels of it in a window of 1280 x 800."""
CONTROLS = (
    QLineEdit,
    QComboBox,
    QAbstractButton,
    QTableWidget,
    QListWidget,
    QSlider,
    QPlainTextEdit,
    QProgressBar,
)
DANGEROUS = {
    ("survey", "level"): "underneath",
    ("bay", ""): "spring",
    ("powertrain", "pieces"): "conditioning gas",
    ("powertrain", "weighed"): "swings",
    ("position", "trades"): "Brace before",
    ("position", "supports"): "under an engine",
    ("position", "exit"): "manifold",
    ("mounts", "this"): "look into it and blow it out",
    ("mounts", "bush"): "Pull the bush before",
    ("mounts", "plate"): "look into it and blow it out",
    ("mounts", "foot"): "Steel is never welded to magnesium",
    ("mounts", "fit"): "Never a hand or a body under an engine",
    ("mounts", "all"): "Never a hand or a body under an engine",
    ("mounts", "loads"): "Tighten every bolt again",
    ("mounts", "strut"): "nobody stands before or behind the car",
    ("mounts", "cradle"): "look into it and blow it out",
    ("crossmember", ""): "fire watch",
    ("pack", ""): "does not approve",
}
"""Rooms in which work can hurt someone, and a word of what is said there."""


@pytest.fixture(params=["light-truck", "hatchback"])
def shown(
    request: pytest.FixtureRequest,
    qtbot: Any,
    tmp_path: Path,
    demo: Job,
    hatchback: Job,
    monkeypatch: pytest.MonkeyPatch,
) -> Iterator[Desk]:
    """The window on either demo."""
    monkeypatch.setattr(working_room, "warm", lambda *_: None)
    path = tmp_path / "job.cradle"
    store.write(path, demo if request.param == "light-truck" else hatchback)
    window = Desk(OpenJob(path))
    qtbot.addWidget(window, before_close_func=ask_nothing)
    window.show()
    qtbot.waitExposed(window)
    yield window


def rooms_of(desk: Desk) -> Iterator[tuple[str, str, Sheet]]:
    """Every page of the window: stage, room and sheet, with something chosen where something can be."""
    job = desk.session.job
    chosen = {
        "survey": ("point", job.survey.points[0].id),
        "bay": ("item", job.items[2].id),
        "powertrain": ("piece", job.powertrain.pieces[3].id),
    }
    for stage in desk.stage_bar.plates:
        desk.go(stage)
        desk.session.select(*chosen.get(stage, ("", "")))
        sheet = desk.sheets[stage]
        for room in [r.key for r in sheet.rooms.rooms] if hasattr(sheet, "rooms") else [""]:
            if room:
                sheet.rooms.go(room)
            for _ in range(3):
                QApplication.processEvents()
            yield stage, room, sheet


def top_of(widget: QWidget, page: Sheet) -> int:
    return widget.mapTo(page.widget(), QPoint(0, 0)).y()


class TestRoom:
    def test_every_page_is_short_and_its_caution_stands_first(self, shown: Desk) -> None:
        """At most two screens long; one caution at most, at the top of the place of danger."""
        long, met = [], set()
        for stage, room, sheet in rooms_of(shown):
            page = sheet.widget()
            assert page is not None
            if page.height() > TWO_SCREENS:
                long.append((stage, room, page.height()))
            told = [w for w in sheet.findChildren(QWidget) if w.objectName() == "caution" and w.isVisible()]
            assert len(told) <= 1
            if (stage, room) in DANGEROUS:
                met.add((stage, room))
                _caution_first(stage, room, sheet)
        assert not long
        assert met == set(DANGEROUS)

    def test_nothing_is_cut_off_and_everything_has_a_name_and_is_reached_by_tab(self, shown: Desk) -> None:
        """With every group open, at the narrowest; names of tables with two columns too, measured with the
        toolkit's own letters: the first column's words fit the height of their row."""
        shown.resize(1024, 700)
        shown.divided.set_sheet(NARROWEST)
        assert (shown.width(), shown.height()) == (1024, 700)
        for stage, room, sheet in rooms_of(shown):
            for fold in sheet.findChildren(Fold):
                fold.open(True)
            for _ in range(3):
                QApplication.processEvents()
            _not_cut_off(stage, room, sheet)
            _named_and_reached(stage, room, shown)
        shown.resize(1280, 800)
        shown.divided.set_sheet(TWO_COLUMNS)
        for stage, room, sheet in rooms_of(shown):
            for table in sheet.findChildren(Table):
                if table.isVisible():
                    _fits(table, f"{stage} {room} {TWO_COLUMNS}")

    def test_the_border_goes_where_it_is_dragged_and_is_remembered(self, desk: Desk, qtbot: Any) -> None:
        assert desk.divided.sizes()[1] == USUAL and desk.width() == 1280
        border = desk.divided.handle(1)
        assert border is not None
        middle = border.rect().center()
        QTest.mousePress(border, Qt.MouseButton.LeftButton, NONE, middle)
        QTest.mouseMove(border, middle - QPoint(240, 0))
        QTest.mouseRelease(border, Qt.MouseButton.LeftButton, NONE, middle - QPoint(240, 0))
        assert desk.divided.sizes()[1] == TWO_COLUMNS, "it rests at a good width near by"
        assert read_settings().sheet_share == pytest.approx(TWO_COLUMNS / 1280)
        other = Desk(OpenJob(desk.session.place.path))
        qtbot.addWidget(other, before_close_func=ask_nothing)
        other.show()
        assert other.divided.sizes()[1] == TWO_COLUMNS
        other.close()
        press(desk, Key.Key_Right, Qt.KeyboardModifier.AltModifier)
        assert desk.divided.sizes()[1] == USUAL
        for _ in range(4):
            press(desk, Key.Key_Left, Qt.KeyboardModifier.AltModifier)
        assert desk.divided.sizes()[1] == round(1280 * 2 / 3), "two thirds at most"

    def test_a_new_window_at_1920_gives_the_sheet_two_columns(self, desk: Desk) -> None:
        desk.resize(1920, 1080)
        QApplication.processEvents()
        assert desk.divided.sizes()[1] == TWO_COLUMNS

    @pytest.mark.parametrize("size", [(1280, 690), (960, 510)])
    def test_the_tell_tales_stay_in_a_low_window(self, desk: Desk, size: tuple[int, int]) -> None:
        """What 1920 x 1080 leaves at 1.5 and at 2 scale, less a title bar."""
        desk.resize(*size)
        QApplication.processEvents()
        assert (desk.width(), desk.height()) == size
        bottom = desk.tales.mapTo(desk, QPoint(0, desk.tales.height())).y()
        assert bottom <= desk.height() and desk.stack.height() > 250


def _not_cut_off(stage: str, room: str, sheet: Sheet) -> None:
    """No field, button or choice is wider than its place, no name of a table higher."""
    place = sheet.viewport()
    assert place is not None
    for widget in sheet.findChildren(QWidget):
        if isinstance(widget, CONTROLS) and widget.isVisible():
            right = widget.mapTo(sheet, QPoint(widget.width(), 0)).x()
            assert right <= place.width() + 1, (stage, room, widget.accessibleName(), right)
        if isinstance(widget, QComboBox) and widget.isVisible():
            need = widget.fontMetrics().horizontalAdvance(widget.currentText()) + 34
            assert need <= widget.width(), (stage, room, widget.currentText())
    for table in sheet.findChildren(Table):
        if table.isVisible():
            _fits(table, f"{stage} {room} {NARROWEST}")


def _named_and_reached(stage: str, room: str, desk: Desk) -> None:
    """Every control in sight has a name of its own and is reached by Tab."""
    names: Counter[str] = Counter()
    for w in desk.findChildren(QWidget):
        if not isinstance(w, CONTROLS) or not w.isVisible() or w.objectName().startswith("qt_"):
            continue
        name = w.accessibleName() or (w.text() if isinstance(w, QAbstractButton) else "")
        if isinstance(w, QComboBox):
            assert w.accessibleDescription() == name, "its name is not told on Linux"
        assert name, (stage, room, type(w).__name__, w.objectName())
        if not isinstance(w, QProgressBar):
            assert w.focusPolicy() & Qt.FocusPolicy.TabFocus, (stage, room, name)
        if isinstance(w, (QLineEdit, QComboBox)):
            names[name] += 1
    assert all(n == 1 for n in names.values()), (stage, room, names.most_common(1))


def _caution_first(stage: str, room: str, sheet: Sheet) -> None:
    assert sheet.caution.isVisible() and DANGEROUS[stage, room] in sheet.caution.text(), (stage, room)
    assert top_of(sheet.caution, sheet) < 180, (stage, room)
    for b in sheet.findChildren(QAbstractButton):
        if b.objectName() == "main" and b.isVisible():
            assert top_of(b, sheet) > top_of(sheet.caution, sheet)


def _fits(table: Table, where: str) -> None:
    grid = table.grid
    for r in range(grid.rowCount()):
        item = grid.item(r, table._wide)
        if grid.isRowHidden(r) or item is None:
            continue
        label = grid.fontMetrics()
        words = max((w for w in item.text().replace("\n", " ").split()), key=len, default="")
        assert label.horizontalAdvance(words) <= grid.columnWidth(table._wide), (where, item.text())
        room = QRect(0, 0, grid.columnWidth(table._wide), 10_000)
        need = label.boundingRect(room, int(Qt.TextFlag.TextWordWrap), item.text()).height()
        assert grid.rowHeight(r) >= need, (where, item.text())


class TestThoseWhoDoNotSee:
    def test_the_focus_is_seen(self, desk: Desk) -> None:
        """A button with the keyboard is drawn otherwise than without, chosen or not."""
        press(desk, Key.Key_F5)
        b = next(b for b in desk.sheets["position"].rooms.group.buttons() if b.text() == "Settle")
        for chosen in (False, True):
            b.setChecked(chosen)
            pictures = []
            for focus in (True, False):
                b.setFocus() if focus else b.clearFocus()
                QApplication.processEvents()
                pictures.append(b.grab().toImage())
            assert pictures[0] != pictures[1]


def luminance(colour: str) -> float:
    """Relative luminance of #rrggbb: WCAG 2.1, definition of relative luminance (from memory)."""
    parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    r, g, b = (p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(a: str, b: str) -> float:
    """Contrast ratio of two colours: WCAG 2.1, definition of contrast ratio (from memory)."""
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


class TestLooks:
    def test_the_ratio_itself(self) -> None:
        assert contrast("#000000", "#ffffff") == pytest.approx(21.0)
        assert contrast("#777777", "#ffffff") == pytest.approx(4.48, abs=0.01), (
            "the well-known grey that fails"
        )

    @pytest.mark.parametrize("hall", list(HALLS))
    def test_every_pair_of_ink_and_ground_can_be_read(self, hall: str) -> None:
        c: Colours = HALLS[hall]
        pairs = [(c.ink, g) for g in (c.paper, c.sheet, c.field, c.band, c.caution, c.accent_pale)]
        pairs += [(c.soft, g) for g in (c.paper, c.sheet, c.field, c.band)]
        pairs += [(c.accent, c.sheet), (c.on_accent, c.accent), (c.sheet, c.ink)]
        pairs += [(c.inks[s], g) for s in c.inks for g in (c.pales[s], c.sheet, c.field)]
        pairs += [(c.ink, pale) for pale in c.pales.values()]
        poor = [(a, b, round(contrast(a, b), 2)) for a, b in pairs if contrast(a, b) < 5.6]
        assert not poor

    def test_they_are_chosen_by_keys_and_remembered(self, desk: Desk) -> None:
        press(desk, Key.Key_L, CTRL)
        assert worn().hall == "dark" and read_settings().hall == "dark"
        press(desk, Key.Key_Plus, CTRL)
        press(desk, Key.Key_Equal, CTRL)
        press(desk, Key.Key_Plus, CTRL)
        assert worn().text == 1.45 and read_settings().text == 2, "and no larger"
        line = field(desk, "position/x")
        assert line.fontInfo().pointSizeF() == pytest.approx(11 * 1.45, abs=0.5)
        press(desk, Key.Key_0, CTRL)
        press(desk, Key.Key_G, CTRL)
        assert worn().text == 1.0 and worn().gloves
        click(desk, "Settle")
        b = next(b for b in desk.findChildren(QAbstractButton) if b.text() == "Settle" and b.isVisible())
        assert b.height() >= 44

    def test_a_torn_file_of_wishes_is_as_good_as_none(self) -> None:
        for torn in (b"", b"{", b'{"text": 9}', b'{"hall": "green"}', b"\xff\xfe", b"[1, 2]"):
            settings_file().parent.mkdir(parents=True, exist_ok=True)
            settings_file().write_bytes(torn)
            assert read_settings() == Settings()
        keep_settings(Settings(text=2))
        assert json.loads(settings_file().read_text())["text"] == 2


class TestTables:
    def test_sorted_copied_searched_and_folded(self, desk: Desk) -> None:
        press(desk, Key.Key_F3)
        table = desk.sheets["bay"].table  # type: ignore[attr-defined]
        items = desk.session.job.items
        shown = [r for r in range(table.rowCount()) if not table.grid.isRowHidden(r)]
        assert table.rowCount() == len(items) and shown == list(range(8))
        assert table.more.text() == f"{len(items) - 8} more"
        QTest.mouseClick(table.more, Qt.MouseButton.LeftButton)
        assert not any(table.grid.isRowHidden(r) for r in range(table.rowCount()))
        header = table.grid.horizontalHeader()
        names = [i.name for i in items]
        for wanted in (sorted(names, key=str.casefold), sorted(names, key=str.casefold, reverse=True), names):
            at = QPoint(header.sectionViewportPosition(0) + 20, 8)
            QTest.mouseClick(header.viewport(), Qt.MouseButton.LeftButton, NONE, at)
            assert [table.item(r, 0).text() for r in range(table.rowCount())] == wanted
        table.sort_by(3)
        needs = [float(table.item(r, 3).text().removesuffix(" mm")) for r in range(table.rowCount())]
        assert needs == sorted(needs) and len(set(needs)) > 2, "by figures, not by letters"
        table.selectRow(0)
        table.grid.setFocus()
        QTest.keyClick(table.grid, Key.Key_C, CTRL)
        board = QApplication.clipboard()
        assert board is not None and board.text() == "\t".join(table.item(0, c).text() for c in range(4))
        table.search.setText("rail")
        seen = [table.item(r, 0).text() for r in range(table.rowCount()) if not table.grid.isRowHidden(r)]
        assert seen and all("rail" in name.lower() for name in seen)
        assert len(seen) == sum("rail" in f"{i.name} {i.neighbour} {i.fate}".lower() for i in items)
        assert len(table.text().split("\n")) == len(items) + 1, "the whole table with its headings"

    def test_what_is_chosen_elsewhere_is_shown_though_folded(self, desk: Desk) -> None:
        press(desk, Key.Key_F3)
        table = desk.sheets["bay"].table  # type: ignore[attr-defined]
        desk.session.select("item", desk.session.job.items[-1].id)
        assert not table.grid.isRowHidden(table.rowCount() - 1)
        assert table.chosen_key() == desk.session.job.items[-1].id


class TestSmallThings:
    def test_a_refusal_goes_with_its_cause(self, desk: Desk) -> None:
        press(desk, Key.Key_F6)
        line = type_in(desk, "mounts/left/bush/sleeve_mm", "90")
        assert "does not go into the eye" in refusal(line) and line.isVisible()
        assert "mounts/" not in refusal(line)
        port = desk.sheets["mounts"].viewport()
        assert port is not None and port.rect().contains(line.mapTo(port, QPoint(2, 2))), "in sight"
        type_in(desk, "mounts/left/bush/eye_bore_mm", "120")
        assert "Enter takes it now" in refusal(line) and line.text() == "90"
        line.setFocus()
        press(desk, Key.Key_Return)
        assert bonded(desk.session.job.mounts[0].bush).sleeve_mm == 90 and refusal(line) == ""

    def test_units_turn_without_eating_a_field(self, desk: Desk) -> None:
        press(desk, Key.Key_F6)
        line = field(desk, "mounts/left/pad/plate_mm")
        line.setFocus()
        line.selectAll()
        QTest.keyClicks(line, "8")
        QTest.keyClick(line, Key.Key_U, CTRL)
        QApplication.processEvents()
        assert desk.session.job.mounts[0].pad.plate_mm == 8.0, "what was typed is millimetres still"
        assert line.text() == "0.315 in" and desk.session.display.length == "in"

    @pytest.mark.parametrize(
        ("mm", "said"),
        [(4.0, "≈ 3/16 in"), (25.4, "1 in"), (3.175, "1/8 in"), (20.0, "≈ 13/16 in"), (-4.0, "≈ -3/16 in")],
    )
    def test_a_fraction_that_is_not_the_size_is_marked(self, mm: float, said: str) -> None:
        rule = Display("in", 16)
        assert show(mm, "length", rule) == said
        assert abs(parse(said, "length", rule) - mm) <= 25.4 / 32 + 1e-9, "and is read back as a size"

    def test_times_by_the_clock_on_the_wall(self, monkeypatch: pytest.MonkeyPatch) -> None:
        import time

        monkeypatch.setenv("TZ", "America/Halifax")
        time.tzset()
        try:
            assert local_time("2026-01-05T02:30:00Z") == "2026-01-04  22:30"
            assert local_time("2026-07-05T02:30:00Z") == "2026-07-04  23:30", "summer time"
            assert local_time("torn") == "torn"
        finally:
            monkeypatch.undo()
            time.tzset()

    def test_a_notice_is_put_away(self, desk: Desk) -> None:
        desk.notify("Something to know.")
        assert desk.notice.isVisible()
        QTest.mouseClick(desk.notice.findChildren(QAbstractButton)[0], Qt.MouseButton.LeftButton)
        assert not desk.notice.isVisible()
        desk.notify("Something else.")
        press(desk, Key.Key_Escape)
        assert not desk.notice.isVisible()


class TestClosing:
    """Save, discard, leave for next time, stay."""

    def answer(self, monkeypatch: pytest.MonkeyPatch, text: str) -> None:
        def exec_(box: QMessageBox) -> int:
            b = next(b for b in box.buttons() if b.text() == text)
            b.click()
            return 0

        monkeypatch.setattr(QMessageBox, "exec", exec_)

    @pytest.mark.parametrize(
        ("text", "closed", "saved", "again"),
        [
            ("Save", True, True, True),
            ("Discard the changes", True, False, False),
            ("Leave for next time", True, False, True),
            ("Stay", False, False, False),
        ],
    )
    def test_each_answer(
        self, desk: Desk, monkeypatch: pytest.MonkeyPatch, text: str, closed: bool, saved: bool, again: bool
    ) -> None:
        path, before = desk.session.place.path, desk.session.job.vehicle.wheelbase_mm
        desk.session.set_value("vehicle/wheelbase_mm", before + 7, "another wheelbase")
        self.answer(monkeypatch, text)
        assert desk.close() is closed
        assert (store.read(path).job.vehicle.wheelbase_mm == before + 7) is saved
        if closed:
            opened = OpenJob(path)
            assert (opened.job.vehicle.wheelbase_mm == before + 7) is again
            opened.close(keep_journal=False)


class TestAHeldKey:
    """The engine is shown where it goes at once; what follows from it comes when it is judged."""

    @pytest.fixture
    def gate(self, monkeypatch: pytest.MonkeyPatch) -> Iterator[Any]:
        """No verdict comes while this is shut; counts them."""
        opened = threading.Event()
        judged: list[Job] = []

        def slow(job: Job) -> Any:
            opened.wait(20)
            judged.append(job)
            return verdict(job)

        monkeypatch.setattr("nimble_cradle.desk.kit.ahead.verdict", slow)
        opened.judged = judged  # type: ignore[attr-defined]
        yield opened
        opened.set()

    def place_of(self, desk: Desk) -> float:
        matrix = desk.view.bodies["piece", "block"].surface.GetUserMatrix()
        return float(matrix.GetElement(0, 3))

    def test_it_is_shown_before_it_is_judged(self, desk: Desk, gate: Any) -> None:
        before, tale = self.place_of(desk), desk.tales.cells[0].tale
        press(desk, Key.Key_Down, times=3)
        assert self.place_of(desk) == pytest.approx(before - 3.0), "in the picture at once"
        assert desk.session.seen_job.position.x == before and desk.tales.cells[0].tale == tale
        assert desk.session.moving and len(gate.judged) == 0
        gate.set()
        assert desk.session.job.position.x == before - 3.0 and not desk.session.moving
        assert desk.tales.cells[0].tale != tale

    def test_what_comes_meanwhile_is_joined(self, desk: Desk, gate: Any) -> None:
        began, rows = desk.session.seen_job, len(desk.session.place.log)
        desk.session.place.history.together = 0.01  # less than any judging: one step however slow it is
        press(desk, Key.Key_Down, times=9)
        gate.set()
        assert desk.session.job.position.x == began.position.x - 9
        assert len(gate.judged) == 2, "the first, and the newest"
        assert len(desk.session.place.log) == rows + 1 and "from" in desk.session.place.log[-1]["what"]
        press(desk, Key.Key_Z, CTRL)
        assert desk.session.job == began, "one step back"

    def test_an_edit_meanwhile_loses_nothing(self, desk: Desk, gate: Any) -> None:
        began = desk.session.seen_job
        press(desk, Key.Key_Down, times=4)
        gate.set()
        desk.session.set_value("vehicle/wheelbase_mm", 3001.0, "another wheelbase")
        assert desk.session.job.position.x == began.position.x - 4
        assert desk.session.job.vehicle.wheelbase_mm == 3001.0
        desk.session.save()
        assert store.read(desk.session.place.path).job == desk.session.job

    def test_what_takes_long_waits_until_the_engine_rests(
        self, desk: Desk, gate: Any, qtbot: Any, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        desk.sheets["position"].rooms.go("section")
        room = desk.sheets["position"].rooms.present
        told: list[bool] = []
        refresh = room.refresh

        def watched() -> None:
            told.append(desk.session.moving)
            refresh()

        monkeypatch.setattr(room, "refresh", watched)
        press(desk, Key.Key_Down, times=5)
        gate.set()
        qtbot.waitUntil(lambda: not desk.session.moving, timeout=20_000)
        qtbot.waitUntil(lambda: bool(told), timeout=5_000)
        assert not any(told)
