"""The one window: stages on top, the bay in the middle, the stage's sheet beside it, the tell-tales always
in sight."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, QKeyCombination, QObject, Qt, QTimer
from PyQt6.QtGui import QAction, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QApplication,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from nimble_cradle.desk.bars import StageBar, TellTaleBar
from nimble_cradle.desk.bay_view.view import BayView
from nimble_cradle.desk.job_window import JobWindow
from nimble_cradle.desk.keymap import MenuRow, menu_rows
from nimble_cradle.desk.keys_page import KeysPage
from nimble_cradle.desk.kit.keymap import perform
from nimble_cradle.desk.kit.label import Label
from nimble_cradle.desk.kit.session import Session
from nimble_cradle.desk.kit.sheet import Sheet
from nimble_cradle.desk.kit.working import WorkingDrawer
from nimble_cradle.desk.opening import opening_words
from nimble_cradle.desk.stages import make_sheet, stage_desks
from nimble_cradle.desk.stages.pack.sheet import PackSheet
from nimble_cradle.files import there
from nimble_cradle.job import store
from nimble_cradle.job.base import JobError
from nimble_cradle.job.new import new_job
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.judge.verdict import stage_states
from nimble_cradle.telltales import TellTale, tell_tales
from nimble_cradle.trial import tried


def _notice(name: str) -> QLabel:
    """A line over the view, hidden until there is something to say. name: how it looks."""
    label = Label()
    label.setObjectName(name)
    label.setWordWrap(True)
    label.hide()
    return label


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


class Desk(JobWindow):
    """The main window for one open job."""

    def __init__(self, place: OpenJob, stage: str = "position") -> None:
        super().__init__()
        self.session = Session(place)
        self.stage = stage
        self.others: list[Desk] = []
        self.stage_bar = StageBar(stage_states(self.session.job, self.session.verdict))
        self.tales = TellTaleBar()
        self.view = BayView(self.session)
        self.drawer = WorkingDrawer()
        self.trouble, self.notice = _notice("alarm"), _notice("caution")
        self.stack = QStackedWidget()
        self.stack.setFixedWidth(506)
        self.sheets: dict[str, Sheet] = _Sheets(self)
        self._lay_out()
        self._actions()
        session = self.session
        session.changed.connect(self.refresh)
        session.selected.connect(self._selected)
        session.work_shown.connect(self.drawer.show_work)
        session.said.connect(self.say)
        session.troubled.connect(self._trouble)
        self.stage_bar.wanted.connect(self.go)
        self.tales.wanted.connect(self.open_door)
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)
        self.resize(1280, 800)
        self.go(stage if stage in stage_desks() else "position")
        self.refresh()
        QTimer.singleShot(150, self.session.finish_first)
        if place.read_only:
            self.notify(f"Read-only: {place.read_only}. Save as keeps your changes under another name.")
        else:
            self.notify(" ".join(w for w in (opening_words(place), self.session.rack_fault) if w))

    def _lay_out(self) -> None:
        middle = QWidget()
        left = QVBoxLayout()
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(0)
        left.addWidget(self.trouble)
        left.addWidget(self.notice)
        left.addWidget(self.view, 1)
        left.addWidget(self.drawer)
        across = QHBoxLayout(middle)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(0)
        across.addLayout(left, 1)
        edge = QFrame()
        edge.setFixedWidth(1)
        edge.setStyleSheet("background: #d5cfc2")
        across.addWidget(edge)
        across.addWidget(self.stack)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.stage_bar)
        column.addWidget(middle, 1)
        column.addWidget(self.tales)
        self.setCentralWidget(whole)
        self.bubble = Label("", self.view.gl)
        self.bubble.setStyleSheet(
            "background: #23272b; color: #ffffff; padding: 6px 12px; border-radius: 4px;"
        )
        self.bubble.hide()
        self._bubble_timer = QTimer(self)
        self._bubble_timer.setSingleShot(True)
        self._bubble_timer.timeout.connect(self.bubble.hide)

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
            action.setShortcut(QKeySequence(row.key))
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

    def _selected(self) -> None:
        """Choosing a thing on a stage that does not show it leads to the stage whose own it is."""
        kind, key = self.session.selection
        here = stage_desks()[self.stage]
        if kind in here.keeps or here.stays(self.session, kind, key):
            return
        for stage, desk in stage_desks().items():
            if kind in desk.home and stage != self.stage:
                self.go(stage)

    def begin(self, path: Path) -> Desk | None:
        """Write a job with nothing measured yet and open it at the bay; never over a file that is there."""
        if there(path):
            self.notify(f"{path.name} is there already; open it, or choose another name.")
            return None
        try:
            store.write(path, new_job(path.stem.replace("-", " ")), fresh=True)
        except JobError as error:
            self.notify(error.message)
            return None
        other = self.open(path)
        if other is not None:
            other.go("bay")
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

    def show_keys(self) -> None:
        """The key list."""
        KeysPage(self).open()

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
        if (
            event.key() == Qt.Key.Key_Escape
            and self.drawer.isVisible()
            and not isinstance(QApplication.focusWidget(), QLineEdit)
        ):
            self.drawer.hide()
            return True
        line = QApplication.focusWidget()
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
        if isinstance(QApplication.focusWidget(), (QLineEdit, QComboBox, QPlainTextEdit)):
            return False
        modifiers = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        return self.sheets[self.stage].press(QKeyCombination(modifiers, Qt.Key(event.key())))

    def finish(self) -> None:
        """Let go of the file and the picture."""
        app = QApplication.instance()
        if app is not None:
            app.removeEventFilter(self)
        self.session.tasks.close()
        self.session.rest()
        self.session.wait_first()
        self.view.finish()
        self.session.place.close()
