"""Shop pack: templates seen as they will print, the cut list, and one button that writes it all."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, QThread, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFileDialog, QLabel, QProgressBar

from nimble_cradle.desk.fields import button, part, row, words
from nimble_cradle.desk.preview import Preview
from nimble_cradle.desk.sheets.sheet import Sheet, Table
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.shop.cautions import NOT_APPROVED
from nimble_cradle.shop.cutlist import cut_list
from nimble_cradle.shop.pack import Cancelled, write_pack
from nimble_cradle.shop.page import Drawing
from nimble_cradle.shop.templates import templates
from nimble_cradle.shop.tiles import Paper, tiles


class PackWorker(QObject):
    """Writes the pack off the interface's thread."""

    told = pyqtSignal(str)
    done = pyqtSignal(object)
    failed = pyqtSignal(str)

    def __init__(self, job: Job, folder: Path, paper: Paper) -> None:
        super().__init__()
        self.job, self.folder, self.paper = job, folder, paper
        self.stop = False

    def run(self) -> None:
        try:
            self.done.emit(write_pack(self.job, self.folder, self.paper, self.told.emit, lambda: self.stop))
        except Cancelled:
            self.failed.emit("Stopped; nothing was written.")
        except JobError as error:
            self.failed.emit(error.message)
        except (
            Exception
        ) as error:  # at the edge of a thread: a fault is told at the place and the window lives on
            self.failed.emit(f"The pack could not be written ({type(error).__name__}: {error}).")
            raise


class PackSheet(Sheet):
    """What leaves the screen."""

    stage, title = "pack", "Shop pack: to the bench"

    def build(self) -> None:
        self._thread: QThread | None = None
        self._worker: PackWorker | None = None
        self.column.addWidget(words(NOT_APPROVED, "caution"))
        self.paper = QComboBox()
        self.paper.addItems(["A4", "Letter"])
        self.paper.currentIndexChanged.connect(self.refresh)
        self.write_button = button(
            "Write the shop pack …", self.ask, "PDF at 1:1, DXF, SVG, cut list, report", "main"
        )
        self.stop_button = button("Stop", self.stop)
        self.stop_button.hide()
        self.column.addWidget(row(self.write_button, self.stop_button, QLabel("Paper"), self.paper))
        self.progress = QProgressBar()
        self.progress.setRange(0, 0)
        self.progress.hide()
        self.column.addWidget(self.progress)
        self.answer = words()
        self.column.addWidget(self.answer)
        self.column.addWidget(part("Templates"))
        self.table = Table(("Template", "Sheets"), most_rows=4, chosen=self._choose)
        self.table.setAccessibleName("Templates")
        self.column.addWidget(self.table)
        self.preview = Preview()
        self.column.addWidget(self.preview)
        self.notes = words()
        self.column.addWidget(self.notes)
        self.column.addWidget(part("Cut list"))
        self.cut = Table(
            ("Part and stock", "No.", "Size, mm"), most_rows=9, row_height=46, widths=(0, 48, 150)
        )
        self.cut.setAccessibleName("Cut list")
        self.column.addWidget(self.cut)
        self.drawings: tuple[Drawing, ...] = ()
        self.chosen = ""

    def refresh(self) -> None:
        self.drawings, refused = templates(self.session.job)
        paper: Any = self.paper.currentText()
        names = [d.name for d in self.drawings]
        if self.chosen not in names:
            self.chosen = names[0] if names else ""
        self.table.fill(
            [(d.name, ((d.title, ""), (f"{len(tiles(d, paper))}", ">"))) for d in self.drawings], self.chosen
        )
        drawing = next((d for d in self.drawings if d.name == self.chosen), None)
        self.preview.show_drawing(drawing)
        said = [*(drawing.warnings if drawing else ()), *(drawing.notes if drawing else ())]
        self.notes.setText("\n".join([*said, *(f"Not drawn: {e.message}" for e in refused)]))
        self.cut.fill(
            [
                (r.part, ((f"{r.part}\n{r.stock}", ""), (f"{r.quantity}", ">"), (r.size, ">")))
                for r in cut_list(self.session.job)
            ]
        )
        self.write_button.setEnabled(bool(self.drawings) and self._thread is None)

    def _choose(self, key: str) -> None:
        if key != self.chosen:
            self.chosen = key
            self.refresh()

    def ask(self) -> None:
        """Ask where, then write."""
        start = str(self.session.place.path.with_suffix("").with_name(self.session.place.path.stem + "-pack"))
        name = QFileDialog.getExistingDirectory(self, "Folder for the shop pack", str(Path(start).parent))
        if name:
            self.write(Path(name) / Path(start).name)

    def write(self, folder: Path) -> None:
        """Write the pack into ``folder`` on another thread."""
        if self._thread is not None:
            return
        self._worker = PackWorker(self.session.job, folder, self.paper.currentText())  # type: ignore[arg-type]
        self._thread = QThread(self)
        self._worker.moveToThread(self._thread)
        self._thread.started.connect(self._worker.run)
        self._worker.told.connect(self._tell)
        self._worker.done.connect(lambda files: self._finish(f"{len(files)} files written to {folder}."))
        self._worker.failed.connect(self._finish)
        self.progress.show()
        self.stop_button.show()
        self.write_button.setEnabled(False)
        self._thread.start()

    def _tell(self, words_: str) -> None:
        self.answer.setText(words_)

    def stop(self) -> None:
        """Stop the writing at the next step."""
        if self._worker is not None:
            self._worker.stop = True

    def _finish(self, sentence: str) -> None:
        if self._thread is not None:
            self._thread.quit()
            self._thread.wait()
            self._thread.deleteLater()
        self._thread = self._worker = None
        self.progress.hide()
        self.stop_button.hide()
        self.answer.setText(sentence)
        self.refresh()
