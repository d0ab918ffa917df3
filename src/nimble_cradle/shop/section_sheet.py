"""A section of the bay on paper: PDF at a round scale with its gaps dimensioned, and DXF at 1:1."""

from __future__ import annotations

import io

import numpy as np

from nimble_cradle.fit.section import BaySection
from nimble_cradle.job.job import Job
from nimble_cradle.judge.stages import NOT_APPROVED
from nimble_cradle.shop.page import Drawing, Layer, Mark, Text, path
from nimble_cradle.shop.pdf import MM, lettering
from nimble_cradle.shop.tiles import MARGIN, PAPER, Paper
from nimble_cradle.units import show

SCALES = (1, 2, 2.5, 4, 5, 8, 10, 15, 20, 25, 50)
_INK = {
    "item": (0.25, 0.27, 0.3),
    "piece": (0.04, 0.37, 0.42),
    "made": (0.04, 0.37, 0.42),
    "ghost": (0.55, 0.55, 0.55),
    "running": (0.7, 0.45, 0.1),
}
_FILL = {"item": (0.93, 0.92, 0.89), "piece": (0.84, 0.91, 0.92), "made": (0.62, 0.78, 0.8)}
_LAYER: dict[str, Layer] = {
    "item": "BAY",
    "piece": "ENGINE",
    "made": "ENGINE",
    "ghost": "GHOST",
    "running": "GHOST",
}


def section_drawing(job: Job, cut: BaySection) -> Drawing:
    """The section at 1:1 in its plane's own mm, for DXF."""
    marks: list[Mark] = [
        path(line.outline.points, line.outline.closed, _LAYER[line.kind]) for line in cut.lines
    ]
    for d in cut.dimensions:
        marks.append(path([d.a.tolist(), d.b.tolist()], layer="NOTE"))
        x, y = (d.a + d.b) / 2
        marks.append(Text((float(x) + 3, float(y) + 3), show(d.gap.gap, "length", job.show.display), 8.0))
    return Drawing("section", f"{job.name}: {cut.title}", tuple(marks))


def section_pdf(job: Job, cut: BaySection, paper: Paper = "A4") -> bytes:
    """One page, lying, at the largest round scale that holds the engine and what is within 250 mm of it."""
    from reportlab.pdfgen.canvas import Canvas

    h, w = PAPER[paper]
    stream = io.BytesIO()
    canvas = Canvas(stream, pagesize=(w * MM, h * MM), pageCompression=1, invariant=1)
    canvas.setTitle(f"{job.name}: {cut.title}")
    pieces = [line.outline.points for line in cut.lines if line.kind == "piece"] or [
        line.outline.points for line in cut.lines
    ]
    points = np.vstack(pieces)
    low, high = points.min(0) - 250.0, points.max(0) + 250.0
    room = np.array([w - 2 * MARGIN, h - 2 * MARGIN - 40.0])
    scale = next((s for s in SCALES if ((high - low) / s <= room).all()), SCALES[-1])
    off = np.array([MARGIN, MARGIN + 14.0]) + (room - (high - low) / scale) / 2

    def at(p: np.ndarray) -> tuple[float, float]:
        x, y = (np.asarray(p) - low) / scale + off
        return float(x) * MM, float(y) * MM

    lettering(
        canvas, f"{job.name}: section {cut.title}", MARGIN, h - MARGIN - 5, w - 2 * MARGIN, 12, bold=True
    )
    lettering(
        canvas,
        f"Scale 1:{scale:g}. Thick: engine and bay as surveyed and mocked up. Dashed: moving parts at the"
        " ends of their"
        f" travel{', and the engine running' if any(line.kind == 'running' for line in cut.lines) else ''}.",
        MARGIN,
        h - MARGIN - 12,
        w - 2 * MARGIN,
        8.5,
    )
    canvas.saveState()
    clip = canvas.beginPath()
    clip.rect(MARGIN * MM, (MARGIN + 10) * MM, room[0] * MM, (room[1] + 8) * MM)
    canvas.clipPath(clip, stroke=0, fill=0)
    for kinds in (("item",), ("running", "ghost"), ("piece",), ("made",)):
        for line in cut.lines:
            if line.kind not in kinds:
                continue
            p = canvas.beginPath()
            p.moveTo(*at(line.outline.points[0]))
            for q in line.outline.points[1:]:
                p.lineTo(*at(q))
            if line.outline.closed:
                p.close()
            solid = line.kind in _FILL and line.outline.closed
            canvas.setStrokeColorRGB(*_INK[line.kind])
            if solid:
                canvas.setFillColorRGB(*_FILL[line.kind])
            canvas.setLineWidth(0.9 if line.kind in ("piece", "made") else 0.6)
            canvas.setDash(*((4, 3) if line.kind in ("ghost", "running") else ()))
            canvas.drawPath(p, stroke=1, fill=int(solid))
    canvas.setDash()
    for k, d in enumerate(cut.dimensions):
        a, b = at(d.a), at(d.b)
        canvas.setStrokeColorRGB(0.68, 0.14, 0.1)
        canvas.setLineWidth(1.1)
        canvas.line(*a, *b)
        canvas.setFillColorRGB(0.68, 0.14, 0.1)
        canvas.circle((a[0] + b[0]) / 2 + 9, (a[1] + b[1]) / 2 + 9, 6, stroke=1, fill=0)
        canvas.setFont("Helvetica-Bold", 8)
        canvas.drawCentredString((a[0] + b[0]) / 2 + 9, (a[1] + b[1]) / 2 + 6.3, str(k + 1))
    canvas.restoreState()
    said = "   ".join(
        f"{k + 1}: {d.gap.piece_name} - {d.gap.item_name} {show(d.gap.gap, 'length', job.show.display)}"
        f" ({d.gap.state})"
        for k, d in enumerate(cut.dimensions)
    )
    lettering(
        canvas, said or "No gap within 60 mm lies in this plane.", MARGIN, MARGIN + 8, w - 2 * MARGIN, 7.5
    )
    lettering(canvas, NOT_APPROVED, MARGIN, MARGIN - 3, w - 2 * MARGIN, 6)
    canvas.showPage()
    canvas.save()
    return stream.getvalue()
