"""A section of the bay on paper: PDF at a round scale with its gaps dimensioned, and DXF at 1:1."""

from __future__ import annotations

import io

import numpy as np

from nimble_cradle.fit.section import BaySection, LineKind, SectionLine
from nimble_cradle.job.job import Job
from nimble_cradle.judge.stages import NOT_APPROVED
from nimble_cradle.shop.page import Drawing, Layer, Mark, Text, path
from nimble_cradle.shop.pdf import MM, lettering
from nimble_cradle.shop.tiles import MARGIN, PAPER, Paper
from nimble_cradle.units import show

SCALES = (1, 2, 2.5, 4, 5, 8, 10, 15, 20, 25, 50)
"""Scales that a drawing may have, 1:n."""
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
ROUND_IT = 250.0
"""So much of the bay round the engine is on the page, mm."""
_ORDER: tuple[tuple[LineKind, ...], ...] = (("item",), ("running", "ghost"), ("piece",), ("made",))
"""Kinds of lines, from the back of the page to its front."""
_RED = (0.68, 0.14, 0.1)


def section_drawing(job: Job, cut: BaySection) -> Drawing:
    """The section at 1:1 in its plane's own mm, for DXF."""
    marks: list[Mark] = [
        path(line.outline.points, line.outline.closed, _LAYER[line.kind]) for line in cut.lines
    ]
    for dimension in cut.dimensions:
        marks.append(path([dimension.a.tolist(), dimension.b.tolist()], layer="NOTE"))
        x, y = (dimension.a + dimension.b) / 2
        marks.append(
            Text((float(x) + 3, float(y) + 3), show(dimension.gap.gap, "length", job.show.display), 8.0)
        )
    return Drawing("section", f"{job.name}: {cut.title}", tuple(marks))


def section_pdf(job: Job, cut: BaySection, paper: Paper = "A4") -> bytes:
    """One page, lying, at the largest round scale that holds the engine and what is within 250 mm of it."""
    return _SectionPage(job, cut, paper).drawn()


class _SectionPage:
    """The page of a section. Lengths of the page in mm."""

    def __init__(self, job: Job, cut: BaySection, paper: Paper) -> None:
        from reportlab.pdfgen.canvas import Canvas

        self.job, self.cut = job, cut
        self.high, self.wide = PAPER[paper]
        self.stream = io.BytesIO()
        self.canvas = Canvas(
            self.stream, pagesize=(self.wide * MM, self.high * MM), pageCompression=1, invariant=1
        )
        self.canvas.setTitle(f"{job.name}: {cut.title}")
        every = [line.outline.points for line in cut.lines]
        points = np.vstack([line.outline.points for line in cut.lines if line.kind == "piece"] or every)
        self.low, top = points.min(0) - ROUND_IT, points.max(0) + ROUND_IT
        self.room = np.array([self.wide - 2 * MARGIN, self.high - 2 * MARGIN - 40.0])
        self.scale = next((s for s in SCALES if ((top - self.low) / s <= self.room).all()), SCALES[-1])
        self.off = np.array([MARGIN, MARGIN + 14.0]) + (self.room - (top - self.low) / self.scale) / 2

    def drawn(self) -> bytes:
        """The PDF."""
        self._head()
        self.canvas.saveState()
        clip = self.canvas.beginPath()
        clip.rect(MARGIN * MM, (MARGIN + 10) * MM, self.room[0] * MM, (self.room[1] + 8) * MM)
        self.canvas.clipPath(clip, stroke=0, fill=0)
        for kinds in _ORDER:
            for line in self.cut.lines:
                if line.kind in kinds:
                    self._line(line)
        self._dimensions()
        self.canvas.restoreState()
        self._foot()
        self.canvas.showPage()
        self.canvas.save()
        return self.stream.getvalue()

    def _at(self, p: np.ndarray) -> tuple[float, float]:
        """Where a point (2,) of the section is on the page, points."""
        x, y = (np.asarray(p) - self.low) / self.scale + self.off
        return float(x) * MM, float(y) * MM

    def _words(self, text: str, y: float, size: float, bold: bool = False) -> None:
        lettering(self.canvas, text, MARGIN, y, self.wide - 2 * MARGIN, size, bold=bold)

    def _head(self) -> None:
        self._words(f"{self.job.name}: section {self.cut.title}", self.high - MARGIN - 5, 12, bold=True)
        running = any(line.kind == "running" for line in self.cut.lines)
        self._words(
            f"Scale 1:{self.scale:g}. Thick: engine and bay as surveyed and mocked up. Dashed: moving parts"
            f" at the ends of their travel{', and the engine running' if running else ''}.",
            self.high - MARGIN - 12,
            8.5,
        )

    def _line(self, line: SectionLine) -> None:
        p = self.canvas.beginPath()
        p.moveTo(*self._at(line.outline.points[0]))
        for point in line.outline.points[1:]:
            p.lineTo(*self._at(point))
        if line.outline.closed:
            p.close()
        solid = line.kind in _FILL and line.outline.closed
        self.canvas.setStrokeColorRGB(*_INK[line.kind])
        if solid:
            self.canvas.setFillColorRGB(*_FILL[line.kind])
        self.canvas.setLineWidth(0.9 if line.kind in ("piece", "made") else 0.6)
        self.canvas.setDash(*((4, 3) if line.kind in ("ghost", "running") else ()))
        self.canvas.drawPath(p, stroke=1, fill=int(solid))

    def _dimensions(self) -> None:
        """Every gap in the plane, with its number in a ring beside it."""
        self.canvas.setDash()
        for k, dimension in enumerate(self.cut.dimensions):
            a, b = self._at(dimension.a), self._at(dimension.b)
            x, y = (a[0] + b[0]) / 2 + 9, (a[1] + b[1]) / 2 + 9
            self.canvas.setStrokeColorRGB(*_RED)
            self.canvas.setLineWidth(1.1)
            self.canvas.line(*a, *b)
            self.canvas.setFillColorRGB(*_RED)
            self.canvas.circle(x, y, 6, stroke=1, fill=0)
            self.canvas.setFont("Helvetica-Bold", 8)
            self.canvas.drawCentredString(x, y - 2.7, str(k + 1))

    def _foot(self) -> None:
        display = self.job.show.display
        gaps = [dimension.gap for dimension in self.cut.dimensions]
        said = "   ".join(
            f"{k}: {gap.piece_name} - {gap.item_name} {show(gap.gap, 'length', display)} ({gap.state})"
            for k, gap in enumerate(gaps, 1)
        )
        self._words(said or "No gap within 60 mm lies in this plane.", MARGIN + 8, 7.5)
        self._words(NOT_APPROVED, MARGIN - 3, 6)
