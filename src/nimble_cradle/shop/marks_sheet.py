"""Witness marks on paper: each distance with its two ends, what it was, and lines to write on later."""

from __future__ import annotations

import io

from nimble_cradle.job.job import Job
from nimble_cradle.judge.stages import NOT_APPROVED
from nimble_cradle.shop.pdf import MM
from nimble_cradle.shop.survey_sheet import Ruled
from nimble_cradle.shop.tiles import PAPER, Paper
from nimble_cradle.units import show


def marks_pdf(job: Job, paper: Paper = "A4") -> bytes:
    """The sheet as PDF bytes."""
    from reportlab.pdfgen.canvas import Canvas

    stream = io.BytesIO()
    canvas = Canvas(stream, pagesize=tuple(c * MM for c in PAPER[paper]), pageCompression=1, invariant=1)
    canvas.setTitle(f"{job.name}: witness marks")
    sheet = Ruled(canvas, paper, f"{job.name}: witness marks")
    sheet.words(NOT_APPROVED, 7.5)
    sheet.words(
        "Stick a mark or make a fine punch mark at both ends. Tape corner to corner, straight, pulled tight."
        " Write the date and what the tape says; type it into Position, Marks.",
        8.5,
    )
    wide = [(8.0, "No"), (98.0, "From engine to bay"), (22.0, "In its place")] + [(18.0, "")] * 3
    sheet.row(wide, bold=True)
    for k, mark in enumerate(job.marks):
        sheet.row(
            [
                (8.0, f"{k + 1}"),
                (98.0, mark.name),
                (22.0, show(mark.reference_mm, "length", job.show.display)),
                (18.0, "" if mark.now_mm is None else show(mark.now_mm, "length", job.show.display)),
                (18.0, ""),
                (18.0, ""),
            ]
        )
    canvas.showPage()
    canvas.save()
    return stream.getvalue()
