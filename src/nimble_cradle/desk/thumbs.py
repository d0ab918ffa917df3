"""Small pictures of a trade: the bay from the side, what is given up in it, the engine where it stood and where it would go."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap, QPolygonF

from nimble_cradle.desk.style import ACCENT, ACCENT_PALE, INK, LINE, STATE_INK
from nimble_cradle.fit.bodies import solid_of
from nimble_cradle.fit.position import pose_of
from nimble_cradle.geometry.pose import Pose
from nimble_cradle.geometry.solids import ConvexPart, SolidPart
from nimble_cradle.job.base import JobError
from nimble_cradle.job.job import Job
from nimble_cradle.job.wish import Sale
from nimble_cradle.survey.made import placed_items

WIDE, HIGH = 132, 84


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


def trade_icon(before: Job, after: Job | None, sales: tuple[Sale, ...], ratio: float) -> QIcon:
    """The picture of one trade. after: the job with it; None where no seat came of it."""
    axes = (0, 2)
    pose = pose_of(before.position)
    sold = {s.of for s in sales}
    pieces = [(p.id, _outlines(solid_of(p, before.meshes, "powertrain/pieces"), pose, axes)) for p in before.powertrain.present]
    points = np.vstack([o for _, group in pieces for o in group])
    low, high = points.min(0) - 30, points.max(0) + 30
    scale = min(WIDE / (high - low)[0], HIGH / (high - low)[1])
    off = (np.array([WIDE, HIGH]) - scale * (high - low)) / 2

    def drawn(outline: np.ndarray) -> QPolygonF:
        """Forward to the left, as seen from the car's left side."""
        xy = (outline - low) * scale + off
        return QPolygonF([QPointF(WIDE - float(x), HIGH - float(y)) for x, y in xy])

    pixmap = QPixmap(round(WIDE * ratio), round(HIGH * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(QColor("#ffffff"))
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    fails = QColor(STATE_INK["fails"])
    painter.setPen(QPen(QColor(LINE), 1))
    painter.setBrush(QColor("#f1eee6"))
    for item in placed_items(before):
        if item.fate == "remove" or item.measured == "scan" or item.neighbour == "sheet":
            continue
        try:
            for outline in _outlines(solid_of(item, before.meshes, "items"), Pose.still(), axes):
                painter.drawPolygon(drawn(outline))
        except JobError:
            continue
    painter.setPen(QPen(QColor(INK), 1, Qt.PenStyle.DotLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for _, group in pieces:
        for outline in group:
            painter.drawPolygon(drawn(outline))
    if after is not None:
        there = pose_of(after.position)
        painter.setPen(QPen(QColor(ACCENT), 1))
        fill = QColor(ACCENT_PALE)
        fill.setAlpha(150)
        painter.setBrush(fill)
        for piece in after.powertrain.present:
            for outline in _outlines(solid_of(piece, after.meshes, "powertrain/pieces"), there, axes):
                painter.drawPolygon(drawn(outline))
    painter.setPen(QPen(fails, 1.6))
    red = QColor(fails)
    red.setAlpha(70)
    painter.setBrush(red)
    for item in placed_items(before):
        if item.id in sold:
            for outline in _outlines(solid_of(item, before.meshes, "items"), Pose.still(), axes):
                painter.drawPolygon(drawn(outline))
    for key, group in pieces:
        if key in sold:
            for outline in group:
                painter.drawPolygon(drawn(outline))
    painter.setPen(QPen(QColor(LINE), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(0.5, 0.5, WIDE - 1, HIGH - 1))
    painter.end()
    return QIcon(pixmap)
