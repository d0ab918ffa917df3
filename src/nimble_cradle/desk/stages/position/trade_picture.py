"""Small pictures of a trade: the bay from the side, what is given up in it, the engine where it stood and
where it would go."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from nimble_cradle.bay.bodies import solid_of
from nimble_cradle.bay.position import pose_of
from nimble_cradle.desk.kit.look import LIGHT
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.solids import ConvexPart, SolidPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.bay import Item
from nimble_cradle.job.job import Job
from nimble_cradle.job.wish import Sale
from nimble_cradle.survey.made import placed_items

WIDE, HIGH = 132, 84
"""Size of a picture, pixels."""
SIDE = (0, 2)
"""Axes of the picture: forward and up."""


def _outlines(parts: Iterable[SolidPart], pose: Pose, axes: tuple[int, int]) -> list[np.ndarray]:
    """The outline of each convex part as seen along the third axis, (k, 2) each."""
    from shapely import MultiPoint, Polygon

    out = []
    for part in parts:
        if isinstance(part, ConvexPart):
            hull = MultiPoint(pose.points(part.triangles[0])[:, axes]).convex_hull
            if isinstance(hull, Polygon):
                out.append(np.asarray(hull.exterior.coords))
    return out


class _TradeSheet:
    """A small picture being drawn from the car's left side, forward to the left, so large that ``points``
    (n, 2) mm fill it."""

    def __init__(self, points: np.ndarray, ratio: float) -> None:
        self.low, high = points.min(0) - 30, points.max(0) + 30
        self.scale = min(WIDE / (high - self.low)[0], HIGH / (high - self.low)[1])
        self.off = (np.array([WIDE, HIGH]) - self.scale * (high - self.low)) / 2
        self.image = QImage(round(WIDE * ratio), round(HIGH * ratio), QImage.Format.Format_RGB32)
        self.image.setDevicePixelRatio(ratio)
        self.image.fill(QColor("#ffffff"))
        self.painter = QPainter(self.image)
        self.painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def draw(self, outlines: Iterable[np.ndarray], pen: QPen, fill: str = "", alpha: int = 255) -> None:
        """Outlines (k, 2) mm each, filled where a colour is given."""
        colour = QColor(fill)
        colour.setAlpha(alpha)
        self.painter.setPen(pen)
        self.painter.setBrush(colour if fill else Qt.BrushStyle.NoBrush)
        for outline in outlines:
            xy = (outline - self.low) * self.scale + self.off
            self.painter.drawPolygon(QPolygonF([QPointF(WIDE - float(x), HIGH - float(y)) for x, y in xy]))

    def done(self) -> QImage:
        """Framed and finished."""
        self.painter.setPen(QPen(QColor(LIGHT.line), 1))
        self.painter.setBrush(Qt.BrushStyle.NoBrush)
        self.painter.drawRect(QRectF(0.5, 0.5, WIDE - 1, HIGH - 1))
        self.painter.end()
        return self.image


def _of_item(job: Job, item: Item) -> list[np.ndarray]:
    try:
        return _outlines(solid_of(item, job.meshes, "items"), Pose.still(), SIDE)
    except JobError:
        return []


def trade_picture(before: Job, after: Job | None, sales: tuple[Sale, ...], ratio: float) -> QImage:
    """The picture of one trade, drawn on any thread. after: the job with it; None where no seat came of
    it."""
    sold = {sale.of for sale in sales}
    pose = pose_of(before.position)
    pieces = {
        p.id: _outlines(solid_of(p, before.meshes, "powertrain/pieces"), pose, SIDE)
        for p in before.powertrain.present
    }
    sheet = _TradeSheet(np.vstack([o for group in pieces.values() for o in group]), ratio)
    items = placed_items(before)
    for item in items:
        if item.fate != "remove" and item.measured != "scan" and item.neighbour != "sheet":
            sheet.draw(_of_item(before, item), QPen(QColor(LIGHT.line), 1), "#f1eee6")
    for group in pieces.values():
        sheet.draw(group, QPen(QColor(LIGHT.ink), 1, Qt.PenStyle.DotLine))
    if after is not None:
        there = pose_of(after.position)
        for piece in after.powertrain.present:
            sheet.draw(
                _outlines(solid_of(piece, after.meshes, "powertrain/pieces"), there, SIDE),
                QPen(QColor(LIGHT.accent), 1),
                LIGHT.accent_pale,
                150,
            )
    red = LIGHT.inks["fails"]
    for outlines in (
        *(_of_item(before, i) for i in items if i.id in sold),
        *(group for key, group in pieces.items() if key in sold),
    ):
        sheet.draw(outlines, QPen(QColor(red), 1.6), red, 70)
    return sheet.done()
