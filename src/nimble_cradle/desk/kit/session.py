"""The open job as the window sees it: edits go in, signals come out. No widget knows the file or the
journal."""

from __future__ import annotations

import threading
import time
from pathlib import Path
from typing import Any, Literal

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from nimble_cradle.bay.position import nudged, position_words
from nimble_cradle.calc import Worked
from nimble_cradle.cures.lack import Subject
from nimble_cradle.desk.kit.ahead import Ahead
from nimble_cradle.desk.kit.tasks import Tasks
from nimble_cradle.fit.gap import Gap
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.job.base import JobError
from nimble_cradle.job.edits import value_at, with_value
from nimble_cradle.job.job import Job
from nimble_cradle.job.open_job import OpenJob
from nimble_cradle.job.said import typed
from nimble_cradle.judge.found import Verdict
from nimble_cradle.judge.verdict import verdict
from nimble_cradle.seat.seating import wish_of
from nimble_cradle.seat.settled import Settled
from nimble_cradle.stock.rack import Rack, read_rack
from nimble_cradle.survey import kept_cells
from nimble_cradle.units import Display


def _rack() -> tuple[Rack, str]:
    """What is at hand, and why it is not known, in a sentence, or nothing."""
    try:
        return read_rack(), ""
    except JobError as error:
        return Rack(), error.message


class Session(QObject):
    """``changed`` follows every new job with its verdict already made; ``selected`` a choice of part;
    ``work_shown`` a working.

    picking: the item on which the next click in the picture is a pick; ``picked`` tells the place. marks:
    places picked so far. settled: what the last search for a seat came to. film: where the engine is
    shown on its way out (``filmed``). scan_map: (item, distance of each triangle, the job it was measured
    in) while a scan is shown by how far it is off. tasks: long work under way. kept: what rooms found, by
    the room's key, for the room that stands there next. rested: the engine stands still after a held key.
    door: a place is wanted: stage, room, kind and id of what is chosen there. taped_sizes: pieces are
    drawn as they were taped. asked_about: the verdict that the user last looked into, until something
    else is chosen. troubled: the journal cannot be written, and why; empty when it can be again. rack: what
    is at hand; rack_fault: why that could not be read.
    """

    changed = pyqtSignal()
    selected = pyqtSignal()
    work_shown = pyqtSignal(str, object)
    said = pyqtSignal(str)
    filmed = pyqtSignal()
    rested = pyqtSignal()
    picked = pyqtSignal(object, str)
    troubled = pyqtSignal(str)
    door = pyqtSignal(str, str, str, str)

    def __init__(self, place: OpenJob) -> None:
        super().__init__()
        self.place = place
        self.selection: tuple[str, str] = ("", "")
        self.shown_case = ""
        self.picking = ""
        self.marks: list[Any] = []
        self.scan_map: tuple[str, Any, Job] | None = None
        self.cut_lines: tuple[Job, tuple[Any, ...]] | None = None
        """The job that cut lines were worked out for, and those."""
        self.settled: Settled | None = None
        self.tasks = Tasks()
        self.kept: dict[str, Any] = {}
        self.film: Pose | None = None
        self.asked_about: Subject | None = None
        self.taped_sizes = False
        self.alone: Literal["", "whole", "apart"] = ""
        self.alone_id = ""
        self.rack, self.rack_fault = _rack()
        self.seen_verdict: Verdict = verdict(place.job)
        place.judged()
        self.ahead = Ahead(self._arrived)
        self._kinds: set[int] = set()
        self._asked = 0.0
        self._moving = False
        self._trouble = ""
        self._trouble_timer = QTimer(self)
        self._trouble_timer.setInterval(400)
        self._trouble_timer.timeout.connect(self._look_at_journal)
        self._trouble_timer.start()
        self._loader: threading.Thread | None = None
        self._shown_timer = QTimer(self)
        self._shown_timer.setSingleShot(True)
        self._shown_timer.setInterval(0)
        self._shown_timer.timeout.connect(lambda: self.place.shown())

    def finish_first(self) -> None:
        """After the first picture, on another thread: keep how scans are cut up. The job is read here: to ask
        for it is to take what was judged meanwhile, which is this thread's to do."""
        meshes = tuple(mesh.sha256 for mesh in self.seen_job.meshes)
        self._loader = threading.Thread(
            target=_keep_cells, args=(meshes,), name="after the first picture", daemon=True
        )
        self._loader.start()

    def keep_cells(self) -> None:
        """Keep in the user's cache folder how scans are cut up, so that the job opens faster."""
        _keep_cells(tuple(mesh.sha256 for mesh in self.job.meshes))

    def rest(self) -> None:
        """The window goes: nothing is looked at any more."""
        self.ahead.arrive()
        self._trouble_timer.stop()

    def wait_first(self) -> None:
        """Wait for ``finish_first`` (before the window goes)."""
        if self._loader is not None:
            self._loader.join()

    @property
    def job(self) -> Job:
        """The present job. While a key is held it waits for the newest place, so that whoever reads it,
        and makes another job of it, loses nothing."""
        self.ahead.arrive()
        return self.place.job

    @property
    def verdict(self) -> Verdict:
        """What is found of the present job; waits as ``job`` does."""
        self.ahead.arrive()
        return self.seen_verdict

    @property
    def seen_job(self) -> Job:
        """The job that was judged last: what a picture is drawn of while the next one is being judged."""
        return self.place.job

    @property
    def moving(self) -> bool:
        """Whether the engine is on its way while a key is held: what takes long to show waits until it is
        not."""
        return self._moving or self.ahead.job is not None

    @property
    def display(self) -> Display:
        """How lengths are shown."""
        return self.seen_job.show.display

    def edit(self, what: str, after: Job, merge: str = "") -> None:
        """Make ``after`` the job."""
        self.ahead.arrive()
        if self.place.edit(what, after, merge):
            self._judge()
            if merge:
                self.place.shown()
                self._shown_timer.start()

    def set_value(self, path: str, value: Any, what: str) -> None:
        """Edit one value as it was typed: a figure that findings rest on is measured with it. Raises
        JobError, and the job is as it was."""
        self.edit(what, typed(self.job, with_value(self.job, path, value), path))

    def _judge(self) -> None:
        self.seen_verdict = verdict(self.job)
        self.place.judged()
        self.changed.emit()

    def _look_at_journal(self) -> None:
        """Whether the journal is written; told when it changes, whatever is done meanwhile."""
        trouble = self.place.trouble
        if trouble != self._trouble:
            self._trouble = trouble
            self.troubled.emit(trouble)

    def settled_here(self) -> Settled | None:
        """What the last search came to, if the job still stands there and nothing that it read has
        changed."""
        found = self.settled
        if found is None or not found.ok:
            return None
        parts = (
            "items",
            "survey",
            "powertrain",
            "position",
            "clearances",
            "mounts",
            "vehicle",
            "loads",
            "joint_limits",
            "crossmember",
            "struts",
            "cradles",
            "panels",
            "suspensions",
            "propshaft",
            "half_shafts",
        )
        return (
            found
            if all(getattr(self.job, part) == getattr(found.job, part) for part in parts)
            and self.job.wish == wish_of(found.job)
            else None
        )

    def nudge(
        self, move: tuple[float, float, float], turn: tuple[float, float, float] = (0.0, 0.0, 0.0)
    ) -> None:
        """Nudge the engine. It is shown there at once; what follows from it comes as soon as it is
        judged, and those of a held key that come meanwhile are joined."""
        before = self.ahead.job or self.place.job
        try:
            after = with_value(before, "position", nudged(before, move, *turn))
        except JobError as error:
            self.said.emit(error.message)
            return
        self._kinds |= {k for k, v in enumerate((*move, *turn)) if v}
        if self.ahead.job is None:  # what comes while it is under way belongs to it, however slow the machine
            self._asked = time.monotonic()
        self.ahead.go(after)

    def _arrived(self, after: Job, found: Verdict) -> None:
        """The engine has come to a place that is judged."""
        was, now = ("; ".join(position_words(job)) for job in (self.place.job, after))
        kinds = "".join(str(k) for k in sorted(self._kinds))
        self._moving = True
        if self.place.edit(f"Nudged: from {was} → now {now}", after, f"nudge-{kinds}", self._asked):
            self.seen_verdict = found
            self.place.judged()
            self.changed.emit()
            self.place.shown()
            self._shown_timer.start()
        self._moving = False
        if self.ahead.job is None:
            self._kinds.clear()
            self.rested.emit()

    def undo(self) -> None:
        """Take the last edit back."""
        self.ahead.arrive()
        what = self.place.undo()
        self.said.emit(f"Undone: {what}" if what else "Nothing left to undo.")
        if what:
            self._judge()

    def redo(self) -> None:
        """Make the edit that was taken back again."""
        self.ahead.arrive()
        what = self.place.redo()
        self.said.emit(f"Done again: {what}" if what else "Nothing to do again.")
        if what:
            self._judge()

    def save(self) -> None:
        """Save; raises JobError."""
        self.ahead.arrive()
        self.place.save()
        self.keep_cells()
        self.said.emit(f"Saved as {self.place.path.name}.")
        self.changed.emit()

    def save_as(self, path: Path) -> None:
        """Save under another name; raises JobError."""
        self.ahead.arrive()
        self.place.save_as(path)
        self.keep_cells()
        self.said.emit(f"Saved as {path.name}.")
        self.changed.emit()

    def select(self, kind: str, key: str) -> None:
        """Choose a part: item, piece, mount, or gap ``piece/item``. What was asked about before is past."""
        if (kind, key) != self.selection:
            self.selection = (kind, key)
            self.asked_about = None
            self.selected.emit()

    def chosen_gap(self) -> Gap | None:
        """The selected gap, or None."""
        kind, key = self.selection
        if kind == "gap":
            for gap in self.seen_verdict.gaps:
                if f"{gap.piece}/{gap.item}" == key:
                    return gap
        return None

    def show_case(self, case_id: str) -> None:
        """Show the engine where a load case puts it; empty for as mocked up."""
        self.shown_case = case_id
        self.selected.emit()

    def show_alone(self, how: Literal["", "whole", "apart"], mount_id: str = "") -> None:
        """Show one mount by itself, whole or taken apart; empty for all that is there."""
        self.alone, self.alone_id = how, mount_id
        self.filmed.emit()

    def show_film(self, pose: Pose | None) -> None:
        """Show the engine at a moment of its way out; None: where the job says."""
        if pose is not self.film:
            self.film = pose
            self.filmed.emit()

    def show_work(self, title: str, *worked: Worked) -> None:
        """Open the working drawer."""
        self.work_shown.emit(title, worked)

    def value(self, path: str) -> Any:
        """A value of the present job, or None where the part is gone."""
        try:
            return value_at(self.job, path)
        except JobError:
            return None


def _keep_cells(meshes: tuple[str, ...]) -> None:
    for mesh in meshes:
        kept_cells.keep(mesh)
