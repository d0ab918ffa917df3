"""The setting of every adjustable rod on paper: how long, what a turn does, how far it goes, and lines to
write on at the car."""

from __future__ import annotations

import io

from nimble_cradle.job.job import Job
from nimble_cradle.judge.cautions import PIVOTS
from nimble_cradle.judge.rods import setting_of
from nimble_cradle.judge.stages import NOT_APPROVED
from nimble_cradle.shop.pdf import MM
from nimble_cradle.shop.survey_sheet import Ruled
from nimble_cradle.shop.tiles import PAPER, Paper
from nimble_cradle.units import show


def rods_pdf(job: Job, paper: Paper = "A4") -> bytes:
    """The sheet as PDF bytes."""
    from reportlab.pdfgen.canvas import Canvas

    stream = io.BytesIO()
    canvas = Canvas(stream, pagesize=tuple(c * MM for c in PAPER[paper]), pageCompression=1, invariant=1)
    canvas.setTitle(f"{job.name}: setting of the rods")
    sheet = Ruled(canvas, paper, f"{job.name}: setting of the rods")
    sheet.words(NOT_APPROVED, 7.5)
    sheet.words(PIVOTS, 8.5, bold=True)
    sheet.words(
        "Loosen both jam nuts and turn the body; half of what a turn changes comes at each end. Look for the"
        " thread in the witness hole, or feel for it with a wire, at both ends. Set both sides alike, or the"
        " car pulls. Hold the rod ends in line while the jam nuts are tightened, then measure again.",
        8.5,
    )
    wide = (46.0, 14.0, 19.0, 17.0, 34.0, 30.0, 12.0, 12.0)
    heads = ("Rod", "Thread", "Eye to eye", "One turn", "From, to", "Thread in", "Now", "Turned")
    sheet.row(list(zip(wide, heads, strict=True)), bold=True)
    for rod in job.rods:
        cells = (*rod_cells(job, rod.id), "", "")
        sheet.row(list(zip(wide, cells, strict=True)))
    sheet.words("", 4.0)
    sheet.words("Toe, camber and ride height before and after, at both wheels:", 8.5)
    lines = (44.0, 28.0, 28.0, 28.0, 28.0)
    titles = ("", "left before", "left after", "right before", "right after")
    sheet.row(list(zip(lines, titles, strict=True)), bold=True)
    for what in ("Toe", "Camber", "Ride height", "Turns of the wheel, lock to lock"):
        sheet.row(list(zip(lines, (what, "", "", "", ""), strict=True)))
    canvas.showPage()
    canvas.save()
    return stream.getvalue()


def rod_cells(job: Job, key: str) -> tuple[str, str, str, str, str, str]:
    """Of one rod: name, thread, how long, what a turn changes, shortest and longest, thread in its body
    and what has to be."""
    rod = next(rod for rod in job.rods if rod.id == key)
    s, display = setting_of(rod), job.show.display

    def said(value: float, digits: int = 1) -> str:
        return show(value, "length", display, digits)

    turn = said(s.turn, 2) if s.turn else "out of the car"
    return (
        rod.name,
        rod.thread,
        said(rod.long_mm),
        turn,
        f"{said(s.shortest)}, {said(s.longest)}",
        f"{said(s.engaged)} of {said(s.need)}",
    )
