"""The survey sheet (PDF): blank to take under the car, with numbered points and lines to write on; or
filled, with every reading."""

from __future__ import annotations

import io
from typing import Any

import numpy as np

from nimble_cradle.design.to_measure import to_measure
from nimble_cradle.job.job import Job
from nimble_cradle.judge.stages import NOT_APPROVED, caution
from nimble_cradle.shop.pdf import MM, lettering
from nimble_cradle.shop.tiles import MARGIN, PAPER, Paper
from nimble_cradle.survey.level import job_lean, lean_words, level_words, trims
from nimble_cradle.survey.network import network
from nimble_cradle.units import show

ROW = 6.4
"""Height of a row to write in, mm."""
SIZE = 7.6
"""Height of the letters, points."""


def clipped(text: str, width: float, bold: bool = False) -> str:
    """Text cut to a width in mm, with dots where something is left out."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    font = "Helvetica-Bold" if bold else "Helvetica"
    if stringWidth(text, font, SIZE) <= width * MM:
        return text
    while text and stringWidth(text + "...", font, SIZE) > width * MM:
        text = text[:-1]
    return text + "..."


class Ruled:
    """A column of rows on as many pages as they need."""

    def __init__(self, canvas: Any, paper: Paper, title: str) -> None:
        self.canvas, self.title = canvas, title
        self.w, self.h = PAPER[paper]
        self.page = 0
        self.y = 0.0
        self.turn()

    def turn(self) -> None:
        """A new page."""
        if self.page:
            self.canvas.showPage()
        self.page += 1
        self.y = self.h - MARGIN - 6
        self.y -= (
            lettering(
                self.canvas,
                f"{self.title}, page {self.page}",
                MARGIN,
                self.y,
                self.w - 2 * MARGIN,
                12,
                bold=True,
            )
            + 3
        )

    def words(self, text: str, size: float = 8.5, bold: bool = False) -> None:
        """A paragraph."""
        if self.y < MARGIN + 14:
            self.turn()
        wide, at = self.w - 2 * MARGIN, (MARGIN, self.y)
        self.y -= lettering(self.canvas, text, *at, wide, size, bold=bold) + 1.6

    def row(self, cells: list[tuple[float, str]], bold: bool = False) -> None:
        """One ruled row: (width mm, text)."""
        if self.y < MARGIN + 8:
            self.turn()
        x = float(MARGIN)
        self.canvas.setStrokeColorRGB(0.6, 0.6, 0.6)
        self.canvas.setLineWidth(0.3)
        for width, text in cells:
            self.canvas.rect(x * MM, (self.y - ROW + 3.5) * MM, width * MM, ROW * MM, stroke=1, fill=0)
            lettering(
                self.canvas, clipped(text, width - 2, bold), x + 1, self.y - 0.6, width + 200, SIZE, bold=bold
            )
            x += width
        self.y -= ROW


def survey_sheet(job: Job, blank: bool, paper: Paper = "A4") -> bytes:
    """The sheet as PDF bytes. blank: places to write readings in; else the readings and what follows from
    them."""
    from reportlab.pdfgen.canvas import Canvas

    stream = io.BytesIO()
    canvas = Canvas(stream, pagesize=tuple(c * MM for c in PAPER[paper]), pageCompression=1, invariant=1)
    canvas.setTitle(f"{job.name}: survey sheet")
    sheet = Ruled(canvas, paper, f"{job.name}: survey sheet{', to fill in' if blank else ''}")
    sheet.words(NOT_APPROVED, 7.5)
    sheet.words(caution("survey"), 8, bold=True)
    if blank:
        _left(sheet, job)
    _plan(sheet, job)
    _levels(sheet, job, blank)
    (_blank if blank else _filled)(sheet, job)
    canvas.showPage()
    canvas.save()
    return stream.getvalue()


def _left(sheet: Ruled, job: Job) -> None:
    """What is left to measure, in the order of the trade."""
    lines = [line for line in to_measure(job) if line.left]
    if lines:
        sheet.words("Left to measure, in this order", 10, bold=True)
    for line in lines:
        sheet.row([(80, line.what), (12, str(line.left)), (88, line.words)])


def _plan(sheet: Ruled, job: Job) -> None:
    """The numbered points seen from above, front to the top."""
    net = network(job)
    placed = [(i, point) for i, point in enumerate(net.points, start=1) if not point.free]
    if len(placed) < 2:
        return
    at = np.array([p.at for _, p in placed])
    across, along = np.ptp(at[:, 1]) + 100, np.ptp(at[:, 0]) + 100
    scale = min(120 / across, 70 / along)
    middle = (at.max(0) + at.min(0)) / 2
    top = sheet.y
    x0, y0 = sheet.w / 2, top - 4 - along * scale / 2
    c = sheet.canvas
    c.setStrokeColorRGB(0.2, 0.4, 0.45)
    c.setLineWidth(0.5)
    for reading in job.survey.readings:
        if reading.kind == "distance" and reading.used:
            ends = [
                next((q for _, q in placed if q.id == key), None) for key in (reading.point, reading.other)
            ]
            if all(ends):
                (xa, ya), (xb, yb) = (
                    (x0 - (q.at[1] - middle[1]) * scale, y0 + (q.at[0] - middle[0]) * scale)
                    for q in ends
                    if q is not None
                )
                c.setDash(1, 2)
                c.line(xa * MM, ya * MM, xb * MM, yb * MM)
    c.setDash()
    for number, p in placed:
        x, y = x0 - (p.at[1] - middle[1]) * scale, y0 + (p.at[0] - middle[0]) * scale
        c.circle(x * MM, y * MM, 1.2 * MM, stroke=1, fill=0)
        lettering(c, str(number), x + 1.8, y - 1.0, 20, 8, bold=True)
    lettering(c, "from above, front to the top", MARGIN, top - 2, 60, 7)
    sheet.y = top - along * scale - 10


def _levels(sheet: Ruled, job: Job, blank: bool) -> None:
    sheet.words("Level: which side or end is high; turn the level end for end and read again", 10, bold=True)
    if blank:
        for where in (
            "across, front",
            "the same, level turned",
            "across, rear",
            "along, left",
            "the same, level turned",
            "along, right",
        ):
            sheet.row([(70, where), (50, ""), (60, "")])
        return
    for reading in job.survey.level.readings:
        sheet.row(
            [
                (70, f"{reading.where} ({reading.way}{', turned' if reading.turned else ''})"),
                (60, level_words(reading)),
                (50, "used" if reading.used else "dropped"),
            ]
        )
    sheet.words("The car stands: " + lean_words(job_lean(job)) + ".")
    for trim in trims(job.survey.level):
        sheet.row(
            [(70, trim.stand.name), (60, f"lift {show(trim.lift, 'length', job.show.display)}"), (50, "")]
        )


def _blank(sheet: Ruled, job: Job) -> None:
    sheet.words(
        "Points: mark each with its number; write what was taken, from which datum, and with what",
        10,
        bold=True,
    )
    head = [
        (10.0, "No."),
        (62.0, "Point"),
        (27.0, "forward"),
        (27.0, "left"),
        (27.0, "up"),
        (27.0, "taken with"),
    ]
    sheet.row(head, bold=True)
    for i, point in enumerate(job.survey.points, start=1):
        sheet.row([(10, str(i)), (62, point.name), (27, ""), (27, ""), (27, ""), (27, "")])
    for i in range(len(job.survey.points) + 1, len(job.survey.points) + 7):
        sheet.row([(10, str(i)), (62, ""), (27, ""), (27, ""), (27, ""), (27, "")])
    sheet.words("Distances and heights between points", 10, bold=True)
    sheet.row(
        [(22, "from"), (22, "to"), (36, "distance"), (36, "height over"), (64, "taken with, note")], bold=True
    )
    for _ in range(16):
        sheet.row([(22, ""), (22, ""), (36, ""), (36, ""), (64, "")])


def _filled(sheet: Ruled, job: Job) -> None:
    net, display = network(job), job.show.display
    sheet.words("Points, from the datum", 10, bold=True)
    sheet.row(
        [(10, "No."), (60, "Point"), (38, "forward / back"), (36, "left / right"), (36, "up / down")],
        bold=True,
    )
    for i, point in enumerate(net.points, start=1):
        if point.free:
            sheet.row([(10, str(i)), (60, point.name), (110, "not pinned down: " + ", ".join(point.free))])
            continue
        words = [
            f"{show(abs(float(v)), 'length', display)} {way[0] if v >= 0 else way[1]}"
            f" ±{show(float(pm), 'length', display).split()[0]}"
            for v, pm, way in zip(
                point.at, point.plus_minus, (("fwd", "back"), ("left", "right"), ("up", "down")), strict=True
            )
        ]
        sheet.row([(10, str(i)), (60, point.name), (38, words[0]), (36, words[1]), (36, words[2])])
    sheet.words("Readings", 10, bold=True)
    sheet.row([(98, "Reading"), (22, "reads"), (18, "with"), (22, "state"), (20, "when")], bold=True)
    for r, c in zip(job.survey.readings, net.readings, strict=True):
        sheet.row(
            [
                (98, c.words),
                (22, show(abs(r.value_mm), "length", display)),
                (18, r.method),
                (22, c.state),
                (20, r.when[:10]),
            ]
        )
        if r.note or r.photo:
            sheet.row(
                [(180, "   ".join(w for w in (r.note, f"photograph {r.photo}" if r.photo else "") if w))]
            )
    for question in net.questions:
        sheet.words(f"Open: {question}.")
