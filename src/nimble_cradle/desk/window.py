"""The one window: stages on top, the bay in the middle, the stage's sheet beside it, the tell-tales always
in sight."""

from __future__ import annotations

import gc
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QEvent, QKeyCombination, QObject, Qt, QTimer
from PyQt6.QtGui import QAction, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QComboBox,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QSlider,
    QStackedWidget,
    QWidget,
)

from nimble_cradle.cures.lack import Subject
from nimble_cradle.demo import DEMOS
from nimble_cradle.design.begin import Answers, write_new_job
from nimble_cradle.desk.bars import StageBar, TellTaleBar
from nimble_cradle.desk.bay_view.view import BayView
from nimble_cradle.desk.cure_panel import CurePanel
from nimble_cradle.desk.dressed_window import DressedWindow
from nimble_cradle.desk.dropped import dropped_job
from nimble_cradle.desk.help_page import HelpPage
from nimble_cradle.desk.keymap import MenuRow, menu_rows, stage_keys
from nimble_cradle.desk.kit.divided import Divided
from nimble_cradle.desk.kit.keymap import perform
from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.notice import Notice, trouble_line
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.settings import changed_settings, read_settings
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.kit.tidying import Tidying
from nimble_cradle.desk.kit.words import stacked
from nimble_cradle.desk.kit.working import WorkingDrawer
from nimble_cradle.desk.opening import opening_words
from nimble_cradle.desk.own_demo import demo_file
from nimble_cradle.desk.recent import remember
from nimble_cradle.desk.stages import make_sheet, stage_desks
from nimble_cradle.desk.stages.pack.sheet import PackSheet
from nimble_cradle.desk.tour import Tour
from nimble_cradle.files import there
from nimble_cradle.job.base import JobError
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.judge.verdict import stage_states
from nimble_cradle.telltales import TellTale, tell_tales
from nimble_cradle.trial import tried

LOW_WINDOW = 640
"""Pixels of height below which the two bars say less, so that the sheet has room for a table."""
LIST_KEYS = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Home, Qt.Key.Key_End)
"""Keys that a list with the keyboard takes for itself."""


def _subject(tale: TellTale) -> Subject:
    """What a tell-tale is about, for those who cure it."""
    kind: Any = {"margin": "gap", "hardest": "finding"}.get(tale.id, tale.id)
    return Subject(kind, tale.part if kind in ("gap", "finding") else "")


class _Sheets(dict[str, Sheet]):
    """The stages' sheets, each made when it is first wanted, so that the window is up sooner."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk

    def __missing__(self, stage: str) -> Sheet:
        sheet = self[stage] = make_sheet(stage, self.desk.session)
        self.desk.stack.addWidget(sheet)
        session = self.desk.session
        sheet.show_stage(
            next(state for state in stage_states(session.job, session.verdict) if state.id == stage)
        )
        return sheet


class Desk(DressedWindow):
    """The main window for one open job."""

    def __init__(self, place: OpenJob, stage: str = "position") -> None:
        super().__init__()
        self.session = Session(place)
        self.stage = stage
        self.others: list[Desk] = []
        self.tidying: Tidying | None = None
        self.stage_bar = StageBar(stage_states(self.session.job, self.session.verdict), stage_keys())
        self.tales = TellTaleBar()
        self.view = BayView(self.session)
        self.drawer, self.cures = WorkingDrawer(), CurePanel(self.session)
        self.trouble, self.notice, self.tour = trouble_line(), Notice(), Tour(self)
        self.stack = QStackedWidget()
        self.sheets: dict[str, Sheet] = _Sheets(self)
        self._lay_out()
        self._actions()
        session = self.session
        session.changed.connect(self.refresh)
        session.selected.connect(self._selected)
        self.cures.taken.connect(self.say)
        session.work_shown.connect(self.drawer.show_work)
        session.said.connect(self.say)
        session.troubled.connect(self._trouble)
        session.door.connect(self.open_place)
        self.stage_bar.wanted.connect(self.go)
        self.tales.wanted.connect(self.open_door)
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.go(stage if stage in stage_desks() else "position")
        self.refresh()
        QTimer.singleShot(150, self.session.finish_first)
        if place.read_only:
            self.notify(f"Read-only: {place.read_only}. Save as keeps your changes under another name.")
        else:
            self.notify(" ".join(w for w in (opening_words(place), self.session.rack_fault) if w))

    def _lay_out(self) -> None:
        left = QWidget()
        bay = stacked(left, self.trouble, self.tour, self.notice, self.view, self.cures, self.drawer)
        bay.setStretchFactor(self.view, 1)
        self.divided = Divided(left, self.stack, read_settings().sheet_share)
        self.divided.shared.connect(lambda share: changed_settings(sheet_share=share))
        whole = QWidget()
        column = stacked(whole, self.stage_bar, self.divided, self.tales)
        column.setStretchFactor(self.divided, 1)
        self.setCentralWidget(whole)
        self.bubble = Label("", self.view.gl)
        self.bubble.setObjectName("bubble")
        self.bubble.hide()
        self._bubble_timer = QTimer(self)
        self._bubble_timer.setSingleShot(True)
        self._bubble_timer.timeout.connect(self.bubble.hide)

    def resizeEvent(self, event: Any) -> None:
        super().resizeEvent(event)
        self.tales.dress(self.height() < LOW_WINDOW)
        self.stage_bar.dress(self.height() < LOW_WINDOW)

    def _actions(self) -> None:
        """The menus, from the map of keys."""
        bar = self.menuBar()
        assert bar is not None
        menus: dict[str, QMenu] = {}
        for row in menu_rows():
            if row.menu not in menus:
                made = bar.addMenu(row.menu)
                assert made is not None
                menus[row.menu] = made
            action = QAction(self._menu_text(row), self)
            action.setShortcuts([QKeySequence(key) for key in (row.key, row.also) if key])
            action.triggered.connect(lambda _=False, act=row.act: perform(self, act))
            self.addAction(action)
            menus[row.menu].addAction(action)

    def _menu_text(self, row: MenuRow) -> str:
        """Its words; a standpoint has its name in this vehicle."""
        name, _, point = row.act.partition(" ")
        return f"Look: {self.view.standpoint_name(point)}" if name == "stand" else row.text

    def stand(self, point: str) -> None:
        """Look from a standpoint."""
        self.view.stand(point)

    def turn_focus(self) -> None:
        """The chosen bright, the rest faint, or all alike."""
        self.view.turn_focus()

    def turn_taped(self) -> None:
        """Pieces drawn as they were taped, or as what they are."""
        self.session.taped_sizes = not self.session.taped_sizes
        self.view.refresh()
        self.say("Drawn as taped." if self.session.taped_sizes else "Drawn as what they are.")

    def turn_tape(self) -> None:
        """The tape in hand, or put away."""
        self.view.turn_tape()

    def find_cures(self) -> None:
        """Look for what would cure the chosen gap, the part that was asked about, or the worst of all."""
        self.cures.look()

    def take_cure(self, which: str) -> None:
        """Take a cure by its number."""
        self.cures.take(which)

    def undo(self) -> None:
        """Take the last edit back."""
        self.session.undo()

    def redo(self) -> None:
        """Make the edit that was taken back again."""
        self.session.redo()

    def refresh(self) -> None:
        """Bars and title for the present job; the sheets and the view refresh themselves."""
        job, judged = self.session.job, self.session.verdict
        self.tales.show_tales(tell_tales(job, judged))
        states = stage_states(job, judged)
        self.stage_bar.show_states(states, self.stage)
        for state in states:
            if state.id in self.sheets:
                self.sheets[state.id].show_stage(state)
        place = self.session.place
        word = "read-only" if place.read_only else ("changed, not saved" if place.unsaved else "saved")
        self.setWindowTitle(f"{job.name} ({word}) – {place.path.name} – Nimble Cradle")

    def go(self, stage: str) -> None:
        """Show a stage."""
        self.stage = stage
        self.stack.setCurrentWidget(self.sheets[stage])
        self.view.look_for(stage)
        if not stage_desks()[stage].shows_cases and self.session.shown_case:
            self.session.show_case("")
        self.stage_bar.show_states(stage_states(self.session.job, self.session.verdict), stage)
        self.view.gl.setFocus()

    def open_door(self, tale: TellTale) -> None:
        """Go to the cause of a tell-tale and show its working."""
        self.go(tale.stage)
        bar = self.sheets[tale.stage].verticalScrollBar()
        assert bar is not None
        bar.setValue(0)
        self.sheets[tale.stage].show_cause(tale)
        self.session.asked_about = _subject(tale)

    def open_place(self, stage: str, room: str, kind: str, key: str) -> None:
        """Show a room of a stage, with something chosen in it."""
        self.go(stage)
        sheet = self.sheets[stage]
        if room:
            sheet.rooms.go(room)
        self.session.select(kind, key)
        bar = sheet.verticalScrollBar()
        assert bar is not None
        bar.setValue(0)

    def remember(self) -> None:
        """Keep for the start page what is open in this job, with a picture of the bay."""
        states = stage_states(self.session.job, self.session.verdict)
        asked = sum(len(state.questions) for state in states)
        gap = self.session.verdict.gaps[0] if self.session.verdict.gaps else None
        said = [f"{asked} open" if asked else "nothing open"]
        if gap is not None:
            tale = next(tale for tale in tell_tales(self.session.job, self.session.verdict))
            said.append(f"tightest {tale.value}")
        remember(self.session.place.path, self.session.job.name, ", ".join(said), self.view.gl.picture())

    def dragEnterEvent(self, event: Any) -> None:
        if dropped_job(event) is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: Any) -> None:
        path = dropped_job(event)
        if path is not None:
            event.acceptProposedAction()
            self.open(path)

    def _selected(self) -> None:
        """Choosing a thing on a stage that does not show it leads to the stage whose own it is."""
        kind, key = self.session.selection
        here = stage_desks()[self.stage]
        if kind in here.keeps or here.stays(self.session, kind, key):
            return
        for stage, desk in stage_desks().items():
            if kind in desk.home and stage != self.stage:
                self.go(stage)

    def begin(self, path: Path, answers: Answers) -> Desk | None:
        """Write a job with nothing measured yet and open it at the survey; never over a file that is
        there."""
        if there(path):
            self.notify(f"{path.name} is there already; open it, or choose another name.")
            return None
        try:
            write_new_job(path, answers)
        except JobError as error:
            self.notify(error.message)
            return None
        other = self.open(path)
        if other is not None:
            other.go("survey")
        return other

    def open(self, path: Path) -> Desk | None:
        """Open a job in a window of its own; a bad file gets one sentence here and this job stays as it
        is."""
        try:
            other = Desk(OpenJob(path, tried))
        except JobError as error:
            self.notify(error.message)
            return None
        self.others.append(other)
        other.show()
        return other

    def write_pack(self) -> None:
        """Ask for a folder and write the shop pack."""
        self.go("pack")
        sheet = self.sheets["pack"]
        assert isinstance(sheet, PackSheet)
        sheet.ask()

    def take_tour(self) -> None:
        """A short tour over the first demo; in another job it opens that first."""
        here = self.session.job.demo and any(
            piece.id == "fan" for piece in self.session.job.powertrain.pieces
        )
        desk = self if here else self.open(demo_file(next(iter(DEMOS))))
        if desk is not None:
            desk.tour.begin()

    def show_keys(self) -> None:
        """Help for this page, and every key."""
        HelpPage(self, self.stage).open()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.KeyPress
            and self.isActiveWindow()
            and isinstance(watched, QWidget)
            and watched.window() is self
            and QApplication.activeModalWidget() is None
        ):
            return self.press(event)
        return False

    def press(self, event: QKeyEvent) -> bool:
        """A key that moves the engine or steps through gaps; True where it was used."""
        if event.key() == Qt.Key.Key_Escape and self.session.picking:
            self.session.picking = ""
            self.say("Nothing is picked.")
            return True
        if event.key() == Qt.Key.Key_Escape and not isinstance(QApplication.focusWidget(), QLineEdit):
            if self.view.escape():
                return True
            for shown in (self.cures, self.drawer, self.notice):
                if shown.isVisible():
                    self.cures.put_away() if shown is self.cures else shown.hide()
                    return True
        line = QApplication.focusWidget()
        if (
            event.key() == Qt.Key.Key_U
            and event.modifiers() == Qt.KeyboardModifier.ControlModifier
            and isinstance(line, QLineEdit)
        ):  # the toolkit's own meaning is to wipe the line: what was typed is taken in its units first
            line.clearFocus()
            self.turn_units()
            line.setFocus()
            return True
        if (
            event.key() == Qt.Key.Key_Z
            and isinstance(line, QLineEdit)
            and not (line.isModified() and line.text())
            and event.modifiers() & Qt.KeyboardModifier.ControlModifier
        ):
            (
                self.session.redo
                if event.modifiers() & Qt.KeyboardModifier.ShiftModifier
                else self.session.undo
            )()
            return True
        if isinstance(line, (QLineEdit, QComboBox, QPlainTextEdit, QSlider)):
            return False
        if isinstance(line, QAbstractItemView) and event.key() in LIST_KEYS:
            return False
        modifiers = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        return self.sheets[self.stage].press(QKeyCombination(modifiers, Qt.Key(event.key())))

    def finish(self) -> None:
        """Let go of the file and the picture."""
        app = QApplication.instance()
        if app is not None:
            app.removeEventFilter(self)
        self.remember()
        self.session.tasks.close()
        self.session.rest()
        self.session.wait_first()
        self.view.finish()
        gc.unfreeze()
        if self.tidying is not None:
            self.tidying.end()
            self.tidying = None
        self.session.place.close()
