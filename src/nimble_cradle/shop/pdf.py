"""The shop pack as a vector PDF: a first page with the cautions and the findings, then every template at
1:1 on tiled sheets."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from typing import Any

from nimble_cradle.job.job import Job
from nimble_cradle.judge.found import Verdict, standing_words
from nimble_cradle.judge.stages import NOT_APPROVED, cautions
from nimble_cradle.shop.cutlist import CutRow
from nimble_cradle.shop.page import Circle, Drawing, Mark, Path, ruler
from nimble_cradle.shop.tiles import FOOT, MARGIN, PAPER, Paper, Tile, tiles
from nimble_cradle.telltales import tell_tales
from nimble_cradle.units import IN, show

MM = 72 / 25.4
INK = {
    "CUT": (0.08, 0.08, 0.1),
    "MARK": (0.17, 0.43, 0.56),
    "FOLD": (0.6, 0.36, 0.07),
    "NOTE": (0.33, 0.33, 0.33),
}
CHECK = (
    "Print at 100 %, no fit to page. Measure both rulers: if 100 mm is not 100 mm, or 4 in not 4 in, do not"
    " cut from this sheet."
)


def _text(value: str) -> str:
    """Words that the page's built-in letters can show."""
    return value.replace("−", "-").replace("≥", ">=").encode("cp1252", "replace").decode("cp1252")


def _draw(canvas: Any, mark: Mark, dx: float, dy: float) -> None:
    canvas.setStrokeColorRGB(*INK[mark.layer])
    canvas.setFillColorRGB(*INK[mark.layer])
    canvas.setLineWidth(0.7 if mark.layer == "CUT" else 0.4)
    canvas.setDash(*((6, 3) if mark.layer == "FOLD" else (3, 2) if mark.layer == "MARK" else ()))
    if isinstance(mark, Path):
        line = canvas.beginPath()
        line.moveTo((mark.points[0][0] + dx) * MM, (mark.points[0][1] + dy) * MM)
        for x, y in mark.points[1:]:
            line.lineTo((x + dx) * MM, (y + dy) * MM)
        if mark.closed:
            line.close()
        canvas.drawPath(line, stroke=1, fill=0)
    elif isinstance(mark, Circle):
        canvas.circle(
            (mark.centre[0] + dx) * MM, (mark.centre[1] + dy) * MM, mark.radius * MM, stroke=1, fill=0
        )
    else:
        canvas.setFont("Helvetica", mark.height / 0.72 * MM)
        canvas.drawString((mark.at[0] + dx) * MM, (mark.at[1] + dy) * MM, _text(mark.text))
    canvas.setDash()


def lettering(
    canvas: Any, text: str, x: float, y: float, width: float, size: float = 9, bold: bool = False
) -> float:
    """Set words in a column (x, y, width mm; size pt); gives the height used, mm."""
    from reportlab.lib.utils import simpleSplit

    font = "Helvetica-Bold" if bold else "Helvetica"
    canvas.setFont(font, size)
    canvas.setFillColorRGB(0.1, 0.1, 0.12)
    lines = simpleSplit(_text(text), font, size, width * MM)
    for i, line in enumerate(lines):
        canvas.drawString(x * MM, y * MM - i * size * 1.3, line)
    return float(len(lines) * size * 1.3 / MM)


def _sheet(canvas: Any, drawing: Drawing, tile: Tile, count: int, paper: Paper, job_name: str) -> None:
    w, h = PAPER[paper]
    left, bottom = MARGIN, MARGIN + FOOT
    lettering(canvas, drawing.title, left, h - MARGIN - 4, w - 2 * MARGIN, 12, bold=True)
    used = 6.0
    for note in (*drawing.warnings, *drawing.notes):
        used += lettering(canvas, note, left, h - MARGIN - 4 - used, w - 2 * MARGIN, 7.5) + 0.6
    for mark in (
        *ruler((left, MARGIN + 14), 100, 10, "100 mm"),
        *ruler((left, MARGIN + 4), 4 * IN, IN / 4, "4 in"),
    ):
        _draw(canvas, mark, 0, 0)
    lettering(canvas, CHECK, left + 128, MARGIN + 18, w - 2 * MARGIN - 128, 7)
    place = f"Sheet {tile.name} of {count}" if count > 1 else "One sheet"
    lettering(canvas, f"{place} · {job_name}", left, MARGIN + FOOT - 5, 100, 7)
    canvas.saveState()
    frame = canvas.beginPath()
    frame.rect(left * MM, bottom * MM, tile.width * MM, tile.height * MM)
    canvas.clipPath(frame, stroke=0, fill=0)
    for mark in drawing.marks:
        _draw(canvas, mark, left - tile.left, bottom - tile.bottom)
    canvas.restoreState()
    if count > 1:
        canvas.setStrokeColorRGB(0.3, 0.3, 0.3)
        canvas.setLineWidth(0.3)
        for x in (left + 5, left + tile.width - 5):
            for y in (bottom + 5, bottom + tile.height - 5):
                canvas.line((x - 4) * MM, y * MM, (x + 4) * MM, y * MM)
                canvas.line(x * MM, (y - 4) * MM, x * MM, (y + 4) * MM)
                canvas.circle(x * MM, y * MM, 2 * MM, stroke=1, fill=0)
    canvas.showPage()


def _first_page(canvas: Any, job: Job, v: Verdict, rows: Sequence[CutRow], paper: Paper) -> None:
    w, h = PAPER[paper]
    x, y, wide = MARGIN, h - MARGIN - 6, w - 2 * MARGIN
    y -= lettering(canvas, f"{job.name}: shop pack", x, y, wide, 16, bold=True) + 3
    y -= lettering(canvas, NOT_APPROVED, x, y, wide, 9, bold=True) + 3
    for sentence in cautions():
        y -= lettering(canvas, sentence, x, y, wide, 8.5) + 1.5
    y -= 4
    y -= (
        lettering(
            canvas,
            (
                "Where it stands"
                if v.holds
                else (
                    "Where it stands: open questions remain, do not cut yet"
                    if v.open_questions or not v.block_to_bush
                    else "Where it stands: held from block to bush; from bush to rail it is not judged"
                )
            ),
            x,
            y,
            wide,
            11,
            bold=True,
        )
        + 2
    )
    for tale in tell_tales(job, v):
        y -= (
            lettering(canvas, f"{tale.title}: {tale.value}, {tale.word} ({tale.cause}).", x, y, wide, 8.5)
            + 0.6
        )
    for line in standing_words(v):
        y -= lettering(canvas, line, x, y, wide, 8.5) + 0.6
    y -= 4
    y -= lettering(canvas, "Cut list", x, y, wide, 11, bold=True) + 2
    for row in rows:
        if y < MARGIN + 10:
            canvas.showPage()
            y = h - MARGIN - 6
        y -= (
            lettering(
                canvas,
                f"{row.quantity} x {row.part}: {row.stock}, {row.material}, {row.size_words}; {row.note}.",
                x,
                y,
                wide,
                8,
            )
            + 0.5
        )
    canvas.showPage()


def _findings_page(canvas: Any, job: Job, v: Verdict, paper: Paper) -> None:
    w, h = PAPER[paper]
    x, y, wide = MARGIN, h - MARGIN - 6, w - 2 * MARGIN
    y -= lettering(canvas, "What carries what", x, y, wide, 12, bold=True) + 2
    display = job.show.display
    for problem in v.problems:
        y -= lettering(canvas, f"Open: {problem.sentence}", x, y, wide, 8.5, bold=True) + 1
    for f in sorted(v.findings, key=lambda f: -f.use):
        if y < MARGIN + 14:
            canvas.showPage()
            y = h - MARGIN - 6
        y -= lettering(
            canvas,
            f"{100 * f.use:.0f} %, {f.state}. {f.part_name}: {f.what}. {show(f.load, f.kind, display)}"
            " with factor"
            f" {f.factor:g} of {show(f.capacity, f.kind, display)}; {f.case}.",
            x,
            y,
            wide,
            8.5,
        )
        y -= (
            lettering(
                canvas,
                f"{f.worked.calculation.formula}. Source: {f.worked.calculation.source}.",
                x + 6,
                y,
                wide - 6,
                7,
            )
            + 1.4
        )
    canvas.showPage()


def pack_pdf(
    job: Job,
    v: Verdict,
    drawings: Sequence[Drawing],
    rows: Sequence[CutRow],
    paper: Paper = "A4",
    progress: Callable[[str], None] | None = None,
) -> bytes:
    """The whole pack as PDF bytes."""
    from reportlab.pdfgen.canvas import Canvas

    w, h = PAPER[paper]
    stream = io.BytesIO()
    canvas = Canvas(stream, pagesize=(w * MM, h * MM), invariant=1)
    canvas.setTitle(f"{job.name}: shop pack")
    _first_page(canvas, job, v, rows, paper)
    _findings_page(canvas, job, v, paper)
    for drawing in drawings:
        if progress:
            progress(drawing.title)
        sheets = tiles(drawing, paper)
        for tile in sheets:
            _sheet(canvas, drawing, tile, len(sheets), paper, job.name)
    canvas.save()
    return stream.getvalue()
